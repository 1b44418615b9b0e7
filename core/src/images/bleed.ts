/* What a baked picture shows between the islands, so that nothing of the background comes in at their borders. */

/** A picture with any number of channels, and which of its px are covered. */
export interface Baked {
  width: number;
  height: number;
  channels: number;
  /** First row on top. */
  data: Uint8Array | Uint16Array;
  /** 1 where an island covers the px. */
  covered: Uint8Array;
}

/**
 * Every px within `reach` of a covered one takes the nearest covered px, by exact distances: A. Meijster, J. Roerdink, W. Hesselink, "A General Algorithm
 * for Computing Distance Transforms in Linear Time" (2000). In place. @returns 1 for px that are covered or were filled. O(px).
 */
export function bleedNearest({ width, height, channels, data, covered }: Baked, reach: number): Uint8Array {
  const filled = covered.slice();
  if (reach <= 0) return filled;
  const far = width + height;
  // in each column the row of the nearest covered px
  const nearRow = new Int32Array(width * height).fill(-1);
  for (let x = 0; x < width; x++) {
    let last = -1;
    for (let y = 0; y < height; y++) {
      if (covered[y * width + x]) last = y;
      nearRow[y * width + x] = last;
    }
    last = -1;
    for (let y = height - 1; y >= 0; y--) {
      if (covered[y * width + x]) last = y;
      const above = nearRow[y * width + x]!;
      if (last >= 0 && (above < 0 || last - y < y - above)) nearRow[y * width + x] = last;
    }
  }
  const s = new Int32Array(width);
  const t = new Int32Array(width);
  const g = new Int32Array(width);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) g[x] = nearRow[y * width + x]! < 0 ? far : Math.abs(nearRow[y * width + x]! - y);
    // lower envelope of the parabolas over the row
    let q = 0;
    s[0] = t[0] = 0;
    const f = (x: number, i: number) => (x - i) ** 2 + g[i]! ** 2;
    for (let u = 1; u < width; u++) {
      while (q >= 0 && f(t[q]!, s[q]!) > f(t[q]!, u)) q--;
      if (q < 0) {
        q = 0;
        s[0] = u;
        t[0] = 0;
        continue;
      }
      const i = s[q]!;
      const w = 1 + Math.floor((u * u - i * i + g[u]! ** 2 - g[i]! ** 2) / (2 * (u - i)));
      if (w < width) {
        q++;
        s[q] = u;
        t[q] = Math.max(0, w);
      }
    }
    for (let u = width - 1; u >= 0; u--) {
      const i = s[q]!;
      const at = y * width + u;
      const row = nearRow[y * width + i]!;
      if (!covered[at] && row >= 0 && f(u, i) <= reach * reach) {
        const from = (row * width + i) * channels;
        for (let c = 0; c < channels; c++) data[at * channels + c] = data[from + c]!;
        filled[at] = 1;
      }
      if (u === t[q]!) q = Math.max(0, q - 1);
    }
  }
  return filled;
}

type Numbers = Float32Array | Uint8Array | Uint16Array;
type Shares = Float32Array | Uint8Array;

/** A picture at half the size of the one before, with how much of each px is known. */
interface Level {
  width: number;
  height: number;
  /** Numbers of all channels, px by px. */
  values: Float32Array;
  /** 0 to 1 a px. */
  weight: Float32Array;
}

