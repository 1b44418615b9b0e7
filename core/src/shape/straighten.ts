import { JigError } from '../jigError.ts';
import { makeFactor } from '../numeric/makeFactor.ts';
import { entryAt, trianglePattern } from '../numeric/pattern.ts';
import { analyse } from '../numeric/symbolic.ts';
import { prepare } from '../unwrap/conformal.ts';
import { isometric, stretchEnergy } from '../unwrap/isometric.ts';
import type { Piece } from '../unwrap/piece.ts';
import type { Prepared } from '../unwrap/prepared.ts';
import { flipCount, solveIsland } from '../unwrap/solveIsland.ts';
import { gridRows, lineLength, stripOf, type Strip } from './strip.ts';

/** The line of a strip that becomes straight at its own length. */
export const keptLines = ['middle', 'longer', 'shorter', 'edges'] as const;
export type KeptLine = (typeof keptLines)[number];

export interface StraightenHow {
  keep: KeptLine;
  /** With `edges`: the chosen line, vertices of the piece in order. */
  line?: readonly number[];
  /** The other lines are straight and level, too; else they bend as the least stretch has it. */
  far: 'straight' | 'free';
  /** Of a grid of quads: columns and rows as wide and high as their edges are in the mean, or all alike. */
  spacing: 'lengths' | 'equal';
}

export interface Straightened {
  /** 2 numbers a vertex, in units of the model: the strip runs along x, its kept line is level. */
  flat: Float64Array;
  /** Length of the kept line in space, and of the two long borders in space and as they lie. */
  keptLength: number;
  borders: { length: number; laid: number }[];
  /** Symmetric Dirichlet energy, area-weighted mean: 4 without stretch. */
  energy: number;
  flips: number;
  isGrid: boolean;
}

/** How much more it costs to lean than to be long, where cross lines are to be upright. */
const leaning = 50;

/**
 * Lays a strip straight: the kept line becomes level with its own length in space, lines along the strip level, lines across upright at their true distance.
 *
 * A grid of quads is laid by the lengths of its edges. Any other strip by two fields on it: which way is across comes from a harmonic map between the long
 * borders; the height is the function whose gradient is nearest to the unit vector across, constant along the borders; the way along is constant across and
 * grows by one a unit at the kept line. Each is one sparse linear system (after O. Sorkine, M. Alexa, et al.: fitting gradients in the least squares sense is
 * a Poisson equation; Y. Yu et al., SIGGRAPH 2004).
 *
 * @param quads 4 vertices each where all faces of the piece are quads; else empty
 * @throws JigError `nothing-to-do` for what is no strip
 * O(triangles^1.5) at most
 */
export function straightenPiece(piece: Piece, quads: ArrayLike<number>, how: StraightenHow): Straightened {
  const strip = stripOf(piece);
  const rows = gridRows(strip, quads, piece.vertices);
  const prepared = prepare(piece.positions, piece.triangles);
  const kept = keptLineOf(piece, strip, rows, how);
  const straight = rows ? layGrid(piece, rows, kept, how.spacing) : layFields(prepared, strip, kept);
  let { flat } = straight;
  if (flipCount(piece.triangles, flat) > 0) flat = withBorderHeld(piece, strip, flat, kept.line);
  if (how.far === 'free') {
    const held = new Set(kept.line.length > 0 ? kept.line : strip.left.concat(strip.right));
    if (flipCount(piece.triangles, flat) === 0) flat = isometric(prepared, flat, { held, steps: 40 }).uv;
  }
  return {
    flat,
    keptLength: straight.length,
    borders: [strip.bottom, strip.top].map((line) => ({ length: lineLength(piece.positions, line), laid: laidLength(flat, line) })),
    energy: stretchEnergy(prepared, flat) / prepared.flat.area.reduce((sum, x) => sum + x, 0),
    flips: flipCount(piece.triangles, flat),
    isGrid: rows !== null,
  };
}

const laidLength = (flat: Float64Array, line: readonly number[]) => {
  let sum = 0;
  for (let k = 1; k < line.length; k++) sum += Math.hypot(flat[line[k]! * 2]! - flat[line[k - 1]! * 2]!, flat[line[k]! * 2 + 1]! - flat[line[k - 1]! * 2 + 1]!);
  return sum;
};

interface Kept {
  /** Vertices from left to right; none: the middle, which is no line of edges. */
  line: number[];
  /** Its row in a grid; −1: the mean of all. */
  row: number;
}

