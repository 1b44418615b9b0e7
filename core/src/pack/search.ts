import { seededRandom } from '../numeric/random.ts';
import { growNear, NearSearch } from './growNear.ts';
import { edgePairs, growSampled, growWhole } from './growOverSheet.ts';
import type { Placed, SearchField, SearchPiece, WorkMeter } from './searchField.ts';

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
/** More pieces than this have too many pairs for maps of all of them. */
const mostForWhole = 64;
/** Of more pieces than this the first round is near by only: one look at each place of the sheet takes longer than that. */
export const mostForSampledFirst = 300;
/** More pairs of edges than this take too long to make maps of. */
const mostEdgePairs = 1.5e7;
/** More pieces than this are not searched at all, nor more together with what is in their way: each pair takes some 20 bytes. */
export const mostForSearch = 1500;
export const mostWithObstacles = 4000;
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

/** Counts work over several kernels up to a limit. */
class Meter implements WorkMeter {
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
 * Improves a layout that has no overlaps: the scale grows step by step, and after each step overlaps are taken out again. A few pieces that turn by quarters are
 * moved over the whole sheet by depth maps (`growWhole`); all others, and whatever may have other angles, by sampled places (`growSampled`); each round ends near
 * by, at any precision (`growNear`). Rounds with free turns stand beside those without, so that free turns never find less. The same seed gives the same
 * result unless it is stopped. O(rounds): the work of a round is fixed; for few pieces, pieces² · edges² of it go into the maps of all pairs.
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
  const whole = pieces.length >= 2 && pieces.length <= mostForWhole && field.obstacles.length === 0 && edgePairs(field, pieces, start.scale) <= mostEdgePairs;
  // those that are first moved near by search one round less (see `packBest`)
  const factor = (round: number) => (pieces.length <= mostForWhole ? 1 : pieces.length > mostForSampledFirst ? 1.3 : round === 0 ? 1.2 : 0.9);
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
    } else if (round === 0 && pieces.length > mostForSampledFirst) {
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
