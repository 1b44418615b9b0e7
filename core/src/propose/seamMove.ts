import { quietContext, type Context } from '../context.ts';
import { seamSight } from '../measure/seamSight.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { movedSeam, type MovedSeam, type SeamStays } from '../seams/moveSeam.ts';
import { islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { seamPrices, type SeamWishes } from './seamPrices.ts';

export interface SeamMove {
  moved: MovedSeam | SeamStays;
  /** Length of all seams of the part in plain sight, before and after, units. */
  before: number;
  after: number;
}

/** A seam moved to where seams are cheaper, see `movedSeam` and `seamPrices`. O(T + E + runs · E log E). */
export function moveSeamByWishes(mesh: Mesh, set: UvSet, edges: readonly number[], wishes: SeamWishes, context: Context = quietContext): SeamMove {
  const { price, length, seen } = seamPrices(mesh, wishes, context);
  const moved = movedSeam(mesh, set, edges, price, () => context.throwIfCancelled());
  const inSight = (of: UvSet) => {
    const { states } = islandsOf(mesh, of);
    return seamSight(
      length,
      seen,
      [...states.keys()].filter((e) => states[e] === EdgeState.seam),
    ).seamInSight;
  };
  const before = inSight(set);
  return { moved, before, after: typeof moved === 'string' ? before : inSight(moved.set) };
}
