/** Closed lines round what lies inside, 2 numbers a point, the inside at their left: borders counterclockwise, those of holes clockwise. */
export type Loops = readonly Float64Array[];

/** Corners of a cell, from its lower left counterclockwise: their bits, and the sides between them (0 below, 1 right, 2 above, 3 left). */
const sidesOf: readonly (readonly [number, number][])[] = [
  [],
  [[0, 3]],
  [[1, 0]],
  [[1, 3]],
  [[2, 1]],
  [
    [0, 3],
    [2, 1],
  ],
  [[2, 0]],
  [[2, 3]],
  [[3, 2]],
  [[0, 2]],
  [
    [1, 0],
    [3, 2],
  ],
  [[1, 2]],
  [[3, 1]],
  [[0, 1]],
  [[3, 0]],
  [],
];

/**
 * The lines on which a grid of values passes a level, between its points linearly. Values stand at the middles of cells of size 1, the first at (0.5, 0.5);
 * round about the grid it is 0. O(cells)
 *
 * Source: marching squares, as W. Lorensen and H. Cline, "Marching Cubes", SIGGRAPH 1987, have it in space; which corners hang together where two opposite ones
 * are inside is a choice: here they do not.
 * @param at the value in column x of row y, rows upwards
 * @param leastArea loops round less than this are left out: specks
 */
export function contours(width: number, height: number, at: (x: number, y: number) => number, level: number, leastArea = 2): Loops {
  const [wide, high] = [width + 2, height + 2];
  const values = new Float32Array(wide * high);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) values[(y + 1) * wide + x + 1] = at(x, y);
  // sides by their first point: 2k runs to the right of point k, 2k + 1 upwards
  const next = new Map<number, number>();
  for (let y = 0; y + 1 < high; y++)
    for (let x = 0; x + 1 < wide; x++) {
      const k = y * wide + x;
      const kind =
        (values[k]! >= level ? 1 : 0) | (values[k + 1]! >= level ? 2 : 0) | (values[k + wide + 1]! >= level ? 4 : 0) | (values[k + wide]! >= level ? 8 : 0);
      if (kind === 0 || kind === 15) continue;
      const sides = [2 * k, 2 * (k + 1) + 1, 2 * (k + wide), 2 * k + 1];
      for (const [from, to] of sidesOf[kind]!) next.set(sides[from]!, sides[to]!);
    }
  const out: Float64Array[] = [];
  for (const first of next.keys()) {
    const points: number[] = [];
    for (let side: number | undefined = first; side !== undefined;) {
      const following: number | undefined = next.get(side);
      next.delete(side);
      if (following === undefined) break;
      const k = side >> 1;
      const other = side % 2 === 0 ? k + 1 : k + wide;
      const share = (level - values[k]!) / (values[other]! - values[k]!);
      const [x, y] = [(k % wide) - 0.5, Math.floor(k / wide) - 0.5];
      points.push(side % 2 === 0 ? x + share : x, side % 2 === 0 ? y : y + share);
      side = following;
    }
    const loop = Float64Array.from(points);
    if (Math.abs(loopArea(loop)) >= leastArea) out.push(loop);
  }
  return out;
}

/** Area that a closed line goes round, counterclockwise positive. */
export function loopArea(loop: Float64Array): number {
  let twice = 0;
  const n = loop.length / 2;
  for (let k = 0, last = n - 1; k < n; last = k++) twice += loop[last * 2]! * loop[k * 2 + 1]! - loop[k * 2]! * loop[last * 2 + 1]!;
  return twice / 2;
}

/** The box round a line: least x, least y, most x, most y. */
export function boxOf(loop: Float64Array): [number, number, number, number] {
  let [left, low, right, high] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < loop.length; k += 2) {
    left = Math.min(left, loop[k]!);
    right = Math.max(right, loop[k]!);
    low = Math.min(low, loop[k + 1]!);
    high = Math.max(high, loop[k + 1]!);
  }
  return [left, low, right, high];
}

/** Is a place inside a closed line? By how often a ray from it crosses the line. O(points) */
export function isInside(loop: Float64Array, x: number, y: number): boolean {
  let inside = false;
  const n = loop.length / 2;
  for (let k = 0, last = n - 1; k < n; last = k++) {
    const [ay, by] = [loop[last * 2 + 1]!, loop[k * 2 + 1]!];
    if (ay > y !== by > y && x < loop[last * 2]! + ((y - ay) / (by - ay)) * (loop[k * 2]! - loop[last * 2]!)) inside = !inside;
  }
  return inside;
}

/** Loops by the piece that they bound: each border with the holes in it. O(borders · points of holes) */
export function piecesOf(loops: Loops): Loops[] {
  const borders = loops
    .map((loop) => ({ loop, area: loopArea(loop) }))
    .filter(({ area }) => area > 0)
    .sort((a, b) => a.area - b.area);
  const pieces = borders.map(({ loop }): Float64Array[] => [loop]);
  const boxes = borders.map(({ loop }) => boxOf(loop));
  for (const loop of loops) {
    if (loopArea(loop) >= 0) continue;
    const [x, y] = [loop[0]!, loop[1]!];
    // the smallest border round it
    const n = borders.findIndex(({ loop: border }, k) => {
      const [left, low, right, high] = boxes[k]!;
      return x >= left && x <= right && y >= low && y <= high && isInside(border, x, y);
    });
    if (n >= 0) pieces[n]!.push(loop);
  }
  return pieces;
}