function keptLineOf({ positions }: Piece, strip: Strip, rows: number[][] | null, { keep, line }: StraightenHow): Kept {
  if (keep === 'middle') return { line: [], row: -1 };
  const top = [...strip.top].reverse();
  if (keep === 'edges') {
    if (!line || line.length < 2)
      throw new JigError('nothing-to-do', 'No line of edges along the strip is chosen.', '', 'Choose edges that run from one end to the other.');
    const isRow = (row: readonly number[]) => row.length === line.length && line.every((v) => row.includes(v));
    const known = rows ? rows.findIndex(isRow) : -1;
    if (rows && known >= 0) return { line: rows[known]!, row: known };
    for (const border of [strip.bottom, top]) if (isRow(border)) return { line: border, row: -1 };
    const first = strip.left.includes(line[0]!) ? [...line] : [...line].reverse();
    if (!strip.left.includes(first[0]!) || !strip.right.includes(first.at(-1)!))
      throw new JigError('nothing-to-do', 'The chosen edges do not run from one end of the strip to the other.', '', 'Choose a whole loop along it.');
    return { line: first, row: -1 };
  }
  const isBottom = lineLength(positions, strip.bottom) >= lineLength(positions, top) === (keep === 'longer');
  return isBottom ? { line: strip.bottom, row: 0 } : { line: top, row: (rows?.length ?? 0) - 1 };
}

const gap = (positions: Float64Array, a: number, b: number) => lineLength(positions, [a, b]);

function layGrid(
  { positions, vertices }: Piece,
  rows: readonly number[][],
  kept: Kept,
  spacing: StraightenHow['spacing'],
): { flat: Float64Array; length: number } {
  const across = rows[0]!.length;
  const columns = Array.from({ length: across - 1 }, (_, c) => {
    const of = (row: readonly number[]) => gap(positions, row[c]!, row[c + 1]!);
    return kept.row >= 0 ? of(rows[kept.row]!) : rows.reduce((sum, row) => sum + of(row), 0) / rows.length;
  });
  const heights = rows.slice(1).map((row, r) => row.reduce((sum, v, c) => sum + gap(positions, v, rows[r]![c]!), 0) / across);
  const length = columns.reduce((sum, x) => sum + x, 0);
  const height = heights.reduce((sum, x) => sum + x, 0);
  const flat = new Float64Array(vertices * 2);
  let y = 0;
  rows.forEach((row, r) => {
    let x = 0;
    row.forEach((v, c) => {
      flat[v * 2] = x;
      flat[v * 2 + 1] = y;
      x += spacing === 'equal' ? length / columns.length : (columns[c] ?? 0);
    });
    y += spacing === 'equal' ? height / heights.length : (heights[r] ?? 0);
  });
  return { flat, length };
}

/** Two fields: how far along, how high. */
function layFields(prepared: Prepared, strip: Strip, kept: Kept): { flat: Float64Array; length: number } {
  const { vertices, flat: shapes } = prepared;
  const none = () => new Int32Array(vertices).fill(-2);
  // which way is across
  const level = none();
  const given = new Map<number, number>();
  for (const v of strip.bottom) given.set(v, 0);
  for (const v of strip.top) given.set(v, 1);
  const harmonic = fitGradient(
    prepared,
    level,
    given,
    () => [1, 0, 1],
    () => [0, 0],
  );
  const across = new Float64Array(shapes.count * 2);
  for (let t = 0; t < shapes.count; t++) {
    const [x, y] = gradientAt(prepared, harmonic, t);
    const size = Math.hypot(x, y) || 1;
    across[t * 2] = x / size;
    across[t * 2 + 1] = y / size;
  }
  // height: level along the borders and the kept line
  const together = none();
  const zero = new Map<number, number>();
  const onKept = new Set(kept.line);
  const group = (line: readonly number[], n: number) => line.forEach((v) => (together[v] = -3 - n));
  group(strip.bottom, 0);
  group(strip.top, 1);
  if (kept.line.length > 0) {
    for (const v of kept.line) zero.set(v, 0);
    // a border that is kept is level at 0
    if (strip.bottom.some((v) => onKept.has(v)) && kept.line.length === strip.bottom.length) strip.bottom.forEach((v) => zero.set(v, 0));
    if (strip.top.some((v) => onKept.has(v)) && kept.line.length === strip.top.length) strip.top.forEach((v) => zero.set(v, 0));
  } else strip.bottom.forEach((v) => zero.set(v, 0));
  const high = fitGradient(
    prepared,
    together,
    zero,
    () => [1, 0, 1],
    (t) => [across[t * 2]!, across[t * 2 + 1]!],
  );
  // along: across turned to the right
  const upright = none();
  const along = new Map<number, number>();
  let length = 0;
  if (kept.line.length > 0) {
    kept.line.forEach((v, k) => {
      if (k > 0) length += gap(prepared.positions, kept.line[k - 1]!, v);
      along.set(v, length);
    });
    for (const v of strip.left) along.set(v, 0);
    for (const v of strip.right) along.set(v, length);
  } else {
    for (const v of strip.left) along.set(v, 0);
    strip.right.forEach((v) => (upright[v] = -3));
  }
  const far = fitGradient(
    prepared,
    upright,
    along,
    (t) => {
      const [nx, ny] = [across[t * 2]!, across[t * 2 + 1]!];
      return [leaning * nx * nx + ny * ny, (leaning - 1) * nx * ny, leaning * ny * ny + nx * nx];
    },
    (t) => [across[t * 2 + 1]!, -across[t * 2]!],
  );
  if (kept.line.length === 0) length = far[strip.right[0]!]!;
  const flat = new Float64Array(vertices * 2);
  for (let v = 0; v < vertices; v++) {
    flat[v * 2] = far[v]!;
    flat[v * 2 + 1] = high[v]!;
  }
  return { flat, length };
}

