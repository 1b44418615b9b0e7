import { JigError } from '../jigError.ts';
import { makeFactor } from '../numeric/makeFactor.ts';
import { entryAt, trianglePattern, type SymmetricPattern } from '../numeric/pattern.ts';
import { analyse } from '../numeric/symbolic.ts';
import { borderCrossings, borderSegments } from '../unwrap/borderCrossings.ts';
import { prepare } from '../unwrap/conformal.ts';
import { isometric, stretchEnergy } from '../unwrap/isometric.ts';
import type { Piece } from '../unwrap/piece.ts';
import type { Prepared } from '../unwrap/prepared.ts';
import { flipCount, solveIsland } from '../unwrap/solveIsland.ts';
import { latticeOf, latticeSteps } from './lattice.ts';
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
  /** Length that the kept line is given, in units of the model; absent: its own in space. */
  length?: number;
}

export interface Straightened {
  /** 2 numbers a vertex, in units of the model: the strip runs along x, its kept line is level. */
  flat: Float64Array;
  /** Length of the kept line as it is laid, and of the two long borders in space and as they lie; no borders where the outline is no strip's. */
  keptLength: number;
  borders: { length: number; laid: number }[];
  /** Symmetric Dirichlet energy, area-weighted mean: 4 without stretch. */
  energy: number;
  flips: number;
  isGrid: boolean;
  /** 1 for each quad that fits the grid; null where none was laid. */
  fits: Uint8Array | null;
}

interface Laid {
  flat: Float64Array;
  /** Of the kept line. */
  length: number;
  line: readonly number[];
  fits: Uint8Array | null;
}

/** How much more it costs to lean than to be long, where cross lines are to be upright. */
const leaning = 50;

/** A grid that so much of the area fits into is tried, share. */
const leastFit = 0.5;

/**
 * Lays a strip straight: the kept line becomes level with its own length in space, lines along the strip level, lines across upright at their true distance.
 *
 * A grid of quads is laid by the lengths of its edges, whatever its outline; faces that do not fit it follow with the least stretch, and where they are many
 * the way of other strips is taken if it stretches less. Any other strip is laid by two fields on it: which way is across comes from a harmonic map between
 * the long borders; the height is the function whose gradient is nearest to the unit vector across, constant along the borders; the way along is constant
 * across and grows by one a unit at the kept line. Each is one sparse linear system (after O. Sorkine, M. Alexa, et al.: fitting gradients in the least
 * squares sense is a Poisson equation; Y. Yu et al., SIGGRAPH 2004).
 *
 * @param quads 4 vertices of each face of the piece that is a quad
 * @throws JigError `nothing-to-do` for what is no strip
 * O(triangles^1.5) at most
 */
