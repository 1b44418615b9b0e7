import { hullOf } from '../shape/islandTurn.ts';
import type { Loop } from './outline.ts';
import type { PackOptions } from './packing.ts';
import * as portable from '../numeric/portable.ts';

type Turn = PackOptions['turn'];

/** Corners of the convex hull of all lines together. */
const convexHull = (loops: readonly Loop[]): [number, number][] => hullOf(loops.flatMap((loop) => [...loop]));

/** Width and height of the box round a hull that is turned by an angle. */
function boxSides(hull: readonly (readonly [number, number])[], angle: number): [number, number] {
  const cos = portable.cos(angle);
  const sin = portable.sin(angle);
  let [minX, maxX, minY, maxY] = [Infinity, -Infinity, Infinity, -Infinity];
  for (const [x, y] of hull) {
    minX = Math.min(minX, x * cos - y * sin);
    maxX = Math.max(maxX, x * cos - y * sin);
    minY = Math.min(minY, x * sin + y * cos);
    maxY = Math.max(maxY, x * sin + y * cos);
  }
  return [maxX - minX, maxY - minY];
}

/** A straight border is as long as this share of the shape's diameter. */
const straightShare = 0.35;
/** The least box is to be so much smaller for a shape to be turned for it. */
const worthIt = 0.88;

/** Whether most of a hull's edge is border of the shape, not the chord over a bay. */
function isBorder(loops: readonly Loop[], turn: number, length: number): boolean {
  const [cos, sin] = [portable.cos(turn), portable.sin(turn)];
  const level = new Map<number, number>();
  for (const loop of loops) {
    for (let k = 0, j = loop.length - 2; k < loop.length; j = k, k += 2) {
      const [dx, dy] = [loop[k]! - loop[j]!, loop[k + 1]! - loop[j + 1]!];
      const [along, across] = [dx * cos - dy * sin, dx * sin + dy * cos];
      const own = Math.hypot(along, across);
      if (own === 0 || Math.min(Math.abs(along), Math.abs(across)) > 0.02 * own) continue;
      const isLevel = Math.abs(along) > Math.abs(across);
      const at = isLevel ? loop[k]! * sin + loop[k + 1]! * cos : loop[k]! * cos - loop[k + 1]! * sin;
      const key = Math.round((at / length) * 50) * 2 + (isLevel ? 1 : 0);
      level.set(key, (level.get(key) ?? 0) + own);
    }
  }
  return Math.max(0, ...level.values()) > 0.6 * length;
}

/**
 * The smallest turn, in radians from −π/4 to π/4, that lays a shape upright: a long straight border becomes level or plumb, or else the least box runs along the
 * sheet's sides, one side of which lies on an edge of the hull (H. Freeman, R. Shapira, CACM 1975; from memory). 0 where neither would bring much: a shape
 * without a straight border stays as it was unwrapped, since there its heading is that of the model. O(hull²).
 */
export function uprightTurn(loops: readonly Loop[]): number {
  const hull = convexHull(loops);
  if (hull.length < 3) return 0;
  const boxAt = (angle: number) => {
    const [wide, tall] = boxSides(hull, angle);
    return wide * tall;
  };
  const present = boxAt(0);
  let [best, least] = [0, present];
  let [longest, along] = [0, 0];
  let size = 0;
  for (let k = 0; k < hull.length; k++) {
    const [a, b] = [hull[k]!, hull[(k + 1) % hull.length]!];
    let turn = -portable.atan2(b[1] - a[1], b[0] - a[0]);
    turn -= Math.round(turn / (Math.PI / 2)) * (Math.PI / 2);
    const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
    if (length > longest) [longest, along] = [length, turn];
    for (const p of hull) size = Math.max(size, Math.hypot(p[0] - a[0], p[1] - a[1]));
    const area = boxAt(turn);
    // of like boxes the one that needs the smaller turn
    if (area < least * (1 - 1e-9) || (area < least * (1 + 1e-9) && Math.abs(turn) < Math.abs(best))) [best, least] = [turn, area];
  }
  if (longest > size * straightShare && isBorder(loops, along, longest)) return along;
  return least < present * worthIt ? best : 0;
}

/** By how much a shape may grow until its box fills a sheet one way, at the best of the angles that it may be turned by. */
export interface Fit {
  scale: number;
  /** Radians from the present heading. */
  angle: number;
}

/** Angles that are tried where any is allowed. */
const anglesTried = 180;

/** @param width, height of the room for its box, px. @param from a turn that it gets before. O(hull · angles) */
export function bestFit(loops: readonly Loop[], width: number, height: number, turn: Turn, from = 0): Fit {
  const hull = convexHull(loops);
  const fitAt = (angle: number): number => {
    const [wide, tall] = boxSides(hull, angle);
    return Math.min(width / wide, height / tall);
  };
  const angles =
    turn === 'none' || turn === 'half'
      ? [0]
      : turn === 'quarter'
        ? [0, Math.PI / 2]
        : turn === 'eighth'
          ? [0, Math.PI / 2, Math.PI / 4, -Math.PI / 4]
          : Array.from({ length: anglesTried }, (_, k) => (k * Math.PI) / anglesTried);
  let best: Fit = { scale: 0, angle: 0 };
  for (const angle of angles) {
    const scale = fitAt(from + angle);
    // of like fits the first
    if (scale > best.scale * (1 + 1e-9)) best = { scale, angle };
  }
  return best;
}

/** Area of a shape over that of its hull, 0 to 1: well below it arms stick out or it has large holes. */
export function solidity(loops: readonly Loop[]): number {
  const hull = convexHull(loops);
  const areaOf = (points: readonly [number, number][]) =>
    points.reduce((sum, [x, y], k) => {
      const [u, v] = points[(k + 1) % points.length]!;
      return sum + x * v - y * u;
    }, 0);
  const own = loops.reduce((sum, loop) => {
    for (let k = 0, j = loop.length - 2; k < loop.length; j = k, k += 2) sum += loop[j]! * loop[k + 1]! - loop[j + 1]! * loop[k]!;
    return sum;
  }, 0);
  const whole = areaOf(hull);
  return whole > 0 ? Math.min(1, own / whole) : 1;
}
