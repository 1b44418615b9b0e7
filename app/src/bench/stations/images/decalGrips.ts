import type { DecalFrame } from '@jig-peel/core';
import { onPlane, type Ray } from '../../views/jigShape.ts';
import { frameOn, turnOf } from './decalTool.ts';

type Vector = [number, number, number];
export const decalGrips = ['move', 'width', 'height', 'even', 'turn'] as const;
export type DecalGrip = (typeof decalGrips)[number];

const dot = (a: readonly number[], b: readonly number[]) => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!;

/** The way out of a decal's face. */
export const outOf = ({ right, up }: Pick<DecalFrame, 'right' | 'up'>): Vector => [
  right[1] * up[2] - right[2] * up[1],
  right[2] * up[0] - right[0] * up[2],
  right[0] * up[1] - right[1] * up[0],
];

/** A place on a decal's plane. @param x, y shares of its size from its middle, ½ at its sides */
export const placeOn = ({ centre, right, up, size }: DecalFrame, x: number, y: number): Vector =>
  [0, 1, 2].map((d) => centre[d]! + right[d]! * size[0] * x + up[d]! * size[1] * y) as Vector;

/** Where its grips are. */
export function gripPlaces(frame: DecalFrame): Record<DecalGrip, Vector> {
  return {
    move: placeOn(frame, 0, 0),
    width: placeOn(frame, 0.5, 0),
    height: placeOn(frame, 0, 0.5),
    even: placeOn(frame, 0.5, 0.5),
    // as far above as the larger side asks, so that it never lies on the one for the height
    turn: placeOn(frame, 0, 0.5 + (0.22 * Math.max(...frame.size)) / frame.size[1]),
  };
}

/** The smallest share of its size that one drag can make of a decal. */
const least = 0.02;

/**
 * A decal after a grip was dragged to a line of sight.
 * @param step degrees of a turn; 0: free
 * @returns null where the line misses the decal's plane
 */
export function draggedDecal(frame: DecalFrame, grip: Exclude<DecalGrip, 'move'>, ray: Ray, step: number): DecalFrame | null {
  const at = onPlane(ray, frame.centre, outOf(frame));
  if (!at) return null;
  const off = [0, 1, 2].map((d) => at[d]! - frame.centre[d]!);
  const [x, y] = [dot(off, frame.right), dot(off, frame.up)];
  const [wide, tall] = frame.size;
  const wider = Math.max(least, (2 * Math.abs(x)) / wide);
  const taller = Math.max(least, (2 * Math.abs(y)) / tall);
  if (grip === 'width') return { ...frame, size: [wide * wider, tall] };
  if (grip === 'height') return { ...frame, size: [wide, tall * taller] };
  if (grip === 'even') {
    const factor = Math.max(least, Math.hypot(x, y) / (Math.hypot(wide, tall) / 2));
    return { ...frame, size: [wide * factor, tall * factor] };
  }
  const turned = turnOf(frame) - (Math.atan2(x, y) * 180) / Math.PI;
  return { ...frame, ...frameOn(outOf(frame), step > 0 ? Math.round(turned / step) * step : turned) };
}
