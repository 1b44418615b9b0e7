import { quietContext, type Context } from '../context.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { findSymmetry, symmetryOf, withMirrored, type AxisName } from '../select/symmetry.ts';
import { creaseEdges } from '../seams/crease.ts';
import { cut } from '../seams/cut.ts';
import { openIslands } from '../seams/cutGraph.ts';
import { islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { unwrapIslands } from '../unwrap/unwrapIslands.ts';
import { flatSeams } from './flatSeams.ts';
import { hiddenHalfShare, seamPrices, type SeamWishes } from './seamPrices.ts';
import { stretchSeams } from './stretchSeams.ts';

export const seamWays = ['crease', 'flat', 'stretch'] as const;
export type SeamWay = (typeof seamWays)[number];

export interface ProposeOptions extends SeamWishes {
  by: SeamWay;
  /** Degrees: for creases, of a fold; for flat, from the mean facing of a group. */
  angle?: number;
  /** Symmetric Dirichlet energy, for stretch. */
  limit?: number;
  /** Seams in pairs across this plane; `auto`: where the mesh is alike. */
  symmetry?: AxisName | 'auto' | 'none';
  timeLimit?: number;
}

/** Seams that could be cut, and what they would make of the part. */
export interface SeamProposal {
  by: SeamWay;
  /** The set with the seams cut; not laid flat. */
  set: UvSet;
  /** Edges that would become seams, rising. */
  cuts: number[];
  islands: number;
  /** Length of all seams then, units. */
  seamLength: number;
  /** Share of it in plain sight: 1 where it is seen from half of all directions and more. */
  inSight: number;
  /** Share of it in the hidden half of the model. */
  hiddenHalf: number;
  /** Symmetric Dirichlet energy once laid flat, area-weighted mean. */
  energy: number;
  flips: number;
  /** For stretch: the limit is kept, nothing lies over itself. */
  met: boolean;
  symmetry: AxisName | null;
}

/**
 * Works out seams and measures what they would make of the part. Nothing is changed.
 * O(one visibility pass) and, for stretch, some ten to twenty solves.
 */
export async function proposeSeams(mesh: Mesh, given: UvSet, options: ProposeOptions, context: Context = quietContext): Promise<SeamProposal> {
  const { by, angle, limit = 4.2 } = options;
  context.progress(0, 'Looking where seams would be seen');
  const prices = seamPrices(mesh, options, context);
  const wanted = options.symmetry ?? 'none';
  const symmetry = wanted === 'none' ? null : wanted === 'auto' ? findSymmetry(mesh) : symmetryOf(mesh, wanted);
  const before = islandsOf(mesh, given).states;
  let set: UvSet;
  let met = true;
  let energy = 4;
  let flips = 0;
  if (by === 'stretch') {
    const found = await stretchSeams(mesh, given, prices, { limit, mirror: symmetry, timeLimit: options.timeLimit }, context);
    set = found.set;
    met = found.met;
    energy = found.energy;
  } else {
    const allowed = withMirrored(symmetry, by === 'crease' ? creaseEdges(mesh, angle ?? 40) : flatSeams(mesh, angle ?? 45)).filter(
      (e) => prices.price[e]! < Infinity,
    );
    set = openIslands(mesh, cut(mesh, given, allowed).set, 'all', prices.price).set;
  }
  context.throwIfCancelled();
  const { states, count } = islandsOf(mesh, set);
  const seams = [...states.keys()].filter((e) => states[e] === EdgeState.seam);
  const seamLength = seams.reduce((sum, e) => sum + prices.length[e]!, 0);
  if (by !== 'stretch') {
    const unplaced = new Uint8Array(set.unplaced.length).fill(1);
    // an island that is hard to hold apart is no good proposal: its figure need not be its best
    const how = { apart: true, timeLimit: 2000 };
    ({ energy, flips } = (await unwrapIslands(mesh, { ...set, unplaced }, 'all', 'isometric', context, how)).report);
  }
  return {
    by,
    set,
    cuts: seams.filter((e) => before[e] !== EdgeState.seam),
    islands: count,
    seamLength,
    inSight: seamLength > 0 ? seams.reduce((sum, e) => sum + prices.length[e]! * Math.min(1, 2 * prices.seen[e]!), 0) / seamLength : 0,
    hiddenHalf: seams.length > 0 ? hiddenHalfShare(prices, seams) : 1,
    energy,
    flips,
    met,
    symmetry: symmetry?.axis ?? null,
  };
}
