import type { Outside } from '../placement.ts';

/** A picture in memory: 4 bytes a px (red, green, blue, alpha; not multiplied), first row on top. */
export interface Pixels {
  width: number;
  height: number;
  data: Uint8Array | Uint8ClampedArray;
}

const modulo = (a: number, n: number) => a - Math.floor(a / n) * n;

/**
 * The picture at a place of its own square (v up), between its px linearly, as graphics hardware does it; `out` gets red, green, blue and alpha, 0 to 1.
 * Outside: repeated, mirrored, its edge's px, or nothing (alpha 0).
 */
export function samplePixels(pixels: Pixels, u: number, v: number, outsideU: Outside, outsideV: Outside, out: Float64Array): void {
  single[0] = u;
  single[1] = v;
  samplePlaces(pixels, single, 1, outsideU, outsideV, out);
}

const single = new Float64Array(2);

/** As `samplePixels`, at many places. @param places 2 numbers a place @param out 4 numbers a place */
export function samplePlaces(
  { width, height, data }: Pixels,
  places: Float64Array,
  count: number,
  outsideU: Outside,
  outsideV: Outside,
  out: Float64Array,
): void {
  const repeatsU = outsideU === 'repeat';
  const repeatsV = outsideV === 'repeat';
  const endsU = outsideU === 'nothing';
  const endsV = outsideV === 'nothing';
  for (let k = 0; k < count; k++) {
    const u = places[k * 2]!;
    const v = places[k * 2 + 1]!;
    const to = k * 4;
    if ((endsU && (u < 0 || u > 1)) || (endsV && (v < 0 || v > 1))) {
      out[to] = out[to + 1] = out[to + 2] = out[to + 3] = 0;
      continue;
    }
    const x = (repeatsU ? u - Math.floor(u) : outsideU === 'mirror' ? 1 - Math.abs(modulo(u, 2) - 1) : within(u)) * width - 0.5;
    const y = (1 - (repeatsV ? v - Math.floor(v) : outsideV === 'mirror' ? 1 - Math.abs(modulo(v, 2) - 1) : within(v))) * height - 0.5;
    const left = Math.floor(x);
    const top = Math.floor(y);
    const fx = x - left;
    const fy = y - top;
    let x0 = left | 0;
    let y0 = top | 0;
    let x1 = x0 + 1;
    let y1 = y0 + 1;
    // within the first square: at most one px beyond it
    if (x0 < 0) x0 = repeatsU ? width - 1 : 0;
    if (x1 >= width) x1 = repeatsU ? 0 : width - 1;
    if (y0 < 0) y0 = repeatsV ? height - 1 : 0;
    if (y1 >= height) y1 = repeatsV ? 0 : height - 1;
    const a = (y0 * width + x0) * 4;
    const b = (y0 * width + x1) * 4;
    const c = (y1 * width + x0) * 4;
    const d = (y1 * width + x1) * 4;
    const lower = fy / 255;
    const upper = 1 / 255 - lower;
    const wb = fx * upper;
    const wa = upper - wb;
    const wd = fx * lower;
    const wc = lower - wd;
    out[to] = data[a]! * wa + data[b]! * wb + data[c]! * wc + data[d]! * wd;
    out[to + 1] = data[a + 1]! * wa + data[b + 1]! * wb + data[c + 1]! * wc + data[d + 1]! * wd;
    out[to + 2] = data[a + 2]! * wa + data[b + 2]! * wb + data[c + 2]! * wc + data[d + 2]! * wd;
    out[to + 3] = data[a + 3]! * wa + data[b + 3]! * wb + data[c + 3]! * wc + data[d + 3]! * wd;
  }
}

/** A place beyond the square is its edge. */
const within = (u: number) => (u < 0 ? 0 : u > 1 ? 1 : u);
