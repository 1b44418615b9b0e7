import { flatTriangles } from '../unwrap/flatTriangles.ts';
import { borderLoops, lineLength } from './strip.ts';

/** Quads of a piece that fit one grid: each vertex on it has a column and a row. */
export interface Lattice {
  /** Column and row of each vertex, from 0; −1 for those that are not on it. */
  column: Int32Array;
  row: Int32Array;
  columns: number;
  rows: number;
  /** 1 for each quad that fits. */
  fits: Uint8Array;
  /** Of those that fit, in space. */
  area: number;
}

/** So many beginnings are tried. */
const mostSeeds = 6;

/**
 * The largest grid that quads of a piece fit into, whatever its outline: steps, missing corners, branches and holes leave places of it empty. Found by walking
 * from quad to quad; where a point is reached by two ways that do not agree (about a point where not four quads meet) the nearer to the beginning counts.
 * @param quads 4 vertices each, counter-clockwise
 * @param positions 3 numbers a vertex
 * @returns null where there is no quad. O(quads)
 */
export function latticeOf(quads: ArrayLike<number>, positions: Float64Array, triangles: ArrayLike<number>): Lattice | null {
  const count = quads.length / 4;
  if (count === 0) return null;
  const vertices = positions.length / 3;
  const across = neighbours(quads, vertices);
  const depth = depths(quads, across, vertices, triangles);
  const tried = new Uint8Array(count);
  const areas = quadAreas(quads, positions);
  let best: Lattice | null = null;
  for (let n = 0; n < mostSeeds; n++) {
    let seed = -1;
    for (let q = 0; q < count; q++) if (!tried[q] && (seed < 0 || depth[q]! > depth[seed]!)) seed = q;
    if (seed < 0) break;
    const lattice: Lattice = { ...grown(quads, across, vertices, seed), area: 0 };
    for (let q = 0; q < count; q++) {
      if (!lattice.fits[q]) continue;
      tried[q] = 1;
      lattice.area += areas[q]!;
    }
    if (!best || lattice.area > best.area * (1 + 1e-9)) best = lattice;
  }
  return best;
}

/** The quad and side across each side of each quad: 4 q + side, or −1. */
function neighbours(quads: ArrayLike<number>, vertices: number): Int32Array {
  const at = new Map<number, number>();
  for (let h = 0; h < quads.length; h++) at.set(quads[h]! * vertices + quads[h - (h % 4) + ((h + 1) % 4)]!, h);
  return Int32Array.from({ length: quads.length }, (_, h) => at.get(quads[h - (h % 4) + ((h + 1) % 4)]! * vertices + quads[h]!) ?? -1);
}

/** How many quads each quad is away from the nearest point where the grid breaks: inside the piece, and not four quads about it. */
function depths(quads: ArrayLike<number>, across: Int32Array, vertices: number, triangles: ArrayLike<number>): Int32Array {
  const about = new Uint8Array(vertices);
  for (let h = 0; h < quads.length; h++) about[quads[h]!]!++;
  const isBorder = new Uint8Array(vertices);
  for (const loop of borderLoops({ triangles: Uint32Array.from(triangles), vertices })) for (const v of loop) isBorder[v] = 1;
  const depth = new Int32Array(quads.length / 4).fill(-1);
  let front: number[] = [];
  for (let h = 0; h < quads.length; h++) {
    const q = h >> 2;
    if (depth[q]! >= 0 || isBorder[quads[h]!] || about[quads[h]!] === 4) continue;
    depth[q] = 0;
    front.push(q);
  }
  // a grid without a break is begun anywhere
  if (front.length === 0) return depth.fill(0);
  for (let d = 1; front.length > 0; d++) {
    const next: number[] = [];
    for (const q of front)
      for (let k = 0; k < 4; k++) {
        const other = across[q * 4 + k]! >> 2;
        if (other < 0 || depth[other]! >= 0) continue;
        depth[other] = d;
        next.push(other);
      }
    front = next;
  }
  return depth;
}

