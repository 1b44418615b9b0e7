import { faceCount, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import * as portable from '../numeric/portable.ts';

/** Which way the picture is to run over each face: 3 numbers a face, a unit vector in its plane; 0, 0, 0: no wish. */
export type Grain = Float64Array;

type Vector = [number, number, number];
const dot = (a: Vector, b: Vector) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const cross = (a: Vector, b: Vector): Vector => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const unit = (a: Vector): Vector | null => {
  const long = Math.hypot(...a);
  return long > 1e-30 ? [a[0] / long, a[1] / long, a[2] / long] : null;
};

/** Unit normals, 3 numbers a face (Newell). */
function normalOf({ points, corners, faceStart }: Mesh, f: number): Vector | null {
  const sum: Vector = [0, 0, 0];
  const [from, to] = [faceStart[f]!, faceStart[f + 1]!];
  for (let c = from; c < to; c++) {
    const [p, q] = [corners[c]! * 3, corners[c + 1 < to ? c + 1 : from]! * 3];
    for (let d = 0; d < 3; d++) {
      const [x, y] = [(d + 1) % 3, (d + 2) % 3];
      sum[d]! += (points[p + x]! - points[q + x]!) * (points[p + y]! + points[q + y]!);
    }
  }
  return unit(sum);
}

/** A direction laid into the plane of a face; null where it stands upright on it. */
function inPlane(direction: Vector, normal: Vector): Vector | null {
  const up = dot(direction, normal);
  return unit([direction[0] - up * normal[0], direction[1] - up * normal[1], direction[2] - up * normal[2]]);
}

/** The turn that brings one normal onto the other, done to a direction: how it goes over an edge as if the faces were unfolded (Rodrigues). */
function overEdge(direction: Vector, from: Vector, to: Vector): Vector {
  const axis = cross(from, to);
  const [sin, cos] = [Math.hypot(...axis), dot(from, to)];
  if (sin < 1e-12) return direction;
  const k: Vector = [axis[0] / sin, axis[1] / sin, axis[2] / sin];
  const [turned, along] = [cross(k, direction), dot(k, direction) * (1 - cos)];
  return [0, 1, 2].map((d) => direction[d]! * cos + turned[d]! * sin + k[d]! * along) as Vector;
}

/**
 * A direction drawn on one face, carried over a set of faces as the surface goes: over each edge as if the two faces were unfolded. Where it comes together
 * again from two sides the nearer way counts. O(corners of the faces)
 * @param before what there is already; faces that are not reached keep it
 * @returns the grain, and how many faces have it from this
 */
export function runGrain(mesh: Mesh, face: number, direction: readonly number[], faces: Iterable<number>, before?: Grain): { grain: Grain; faces: number } {
  const grain = before?.slice() ?? new Float64Array(faceCount(mesh) * 3);
  const { twin, cornerFace } = topologyOf(mesh);
  const wanted = new Uint8Array(faceCount(mesh));
  for (const f of faces) wanted[f] = 1;
  wanted[face] = 1;
  const first = normalOf(mesh, face);
  const start = first && inPlane([direction[0]!, direction[1]!, direction[2]!], first);
  if (!first || !start) return { grain, faces: 0 };
  const queue: { f: number; normal: Vector; own: Vector }[] = [{ f: face, normal: first, own: start }];
  wanted[face] = 0;
  let done = 0;
  for (let k = 0; k < queue.length; k++) {
    const { f, normal, own } = queue[k]!;
    grain.set(own, f * 3);
    done++;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const t = twin[c]!;
      const g = t < 0 ? -1 : cornerFace[t]!;
      if (g < 0 || !wanted[g]) continue;
      wanted[g] = 0;
      const next = normalOf(mesh, g);
      const carried = next && inPlane(overEdge(own, normal, next), next);
      if (next && carried) queue.push({ f: g, normal: next, own: carried });
    }
  }
  return { grain, faces: done };
}

/** Where the grain of each face points on the sheet, 2 numbers a face; 0, 0 for none. @param aspect width over height of the sheet. O(triangles) */
export function grainOnSheet(mesh: Mesh, set: UvSet, grain: Grain, aspect: number): Float64Array {
  const out = new Float64Array(faceCount(mesh) * 2);
  const { count, corners, face } = trianglesOf(mesh);
  const at = (c: number, d: number) => mesh.points[mesh.corners[c]! * 3 + d]!;
  for (let t = 0; t < count; t++) {
    const f = face[t]!;
    const way: Vector = [grain[f * 3]!, grain[f * 3 + 1]!, grain[f * 3 + 2]!];
    if (set.unplaced[f] || (way[0] === 0 && way[1] === 0 && way[2] === 0)) continue;
    const [i, j, k] = [corners[t * 3]!, corners[t * 3 + 1]!, corners[t * 3 + 2]!];
    const a: Vector = [at(j, 0) - at(i, 0), at(j, 1) - at(i, 1), at(j, 2) - at(i, 2)];
    const b: Vector = [at(k, 0) - at(i, 0), at(k, 1) - at(i, 1), at(k, 2) - at(i, 2)];
    const [aa, ab, bb, wa, wb] = [dot(a, a), dot(a, b), dot(b, b), dot(a, way), dot(b, way)];
    const det = aa * bb - ab * ab;
    if (!(det > 1e-30 * aa * bb)) continue;
    // the direction in the basis of the two edges, carried over; by area, so that slivers count little
    const weight = Math.sqrt(det);
    const [s, r] = [((wa * bb - wb * ab) / det) * weight, ((wb * aa - wa * ab) / det) * weight];
    const [p, q, o] = [set.cornerUv[j]! * 2, set.cornerUv[k]! * 2, set.cornerUv[i]! * 2];
    out[f * 2]! += (s * (set.uv[p]! - set.uv[o]!) + r * (set.uv[q]! - set.uv[o]!)) * aspect;
    out[f * 2 + 1]! += s * (set.uv[p + 1]! - set.uv[o + 1]!) + r * (set.uv[q + 1]! - set.uv[o + 1]!);
  }
  return out;
}

