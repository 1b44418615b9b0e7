import type { Box } from '../uv/box.ts';

/** A field of a finished picture that an island can be put on: left, bottom, right, top, shares of the sheet. */
export type PictureField = Box;

export interface AlphaHow {
  /** Px of less alpha than this are no part of a field, 0 to 255. */
  threshold?: number;
  /** Fields with a smaller share of the picture are left out: specks. */
  least?: number;
}

/**
 * Fields of a picture by its alpha: pieces of opaque px that hang together (over sides and corners), as boxes in reading order. O(px)
 * @param data 4 bytes a px, rows from the top
 */
export function fieldsByAlpha(data: ArrayLike<number>, width: number, height: number, { threshold = 128, least = 0.0005 }: AlphaHow = {}): PictureField[] {
  const seen = new Uint8Array(width * height);
  const stack: number[] = [];
  const found: { box: Box; area: number }[] = [];
  const isIn = (k: number) => data[k * 4 + 3]! >= threshold;
  for (let seed = 0; seed < seen.length; seed++) {
    if (seen[seed] || !isIn(seed)) continue;
    let [left, top, right, bottom, area] = [width, height, -1, -1, 0];
    stack.push(seed);
    seen[seed] = 1;
    while (stack.length > 0) {
      const k = stack.pop()!;
      const [x, y] = [k % width, Math.floor(k / width)];
      area++;
      left = Math.min(left, x);
      right = Math.max(right, x);
      top = Math.min(top, y);
      bottom = Math.max(bottom, y);
      for (let dy = -1; dy <= 1; dy++)
        for (let dx = -1; dx <= 1; dx++) {
          const [nx, ny] = [x + dx, y + dy];
          const n = ny * width + nx;
          if (nx < 0 || ny < 0 || nx >= width || ny >= height || seen[n] || !isIn(n)) continue;
          seen[n] = 1;
          stack.push(n);
        }
    }
    found.push({ box: [left / width, 1 - (bottom + 1) / height, (right + 1) / width, 1 - top / height], area: area / (width * height) });
  }
  return inReadingOrder(found.filter(({ area }) => area >= least).map(({ box }) => box));
}

/** Equal fields in columns and rows, in reading order. @param gap between them and to the border, a share of the sheet */
export function gridFields(columns: number, rows: number, gap = 0): PictureField[] {
  const [wide, high] = [(1 - gap * (columns + 1)) / columns, (1 - gap * (rows + 1)) / rows];
  return Array.from({ length: columns * rows }, (_, k): PictureField => {
    const [column, row] = [k % columns, Math.floor(k / columns)];
    const [left, top] = [gap + column * (wide + gap), 1 - gap - row * (high + gap)];
    return [left, top - high, left + wide, top];
  });
}

/** Rows from the top, each from the left: a box is of a row while its middle is within the first one's height. */
export function inReadingOrder(fields: readonly PictureField[]): PictureField[] {
  const left = [...fields].sort((a, b) => b[3] - a[3]);
  const out: PictureField[] = [];
  while (left.length > 0) {
    const first = left[0]!;
    const row = left.filter((one) => (one[1] + one[3]) / 2 > first[1]);
    out.push(...row.sort((a, b) => a[0] - b[0]));
    for (const one of row) left.splice(left.indexOf(one), 1);
  }
  return out;
}
