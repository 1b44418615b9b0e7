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
export function samplePixels({ width, height, data }: Pixels, u: number, v: number, outsideU: Outside, outsideV: Outside, out: Float64Array): void {
  if ((outsideU === 'nothing' && (u < 0 || u > 1)) || (outsideV === 'nothing' && (v < 0 || v > 1))) {
    out[0] = out[1] = out[2] = out[3] = 0;
    return;
  }
  const x = (outsideU === 'mirror' ? 1 - Math.abs(modulo(u, 2) - 1) : outsideU === 'repeat' ? u - Math.floor(u) : u) * width - 0.5;
  const y = (1 - (outsideV === 'mirror' ? 1 - Math.abs(modulo(v, 2) - 1) : outsideV === 'repeat' ? v - Math.floor(v) : v)) * height - 0.5;
  let x0 = Math.floor(x);
  let y0 = Math.floor(y);
  const fx = x - x0;
  const fy = y - y0;
  let x1 = x0 + 1;
  let y1 = y0 + 1;
  if (outsideU === 'repeat') {
    // within the first square already: at most one px beyond
    if (x0 < 0) x0 += width;
    if (x1 >= width) x1 -= width;
  } else {
    x0 = x0 < 0 ? 0 : x0 >= width ? width - 1 : x0;
    x1 = x1 < 0 ? 0 : x1 >= width ? width - 1 : x1;
  }
  if (outsideV === 'repeat') {
    if (y0 < 0) y0 += height;
    if (y1 >= height) y1 -= height;
  } else {
    y0 = y0 < 0 ? 0 : y0 >= height ? height - 1 : y0;
    y1 = y1 < 0 ? 0 : y1 >= height ? height - 1 : y1;
  }
  const a = (y0 * width + x0) * 4;
  const b = (y0 * width + x1) * 4;
  const c = (y1 * width + x0) * 4;
  const d = (y1 * width + x1) * 4;
  const wa = ((1 - fx) * (1 - fy)) / 255;
  const wb = (fx * (1 - fy)) / 255;
  const wc = ((1 - fx) * fy) / 255;
  const wd = (fx * fy) / 255;
  out[0] = data[a]! * wa + data[b]! * wb + data[c]! * wc + data[d]! * wd;
  out[1] = data[a + 1]! * wa + data[b + 1]! * wb + data[c + 1]! * wc + data[d + 1]! * wd;
  out[2] = data[a + 2]! * wa + data[b + 2]! * wb + data[c + 2]! * wc + data[d + 2]! * wd;
  out[3] = data[a + 3]! * wa + data[b + 3]! * wb + data[c + 3]! * wc + data[d + 3]! * wd;
}
