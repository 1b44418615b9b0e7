import { BitRows } from './bitRows.ts';

/**
 * One island as the packer sees it: runs of raster cells. `body` covers every cell that the island touches; `grown` also every cell that
 * a neighbour must not touch to keep the gap. Rows of `grown` begin `reach` above and left of the body's.
 */
export interface Shape {
  /** Size of the body in cells. */
  width: number;
  height: number;
  body: RunRows;
  grown: RunRows;
  reach: number;
}

/** Runs of each row: run k of row y is runs[start[y] + 2k] … runs[start[y] + 2k + 1]. */
export interface RunRows {
  start: Uint32Array;
  runs: Int32Array;
}

/**
 * Every cell (unit square) that any of the triangles touches, exactly: in each row of cells, the stretch of x that the triangle has there.
 * @param triangles 6 numbers a triangle (x0 y0 x1 y1 x2 y2), in cells, all ≥ 0
 * O(cells covered + triangles).
 */
export function rasterise(triangles: Float64Array, width: number, height: number): BitRows {
  const out = new BitRows(width, height);
  for (let t = 0; t < triangles.length; t += 6) {
    const y0 = triangles[t + 1]!,
      y1 = triangles[t + 3]!,
      y2 = triangles[t + 5]!;
    const from = Math.max(0, Math.floor(Math.min(y0, y1, y2)));
    const to = Math.min(height - 1, Math.floor(Math.max(y0, y1, y2)));
    for (let y = from; y <= to; y++) {
      let least = Infinity;
      let most = -Infinity;
      for (let k = 0; k < 3; k++) {
        const ax = triangles[t + k * 2]!;
        const ay = triangles[t + k * 2 + 1]!;
        const n = ((k + 1) % 3) * 2;
        const bx = triangles[t + n]!;
        const by = triangles[t + n + 1]!;
        if (ay >= y && ay <= y + 1) {
          if (ax < least) least = ax;
          if (ax > most) most = ax;
        }
        const low = ay < by ? ay : by;
        const high = ay < by ? by : ay;
        for (let line = y; line <= y + 1; line++) {
          if (line <= low || line >= high) continue;
          const x = ax + ((line - ay) / (by - ay)) * (bx - ax);
          if (x < least) least = x;
          if (x > most) most = x;
        }
      }
      if (least <= most) out.fillRun(y, Math.floor(least), Math.floor(most));
    }
  }
  return out;
}

/**
 * Every cell that the region within some closed lines touches: those that a line crosses, and in each row what is within at the middle of its height (turned
 * round once or more often). As `rasterise` of the region's triangles, where none of them is turned over.
 * @param loops points in cells, all ≥ 0
 * O(cells crossed + rows + points), whatever the lines hold.
 */
export function rasteriseOutline(loops: readonly Float64Array[], width: number, height: number): BitRows {
  const out = new BitRows(width, height);
  const perRow = new Int32Array(height + 1);
  // crossings of the middles of rows: how many, then which
  const walk = (crossing: (row: number, x: number, by: number) => void) => {
    for (const loop of loops) {
      for (let k = 0, j = loop.length - 2; k < loop.length; j = k, k += 2) {
        const y0 = loop[j + 1]!;
        const y1 = loop[k + 1]!;
        if (y0 === y1) continue;
        const isUp = y1 > y0;
        const from = Math.max(0, Math.ceil((isUp ? y0 : y1) - 0.5));
        const to = Math.min(height - 1, Math.ceil((isUp ? y1 : y0) - 0.5) - 1);
        if (from > to) continue;
        const slope = (loop[k]! - loop[j]!) / (y1 - y0);
        for (let row = from; row <= to; row++) crossing(row, loop[j]! + (row + 0.5 - y0) * slope, isUp ? 1 : -1);
      }
    }
  };
  walk((row) => perRow[row + 1]!++);
  for (let row = 0; row < height; row++) perRow[row + 1]! += perRow[row]!;
  const at = perRow.slice(0, height);
  const places = new Float64Array(perRow[height]!);
  const turns = new Int8Array(perRow[height]!);
  walk((row, x, by) => {
    // kept in order as they come: there are few
    let k = at[row]!++;
    for (; k > perRow[row]! && places[k - 1]! > x; k--) {
      places[k] = places[k - 1]!;
      turns[k] = turns[k - 1]!;
    }
    places[k] = x;
    turns[k] = by;
  });
  for (let row = 0; row < height; row++) {
    let winding = 0;
    for (let k = perRow[row]!; k + 1 < perRow[row + 1]!; k++) {
      winding += turns[k]!;
      if (winding !== 0) out.fillRun(row, Math.floor(places[k]!), Math.floor(places[k + 1]!));
    }
  }
  for (const loop of loops) {
    for (let k = 0, j = loop.length - 2; k < loop.length; j = k, k += 2) {
      const [x0, y0, x1, y1] = [loop[j]!, loop[j + 1]!, loop[k]!, loop[k + 1]!];
      const low = Math.min(y0, y1);
      const high = Math.max(y0, y1);
      const from = Math.max(0, Math.floor(low));
      const to = Math.min(height - 1, Math.floor(high));
      if (from === to) {
        out.fillRun(from, Math.floor(Math.min(x0, x1)), Math.floor(Math.max(x0, x1)));
        continue;
      }
      const slope = (x1 - x0) / (y1 - y0);
      const upper = y1 > y0 ? x1 : x0;
      let x = y1 > y0 ? x0 : x1;
      for (let row = from; row <= to; row++) {
        const next = row + 1 >= high ? upper : x0 + (row + 1 - y0) * slope;
        out.fillRun(row, Math.floor(Math.min(x, next)), Math.floor(Math.max(x, next)));
        x = next;
      }
    }
  }
  return out;
}

