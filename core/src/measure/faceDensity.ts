import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import type { UvSet } from '../uv/uvSet.ts';

/**
 * Texel density of each face: px per unit of the model, the root of its area in px over its area in space; NaN without a place or without area.
 * O(triangles).
 * @param width, height px that the UV square stands for
 */
export function faceDensity(mesh: Mesh, set: UvSet, width: number, height: number): Float32Array {
  const { count, corners, face } = trianglesOf(mesh);
  const faces = mesh.faceStart.length - 1;
  const space = new Float64Array(faces);
  const flat = new Float64Array(faces);
  const { points } = mesh;
  const { uv, cornerUv } = set;
  for (let t = 0; t < count; t++) {
    const f = face[t]!;
    if (set.unplaced[f]) continue;
    const i = corners[t * 3]!;
    const j = corners[t * 3 + 1]!;
    const k = corners[t * 3 + 2]!;
    const a = mesh.corners[i]! * 3;
    const b = mesh.corners[j]! * 3;
    const c = mesh.corners[k]! * 3;
    const ux = points[b]! - points[a]!;
    const uy = points[b + 1]! - points[a + 1]!;
    const uz = points[b + 2]! - points[a + 2]!;
    const vx = points[c]! - points[a]!;
    const vy = points[c + 1]! - points[a + 1]!;
    const vz = points[c + 2]! - points[a + 2]!;
    const x = uy * vz - uz * vy;
    const y = uz * vx - ux * vz;
    const z = ux * vy - uy * vx;
    space[f]! += Math.sqrt(x * x + y * y + z * z) / 2;
    const p = cornerUv[i]! * 2;
    const q = cornerUv[j]! * 2;
    const r = cornerUv[k]! * 2;
    flat[f]! += Math.abs((uv[q]! - uv[p]!) * (uv[r + 1]! - uv[p + 1]!) - (uv[r]! - uv[p]!) * (uv[q + 1]! - uv[p + 1]!)) / 2;
  }
  return Float32Array.from(space, (area, f) => (area > 0 && flat[f]! > 0 ? Math.sqrt((flat[f]! * width * height) / area) : NaN));
}