export function straightenPiece(piece: Piece, quads: ArrayLike<number>, how: StraightenHow): Straightened {
  const prepared = prepare(piece.positions, piece.triangles);
  let strip: Strip | null = null;
  let noStrip: unknown = null;
  try {
    strip = stripOf(piece);
  } catch (error) {
    noStrip = error;
  }
  const area = prepared.flat.area.reduce((sum, x) => sum + x, 0);
  const energyOf = (flat: Float64Array) => stretchEnergy(prepared, flat) / area;
  const flipsOf = (flat: Float64Array) => flipCount(piece.triangles, flat);
  const rows = strip && gridRows(strip, quads, piece.vertices);
  const grid = rows ? null : orNull(() => layLattice(piece, area, quads, how));
  let laid: Laid;
  if (strip && rows) {
    const kept = keptLineOf(piece, strip, rows, how);
    laid = { ...layGrid(piece, rows, kept, how.spacing), line: kept.line, fits: new Uint8Array(quads.length / 4).fill(1) };
  } else if (grid?.isWhole) laid = grid;
  else if (strip) {
    const tips = tipsOf(piece, strip);
    const level = { ...strip, bottom: strip.bottom.filter((v) => !tips.has(v)), top: strip.top.filter((v) => !tips.has(v)) };
    const kept = keptLineOf(piece, level, null, { ...how, line: how.line?.filter((v) => !tips.has(v)) });
    laid = { ...layFields(prepared, strip, level, kept), line: kept.line, fits: null };
    if (flipsOf(laid.flat) > 0) laid.flat = withBorderHeld(piece, strip, laid.flat, kept.line);
    if (grid && (flipsOf(grid.flat) < flipsOf(laid.flat) || (flipsOf(grid.flat) === 0 && energyOf(grid.flat) < energyOf(laid.flat)))) laid = grid;
  } else if (grid) laid = grid;
  else throw noStrip;
  let { flat, length } = laid;
  if (how.length !== undefined) {
    for (let v = 0; v < piece.vertices; v++) flat[v * 2]! *= how.length / length;
    length = how.length;
  }
  if (how.far === 'free') {
    const held = new Set(laid.line.length > 0 || !strip ? laid.line : strip.left.concat(strip.right));
    if (flipsOf(flat) === 0) flat = isometric(prepared, flat, { held, steps: 40 }).uv;
  }
  return {
    flat,
    keptLength: length,
    borders: (strip ? [strip.bottom, strip.top] : []).map((line) => ({ length: lineLength(piece.positions, line), laid: laidLength(flat, line) })),
    energy: energyOf(flat),
    flips: flipsOf(flat),
    isGrid: laid.fits !== null,
    fits: laid.fits,
  };
}

/** Lays what fits one grid of quads by the lengths of its edges; the rest follows. Null where no grid holds enough of it, or the kept line is none of its lines. */
function layLattice(
  piece: Piece,
  area: number,
  quads: ArrayLike<number>,
  { keep, line = [], far, spacing }: StraightenHow,
): (Laid & { isWhole: boolean }) | null {
  if (far === 'free' || (keep !== 'middle' && keep !== 'edges')) return null;
  const { positions, triangles, vertices } = piece;
  const lattice = latticeOf(quads, positions, triangles);
  if (!lattice || lattice.area < leastFit * area) return null;
  const { column, row } = lattice;
  const own = keep === 'edges' ? line : [];
  const isRow = own.every((v) => row[v]! >= 0 && row[v] === row[own[0]!]);
  const isColumn = own.every((v) => column[v]! >= 0 && column[v] === column[own[0]!]);
  if (!isRow && !isColumn) return null;
  const steps = latticeSteps(lattice, quads, positions, own);
  const sum = (of: Float64Array) => of.reduce((total, x) => total + x, 0);
  if (spacing === 'equal') for (const of of [steps.widths, steps.heights]) of.fill(sum(of) / of.length);
  const places = (of: Float64Array) => {
    const list = new Float64Array(of.length + 1);
    for (let k = 0; k < of.length; k++) list[k + 1] = list[k]! + of[k]!;
    return list;
  };
  const [xs, ys] = [places(steps.widths), places(steps.heights)];
  // it runs along x
  const isTurned = own.length > 0 ? !isRow : xs.at(-1)! < ys.at(-1)!;
  let flat: Float64Array = new Float64Array(vertices * 2);
  const held: number[] = [];
  for (let v = 0; v < vertices; v++) {
    if (column[v]! < 0) continue;
    held.push(v);
    const [x, y] = [xs[column[v]!]!, ys[row[v]!]!];
    flat[v * 2] = isTurned ? y : x;
    flat[v * 2 + 1] = isTurned ? -x : y;
  }
  if (held.length < vertices) {
    flat = withHeld(piece, flat, held);
    if (judgePiece(piece, flat).crosses) return null;
  }
  const length = own.length > 0 ? laidLength(flat, own) : isTurned ? ys.at(-1)! : xs.at(-1)!;
  return { flat, length, line: own, fits: lattice.fits, isWhole: quads.length === (triangles.length / 6) * 4 && !lattice.fits.includes(0) };
}

