import type { Mesh } from '../../mesh/mesh.ts';
import { trianglesOf } from '../../mesh/triangles.ts';
import { smoothed, spreadValues, type Smoothed } from '../../uv/smooth.ts';
import type { UvSet } from '../../uv/uvSet.ts';
import { shadingNormals } from '../shadingNormals.ts';
import type { Pixels } from './pixels.ts';
import type { SurfacePlan } from './plan.ts';
import { Surface } from './surface.ts';

export interface Raised {
  /** The mesh divided evenly, each point raised by the relief there. */
  mesh: Mesh;
  set: UvSet;
  /** Of each corner where it was before it was raised, and which way the surface looks there: 3 numbers. */
  flat: Float32Array;
  normals: Float32Array;
  faceFrom: Smoothed['faceFrom'];
  alongEdge: Smoothed['alongEdge'];
}

/**
 * A mesh with its relief as real height, as a renderer makes it that moves points instead of shading: each face divided evenly (the form is not smoothed), then
 * each point moved along the shading normal by the relief there. Where corners of one point differ (seams of the picture, creases), it goes to their mean, so that
 * nothing opens.
 * @param levels how many times each face is divided; a quad becomes 4^levels
 * @param images pictures by their ids; null where one cannot be read
 * @returns O(corners · 4^levels · layers)
 */
export function raised(mesh: Mesh, set: UvSet, plan: SurfacePlan, images: (id: string) => Pixels | null, levels: number): Raised {
  const fine = smoothed(mesh, set, { levels, borders: 'kept' });
  const spread = (values: ArrayLike<number>, size: number) => spreadValues(values, size, mesh.faceStart, levels);
  const cornerPlaces = Float64Array.from({ length: mesh.corners.length * 3 }, (_, k) => mesh.points[mesh.corners[Math.floor(k / 3)]! * 3 + (k % 3)]!);
  const flat = spread(cornerPlaces, 3);
  const normals = unit(spread(shadingNormals(mesh), 3));
  const uv = new Float64Array(fine.set.uv.length);
  const uvs = spread(
    Float64Array.from({ length: mesh.corners.length * 2 }, (_, k) => set.uv[set.cornerUv[k >> 1]! * 2 + (k & 1)]!),
    2,
  );
  const { corners } = fine.mesh;
  const points = new Float64Array(fine.mesh.points.length);
  for (let c = 0; c < corners.length; c++) {
    for (let d = 0; d < 3; d++) points[corners[c]! * 3 + d] = flat[c * 3 + d]!;
    for (let d = 0; d < 2; d++) uv[fine.set.cornerUv[c]! * 2 + d] = uvs[c * 2 + d]!;
  }
  const even: Mesh = { ...fine.mesh, points };
  const heights = heightsOf(even, plan, images, normals, (values, size) => Float64Array.from(spread(values, size)));
  const moved = points.slice();
  const share = new Uint32Array(points.length / 3);
  for (const p of corners) share[p]!++;
  for (let c = 0; c < corners.length; c++) {
    const p = corners[c]!;
    for (let d = 0; d < 3; d++) moved[p * 3 + d]! += (heights[c]! * normals[c * 3 + d]!) / share[p]!;
  }
  return { mesh: { ...fine.mesh, points: moved }, set: { ...fine.set, uv }, flat, normals, faceFrom: fine.faceFrom, alongEdge: fine.alongEdge };
}

/** The relief at each corner of the divided mesh. */
function heightsOf(
  even: Mesh,
  plan: SurfacePlan,
  images: (id: string) => Pixels | null,
  normals: Float32Array,
  spread: (values: Float64Array, size: number) => Float64Array,
): Float64Array {
  const divided: SurfacePlan = { ...plan, drivers: plan.drivers.map((one) => spread(one, 2)), fields: plan.fields.map((one) => spread(one, 1)) };
  const surface = new Surface(even, divided, images, true, normals);
  const { corners, count } = trianglesOf(even);
  const heights = new Float64Array(even.corners.length).fill(NaN);
  for (let t = 0; t < count; t++)
    for (let k = 0; k < 3; k++) {
      const c = corners[t * 3 + k]!;
      if (!Number.isNaN(heights[c]!)) continue;
      surface.at(t, k === 0 ? 1 : 0, k === 1 ? 1 : 0, k === 2 ? 1 : 0);
      heights[c] = surface.relief();
    }
  // corners of faces without area have no triangle
  for (let c = 0; c < heights.length; c++) if (Number.isNaN(heights[c]!)) heights[c] = 0;
  return heights;
}

function unit(vectors: Float32Array): Float32Array {
  for (let k = 0; k < vectors.length; k += 3) {
    const [x, y, z] = [vectors[k]!, vectors[k + 1]!, vectors[k + 2]!];
    const length = Math.sqrt(x * x + y * y + z * z) || 1;
    vectors[k] = x / length;
    vectors[k + 1] = y / length;
    vectors[k + 2] = z / length;
  }
  return vectors;
}
