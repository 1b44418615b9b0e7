import { quietContext, type Context } from '../context.ts';
import { seamSight, type SeamSight } from '../measure/seamSight.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { findSymmetry, symmetryOf, withMirrored, type AxisName, type Symmetry } from '../select/symmetry.ts';
import { cut } from '../seams/cut.ts';
import { openIslands } from '../seams/cutGraph.ts';
import { islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { uprightTurn } from '../unwrap/heading.ts';
import { pieceOf } from '../unwrap/piece.ts';
import { unwrapIslands } from '../unwrap/unwrapIslands.ts';
import type { BevelWay } from './bevels.ts';
import { creaseSeams, flatSeams } from './flatSeams.ts';
import { firstPacking, type ProposalSheet } from './layProposal.ts';
import { limbSeams } from './limbSeams.ts';
import { seamPrices, type SeamWishes } from './seamPrices.ts';
import type { SeamWay } from './seamWays.ts';
import { stretchSeams } from './stretchSeams.ts';

export interface ProposeOptions extends SeamWishes {
  by: SeamWay;
  /** Degrees: for creases, of a fold; for flat, from the mean facing of a group. */
  angle?: number;
  /** Where bevels and rounded edges stay, for creases and flat. */
  bevels?: BevelWay;
  /** Symmetric Dirichlet energy, for stretch and limbs. */
  limit?: number;
  /** Seams in pairs across this plane; `auto`: where the mesh is alike. */
  symmetry?: AxisName | 'auto' | 'none';
  timeLimit?: number;
  /** Lay the pieces out on this sheet, too. */
  sheet?: ProposalSheet | null;
}

/** Seams that could be cut, and what they would make of the part. */
export interface SeamProposal extends SeamSight {
  by: SeamWay;
  /** The set with the seams cut; not laid flat. */
  set: UvSet;
  /** Edges that would become seams, rising. */
  cuts: number[];
  islands: number;
  /** Symmetric Dirichlet energy once laid flat, area-weighted mean. */
  energy: number;
  flips: number;
  /** Limbs that were found and parted, for limbs. */
  limbs: number;
  /** For stretch and limbs: the limit is kept, nothing lies over itself. */
  met: boolean;
  symmetry: AxisName | null;
  /** What it would be on the sheet; null where none was asked for, or nothing could be laid flat. */
  layout: { set: UvSet; coverage: number } | null;
}

/**
 * Works out seams and measures what they would make of the part. Nothing is changed.
 * O(one visibility pass) and, for stretch, some ten to twenty solves.
 */
export async function proposeSeams(mesh: Mesh, given: UvSet, options: ProposeOptions, context: Context = quietContext): Promise<SeamProposal> {
  const { by, angle, limit = 4.2, bevels = 'larger' } = options;
  // each piece of work tells of itself from 0 to 1
  const stage = (from: number, to: number): Context => ({
    ...context,
    progress: (share, text) => context.progress(from + (to - from) * Math.min(1, share), text),
  });
  context.progress(0, 'Looking where seams would be seen');
  const wanted = options.symmetry ?? 'none';
  const symmetry = wanted === 'none' ? null : wanted === 'auto' ? findSymmetry(mesh) : symmetryOf(mesh, wanted);
  const found = seamPrices(mesh, options, context);
  const prices = symmetry ? { ...found, price: alikePrices(found.price, symmetry) } : found;
  const before = islandsOf(mesh, given).states;
  let set: UvSet;
  let met = true;
  let energy = 4;
  let flips = 0;
  let limbs = 0;
  let places: Float64Array | null = null;
  let flat: UvSet | null = null;
  if (by === 'stretch' || by === 'limbs') {
    let from = given;
    if (by === 'limbs') {
      context.progress(0.02, 'Looking for limbs');
      const rings = limbSeams(mesh, given, prices, symmetry);
      limbs = rings.limbs;
      from = cut(mesh, given, rings.edges).set;
    }
    const searched = await stretchSeams(mesh, from, prices, { limit, mirror: symmetry, timeLimit: options.timeLimit }, stage(0.03, 0.9));
    set = searched.set;
    met = searched.met;
    energy = searched.energy;
    places = searched.places;
  } else {
    const allowed = withMirrored(symmetry, by === 'crease' ? creaseSeams(mesh, angle ?? 40, bevels) : flatSeams(mesh, angle ?? 45, 0.01, bevels)).filter(
      (e) => prices.price[e]! < Infinity,
    );
    set = openIslands(mesh, cut(mesh, given, allowed).set, 'all', prices.price).set;
  }
  context.throwIfCancelled();
  const { states, count } = islandsOf(mesh, set);
  const seams = [...states.keys()].filter((e) => states[e] === EdgeState.seam);
  if (by === 'crease' || by === 'flat') {
    const unplaced = new Uint8Array(set.unplaced.length).fill(1);
    // an island that is hard to hold apart is no good proposal: its figure need not be its best
    const how = { apart: true, timeLimit: 2000 };
    const laid = await unwrapIslands(mesh, { ...set, unplaced }, 'all', 'isometric', stage(0.1, 0.9), how);
    ({ energy, flips } = laid.report);
    flat = laid.set;
  } else if (places?.every((x) => Number.isFinite(x))) flat = atPlaces(mesh, set, places);
  const layout = options.sheet && flat ? await firstPacking(mesh, flat, symmetry, options.sheet, stage(0.9, 1)) : null;
  return {
    by,
    set,
    cuts: seams.filter((e) => before[e] !== EdgeState.seam),
    islands: count,
    ...seamSight(prices.length, prices.seen, seams),
    energy,
    flips,
    limbs,
    met,
    symmetry: symmetry?.axis ?? null,
    layout,
  };
}

/** How much more a seam costs along edges that have none across the plane. */
const lopsided = 3;

/**
 * Prices that are alike on both sides of a plane, and high where a seam could not be mirrored. A seam beside the plane is cut on both sides, one within it
 * once: that is worth half.
 */
function alikePrices(price: Float64Array, { edges }: Symmetry): Float64Array {
  return price.map((x, e) => {
    const image = edges[e]!;
    return image === e ? x / 2 : image >= 0 ? (x + price[image]!) / 2 : x * lopsided;
  });
}

/** The set with its corners where they lie, each island turned upright as a new one is. */
function atPlaces(mesh: Mesh, set: UvSet, places: Float64Array): UvSet {
  const uv = new Float64Array(set.uv.length);
  for (let c = 0; c < mesh.corners.length; c++) uv.set(places.subarray(c * 2, c * 2 + 2), set.cornerUv[c]! * 2);
  const laid = { ...set, uv, unplaced: new Uint8Array(set.unplaced.length) };
  for (let i = 0; i < islandsOf(mesh, set).count; i++) {
    const piece = pieceOf(mesh, laid, i);
    const flat = Float64Array.from({ length: piece.vertices * 2 }, (_, k) => uv[piece.uvPoint[k >> 1]! * 2 + (k & 1)]!);
    const { cos, sin } = uprightTurn(piece, flat);
    piece.uvPoint.forEach((p, v) => {
      uv[p * 2] = flat[v * 2]! * cos - flat[v * 2 + 1]! * sin;
      uv[p * 2 + 1] = flat[v * 2]! * sin + flat[v * 2 + 1]! * cos;
    });
  }
  return laid;
}
