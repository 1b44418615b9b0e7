import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { atOwnScale, triangleStretch } from './distortion.ts';

/**
 * Log₂ of how many times the picture is stretched (+) or squeezed (−) on each face against its island's own scale, the stronger of the
 * two ways and of the face's triangles; NaN without a place. O(T).
 */
export function faceStretch(mesh: Mesh, set: UvSet, width: number, height: number): Float32Array {
  const { most, least, area } = atOwnScale(mesh, set, triangleStretch(mesh, set, width, height));
  const triangles = trianglesOf(mesh);
  const out = new Float32Array(mesh.faceStart.length - 1).fill(NaN);
  for (let t = 0; t < area.length; t++) {
    if (Number.isNaN(most[t]!)) continue;
    // few px a unit: the picture is stretched over the surface
    const stretched = Math.log2(1 / Math.max(least[t]!, 1e-3));
    const squeezed = Math.log2(Math.max(most[t]!, 1e-3));
    const value = stretched >= squeezed ? stretched : -squeezed;
    const f = triangles.face[t]!;
    if (Number.isNaN(out[f]!) || Math.abs(value) > Math.abs(out[f]!)) out[f] = value;
  }
  return out;
}
