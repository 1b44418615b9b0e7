import { seededRandom } from '../numeric/random.ts';
import { doubleArea, innerPoint, offsetEdges, simplifiedOutward, type Loop } from './outline.ts';
import { copyLayout, Separator, turned, type Edges, type Layout, type PieceShape } from './separate.ts';
import { SampledSeparator } from './separateSampled.ts';
import { copyStand, NearSeparator, type Stand } from './separateNear.ts';
import * as portable from '../numeric/portable.ts';

/** A piece to be placed: its borders in px about its own origin, the solid on their left. */
export interface SearchPiece {
  loops: readonly Loop[];
  /** Into how many turns a whole one is parted that it may take: 1 for none, 2, 4, 8. */
  turns: 1 | 2 | 4 | 8;
  /** Whether it may be turned by any angle. */
  isFree: boolean;
}

/** Where the pieces may go, in px. */
export interface SearchField {
  width: number;
  height: number;
  /** Least distance between pieces, and to the border. */
  gap: number;
  borderGap: number;
  /** What is in the way, in place. */
  obstacles: readonly (readonly Loop[])[];
}

/** A layout: one scale for all pieces, and for each where its origin is and by what angle (radians) it is turned. */
export interface Placed extends Stand {
  scale: number;
}

export interface SearchOptions {
  seed: number;
  /** Rounds to go; each longer than the one before. A search of more rounds begins as one of fewer. */
  rounds: number;
  /** True once the person is content, or the time is over: the best so far is taken. */
  isStopped(): boolean;
  /** Told of each better layout. */
  better(placed: Placed): void;
  /** Told of the share of the work that is done, 0 to 1. */
  progress?(share: number): void;
}

/** Cells along the longer side in the search over the whole sheet: the maps of all pairs are kept. */
const wholeCells = 512;
/** The first round is to be short, maps are made sooner on a coarser raster. */
const firstCells = 256;
const coarseCells = 64;
/** More pieces than this have too many pairs for maps of all of them. */
const mostForWhole = 64;
/** More pieces than this are not searched at all. */
export const mostForSearch = 1500;
/** Part of the sheet's side by which outlines may be simplified. */
const roughly = 0.0012;
const finely = 0.00015;
/** Work of each round, as the kernel counts it; a second is 0.7 to 2 · 10⁸. */
const roundWork = [1.3e8, 3e8, 6e8, 1.1e9, 2e9] as const;
export const mostRounds = roundWork.length;

/** Share of the work of a round that turning freely gets besides. */
const spinShare = 0.7;
/**
 * Where layouts with free turns cover so many times as much as those without, the latter are left, and free turns get most of their work: the rounds to come
 * have never gained as much (few pieces), or free turns never fell behind again (many; measured on the sets of `npm run bench:pack`).
 */
const leadsFrom = (round: number, isFew: boolean) => (isFew ? 1.045 - 0.007 * round : 1.015);
const leadingWork = 1.15;

const rootOf = (depth: number) => Math.sqrt(depth);

/** Counts work over several kernels up to a limit. */
class Meter {
  private spent = 0;
  limit = 0;

  constructor(
    private readonly total: number,
    private readonly options: SearchOptions,
  ) {}

  /** @returns a question for a kernel's loop: whether the limit is reached */
  watch(kernel: { work: { readonly value: number } }): () => boolean {
    let seen = kernel.work.value;
    return () => {
      const work = kernel.work.value;
      this.spent += work - seen;
      seen = work;
      this.options.progress?.(Math.min(1, this.spent / this.total));
      return this.spent >= this.limit || this.options.isStopped();
    };
  }

  get isOver(): boolean {
    return this.spent >= this.limit || this.options.isStopped();
  }
}

/**
 * Improves a layout that has no overlaps: the scale grows step by step, and after each step overlaps are taken out again; over the whole sheet where there are
 * few enough pieces (`Separator`), then near by at any precision (`NearSeparator`). Where turns are free, each round ends with turning near by; the rounds
 * themselves go on from what was found without, so that free turns never find less. The same seed gives the same result unless it is stopped.
 * O(rounds): the work of a round is fixed; pieces² · edges² of it go into the maps of all pairs.
 */
