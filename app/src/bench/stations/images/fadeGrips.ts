import type { Fade } from '@jig-peel/core';
import { onPlane, type Ray } from '../../views/jigShape.ts';
import type { GripPlaces, SurfaceGrip } from './SurfaceGrips.tsx';

type Vector = [number, number, number];
export const fadeGripKinds = ['move', 'from', 'to', 'inner', 'outer'] as const;
export type FadeGrip = (typeof fadeGripKinds)[number];

const linear: SurfaceGrip<FadeGrip>[] = [
  { id: 'move', label: 'Move the fade; Ctrl: onto the surface', sign: 'move' },
  { id: 'from', label: 'Where it is full; Ctrl: on the surface', sign: 'even' },
  { id: 'to', label: 'Where it ends; Ctrl: on the surface', sign: 'side' },
];
const radial: SurfaceGrip<FadeGrip>[] = [
  { id: 'move', label: 'Move the fade; Ctrl: onto the surface', sign: 'move' },
  { id: 'inner', label: 'Full within', sign: 'even' },
  { id: 'outer', label: 'Ends at', sign: 'side' },
];
export const gripsOfFade = ({ shape }: Fade) => (shape === 'linear' ? linear : radial);

const plus = (a: readonly number[], b: readonly number[], by = 1): Vector => [0, 1, 2].map((d) => a[d]! + b[d]! * by) as Vector;
const minus = (a: readonly number[], b: readonly number[]): Vector => plus(a, b, -1);
const cross = (a: readonly number[], b: readonly number[]): Vector =>
  [0, 1, 2].map((d) => a[(d + 1) % 3]! * b[(d + 2) % 3]! - a[(d + 2) % 3]! * b[(d + 1) % 3]!) as Vector;
const lengthOf = (a: readonly number[]) => Math.hypot(...a);
const unit = (a: Vector): Vector => plus([0, 0, 0], a, 1 / (lengthOf(a) || 1));

/** To the right and up, as seen along a direction. */
export function sidesOf(view: Readonly<Vector>): [Vector, Vector] {
  const right = unit(cross(view, Math.abs(view[1]) > 0.99 * lengthOf(view) ? [0, 0, -1] : [0, 1, 0]));
  return [right, unit(cross(right, view))];
}

/** A fade in the other shape, about where it is and as large. */
export function inShape(fade: Fade, shape: Fade['shape']): Fade {
  if (fade.shape === shape) return fade;
  if (fade.shape === 'linear') {
    const outer = Math.max(1e-6, lengthOf(minus(fade.to, fade.from)));
    return { shape: 'radial', centre: middleOf(fade), inner: outer / 4, outer };
  }
  const [x, y, z] = fade.centre;
  return { shape: 'linear', from: [x, y + fade.outer / 2, z], to: [x, y - fade.outer / 2, z] };
}

const middleOf = (fade: Fade): Vector => (fade.shape === 'linear' ? plus(plus([0, 0, 0], fade.from, 0.5), fade.to, 0.5) : [...fade.centre]);

/** Where a fade's grips are: the ends of a linear one; to the right on the circles of a round one, the inner one higher. */
function placeOf(fade: Fade, grip: FadeGrip, view: Readonly<Vector>): Vector {
  if (fade.shape === 'linear') return grip === 'from' ? [...fade.from] : grip === 'to' ? [...fade.to] : middleOf(fade);
  const [right, up] = sidesOf(view);
  if (grip === 'outer') return plus(fade.centre, right, fade.outer);
  return grip === 'inner' ? plus(fade.centre, up, fade.inner) : [...fade.centre];
}

const circle = (centre: Vector, radius: number, view: Vector): Vector[] => {
  const [right, up] = sidesOf(view);
  return Array.from({ length: 49 }, (_, k) => {
    const angle = (k * Math.PI) / 24;
    return plus(plus(centre, right, radius * Math.cos(angle)), up, radius * Math.sin(angle));
  });
};

/** Grips and lines of a fade as seen along a direction. */
export function fadePlaces(fade: Fade, view: Vector): GripPlaces<FadeGrip> {
  const grips = Object.fromEntries(fadeGripKinds.map((grip) => [grip, placeOf(fade, grip, view)])) as Record<FadeGrip, Vector>;
  const apart = { from: grips.move, px: { move: 0, from: 26, to: 26, inner: 24, outer: 30 } };
  if (fade.shape === 'radial') return { grips, lines: [circle(fade.centre, fade.inner, view), circle(fade.centre, fade.outer, view)], apart };
  // where it is full and where it ends: short lines across
  const across = unit(cross(minus(fade.to, fade.from), view));
  const half = 0.3 * lengthOf(minus(fade.to, fade.from));
  const bar = (at: Vector): Vector[] => [plus(at, across, -half), plus(at, across, half)];
  return { grips, lines: [[fade.from, fade.to], bar(fade.from), bar(fade.to)], apart };
}

/** Shortest run of a fade, so that it keeps a direction. */
const least = 1e-6;

function withPlace(fade: Fade, grip: FadeGrip, at: Vector): Fade | null {
  if (fade.shape === 'radial') {
    if (grip === 'move') return { ...fade, centre: at };
    const radius = lengthOf(minus(at, fade.centre));
    return grip === 'inner' ? { ...fade, inner: Math.min(radius, fade.outer - least) } : { ...fade, outer: Math.max(radius, fade.inner + least) };
  }
  if (grip === 'move') {
    const by = minus(at, middleOf(fade));
    return { ...fade, from: plus(fade.from, by), to: plus(fade.to, by) };
  }
  const next: Fade = grip === 'from' ? { ...fade, from: at } : { ...fade, to: at };
  return lengthOf(minus(next.to, next.from)) > least ? next : null;
}

/**
 * A fade after a grip was dragged to a line of sight: on the plane through the grip that faces the viewer, or to a place on the surface where one is given.
 *
 * @returns null where the line misses that plane, or the fade would have no direction left
 */
export function draggedFade(fade: Fade, grip: FadeGrip, ray: Ray, onSurface: Vector | null): Fade | null {
  const at = onSurface && (grip === 'move' || fade.shape === 'linear') ? onSurface : onPlane(ray, placeOf(fade, grip, ray.along), ray.along);
  return at && withPlace(fade, grip, [...at]);
}

/** A fade after an arrow key: x to the right and y up, in shares of its own size. @param view the direction of sight */
export function nudgedFade(fade: Fade, grip: FadeGrip, x: number, y: number, share: number, view: Vector): Fade {
  const [right, up] = sidesOf(view);
  const size = fade.shape === 'linear' ? lengthOf(minus(fade.to, fade.from)) : fade.outer;
  if (fade.shape === 'radial' && grip !== 'move') {
    const by = (x + y) * share * size;
    return grip === 'inner'
      ? { ...fade, inner: Math.max(0, Math.min(fade.outer - least, fade.inner + by)) }
      : { ...fade, outer: Math.max(fade.inner + least, fade.outer + by) };
  }
  const step = plus(plus([0, 0, 0], right, x * share * size), up, y * share * size);
  return withPlace(fade, grip, plus(placeOf(fade, grip, view), step)) ?? fade;
}
