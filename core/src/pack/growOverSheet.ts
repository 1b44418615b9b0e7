import { seededRandom } from '../numeric/random.ts';
import { doubleArea, offsetEdges, simplifiedOutline, type Loop } from './outline.ts';
import { finely, innerSheet, roughly, rootOf, type Placed, type SearchField, type SearchPiece, type WorkMeter } from './searchField.ts';
import { copyLayout, Separator, turned, type Layout, type PieceShape } from './separate.ts';
import { copyStand, type Stand } from './separateNear.ts';
import { SampledSeparator } from './separateSampled.ts';

const coarseCells = 64;
/** So few pieces are large: their outlines are simplified more. */
const fewPieces = 64;

interface WholeOptions {
  seed: number;
  cells: number;
  meter: WorkMeter;
  better(placed: Placed): void;
}

/** How many pairs of edges the maps of all pairs of pieces are made of. O(edges) where the outlines are short, else of their simplification */
export function edgePairs(field: SearchField, pieces: readonly SearchPiece[], scale: number): number {
  const pairs = (counts: readonly number[]) => (counts.reduce((a, b) => a + b, 0) ** 2 - counts.reduce((a, b) => a + b * b, 0)) / 2;
  const points = (loops: readonly Loop[]) => loops.reduce((sum, loop) => sum + loop.length / 2, 0);
  const all = pairs(pieces.map(({ loops }) => points(loops)));
  if (all < 1e6) return all;
  const { width, height } = innerSheet(field);
  return pairs(pieces.map(({ loops }) => points(simplifiedOutline(loops, scale, Math.max(width, height) * roughly))));
}

/** Grows the scale by moves over the whole sheet, on a raster of places. @returns the best layout found, at least the one given */
export function growWhole(field: SearchField, pieces: readonly SearchPiece[], start: Placed, { seed, cells, meter, better }: WholeOptions): Placed {
  const random = seededRandom(seed);
  const { width, height, origin } = innerSheet(field);
  const cell = Math.max(width, height) / cells;
  const n = pieces.length;
  const areas = new Float64Array(n);
  const shapes = pieces.map(({ loops, turns }, i): PieceShape => {
    const factor = start.scale / cell;
    areas[i] = loops.reduce((sum, loop) => sum + doubleArea(loop), 0);
    const scaled = simplifiedOutline(loops, factor, cells * roughly);
    const edges = offsetEdges(scaled, field.gap / 2 / cell);
    const quarters = turns === 1 ? [0] : turns === 2 ? [0, 2] : [0, 1, 2, 3];
    return { edges: start.angle[i] === 0 ? edges : turned(edges, start.angle[i]!), quarters, isFixed: false };
  });
  const separator = new Separator(shapes, cells, cells / coarseCells, seed, rootOf);
  const isOver = meter.watch(separator.kernel);
  const layout: Layout = { x: new Int32Array(n), y: new Int32Array(n), pose: new Int32Array(n) };
  for (let i = 0; i < n; i++) {
    layout.x[i] = Math.round((start.x[i]! - origin) / cell);
    layout.y[i] = Math.round((start.y[i]! - origin) / cell);
  }
  let best: Placed = start;
  const placedAt = (from: Layout, needed: number): Placed => {
    const out: Placed = { scale: start.scale / needed, x: new Float64Array(n), y: new Float64Array(n), angle: new Float64Array(n) };
    for (let i = 0; i < n; i++) {
      out.x[i] = (from.x[i]! * cell) / needed + origin;
      out.y[i] = (from.y[i]! * cell) / needed + origin;
      out.angle[i] = start.angle[i]! + (from.pose[i]! * Math.PI) / 2;
    }
    return out;
  };
  explore(layout, {
    areas,
    random,
    stride: 0.007,
    copy: copyLayout,
    // a share of the sheet's side
    larger: (share, by) => share * (1 - by),
    smaller: (share, by) => share * (1 + by),
    run: (tried, share) => separator.run(tried, (width / cell) * share, (height / cell) * share, 100, isOver),
    found: (clear, share) => {
      best = placedAt(clear, share);
      better(best);
    },
    isOver,
  });
  return best;
}

interface Exploring<T> {
  areas: Float64Array;
  random(): number;
  /** Share by which pieces grow at first. */
  stride: number;
  copy(layout: T): T;
  /** A size at which pieces are larger, or smaller, by a share; 1 is that of the beginning. */
  larger(size: number, by: number): number;
  smaller(size: number, by: number): number;
  /** Takes overlaps out at a size. @returns what those that are left cost; Infinity where a piece is larger than the sheet */
  run(layout: T, size: number): number;
  /** Told of a layout without overlaps. */
  found(layout: T, size: number): void;
  isOver(): boolean;
}