export function searchLayout(field: SearchField, pieces: readonly SearchPiece[], start: Placed, options: SearchOptions): Placed {
  const random = seededRandom(options.seed);
  const seed = () => 1 + Math.floor(random() * 1e9);
  // of its own, so that the rounds are the same with free turns and without
  const spinRandom = seededRandom(options.seed ^ 0x5f3759df);
  const spinSeed = () => 1 + Math.floor(spinRandom() * 1e9);
  let best = start;
  const better = (placed: Placed) => {
    if (placed.scale <= best.scale) return;
    best = placed;
    options.better(best);
  };
  // maps of the whole sheet know quarter turns only
  const isFree = pieces.some(({ isFree, turns }) => isFree || turns > 4);
  const rounds = Math.max(1, Math.min(mostRounds, options.rounds));
  const whole = pieces.length >= 2 && pieces.length <= mostForWhole && field.obstacles.length === 0;
  // many pieces are first moved near by: one look at each place of the sheet takes longer than that; and they search one round less (see `packBest`)
  const factor = (round: number) => (whole ? 1 : pieces.length > 300 ? (round === 0 ? 2 : 1.3) : round === 0 ? 1 : 1.8);
  const works = roundWork.slice(0, rounds).map((work, round) => work * factor(round));
  const meter = new Meter(works.reduce((sum, work) => sum + work, 0) * (1 + (isFree ? spinShare : 0)), options);
  /** The layouts that the rounds go on from: without turning freely, the same before it was tightened near by, and with turning. */
  let present = start;
  let roaming = start;
  let spinning: Placed | null = null;
  for (let round = 0; round < rounds && !options.isStopped(); round++) {
    const from = present;
    // the first round is to be short: the last hundredths of a percent come later
    const least = round === 0 ? 1e-4 : 2e-5;
    const stride = round === 0 ? 0.007 : 0.004;
    const near = { spin: false, shake: 0, least, meter, better };
    const leads = isFree && round > 0 && (best.scale / present.scale) ** 2 >= leadsFrom(round, whole);
    if (leads) meter.limit += works[round]! * leadingWork;
    else if (whole) {
      meter.limit += works[round]! * 0.75;
      present = growWhole(field, pieces, present, { seed: seed(), cells: round === 0 ? firstCells : wholeCells, meter, better });
      meter.limit += works[round]! * 0.25;
      present = growNear(field, pieces, present, { ...near, seed: seed() });
    } else if (round === 0) {
      meter.limit += works[round]!;
      present = growNear(field, pieces, present, { ...near, seed: seed() });
      roaming = present;
    } else {
      meter.limit += works[round]! * 0.75;
      roaming = growSampled(field, pieces, roaming, { seed: seed(), spin: false, stride, meter, better });
      meter.limit += works[round]! * 0.25;
      present = growNear(field, pieces, roaming, { ...near, seed: seed() });
    }
    if (present.scale < from.scale) present = from;
    if (!isFree) continue;
    if (!leads) meter.limit += works[round]! * spinShare;
    const end = meter.limit;
    meter.limit = end - (works[round]! * spinShare) / 4;
    if (!spinning || spinning.scale < present.scale) spinning = present;
    spinning = growSampled(field, pieces, spinning, { seed: spinSeed(), spin: true, stride, meter, better });
    meter.limit = end;
    let spun = spinning;
    for (let shake = 0; !meter.isOver && shake < 30; shake++)
      spun = growNear(field, pieces, spun, { seed: spinSeed(), spin: true, shake: shake === 0 ? 0 : 0.5 + spinRandom(), meter, better });
  }
  return best;
}

/** Takes the overlaps out of a layout without changing the scale. @returns null where that was not found */
export function settleLayout(field: SearchField, pieces: readonly SearchPiece[], start: Placed, options: SearchOptions): Placed | null {
  const meter = new Meter(roundWork[0], options);
  meter.limit = roundWork[0];
  const search = new NearSearch(field, pieces, start, options.seed);
  const side = Math.max(field.width, field.height);
  return search.settle(start.scale, side / 1000, pieces.some(({ isFree }) => isFree) ? 0.1 : 0, meter) ? search.placed(start.scale) : null;
}

interface WholeOptions {
  seed: number;
  cells: number;
  meter: Meter;
  better(placed: Placed): void;
}