/** What cannot be laid so is laid otherwise, or told elsewhere. */
export function orNull<T>(work: () => T): T | null {
  try {
    return work();
  } catch (error) {
    if (error instanceof JigError && (error.code === 'nothing-to-do' || error.code === 'singular')) return null;
    throw error;
  }
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

/**
 * Vertices of the long borders that hang on the rest by these borders alone: tips of triangles whose corners are all on one of them. Level with the others,
 * those triangles would have no area. O(triangles)
 */
function tipsOf({ triangles, vertices }: Piece, { bottom, top }: Strip): Set<number> {
  const tips = new Set<number>();
  for (const line of [bottom, top]) {
    const on = new Uint8Array(vertices);
    for (const v of line) on[v] = 1;
    const hangs = Uint8Array.from(on);
    for (let t = 0; t < triangles.length; t += 3) {
      const [a, b, c] = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!];
      if (on[a] && on[b] && on[c]) continue;
      hangs[a] = hangs[b] = hangs[c] = 0;
    }
    for (const v of line.slice(1, -1)) if (hangs[v]) tips.add(v);
  }
  return tips;
}

/**
 * Two fields: how far along, how high.
 * @param level the same strip, its long borders without what is not to be level
 */
function layFields(prepared: Prepared, strip: Strip, level: Strip, kept: Kept): { flat: Float64Array; length: number } {
  const { vertices, flat: shapes } = prepared;
  const none = () => new Int32Array(vertices).fill(-2);
  // which way is across
  const own = none();
  const given = new Map<number, number>();
  for (const v of strip.bottom) given.set(v, 0);
  for (const v of strip.top) given.set(v, 1);
  const hats = hatGradients(prepared);
  const harmonic = fitGradient(prepared, hats, own, given, null, null);
  const across = new Float64Array(shapes.count * 2);
  const onBorder = [strip.bottom, strip.top].map((line) => {
    const at = new Int32Array(vertices).fill(-1);
    line.forEach((v, k) => (at[v] = k));
    return at;
  });
  for (let t = 0; t < shapes.count; t++) {
    let [x, y] = [0, 0];
    for (let k = 0; k < 3; k++) {
      const f = harmonic[prepared.triangles[t * 3 + k]!]!;
      x += hats[t * 6 + k * 2]! * f;
      y += hats[t * 6 + k * 2 + 1]! * f;
    }
    const ear = earAcross(prepared, onBorder, t);
    const size = Math.hypot(x, y) || 1;
    across[t * 2] = ear ? ear[0] : x / size;
    across[t * 2 + 1] = ear ? ear[1] : y / size;
  }
  // height: level along the borders and the kept line
  const together = none();
  const zero = new Map<number, number>();
  const onKept = new Set(kept.line);
  const group = (line: readonly number[], n: number) => line.forEach((v) => (together[v] = -3 - n));
  group(level.bottom, 0);
  group(level.top, 1);
  if (kept.line.length > 0) {
    for (const v of kept.line) zero.set(v, 0);
    // a border that is kept is level at 0
    if (level.bottom.some((v) => onKept.has(v)) && kept.line.length === level.bottom.length) level.bottom.forEach((v) => zero.set(v, 0));
    if (level.top.some((v) => onKept.has(v)) && kept.line.length === level.top.length) level.top.forEach((v) => zero.set(v, 0));
  } else level.bottom.forEach((v) => zero.set(v, 0));
  const high = fitGradient(prepared, hats, together, zero, null, across);
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
  const leans = new Float64Array(shapes.count * 3);
  const right = new Float64Array(shapes.count * 2);
  for (let t = 0; t < shapes.count; t++) {
    const [nx, ny] = [across[t * 2]!, across[t * 2 + 1]!];
    leans[t * 3] = leaning * nx * nx + ny * ny;
    leans[t * 3 + 1] = (leaning - 1) * nx * ny;
    leans[t * 3 + 2] = leaning * ny * ny + nx * nx;
    right[t * 2] = ny;
    right[t * 2 + 1] = -nx;
  }
  const far = fitGradient(prepared, hats, upright, along, leans, right);
  if (kept.line.length === 0) length = far[strip.right[0]!]!;
  const flat = new Float64Array(vertices * 2);
  for (let v = 0; v < vertices; v++) {
    flat[v * 2] = far[v]!;
    flat[v * 2 + 1] = high[v]!;
  }
  return { flat, length };
}

