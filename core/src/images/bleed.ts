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

/**
 * Fills all that is not covered, smoothly: averages of covered px at ever coarser levels, and back (push–pull; S. Gortler, R. Grzeszczuk, R. Szeliski,
 * M. Cohen, "The Lumigraph", 1996; from memory). In place. O(px).
 */
export function bleedAll({ width, height, channels, data, covered }: Baked): void {
  interface Level {
    width: number;
    height: number;
    values: Float32Array;
    weight: Float32Array;
  }
  // the first level halves the picture itself, so that no copy of that size is made
  const halve = (w: number, h: number, weightAt: (i: number) => number, valueAt: (i: number, c: number) => number): Level => {
    const [hw, hh] = [Math.ceil(w / 2), Math.ceil(h / 2)];
    const values = new Float32Array(hw * hh * channels);
    const weight = new Float32Array(hw * hh);
    for (let y = 0; y < hh; y++)
      for (let x = 0; x < hw; x++) {
        const at = y * hw + x;
        let sum = 0;
        for (let k = 0; k < 4; k++) {
          const [fx, fy] = [x * 2 + (k & 1), y * 2 + (k >> 1)];
          if (fx >= w || fy >= h) continue;
          const i = fy * w + fx;
          const own = weightAt(i);
          if (own === 0) continue;
          sum += own;
          for (let c = 0; c < channels; c++) values[at * channels + c]! += valueAt(i, c) * own;
        }
        if (sum === 0) continue;
        for (let c = 0; c < channels; c++) values[at * channels + c]! /= sum;
        weight[at] = Math.min(1, sum);
      }
    return { width: hw, height: hh, values, weight };
  };
  const levels = [
    halve(
      width,
      height,
      (i) => covered[i]!,
      (i, c) => data[i * channels + c]!,
    ),
  ];
  for (let top = levels[0]!; top.width > 1 || top.height > 1; top = levels.at(-1)!) {
    const from = top;
    levels.push(
      halve(
        from.width,
        from.height,
        (i) => from.weight[i]!,
        (i, c) => from.values[i * channels + c]!,
      ),
    );
  }
  /** A level between its px, for a px of the level below. */
  const value = ({ width: w, height: h, values }: Level, x: number, y: number, c: number) => {
    const [u, v] = [(x + 0.5) / 2 - 0.5, (y + 0.5) / 2 - 0.5];
    const [x0, y0] = [Math.floor(u), Math.floor(v)];
    const [fx, fy] = [u - x0, v - y0];
    const at = (i: number, j: number) => values[(Math.max(0, Math.min(h - 1, j)) * w + Math.max(0, Math.min(w - 1, i))) * channels + c]!;
    return (at(x0, y0) * (1 - fx) + at(x0 + 1, y0) * fx) * (1 - fy) + (at(x0, y0 + 1) * (1 - fx) + at(x0 + 1, y0 + 1) * fx) * fy;
  };
  for (let k = levels.length - 2; k >= 0; k--) {
    const { width: w, height: h, values, weight } = levels[k]!;
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const own = weight[y * w + x]!;
        if (own >= 1) continue;
        for (let c = 0; c < channels; c++) {
          const at = (y * w + x) * channels + c;
          values[at] = values[at]! * own + value(levels[k + 1]!, x, y, c) * (1 - own);
        }
      }
  }
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (covered[y * width + x]) continue;
      for (let c = 0; c < channels; c++) data[(y * width + x) * channels + c] = Math.round(value(levels[0]!, x, y, c));
    }
}