/**
 * The cells nearer than `gap` cells to any set cell (distance between the squares), the set ones included; the raster grows by `reach` on
 * each side.
 */
export function grow(body: BitRows, gap: number): { grown: BitRows; reach: number } {
  const reach = gap > 0 ? Math.ceil(gap) : 0;
  const grown = new BitRows(body.width + 2 * reach, body.height + 2 * reach);
  // for each row offset: how far a run spreads to both sides
  const spread: number[] = [];
  for (let dy = -reach; dy <= reach; dy++) {
    const down = Math.max(0, Math.abs(dy) - 1);
    let side = -1;
    if (gap > 0) {
      if (down < gap) side = 0;
      while (side >= 0 && side + 1 <= reach && Math.hypot(Math.max(0, side), down) < gap) side++;
    } else if (dy === 0) side = 0;
    spread.push(side);
  }
  for (let y = 0; y < body.height; y++) {
    const runs = body.runs(y);
    for (let dy = -reach; dy <= reach; dy++) {
      const side = spread[dy + reach]!;
      if (side < 0) continue;
      for (let k = 0; k < runs.length; k += 2) grown.fillRun(y + dy + reach, runs[k]! + reach - side, runs[k + 1]! + reach + side);
    }
  }
  return { grown, reach };
}

/** A raster turned a quarter to the left (x, y) → (height − 1 − y, x), `turns` times. */
export function turnRaster(raster: BitRows, turns: number): BitRows {
  if (turns % 4 === 0) return raster;
  const out = turns % 2 === 0 ? new BitRows(raster.width, raster.height) : new BitRows(raster.height, raster.width);
  const { bits, words } = out;
  for (let y = 0; y < raster.height; y++) {
    const runs = raster.runs(y);
    // the column of an upright run
    const column = turns === 1 ? raster.height - 1 - y : y;
    const bit = 1 << (column & 31);
    for (let k = 0; k < runs.length; k += 2) {
      if (turns === 2) out.fillRun(raster.height - 1 - y, raster.width - 1 - runs[k + 1]!, raster.width - 1 - runs[k]!);
      else {
        const first = turns === 1 ? runs[k]! : raster.width - 1 - runs[k + 1]!;
        const end = (first + runs[k + 1]! - runs[k]! + 1) * words;
        for (let at = first * words + (column >> 5); at < end; at += words) bits[at]! |= bit;
      }
    }
  }
  return out;
}

/** A raster seen in a mirror: (x, y) → (width − 1 − x, y). */
export function mirrorRaster(raster: BitRows): BitRows {
  const out = new BitRows(raster.width, raster.height);
  for (let y = 0; y < raster.height; y++) {
    const runs = raster.runs(y);
    for (let k = 0; k < runs.length; k += 2) out.fillRun(y, raster.width - 1 - runs[k + 1]!, raster.width - 1 - runs[k]!);
  }
  return out;
}

export function runRows(raster: BitRows): RunRows {
  const start = new Uint32Array(raster.height + 1);
  const all: number[] = [];
  for (let y = 0; y < raster.height; y++) {
    const runs = raster.runs(y);
    for (const x of runs) all.push(x);
    start[y + 1] = all.length;
  }
  return { start, runs: Int32Array.from(all) };
}

/** A shape from a body and what it grows to (see `grow`), both turned alike. */
export function shapeFrom(body: BitRows, grown: BitRows, reach: number): Shape {
  return { width: body.width, height: body.height, body: runRows(body), grown: runRows(grown), reach };
}