/** Angle in degrees, 0 to 180, between each face's grain and the way the picture runs on the sheet; NaN where there is no wish or no place. */
export function grainAngles(mesh: Mesh, set: UvSet, grain: Grain, aspect: number, along: 'u' | 'v'): Float32Array {
  const on = grainOnSheet(mesh, set, grain, aspect);
  return Float32Array.from({ length: on.length / 2 }, (_, f) => {
    const [x, y] = [on[f * 2]!, on[f * 2 + 1]!];
    if (x === 0 && y === 0) return NaN;
    return Math.abs((portable.atan2(along === 'u' ? y : x, along === 'u' ? x : y) * 180) / Math.PI);
  });
}

export interface GrainFigures {
  /** Degrees: mean by area in space, and the largest. */
  mean: number;
  worst: number;
  /** Share of the area that is off by more than the limit. */
  over: number;
}

/** @param limit degrees. @returns null where nothing with a place has a grain */
export function grainFigures(mesh: Mesh, angles: Float32Array, limit: number): GrainFigures | null {
  let [sum, area, over, worst] = [0, 0, 0, 0];
  const { count, corners, face } = trianglesOf(mesh);
  const at = (c: number, d: number) => mesh.points[mesh.corners[c]! * 3 + d]!;
  for (let t = 0; t < count; t++) {
    const angle = angles[face[t]!]!;
    if (Number.isNaN(angle)) continue;
    const [i, j, k] = [corners[t * 3]!, corners[t * 3 + 1]!, corners[t * 3 + 2]!];
    const own =
      Math.hypot(...cross([at(j, 0) - at(i, 0), at(j, 1) - at(i, 1), at(j, 2) - at(i, 2)], [at(k, 0) - at(i, 0), at(k, 1) - at(i, 1), at(k, 2) - at(i, 2)])) /
      2;
    sum += own * angle;
    area += own;
    if (angle > limit) over += own;
    worst = Math.max(worst, angle);
  }
  return area > 0 ? { mean: sum / area, worst, over: over / area } : null;
}

/** Radians counterclockwise that bring the mean grain of some faces to run as the picture does; null where none of them has one. @param aim radians from u */
export function grainTurn(mesh: Mesh, set: UvSet, grain: Grain, faces: ArrayLike<number>, aspect: number, aim: number): number | null {
  const on = grainOnSheet(mesh, set, grain, aspect);
  let [x, y] = [0, 0];
  for (let k = 0; k < faces.length; k++) {
    x += on[faces[k]! * 2]!;
    y += on[faces[k]! * 2 + 1]!;
  }
  if (!(Math.hypot(x, y) > 0)) return null;
  const turn = aim - portable.atan2(y, x);
  return portable.atan2(portable.sin(turn), portable.cos(turn));
}

/**
 * Islands turned about their middle so that their grain runs as the picture does; those without one stay.
 *
 * @param set with square places and separate fans
 * @param aim which way the picture runs, radians from u
 */
export function islandsToGrain(mesh: Mesh, set: UvSet, which: readonly number[], grain: Grain, aim: number): UvSet {
  const { start, faces } = islandsOf(mesh, set);
  const uv = set.uv.slice();
  for (const island of which) {
    const own = faces.subarray(start[island]!, start[island + 1]!);
    const turn = grainTurn(mesh, set, grain, own, 1, aim);
    if (turn === null || Math.abs(turn) < 1e-12) continue;
    const points = new Set<number>();
    for (const f of own) for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) points.add(set.cornerUv[c]!);
    let [u, v] = [0, 0];
    for (const p of points) {
      u += set.uv[p * 2]! / points.size;
      v += set.uv[p * 2 + 1]! / points.size;
    }
    const [cos, sin] = [portable.cos(turn), portable.sin(turn)];
    for (const p of points) {
      const [x, y] = [set.uv[p * 2]! - u, set.uv[p * 2 + 1]! - v];
      uv[p * 2] = u + cos * x - sin * y;
      uv[p * 2 + 1] = v + sin * x + cos * y;
    }
  }
  return { ...set, uv };
}