/**
 * Which way is across in a triangle whose three corners are on one long border, where the harmonic map is level: square to the edge by which it hangs on the
 * rest. Null for every other triangle.
 * @param onBorder place of each vertex in the bottom and in the top line, −1 for others
 */
function earAcross({ triangles, flat: { shape } }: Prepared, onBorder: readonly Int32Array[], t: number): [number, number] | null {
  for (let n = 0; n < 2; n++) {
    const line = onBorder[n]!;
    const towards = n === 1 ? 1 : -1;
    if (line[triangles[t * 3]!]! < 0 || line[triangles[t * 3 + 1]!]! < 0 || line[triangles[t * 3 + 2]!]! < 0) continue;
    const at = [0, 1, 2].map((k) => line[triangles[t * 3 + k]!]!);
    const places = [
      [0, 0],
      [shape[t * 3]!, 0],
      [shape[t * 3 + 1]!, shape[t * 3 + 2]!],
    ] as const;
    const order = [0, 1, 2].sort((a, b) => at[a]! - at[b]!);
    const [first, tip, last] = [places[order[0]!]!, places[order[1]!]!, places[order[2]!]!];
    const [dx, dy] = [last[0]! - first[0]!, last[1]! - first[1]!];
    const size = Math.hypot(dx, dy) || 1;
    const side = (tip[0]! - first[0]!) * -dy + (tip[1]! - first[1]!) * dx < 0 ? -towards : towards;
    return [(-dy / size) * side, (dx / size) * side];
  }
  return null;
}

/** Gradients of the three corner functions of each triangle in its own plane: x, y each. */
function hatGradients({ flat: { shape, count } }: Prepared): Float64Array {
  const out = new Float64Array(count * 6);
  for (let t = 0; t < count; t++) {
    const [x1, x2, y2] = [shape[t * 3]!, shape[t * 3 + 1]!, shape[t * 3 + 2]!];
    const twice = x1 * y2;
    out[t * 6] = -y2 / twice;
    out[t * 6 + 1] = (x2 - x1) / twice;
    out[t * 6 + 2] = y2 / twice;
    out[t * 6 + 3] = -x2 / twice;
    out[t * 6 + 5] = x1 / twice;
  }
  return out;
}

/**
 * The function whose gradient is nearest to a wanted one: the least of Σ area · (∇f·M∇f − 2 w·∇f).
 * @param hats see `hatGradients`
 * @param groups −2: a vertex of its own; equal numbers below that: vertices that share one value
 * @param given values of vertices that are known
 * @param metric M of each triangle: xx, xy, yy in its own plane; null: none but the identity
 * @param wanted w of each triangle; null: none
 */