/** The sheet as the pieces see it when each has half the gap around it. */
function innerSheet({ width, height, gap, borderGap }: SearchField) {
  return { width: width - 2 * borderGap + gap, height: height - 2 * borderGap + gap, origin: borderGap - gap / 2 };
}

/** Grows the scale by moves over the whole sheet, on a raster of places. @returns the best layout found, at least the one given */
function growWhole(field: SearchField, pieces: readonly SearchPiece[], start: Placed, { seed, cells, meter, better }: WholeOptions): Placed {
  const random = seededRandom(seed);
  const { width, height, origin } = innerSheet(field);
  const cell = Math.max(width, height) / cells;
  const n = pieces.length;
  const areas = new Float64Array(n);
  const shapes = pieces.map(({ loops, turns }, i): PieceShape => {
    const factor = start.scale / cell;
    areas[i] = loops.reduce((sum, loop) => sum + doubleArea(loop), 0);
    const scaled = loops.map((loop) =>
      simplifiedOutward(
        loop.map((v) => v * factor),
        cells * roughly,
      ),
    );
    const edges = offsetEdges(scaled, field.gap / 2 / cell);
    const quarters = turns === 1 ? [0] : turns === 2 ? [0, 2] : [0, 1, 2, 3];
    return { edges: start.angle[i] === 0 ? edges : turned(edges, start.angle[i]!), quarters, turns, isFixed: false };
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
  const bySize = [...areas.keys()].sort((a, b) => areas[b]! - areas[a]!);
  const large = () => {
    const share = random();
    return bySize[Math.floor(share * Math.sqrt(share) * n * 0.6)]!;
  };
  let present = copyLayout(layout);
  let isClear = false;
  /** Share of the sheet's side that the layout needs. */
  let share = 1;
  let failed: { layout: Layout; loss: number }[] = [];
  let stride = 0.007;
  let tries = 0;
  while (!isOver()) {
    const target = isClear ? share * (1 - stride) : share;
    const left = separator.run(present, (width / cell) * target, (height / cell) * target, 100, isOver);
    if (left === Infinity) break;
    if (left === 0) {
      isClear = true;
      share = target;
      failed = [];
      best = placedAt(present, share);
      better(best);
      continue;
    }
    if (!isClear) {
      // places were rounded to whole cells: a little more room, until they are clear again
      if (++tries > 12) break;
      share *= 1.004;
      present = copyLayout(layout);
      continue;
    }
    failed.push({ layout: copyLayout(present), loss: left });
    failed.sort((a, b) => a.loss - b.loss);
    failed.length = Math.min(failed.length, 20);
    stride = Math.max(0.002, stride * 0.9);
    // goes on from one of the better failures, two large pieces changed over
    const pick = Math.min(failed.length - 1, Math.floor(Math.abs(random() + random() + random() - 1.5) * failed.length * 0.7));
    present = copyLayout(failed[pick]!.layout);
    const a = large();
    const b = large();
    [present.x[a], present.x[b]] = [present.x[b]!, present.x[a]!];
    [present.y[a], present.y[b]] = [present.y[b]!, present.y[a]!];
  }
  return best;
}

interface SampledOptions {
  seed: number;
  /** Whether pieces that may be turned freely are. */
  spin: boolean;
  /** Share by which the scale grows at first. */
  stride: number;
  meter: Meter;
  better(placed: Placed): void;
}

/** Sweeps without a gain after which a try by sampled places is given up. */
const patience = 80;
/** Outlines of a search by sampled places are larger by this share of the sheet's side, so that rounding adds no overlap. */
const roomForRounding = 1e-5;

/** Grows the scale by trying places all over the sheet, at any angle that pieces may have. @returns the best layout found, at least the one given */
function growSampled(field: SearchField, pieces: readonly SearchPiece[], start: Placed, { seed, spin, stride, meter, better }: SampledOptions): Placed {
  const random = seededRandom(seed);
  const { width, height, origin } = innerSheet(field);
  const side = Math.max(width, height);
  const n = pieces.length;
  const areas = pieces.map(({ loops }) => loops.reduce((sum, loop) => sum + doubleArea(loop), 0));
  // the more pieces, the smaller they are
  const tolerance = side * (n <= mostForWhole ? roughly : n <= 250 ? roughly / 2 : finely * 2);
  const separator = new SampledSeparator(
    [
      ...pieces.map(({ loops, turns, isFree }) => ({
        edges: offsetEdges(
          loops.map((loop) =>
            simplifiedOutward(
              loop.map((v) => v * start.scale),
              tolerance,
            ),
          ),
          field.gap / 2 + side * roomForRounding,
        ),
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
  const bySize = [...areas.keys()].sort((a, b) => areas[b]! - areas[a]!);
  const large = () => {
    const share = random();
    return bySize[Math.floor(share * Math.sqrt(share) * n * 0.6)]!;
  };
  let present = copyStand(layout);
  let isClear = false;
  /** How much larger than at the start the pieces are. */
  let grown = 1;
  let failed: { layout: Stand; loss: number }[] = [];
  let tries = 0;
  while (!isOver()) {
    const target = isClear ? grown * (1 + stride) : grown;
    const left = separator.run(present, width, height, target, patience, isOver);
    if (left === Infinity) break;
    if (left === 0) {
      isClear = true;
      grown = target;
      failed = [];
      best = {
        scale: start.scale * grown,
        x: present.x.slice(0, n).map((v) => v + origin),
        y: present.y.slice(0, n).map((v) => v + origin),
        angle: present.angle.slice(0, n),
      };
      better(best);
      continue;
    }
    if (!isClear) {
      // outlines were simplified: a little smaller, until they are clear again
      if (++tries > 12) break;
      grown /= 1.004;
      present = copyStand(layout);
      continue;
    }
    failed.push({ layout: copyStand(present), loss: left });
    failed.sort((a, b) => a.loss - b.loss);
    failed.length = Math.min(failed.length, 20);
    stride = Math.max(0.002, stride * 0.9);
    // goes on from one of the better failures, two large pieces changed over
    const pick = Math.min(failed.length - 1, Math.floor(Math.abs(random() + random() + random() - 1.5) * failed.length * 0.7));
    present = copyStand(failed[pick]!.layout);
    const a = large();
    const b = large();
    [present.x[a], present.x[b]] = [present.x[b]!, present.x[a]!];
    [present.y[a], present.y[b]] = [present.y[b]!, present.y[a]!];
  }
  return best;
}

interface NearOptions {
  seed: number;
  spin: boolean;
  /** How far pieces are thrown about before, in steps of growth; 0: not. */
  shake: number;
  /** Growth below which it is not worth going on; default 2e-5. */
  least?: number;
  meter: Meter;
  better(placed: Placed): void;
}

/** Edges of a piece at a scale, with half the gap around. */
function edgesAt(loops: readonly Loop[], scale: number, halfGap: number): Edges {
  return offsetEdges(
    loops.map((loop) => loop.map((v) => v * scale)),
    halfGap,
  );
}

/** Pieces and obstacles on the sheet, at any scale. */
class NearSearch {
  readonly width: number;
  readonly height: number;
  readonly side: number;
  private readonly origin: number;
  private readonly simple: Loop[][];
  private readonly fixed: Edges[];
  /** A point inside of each piece at scale 1, and of each obstacle. */
  private readonly inner: [number, number][];
  private separator: NearSeparator;
  private isOver: () => boolean = () => false;
  stand: Stand;

  constructor(
    private readonly field: SearchField,
    private readonly pieces: readonly SearchPiece[],
    private readonly start: Placed,
    private readonly seed: number,
  ) {
    const { width, height, origin } = innerSheet(field);
    this.width = width;
    this.height = height;
    this.origin = origin;
    this.side = Math.max(width, height);
    const n = pieces.length;
    this.simple = pieces.map(({ loops }, i) =>
      loops.map((loop) => {
        const simple = simplifiedOutward(loop, (this.side * finely) / start.scale);
        // the angle that it has is taken as no turn: the raster knows it and its quarter turns
        return turnedLoop(simple, start.angle[i]!);
      }),
    );
    this.fixed = field.obstacles.map((loops) =>
      offsetEdges(
        loops.map((loop) => loop.map((v) => v - origin)),
        field.gap / 2,
      ),
    );
    this.inner = [...this.simple.map((loops) => edgesAt(loops, 1, 0)), ...this.fixed].map((edges) => innerPoint(edges) ?? [edges[0]!, edges[1]!]);
    this.separator = this.make(start.scale);
    this.stand = { x: new Float64Array(n + this.fixed.length), y: new Float64Array(n + this.fixed.length), angle: new Float64Array(n + this.fixed.length) };
    for (let i = 0; i < n; i++) {
      this.stand.x[i] = start.x[i]! - origin;
      this.stand.y[i] = start.y[i]! - origin;
    }
  }

  private make(scale: number): NearSeparator {
    const shapes = [
      ...this.simple.map((loops, i): PieceShape => {
        const { turns, isFree } = this.pieces[i]!;
        return {
          edges: edgesAt(loops, scale, this.field.gap / 2),
          quarters: turns === 1 ? [0] : turns === 2 ? [0, 2] : [0, 1, 2, 3],
          turns,
          isFree,
          isFixed: false,
        };
      }),
      ...this.fixed.map((edges): PieceShape => ({ edges, quarters: [0], turns: 1, isFixed: true })),
    ];
    return new NearSeparator(shapes, this.seed, rootOf);
  }

  /** Takes overlaps out at a scale. @returns whether none is left; then `stand` is that layout */
  settle(scale: number, step: number, spin: number, meter: Meter, tried: Stand = copyStand(this.stand)): boolean {
    const edges = [...this.simple.map((loops) => edgesAt(loops, scale, this.field.gap / 2)), ...this.fixed];
    const inner = this.inner.map(([x, y], i): [number, number] => (i < this.pieces.length ? [x * scale, y * scale] : [x, y]));
    if (!this.separator.setEdges(edges, inner)) this.separator = this.make(scale);
    this.isOver = meter.watch(this.separator.kernel);
    const left = this.separator.run(tried, this.width, this.height, {
      step,
      spin,
      patience: 60,
      isOver: this.isOver,
    });
    if (left !== 0) return false;
    this.stand = tried;
    return true;
  }

  placed(scale: number): Placed {
    const n = this.pieces.length;
    return {
      scale,
      x: this.stand.x.slice(0, n).map((v) => v + this.origin),
      y: this.stand.y.slice(0, n).map((v) => v + this.origin),
      angle: this.stand.angle.slice(0, n).map((v, i) => v + this.start.angle[i]!),
    };
  }
}

function turnedLoop(loop: Loop, angle: number): Loop {
  if (angle === 0) return loop;
  const quarters = Math.round((angle * 2) / Math.PI);
  const isWhole = Math.abs((angle * 2) / Math.PI - quarters) < 1e-12;
  const cos = isWhole ? [1, 0, -1, 0][quarters & 3]! : portable.cos(angle);
  const sin = isWhole ? [0, 1, 0, -1][quarters & 3]! : portable.sin(angle);
  const out = new Float64Array(loop.length);
  for (let k = 0; k < loop.length; k += 2) {
    out[k] = loop[k]! * cos - loop[k + 1]! * sin;
    out[k + 1] = loop[k]! * sin + loop[k + 1]! * cos;
  }
  return out;
}

/** Grows the scale in small steps, pieces giving way to one another near by. @returns the best layout found, at least the one given */
function growNear(field: SearchField, pieces: readonly SearchPiece[], start: Placed, { seed, spin, shake, least = 2e-5, meter, better }: NearOptions): Placed {
  if (meter.isOver) return start;
  const random = seededRandom(seed);
  const search = new NearSearch(field, pieces, start, seed);
  const { side } = search;
  let best = start;
  let scale = start.scale;
  let growth = shake > 0 ? 0.004 * shake : 0.004;
  let isShaken = shake === 0;
  while (!meter.isOver && growth > least) {
    const tried = copyStand(search.stand);
    if (!isShaken) {
      isShaken = true;
      for (let i = 0; i < pieces.length; i++) {
        tried.x[i]! += (random() - 0.5) * side * growth * 4;
        tried.y[i]! += (random() - 0.5) * side * growth * 4;
      }
    }
    const next = scale * (1 + growth);
    if (search.settle(next, Math.max(side * 2e-7, (side * growth) / 3), spin ? Math.min(0.15, growth * 40) : 0, meter, tried)) {
      scale = next;
      best = search.placed(scale);
      better(best);
      growth *= 1.25;
    } else growth *= 0.6;
  }
  return best;
}
