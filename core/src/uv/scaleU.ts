import { passRanks } from './ranks.ts';
import type { UvSet } from './uvSet.ts';

/** u as a multiple of itself: by width over height of the sheet a unit is as long both ways, so that islands keep their shape in px. O(UV points). */
export function scaleU(set: UvSet, factor: number): UvSet {
  return factor === 1 ? set : passRanks(set, { ...set, uv: timesU(set.uv, factor) });
}

/** The same for bare places, u and v in turn. */
export const timesU = (uv: Float64Array, factor: number): Float64Array => (factor === 1 ? uv : uv.map((x, k) => (k % 2 === 0 ? x * factor : x)));