function fitGradient(
  { vertices, triangles, flat, symbolic }: Prepared,
  hats: Float64Array,
  groups: Int32Array,
  given: ReadonlyMap<number, number>,
  metric: Float64Array | null,
  wanted: Float64Array | null,
): Float64Array {
  const unknown = new Int32Array(vertices).fill(-1);
  const ofGroup = new Map<number, number>();
  let count = 0;
  // in the order of elimination that the whole piece has; values that many vertices share go last
  const order: number[] = [];
  const byPlace = new Int32Array(vertices);
  for (let v = 0; v < vertices; v++) byPlace[symbolic.place[v]!] = v;
  for (let v = 0; v < vertices; v++) if (!given.has(v) && groups[v] === -2) unknown[v] = count++;
  for (const v of byPlace) if (unknown[v]! >= 0) order.push(unknown[v]!);
  for (let v = 0; v < vertices; v++) {
    const g = groups[v]!;
    if (g === -2 || given.has(v)) continue;
    if (!ofGroup.has(g)) {
      order.push(count);
      ofGroup.set(g, count++);
    }
    unknown[v] = ofGroup.get(g)!;
  }
  const values = Float64Array.from({ length: vertices }, (_, v) => given.get(v) ?? 0);
  if (count === 0) return values;
  const mapped = new Uint32Array(triangles.length);
  let filled = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    let some = -1;
    for (let k = 0; k < 3; k++) some = Math.max(some, unknown[triangles[t + k]!]!);
    if (some < 0) continue;
    for (let k = 0; k < 3; k++) mapped[filled++] = unknown[triangles[t + k]!]! >= 0 ? unknown[triangles[t + k]!]! : some;
  }
  const pattern = trianglePattern(count, mapped.subarray(0, filled));
  const entries = new Float64Array(pattern.rows.length);
  const rhs = new Float64Array(count);
  for (let t = 0; t < flat.count; t++) {
    const area = flat.area[t]!;
    const [xx, xy, yy] = metric ? [metric[t * 3]!, metric[t * 3 + 1]!, metric[t * 3 + 2]!] : [1, 0, 1];
    const [wx, wy] = wanted ? [wanted[t * 2]!, wanted[t * 2 + 1]!] : [0, 0];
    for (let i = 0; i < 3; i++) {
      const a = unknown[triangles[t * 3 + i]!]!;
      if (a < 0) continue;
      const gx = hats[t * 6 + i * 2]!;
      const gy = hats[t * 6 + i * 2 + 1]!;
      const mx = gx * xx + gy * xy;
      const my = gx * xy + gy * yy;
      rhs[a]! += area * (wx * gx + wy * gy);
      for (let j = 0; j < 3; j++) {
        const vj = triangles[t * 3 + j]!;
        const b = unknown[vj]!;
        const w = area * (mx * hats[t * 6 + j * 2]! + my * hats[t * 6 + j * 2 + 1]!);
        if (b < 0) rhs[a]! -= w * values[vj]!;
        // both halves of the matrix are met: the lower one is kept, and the diagonal
        else if (a >= b) entries[entryAt(pattern, a, b)]! += w;
      }
    }
  }
  // slivers can fail by rounding in one order and not in another
  const solved = orNull(() => solveOnce(pattern, entries, rhs, Int32Array.from(order))) ?? solveOnce(pattern, entries, rhs);
  for (let v = 0; v < vertices; v++) if (unknown[v]! >= 0) values[v] = solved[unknown[v]!]!;
  return values;
}

/** @param order of elimination; absent: one is found */
function solveOnce(pattern: SymmetricPattern, entries: Float64Array, rhs: Float64Array, order?: Int32Array): Float64Array {
  const factor = makeFactor(analyse(pattern, order), 1);
  try {
    factor.factorise(entries);
    return factor.solve(rhs);
  } finally {
    factor.release();
  }
}

/** Where triangles were turned over: the border and the kept line stay, the inside is laid by least stretch. */
const withBorderHeld = (piece: Piece, strip: Strip, flat: Float64Array, line: readonly number[]): Float64Array =>
  withHeld(piece, flat, [...new Set([...strip.bottom, ...strip.right, ...strip.top, ...strip.left, ...line])]);

/** Some vertices stay at their places, the others are laid by least stretch. */
export function withHeld({ positions, triangles }: Piece, flat: Float64Array, held: readonly number[]): Float64Array {
  const places = Float64Array.from(held.flatMap((v) => [flat[v * 2]!, flat[v * 2 + 1]!]));
  return solveIsland({ positions, triangles, method: 'isometric', pins: { vertices: Uint32Array.from(held), places } }).uv;
}

/** Energy and flips of a whole piece as it is laid, and whether its border crosses itself. */
export function judgePiece({ positions, triangles }: Piece, flat: Float64Array): { energy: number; flips: number; crosses: boolean } {
  const prepared = prepare(positions, triangles);
  return {
    energy: stretchEnergy(prepared, flat) / prepared.flat.area.reduce((sum, x) => sum + x, 0),
    flips: flipCount(triangles, flat),
    crosses: borderCrossings(borderSegments(prepared, flat)).length > 0,
  };
}
