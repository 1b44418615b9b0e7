import { quietContext, type Context } from '../context.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import type { Symmetry } from '../select/symmetry.ts';
import { cut } from '../seams/cut.ts';
import { islandsOf } from '../uv/islands.ts';
import { edgesInState, EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { madeAlike } from './madeAlike.ts';
import { coarseSeams, type Prices } from './coarseSeams.ts';
import { StretchSearch } from './stretchSearch.ts';
import * as portable from '../numeric/portable.ts';

export interface StretchSeamsOptions {
  /** Symmetric Dirichlet energy to come down to, area-weighted mean over the part: 4 without stretch; default 4.2. */
  limit?: number;
  /** Seams come in pairs across this plane. */
  mirror?: Symmetry | null;
  /** Milliseconds after which what there is is handed back; default 60 000. */
  timeLimit?: number;
  /** Triangles of the coarser mesh on which seams are sought where there are many more; default 3000. */
  coarse?: number;
}

export interface StretchSeams {
  set: UvSet;
  /** Edges that were cut beyond the seams that were there. */
  cuts: number[];
  /** Energy with these seams. */
  energy: number;
  /** Is the limit kept, without overlaps? */
  met: boolean;
  rounds: number;
  /** Where each corner lies once laid flat, 2 numbers, in units of the model and each island by itself. */
  places: Float64Array;
}

/** Seams to a lower goal on the coarse mesh may cost so many times those of the last try. */
const mostPriceRatio = 1.3;

/** How often the coarse mesh is asked before the fine one is gone on with. */
const mostTries = 4;

/**
 * Few, short, hidden seams that keep a stretch limit. From the seams there are, what cannot lie flat is opened; then, round by round, islands are laid
 * flat with least stretch and cut from where the stretch gathers to their border, along the cheapest way, where a cut promises most for its
 * price; islands that lie over themselves are parted; in the end branches that the limit does not need are taken back.
 *
 * Cutting from the place of most stretch to the border: X. Gu, S. Gortler, H. Hoppe, "Geometry Images", SIGGRAPH 2002; weighing it with visibility:
 * A. Sheffer, J. Hart, "Seamster: Inconspicuous Low-Distortion Texture Seam Layout", IEEE Visualization 2002. The choice by promise over
 * price, the mirror image and the taking back are our own.
 *
 * @param prices see `seamPrices`
 * Some ten to twenty rounds, each one solve of the islands that changed.
 */
export async function stretchSeams(
  mesh: Mesh,
  given: UvSet,
  prices: Prices,
  options: StretchSeamsOptions = {},
  context: Context = quietContext,
): Promise<StretchSeams> {
  const { limit = 4.2, mirror = null, timeLimit = 60_000, coarse = 3000 } = options;
  const began = performance.now();
  const late = () => performance.now() - began > timeLimit;
  const states = islandsOf(mesh, given).states;
  let search = new StretchSearch(mesh, given, prices, mirror);
  const triangles = trianglesOf(mesh).count;
  const sought = triangles > 1.6 * coarse;
  const room = limit - 4;
  let rounds = 0;
  let target = coarse;
  let goal = limit;
  let behind = 0.1;
  let seeker: StretchSearch | null = null;
  let others: () => StretchSearch[] = () => [];
  let toFine: (set: UvSet) => number[] = () => [];
  let last = { set: given, price: Infinity };
  for (let tries = 0; sought && tries < mostTries && !late(); tries++) {
    if (!seeker) {
      context.progress(0.05, 'Making a coarser mesh to search on');
      const rough = coarseSeams(mesh, search.set, prices, mirror, target);
      context.throwIfCancelled();
      const start = (own: Prices) => new StretchSearch(rough.mesh, rough.given, own, rough.mirror);
      seeker = start(rough.prices);
      others = () => otherPrices(rough.prices).map(start);
      const before = search.set;
      toFine = (set) => [...rough.toFine(set), ...edgesInState(islandsOf(mesh, before).states, EdgeState.seam)];
    }
    // each further try has half of what is left
    const from = 1 - 0.5 ** tries;
    const part = (share: number, text: string) => {
      behind = 0.1 + 0.85 * (from + (1 - from) * share * 0.5);
      context.progress(behind, text);
    };
    const found = await seekWays(seeker, others, goal, late, true, { ...context, progress: (share, text) => part(share * 0.6, text) });
    seeker = found.search;
    others = () => [];
    rounds += found.rounds;
    const price = seeker.seamPrice();
    if (price > mostPriceRatio * last.price) {
      // a lower goal there costs more than going on from here will
      search.set = last.set;
      break;
    }
    const fine = toFine(found.set);
    search.set = cut(mesh, given, mirror ? madeAlike(mesh, given, fine, mirror, prices) : fine).set;
    last = { set: search.set, price };
    search.layFine();
    part(0.7, `Laying ${search.islandCount === 1 ? 'one island' : `${search.islandCount} islands`} flat`);
    // what lay over itself on the coarse mesh may well do so on the fine one, and to find that out costs as much as holding it apart
    const apart = seeker.crossed;
    await search.layAll(context, apart);
    if (apart && search.kept(limit)) break;
    const over = search.energy() - limit;
    // where no mesh in between is much smaller, the fine one itself shows soonest what is missing
    const isSmall = target * 5 >= triangles;
    if (!found.reached || over <= 0 || isSmall || tries === mostTries - 1) {
      // to be gone on with from how it lies freely
      if (apart) await search.layFreely(context);
      break;
    }
    // what the coarse mesh does not show of the stretch: much of it calls for a finer one, a little for a lower goal; of what it costs to hold apart, for parting
    if (over <= 0.3 * room) goal = Math.max(4 + 0.3 * room, Math.min(goal, found.energy) - 1.1 * over - 0.01 * room);
    else if (apart && seeker.part()) await seeker.layAll(context);
    else {
      target *= 2.5;
      goal = limit;
      seeker = null;
      last.price = Infinity;
    }
  }
  const found = await seekWays(
    search,
    () => (sought ? [] : otherPrices(prices).map((own) => new StretchSearch(mesh, given, own, mirror))),
    limit,
    late,
    !sought,
    sought ? { ...context, progress: (share, text) => context.progress(behind + (1 - behind) * share, text) } : context,
  );
  search = found.search;
  const alike = mirror && found.reached ? await evenOut(search, mesh, given, found, mirror, prices, limit, context) : found;
  const now = islandsOf(mesh, alike.set).states;
  const cuts = [...now.keys()].filter((e) => now[e] === EdgeState.seam && states[e] !== EdgeState.seam);
  return { set: alike.set, cuts, energy: alike.energy, met: found.reached, rounds: rounds + found.rounds, places: search.places };
}

/** Powers of the price per length: the first makes more of what is hidden, the second less. */
const otherPowers = [1.4, 0.7];

/** Prices by which seams go other ways. */
const otherPrices = ({ price, length }: Prices): Prices[] =>
  otherPowers.map((power) => ({
    length,
    price: price.map((own, e) => (length[e]! > 0 && own < Infinity ? length[e]! * portable.exp(power * portable.log(own / length[e]!)) : own)),
  }));

/**
 * As `seek`; but before the first island is parted, it is tried whether other seams to begin with do without that. Of those that do not, what it costs
 * least to hold apart is gone on with.
 * @param others searches that nothing was done in yet
 */
async function seekWays(
  first: StretchSearch,
  others: () => StretchSearch[],
  limit: number,
  late: () => boolean,
  takingBack: boolean,
  context: Context,
): Promise<Found & { search: StretchSearch }> {
  const ways = others();
  const found = await seek(first, limit, late, takingBack, ways.length === 0 ? 'part' : 'leave', context);
  if (!found.parting) return { search: first, ...found };
  let { rounds } = found;
  let least = first;
  for (const search of ways) {
    if (late()) break;
    const its = await seek(search, limit, late, takingBack, 'leave', {
      ...context,
      progress: (share, text) => context.progress(share, `Other seams to begin with. ${text}`),
    });
    rounds += its.rounds;
    if (its.reached) return { search, ...its, rounds };
    if (its.parting && search.energy() < least.energy()) least = search;
  }
  const last = await seek(least, limit, late, takingBack, 'part-now', context);
  return { search: least, ...last, rounds: rounds + last.rounds };
}

interface Found {
  set: UvSet;
  energy: number;
  /** Is the limit kept? */
  reached: boolean;
  rounds: number;
  /** Left off where an island would have been parted. */
  parting: boolean;
}

/** Cuts until the limit is kept and nothing lies over itself, and takes back what is not needed. @param parting whether it parts islands, leaves off before that, or has been left so */
async function seek(
  search: StretchSearch,
  limit: number,
  late: () => boolean,
  takingBack: boolean,
  parting: 'part' | 'leave' | 'part-now',
  context: Context,
): Promise<Found> {
  if (!search.begun) await search.layAll(context);
  let best: { set: UvSet; energy: number } | null = null;
  let reached = false;
  let rounds = 0;
  // how often a cut more is hoped to be enough: each hope is one solve more
  const patience = search.triangles > 8000 ? 2 : 8;
  let short = 0;
  let least = Infinity;
  // of others to choose from, one that two cuts more have not brought nearer to the limit is left
  let sinceLeast = 0;
  const first = search.energy('free');
  for (; rounds < 100 && !late(); rounds++) {
    context.throwIfCancelled();
    const energy = search.energy('free');
    const way = portable.log((first - 3.99) / Math.max(1e-3, energy - 3.99)) / portable.log((first - 3.99) / Math.max(1e-3, limit - 3.99)) || 0;
    context.progress(
      0.9 * Math.max(0, Math.min(1, way)),
      `Seams by stretch: energy ${energy.toFixed(2)} of at most ${limit.toFixed(2)}, ${search.islandCount} island${search.islandCount === 1 ? '' : 's'}`,
    );
    if (energy <= limit) {
      best = { set: search.set, energy };
      const settled = await search.settle(limit, short < patience && (parting !== 'part-now' || rounds > 0), parting !== 'leave', context);
      if (search.energy() < least - 1e-3) [least, sinceLeast] = [search.energy(), 0];
      else sinceLeast++;
      if (settled === 'parting' || (parting === 'leave' && settled === 'short' && sinceLeast >= 2))
        return { set: search.set, energy: search.energy(), reached: false, rounds, parting: true };
      reached = settled === 'kept';
      if (settled === 'kept' || settled === 'stuck') break;
      if (settled === 'short' && (short++, !search.cutWorst(1))) short = patience;
    } else {
      const wanted = (energy - 4) / (limit - 4);
      if (wanted <= 2.5) search.layFine();
      if (!search.cutWorst(wanted > 6 ? 4 : wanted > 3 ? 3 : wanted > 1.5 ? 2 : 1)) break;
    }
    await search.layAll(context);
  }
  if (reached) await search.joinSmall(limit, late, context);
  // what a coarser mesh called for may be more than the fine one needs
  const isAmple = search.energy() < limit - 0.4 * (limit - 4);
  if (reached && (takingBack || rounds > 0 || isAmple)) await search.takeBack(limit, late, context);
  return { ...(reached || !best ? { set: search.set, energy: search.energy() } : best), reached, rounds, parting: false };
}

/** What is left of unlike cuts on both sides of a plane made alike, where the limit is still kept so. */
async function evenOut(
  search: StretchSearch,
  mesh: Mesh,
  given: UvSet,
  found: { set: UvSet; energy: number },
  mirror: Symmetry,
  prices: Prices,
  limit: number,
  context: Context,
): Promise<{ set: UvSet; energy: number }> {
  const edges = edgesInState(islandsOf(mesh, found.set).states, EdgeState.seam);
  const both = madeAlike(mesh, given, edges, mirror, prices);
  if (both.length === edges.length && both.every((e, k) => e === edges[k])) return found;
  search.set = cut(mesh, given, both).set;
  await search.layAll(context);
  if ((await search.settle(limit, true, true, context)) === 'kept') return { set: search.set, energy: search.energy() };
  search.set = found.set;
  await search.layAll(context);
  await search.settle(limit, true, true, context);
  return found;
}