/** Failed tries that are kept to go on from. */
const mostFailed = 20;

/** Lets pieces grow step by step; where overlaps do not come out, goes on from one of the better failures with two large pieces changed over. */
function explore<T extends { x: Int32Array | Float64Array; y: Int32Array | Float64Array }>(
  first: T,
  { areas, random, stride, copy, larger, smaller, run, found, isOver }: Exploring<T>,
): void {
  const n = areas.length;
  const bySize = [...areas.keys()].sort((a, b) => areas[b]! - areas[a]!);
  const large = () => {
    const share = random();
    return bySize[Math.floor(share * Math.sqrt(share) * n * 0.6)]!;
  };
  let present = copy(first);
  let isClear = false;
  let size = 1;
  let failed: { layout: T; loss: number }[] = [];
  let tries = 0;
  while (!isOver()) {
    const target = isClear ? larger(size, stride) : size;
    const left = run(present, target);
    if (left === Infinity) break;
    if (left === 0) {
      isClear = true;
      size = target;
      failed = [];
      found(present, size);
      continue;
    }
    if (!isClear) {
      // places were rounded, or outlines simplified: a little smaller, until they are clear again
      if (++tries > 12) break;
      size = smaller(size, 0.004);
      present = copy(first);
      continue;
    }
    failed.push({ layout: copy(present), loss: left });
    failed.sort((a, b) => a.loss - b.loss);
    failed.length = Math.min(failed.length, mostFailed);
    stride = Math.max(0.002, stride * 0.9);
    const pick = Math.min(failed.length - 1, Math.floor(Math.abs(random() + random() + random() - 1.5) * failed.length * 0.7));
    present = copy(failed[pick]!.layout);
    const a = large();
    const b = large();
    [present.x[a], present.x[b]] = [present.x[b]!, present.x[a]!];
    [present.y[a], present.y[b]] = [present.y[b]!, present.y[a]!];
  }
}

interface SampledOptions {
  seed: number;
  /** Whether pieces that may be turned freely are. */
  spin: boolean;
  /** Share by which the scale grows at first. */
  stride: number;
  meter: WorkMeter;
  better(placed: Placed): void;
}

/** Sweeps without a gain after which a try by sampled places is given up. */
const patience = 80;
/** Outlines of a search by sampled places are larger by this share of the sheet's side, so that rounding adds no overlap. */
const roomForRounding = 1e-5;
/** Where that is all that is added, corners stay corners unless they are very sharp (turn between neighbouring edges of an arc). */
const sharpStep = 2.6;

/** Grows the scale by trying places all over the sheet, at any angle that pieces may have. @returns the best layout found, at least the one given */
export function growSampled(field: SearchField, pieces: readonly SearchPiece[], start: Placed, { seed, spin, stride, meter, better }: SampledOptions): Placed {
  const random = seededRandom(seed);
  const { width, height, origin } = innerSheet(field);
  const side = Math.max(width, height);
  const n = pieces.length;
  const areas = Float64Array.from(pieces, ({ loops }) => loops.reduce((sum, loop) => sum + doubleArea(loop), 0));
  // the more pieces, the smaller they are
  const tolerance = side * (n <= fewPieces ? roughly : n <= 250 ? roughly / 2 : finely * 2);
  const separator = new SampledSeparator(
    [
      ...pieces.map(({ loops, turns, isFree }) => ({
        edges: offsetEdges(simplifiedOutline(loops, start.scale, tolerance), field.gap / 2 + side * roomForRounding, field.gap > 0 ? undefined : sharpStep),
        turns: isFree && spin ? (0 as const) : turns,
        isFixed: false,
      })),
      ...field.obstacles.map((loops) => ({ edges: offsetEdges(loops, field.gap / 2), turns: 1 as const, isFixed: true })),
    ],
    seed,
  );
  const isOver = meter.watch(separator.kernel);
  // obstacles stay where they are
  const standing = (from: Float64Array, by: number) => Float64Array.from({ length: n + field.obstacles.length }, (_, i) => (i < n ? from[i]! : 0) - by);
  const layout: Stand = { x: standing(start.x, origin), y: standing(start.y, origin), angle: standing(start.angle, 0) };
  let best: Placed = start;
  explore(layout, {
    areas,
    random,
    stride,
    copy: copyStand,
    larger: (size, by) => size * (1 + by),
    smaller: (size, by) => size / (1 + by),
    run: (tried, size) => separator.run(tried, width, height, size, patience, isOver),
    found: (clear, size) => {
      best = {
        scale: start.scale * size,
        x: clear.x.slice(0, n).map((v) => v + origin),
        y: clear.y.slice(0, n).map((v) => v + origin),
        angle: clear.angle.slice(0, n),
      };
      better(best);
    },
    isOver,
  });
  return best;
}
