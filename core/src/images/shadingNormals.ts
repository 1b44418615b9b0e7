import type { Mesh } from '../mesh/mesh.ts';
import { faceNormals, pointNormals } from '../mesh/normals.ts';
import { topologyOf } from '../mesh/topology.ts';
import { foldAngles } from '../seams/crease.ts';

/** Edges that fold by more degrees than this are creases. */
const creaseAngle = 38;

const cache = new WeakMap<Mesh, Float64Array>();

/** A normal a corner (3 numbers): smooth over points whose edges fold little, the face's own at creases. What is seen and what is baked. O(corners), once. */
export function shadingNormals(mesh: Mesh): Float64Array {
  const known = cache.get(mesh);
  if (known) return known;
  const out = new Float64Array(mesh.corners.length * 3);
  const smooth = pointNormals(mesh);
  const flat = faceNormals(mesh);
  const { edgePoints } = topologyOf(mesh);
  const angles = foldAngles(mesh);
  const creased = new Uint8Array(mesh.points.length / 3);
  for (let e = 0; e < angles.length; e++) if (angles[e]! > creaseAngle) creased[edgePoints[e * 2]!] = creased[edgePoints[e * 2 + 1]!] = 1;
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const p = mesh.corners[c]!;
      for (let d = 0; d < 3; d++) out[c * 3 + d] = creased[p] ? flat[f * 3 + d]! : smooth[p * 3 + d]!;
    }
  }
  cache.set(mesh, out);
  return out;
}
