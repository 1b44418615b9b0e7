import type { Outside } from '../placement.ts';

/** A picture in memory: 4 bytes a px (red, green, blue, alpha; not multiplied), first row on top. */
export interface Pixels {
  width: number;
  height: number;
  data: Uint8Array | Uint8ClampedArray;
  /** The same as one number a px, made when places are first asked for: what is written into `data` afterwards need not be in it. */
  words?: Uint32Array;
}

const modulo = (a: number, n: number) => a - Math.floor(a / n) * n;

/** One number a px: four bytes read at once. */
function wordsOf(pixels: Pixels): Uint32Array {
  if (pixels.words) return pixels.words;
  const { data } = pixels;
  const words = data.byteOffset % 4 === 0 ? new Uint32Array(data.buffer, data.byteOffset, data.length >> 2) : new Uint32Array(data.slice().buffer);
  return (pixels.words = words);
}

/**
 * The picture at a place of its own square (v up), between its px linearly, as graphics hardware does it; `out` gets red, green, blue and alpha, 0 to 1.
 * Outside: repeated, mirrored, its edge's px, or nothing (alpha 0).
 */
export function samplePixels(pixels: Pixels, u: number, v: number, outsideU: Outside, outsideV: Outside, out: Float64Array): void {
  const { width, height } = pixels;
  const px = wordsOf(pixels);
  const repeatsU = outsideU === 'repeat';
  const repeatsV = outsideV === 'repeat';
  const mirrorsU = outsideU === 'mirror';
  const mirrorsV = outsideV === 'mirror';
  const endsU = outsideU === 'nothing';
  const endsV = outsideV === 'nothing';
  if ((endsU && (u < 0 || u > 1)) || (endsV && (v < 0 || v > 1))) {
    out[0] = out[1] = out[2] = out[3] = 0;
    return;
  }
  const x = (repeatsU ? u - Math.floor(u) : mirrorsU ? 1 - Math.abs(modulo(u, 2) - 1) : within(u)) * width - 0.5;
  const y = (1 - (repeatsV ? v - Math.floor(v) : mirrorsV ? 1 - Math.abs(modulo(v, 2) - 1) : within(v))) * height - 0.5;
  const left = Math.floor(x);
  const top = Math.floor(y);
  const fx = x - left;
  const fy = y - top;
  let x0 = left | 0;
  let y0 = top | 0;
  let x1 = (x0 + 1) | 0;
  let y1 = (y0 + 1) | 0;
  // within the first square: at most one px beyond it
  if (x0 < 0) x0 = repeatsU ? width - 1 : 0;
  if (x1 >= width) x1 = repeatsU ? 0 : width - 1;
  if (y0 < 0) y0 = repeatsV ? height - 1 : 0;
  if (y1 >= height) y1 = repeatsV ? 0 : height - 1;
  const row0 = Math.imul(y0, width);
  const row1 = Math.imul(y1, width);
  const a = px[row0 + x0]!;
  const b = px[row0 + x1]!;
  const c = px[row1 + x0]!;
  const d = px[row1 + x1]!;
  const lower = fy / 255;
  const upper = 1 / 255 - lower;
  const wb = fx * upper;
  const wa = upper - wb;
  const wd = fx * lower;
  const wc = lower - wd;
  out[0] = (a & 255) * wa + (b & 255) * wb + (c & 255) * wc + (d & 255) * wd;
  out[1] = ((a >>> 8) & 255) * wa + ((b >>> 8) & 255) * wb + ((c >>> 8) & 255) * wc + ((d >>> 8) & 255) * wd;
  out[2] = ((a >>> 16) & 255) * wa + ((b >>> 16) & 255) * wb + ((c >>> 16) & 255) * wc + ((d >>> 16) & 255) * wd;
  out[3] = (a >>> 24) * wa + (b >>> 24) * wb + (c >>> 24) * wc + (d >>> 24) * wd;
}

/** A place beyond the square is its edge. */
const within = (u: number) => (u < 0 ? 0 : u > 1 ? 1 : u);
