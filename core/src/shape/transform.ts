import * as portable from '../numeric/portable.ts';
/** Sizes, then turns round the pivot, then moves. Sizes go along u and v of the sheet. */
export interface UvTransform {
  /** In shares of the sheet. */
  move: readonly [number, number];
  /** Degrees, counterclockwise as seen on the sheet. */
  turn: number;
  /** Below 0 mirrors. */
  scale: readonly [number, number];
}

/** u' = a·u + c·v + e, v' = b·u + d·v + f, as a, b, c, d, e, f. */
export type UvAffine = readonly [number, number, number, number, number, number];

export const unmoved: UvTransform = { move: [0, 0], turn: 0, scale: [1, 1] };

const rightAngles: readonly (readonly [number, number])[] = [
  [1, 0],
  [0, 1],
  [-1, 0],
  [0, -1],
];

/** @param aspect width over height of the sheet: turns are turns in px. Quarter turns are exact. */
export function affineOf({ move, turn, scale }: UvTransform, pivot: readonly [number, number], aspect: number): UvAffine {
  const quarters = turn / 90;
  const [cos, sin] = Number.isInteger(quarters)
    ? rightAngles[((quarters % 4) + 4) % 4]!
    : [portable.cos((turn * Math.PI) / 180), portable.sin((turn * Math.PI) / 180)];
  const [a, b, c, d] = [cos * scale[0], sin * aspect * scale[0], (-sin / aspect) * scale[1], cos * scale[1]];
  return [a, b, c, d, pivot[0] + move[0] - a * pivot[0] - c * pivot[1], pivot[1] + move[1] - b * pivot[0] - d * pivot[1]];
}

/**
 * Moves some of a list of places, each by its share of the way.
 * @param at 2 numbers a place; changed in place
 * @param which numbers of places
 * @param share of the way, one for each of `which`; null: all of it
 */
export function moveBy(
  at: Float64Array | Float32Array,
  from: ArrayLike<number>,
  which: ArrayLike<number>,
  [a, b, c, d, e, f]: UvAffine,
  share: ArrayLike<number> | null,
): void {
  for (let k = 0; k < which.length; k++) {
    const i = which[k]! * 2;
    const u = from[i]!;
    const v = from[i + 1]!;
    const w = share ? share[k]! : 1;
    at[i] = w === 1 ? a * u + c * v + e : u + w * (a * u + c * v + e - u);
    at[i + 1] = w === 1 ? b * u + d * v + f : v + w * (b * u + d * v + f - v);
  }
}
