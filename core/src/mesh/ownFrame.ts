import { principalAxes } from '../numeric/principalAxes.ts';
import type { Mesh } from './mesh.ts';
import { trianglesOf } from './triangles.ts';

type Vector = [number, number, number];

/** A frame that goes with the mesh however it stands. */
export interface OwnFrame {
  /** Of unit length, the direction in which the surface is spread least first; which way round each points says nothing. */
  axes: [Vector, Vector, Vector];
  /** Middle of the box round the mesh along these axes. */
  centre: Vector;
  /** Largest distance of a point from there, units; 1 where all points are in one place. */
  radius: number;
}

/** Off-diagonal parts below this share of the whole are rounding: what is spread alike along two axes keeps the axes it was drawn by. */
const rounding = 1e-9;

/**
 * The principal axes of the surface itself, so that neither the order of the faces nor how finely they are divided counts. Of forms spread alike along
 * two of them, the two are the ones of the space where it is so drawn, else any. O(T).
 */
export function ownFrame(mesh: Mesh): OwnFrame {
  const { points } = mesh;
  const { corners, count } = trianglesOf(mesh);
  const sums = new Float64Array(3);
  const second = new Float64Array(9);
  let area = 0;
  // places are taken from the first point on, so that a model far from the origin loses nothing
  const from = [points[0] ?? 0, points[1] ?? 0, points[2] ?? 0];
  const p = new Float64Array(9);
  for (let t = 0; t < count; t++) {
    for (let k = 0; k < 3; k++) for (let d = 0; d < 3; d++) p[k * 3 + d] = points[mesh.corners[corners[t * 3 + k]!]! * 3 + d]! - from[d]!;
    const [ux, uy, uz] = [p[3]! - p[0]!, p[4]! - p[1]!, p[5]! - p[2]!];
    const [vx, vy, vz] = [p[6]! - p[0]!, p[7]! - p[1]!, p[8]! - p[2]!];
    const own = Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2;
    if (!(own > 0) || !Number.isFinite(own)) continue;
    area += own;
    // the integral of x yᵀ over a triangle: area / 12 · (Σ of each corner's + that of the corners' sum)
    for (let d = 0; d < 3; d++) {
      const sum = p[d]! + p[3 + d]! + p[6 + d]!;
      sums[d]! += (own * sum) / 3;
      for (let e = 0; e <= d; e++) {
        const other = p[e]! + p[3 + e]! + p[6 + e]!;
        second[d * 3 + e]! += (own / 12) * (p[d]! * p[e]! + p[3 + d]! * p[3 + e]! + p[6 + d]! * p[6 + e]! + sum * other);
      }
    }
  }
  const spread = new Float64Array(9);
  for (let d = 0; d < 3; d++)
    for (let e = 0; e <= d; e++) spread[d * 3 + e] = spread[e * 3 + d] = area > 0 ? second[d * 3 + e]! / area - (sums[d]! / area) * (sums[e]! / area) : 0;
  const whole = spread[0]! + spread[4]! + spread[8]!;
  for (let k = 0; k < 9; k++) if (k % 4 !== 0 && Math.abs(spread[k]!) <= rounding * whole) spread[k] = 0;
  const axes = principalAxes(spread);

  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let k = 0; k < points.length; k += 3)
    for (let d = 0; d < 3; d++) {
      const along = axes[d]![0] * points[k]! + axes[d]![1] * points[k + 1]! + axes[d]![2] * points[k + 2]!;
      if (along < low[d]!) low[d] = along;
      if (along > high[d]!) high[d] = along;
    }
  const centre: Vector = [0, 0, 0];
  if (points.length > 0) for (let d = 0; d < 3; d++) for (let e = 0; e < 3; e++) centre[e]! += ((low[d]! + high[d]!) / 2) * axes[d]![e]!;
  let radius = 0;
  for (let k = 0; k < points.length; k += 3)
    radius = Math.max(radius, Math.hypot(points[k]! - centre[0], points[k + 1]! - centre[1], points[k + 2]! - centre[2]));
  return { axes, centre, radius: radius || 1 };
}