/** Gradients of the three corner functions of a triangle in its own plane. */
function corners(shape: Float64Array, t: number): [number, number, number, number, number, number] {
  const [x1, x2, y2] = [shape[t * 3]!, shape[t * 3 + 1]!, shape[t * 3 + 2]!];
  const twice = x1 * y2;
  return [-y2 / twice, (x2 - x1) / twice, y2 / twice, -x2 / twice, 0, x1 / twice];
}

function gradientAt({ flat, triangles }: Prepared, f: Float64Array, t: number): [number, number] {
  const g = corners(flat.shape, t);
  let [x, y] = [0, 0];
  for (let k = 0; k < 3; k++) {
    x += g[k * 2]! * f[triangles[t * 3 + k]!]!;
    y += g[k * 2 + 1]! * f[triangles[t * 3 + k]!]!;
  }
  return [x, y];
}

/**
 * The function whose gradient is nearest to a wanted one: the least of Σ area · (∇f·M∇f − 2 w·∇f).
 * @param groups −2: a vertex of its own; equal numbers below that: vertices that share one value
 * @param given values of vertices that are known
 * @param metric M of a triangle: xx, xy, yy in its own plane
 */
function fitGradient(
  { vertices, triangles, flat }: Prepared,
  groups: Int32Array,
  given: ReadonlyMap<number, number>,
  metric: (t: number) => [number, number, number],
  wanted: (t: number) => [number, number],
): Float64Array {
  const unknown = new Int32Array(vertices).fill(-1);
  const ofGroup = new Map<number, number>();
  let count = 0;
  for (let v = 0; v < vertices; v++) {
    if (given.has(v)) continue;
    const g = groups[v]!;
    if (g === -2) unknown[v] = count++;
    else {
      if (!ofGroup.has(g)) ofGroup.set(g, count++);
      unknown[v] = ofGroup.get(g)!;
    }
  }
  // a group of which one vertex is known is known as a whole
  const values = Float64Array.from({ length: vertices }, (_, v) => given.get(v) ?? 0);
  if (count === 0) return values;
  const mapped: number[] = [];
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [unknown[triangles[t]!]!, unknown[triangles[t + 1]!]!, unknown[triangles[t + 2]!]!];
    const own = [a, b, c].filter((x) => x >= 0);
    if (own.length === 0) continue;
    mapped.push(own[0]!, own[1] ?? own[0]!, own[2] ?? own[0]!);
  }
  const pattern = trianglePattern(count, Uint32Array.from(mapped));
  const entries = new Float64Array(pattern.rows.length);
  const rhs = new Float64Array(count);
  for (let t = 0; t < flat.count; t++) {
    const area = flat.area[t]!;
    const g = corners(flat.shape, t);
    const [xx, xy, yy] = metric(t);
    const [wx, wy] = wanted(t);
    for (let i = 0; i < 3; i++) {
      const vi = triangles[t * 3 + i]!;
      const a = unknown[vi]!;
      if (a < 0) continue;
      const [gx, gy] = [g[i * 2]!, g[i * 2 + 1]!];
      rhs[a]! += area * (wx * gx + wy * gy);
      for (let j = 0; j < 3; j++) {
        const vj = triangles[t * 3 + j]!;
        const b = unknown[vj]!;
        const w = area * (gx * (xx * g[j * 2]! + xy * g[j * 2 + 1]!) + gy * (xy * g[j * 2]! + yy * g[j * 2 + 1]!));
        if (b < 0) rhs[a]! -= w * values[vj]!;
        // both halves of the matrix are met: the lower one is kept, and the diagonal
        else if (a >= b) entries[entryAt(pattern, a, b)]! += w;
      }
    }
  }
  const factor = makeFactor(analyse(pattern), 1);
  try {
    factor.factorise(entries);
    const solved = factor.solve(rhs);
    for (let v = 0; v < vertices; v++) if (unknown[v]! >= 0) values[v] = solved[unknown[v]!]!;
    return values;
  } finally {
    factor.release();
  }
}

/** Where triangles were turned over: the border and the kept line stay, the inside is laid by least stretch. */
function withBorderHeld(piece: Piece, strip: Strip, flat: Float64Array, line: readonly number[]): Float64Array {
  const held = [...new Set([...strip.bottom, ...strip.right, ...strip.top, ...strip.left, ...line])];
  const places = Float64Array.from(held.flatMap((v) => [flat[v * 2]!, flat[v * 2 + 1]!]));
  return solveIsland({
    positions: piece.positions,
    triangles: piece.triangles,
    method: 'isometric',
    pins: { vertices: Uint32Array.from(held), places },
  }).uv;
}
