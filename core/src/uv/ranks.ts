import type { UvSet } from './uvSet.ts';

/**
 * Orders of elimination that were found for the points of a mesh while a layout was made, and in which solve each was found. They go from a layout to those
 * made from it, never by the mesh: what a step computes then depends on the steps before it alone, and a replay gives the same bytes.
 */
export interface Ranks {
  readonly rank: Int32Array;
  /** −1 where none is known. */
  readonly solve: Int32Array;
  readonly solves: number;
}

const ranksOf = new WeakMap<UvSet, Ranks>();

/** A layout made from another one goes by its orders, unless it has its own. */
export function passRanks(from: UvSet, to: UvSet): UvSet {
  const known = ranksOf.get(from);
  if (known && !ranksOf.has(to)) ranksOf.set(to, known);
  return to;
}

export const keepRanks = (set: UvSet, ranks: Ranks): void => void ranksOf.set(set, ranks);

export const forgetRanks = (set: UvSet): void => void ranksOf.delete(set);

export const ranksAt = (set: UvSet): Ranks | undefined => ranksOf.get(set);

/**
 * An earlier order for a piece, if nearly all of it was one piece then. Cuts only take couplings away, so it stays about as good; of two pieces
 * that were joined the orders run into one another: a factorisation of 20k triangles then took twice as long. O(points).
 */
export function earlierRank(known: Ranks | undefined, point: Uint32Array): Int32Array | undefined {
  if (!known) return undefined;
  const shares = new Map<number, number>();
  for (const p of point) {
    const solve = known.solve[p]!;
    if (solve < 0) return undefined;
    shares.set(solve, (shares.get(solve) ?? 0) + 1);
  }
  let most = 0;
  for (const share of shares.values()) most = Math.max(most, share);
  return most > 0.9 * point.length ? Int32Array.from(point, (p) => known.rank[p]!) : undefined;
}