/** Means of two by two px, each counted by its weight. O(px) */
function halved(width: number, height: number, channels: number, values: ArrayLike<number>, weight: ArrayLike<number>): Level {
  const w = Math.ceil(width / 2);
  const h = Math.ceil(height / 2);
  const out = new Float32Array(w * h * channels);
  const known = new Float32Array(w * h);
  for (let y = 0; y < h; y++) {
    const below = y * 2 + 1 < height ? 2 : 1;
    for (let x = 0; x < w; x++) {
      const beside = x * 2 + 1 < width ? 2 : 1;
      const to = (y * w + x) * channels;
      const first = y * 2 * width + x * 2;
      if (below === 2 && beside === 2) {
        // mostly all four are known, or none
        const all = weight[first]! + weight[first + 1]! + weight[first + width]! + weight[first + width + 1]!;
        if (all === 0) continue;
        if (all === 4) {
          const a = first * channels;
          const b = a + width * channels;
          for (let c = 0; c < channels; c++) out[to + c] = (values[a + c]! + values[a + channels + c]! + values[b + c]! + values[b + channels + c]!) / 4;
          known[y * w + x] = 1;
          continue;
        }
      }
      let sum = 0;
      for (let j = 0; j < below; j++)
        for (let i = 0; i < beside; i++) {
          const from = first + j * width + i;
          const own = weight[from]!;
          if (own === 0) continue;
          sum += own;
          for (let c = 0; c < channels; c++) out[to + c]! += values[from * channels + c]! * own;
        }
      if (sum === 0) continue;
      for (let c = 0; c < channels; c++) out[to + c]! /= sum;
      known[y * w + x] = Math.min(1, sum);
    }
  }
  return { width: w, height: h, values: out, weight: known };
}

/**
 * Px of a picture that are not wholly known are filled up by what the next level has there, between its px linearly.
 * @param values numbers of all channels, px by px; changed @param known share that is known of each px, 0 to 1 @param rounds to whole numbers. O(px)
 */
function fillFrom(
  { width: w, height: h, values: from }: Level,
  width: number,
  height: number,
  channels: number,
  values: Numbers,
  known: Shares,
  rounds: boolean,
): void {
  for (let y = 0; y < height; y++) {
    // the middle of a px is a quarter of a px of the next level away from the middle of one of those
    const up = (y & 1) === 0 ? (y >> 1) - 1 : y >> 1;
    const fy = (y & 1) === 0 ? 0.75 : 0.25;
    const row0 = Math.max(0, up) * w;
    const row1 = Math.min(h - 1, up + 1) * w;
    for (let x = 0; x < width; x++) {
      const at = y * width + x;
      const own = known[at]!;
      if (own === 1) continue;
      const left = (x & 1) === 0 ? (x >> 1) - 1 : x >> 1;
      const fx = (x & 1) === 0 ? 0.75 : 0.25;
      const x0 = Math.max(0, left);
      const x1 = Math.min(w - 1, left + 1);
      const a = (row0 + x0) * channels;
      const b = (row0 + x1) * channels;
      const c = (row1 + x0) * channels;
      const d = (row1 + x1) * channels;
      for (let k = 0; k < channels; k++) {
        const value = (from[a + k]! * (1 - fx) + from[b + k]! * fx) * (1 - fy) + (from[c + k]! * (1 - fx) + from[d + k]! * fx) * fy;
        const mixed = values[at * channels + k]! * own + value * (1 - own);
        values[at * channels + k] = rounds ? Math.floor(mixed + 0.5) : mixed;
      }
    }
  }
}

/**
 * Fills all that is not covered, smoothly: averages of covered px at ever coarser levels, and back (push–pull; S. Gortler, R. Grzeszczuk, R. Szeliski,
 * M. Cohen, "The Lumigraph", 1996; from memory). In place. O(px).
 */
export function bleedAll({ width, height, channels, data, covered }: Baked): void {
  // the first level halves the picture itself, so that no copy of that size is made
  const levels = [halved(width, height, channels, data, covered)];
  for (let top = levels[0]!; top.width > 1 || top.height > 1; top = levels.at(-1)!)
    levels.push(halved(top.width, top.height, channels, top.values, top.weight));
  for (let k = levels.length - 2; k >= 0; k--) {
    const { width: w, height: h, values, weight } = levels[k]!;
    fillFrom(levels[k + 1]!, w, h, channels, values, weight, false);
  }
  fillFrom(levels[0]!, width, height, channels, data, covered, true);
}