function grown(quads: ArrayLike<number>, across: Int32Array, vertices: number, seed: number): Omit<Lattice, 'area'> {
  const count = quads.length / 4;
  // columns and rows may run either way from the seed
  const far = count + 2;
  const key = (x: number, y: number) => (x + far) * 2 * far + y + far;
  const column = new Int32Array(vertices);
  const row = new Int32Array(vertices);
  const known = new Uint8Array(vertices);
  const pointAt = new Map<number, number>();
  const fits = new Uint8Array(count);
  const place = (q: number, xs: readonly number[], ys: readonly number[]): boolean => {
    for (let k = 0; k < 4; k++) {
      const v = quads[q * 4 + k]!;
      if (known[v] ? column[v] !== xs[k] || row[v] !== ys[k] : pointAt.has(key(xs[k]!, ys[k]!))) return false;
    }
    for (let k = 0; k < 4; k++) {
      const v = quads[q * 4 + k]!;
      known[v] = 1;
      column[v] = xs[k]!;
      row[v] = ys[k]!;
      pointAt.set(key(xs[k]!, ys[k]!), v);
    }
    fits[q] = 1;
    return true;
  };
  place(seed, [0, 1, 1, 0], [0, 0, 1, 1]);
  let front = [seed];
  while (front.length > 0) {
    const next: number[] = [];
    for (const q of front)
      for (let k = 0; k < 4; k++) {
        const half = across[q * 4 + k]!;
        const other = half >> 2;
        if (half < 0 || fits[other]) continue;
        const [a, b] = [quads[q * 4 + k]!, quads[q * 4 + ((k + 1) % 4)]!];
        const [dx, dy] = [column[b]! - column[a]!, row[b]! - row[a]!];
        // the other one is on the right of a → b; its own side runs from b to a
        const xs = [0, 0, 0, 0];
        const ys = [0, 0, 0, 0];
        const side = half % 4;
        const set = (n: number, x: number, y: number) => {
          xs[(side + n) % 4] = x;
          ys[(side + n) % 4] = y;
        };
        set(0, column[b]!, row[b]!);
        set(1, column[a]!, row[a]!);
        set(2, column[a]! + dy, row[a]! - dx);
        set(3, column[b]! + dy, row[b]! - dx);
        if (place(other, xs, ys)) next.push(other);
      }
    front = next;
  }
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let v = 0; v < vertices; v++) {
    if (!known[v]) continue;
    [x0, y0, x1, y1] = [Math.min(x0, column[v]!), Math.min(y0, row[v]!), Math.max(x1, column[v]!), Math.max(y1, row[v]!)];
  }
  for (let v = 0; v < vertices; v++) {
    column[v] = known[v] ? column[v]! - x0 : -1;
    row[v] = known[v] ? row[v]! - y0 : -1;
  }
  return { column, row, columns: x1 - x0, rows: y1 - y0, fits };
}

/** Area of each quad in space, by two triangles. */
function quadAreas(quads: ArrayLike<number>, positions: Float64Array): Float64Array {
  const triangles = new Uint32Array((quads.length / 4) * 6);
  for (let q = 0; q < quads.length / 4; q++) [0, 1, 2, 0, 2, 3].forEach((k, n) => (triangles[q * 6 + n] = quads[q * 4 + k]!));
  const { area } = flatTriangles(positions, triangles);
  return Float64Array.from({ length: quads.length / 4 }, (_, q) => area[q * 2]! + area[q * 2 + 1]!);
}

/**
 * Widths of the columns and heights of the rows of a grid: the mean length of the edges that cross each, in space; of a chosen line those that it has.
 * @param line vertices that follow one another along a row or a column of the grid
 */
export function latticeSteps(
  { column, row, columns, rows, fits }: Lattice,
  quads: ArrayLike<number>,
  positions: Float64Array,
  line: readonly number[] = [],
): { widths: Float64Array; heights: Float64Array } {
  const widths = new Float64Array(columns);
  const heights = new Float64Array(rows);
  const [inColumn, inRow] = [new Float64Array(columns), new Float64Array(rows)];
  const counted = new Set<number>();
  const add = (a: number, b: number) => {
    const edge = Math.min(a, b) * column.length + Math.max(a, b);
    if (counted.has(edge)) return;
    counted.add(edge);
    const length = lineLength(positions, [a, b]);
    if (row[a] === row[b]) {
      const c = Math.min(column[a]!, column[b]!);
      widths[c]! += length;
      inColumn[c]!++;
    } else {
      const r = Math.min(row[a]!, row[b]!);
      heights[r]! += length;
      inRow[r]!++;
    }
  };
  for (let h = 0; h < quads.length; h++) if (fits[h >> 2]) add(quads[h]!, quads[h - (h % 4) + ((h + 1) % 4)]!);
  for (const [sums, counts] of [
    [widths, inColumn],
    [heights, inRow],
  ] as const)
    for (let k = 0; k < sums.length; k++) sums[k]! /= counts[k] || 1;
  for (let k = 1; k < line.length; k++) {
    const [a, b] = [line[k - 1]!, line[k]!];
    const length = lineLength(positions, [a, b]);
    if (row[a] === row[b]) widths[Math.min(column[a]!, column[b]!)] = length;
    else heights[Math.min(row[a]!, row[b]!)] = length;
  }
  return { widths, heights };
}
