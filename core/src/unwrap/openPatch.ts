import { JigError } from '../jigError.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { prepare } from './conformal.ts';
import { isometric, stretchEnergy } from './isometric.ts';
import { pieceOfFaces } from './piece.ts';
import { presentScale } from './unwrapIslands.ts';

export interface PatchOptions {
  /** Triangles round the edges that may move, about; default 1000. */
  triangles?: number;
}

/**
 * A first shape after a change of seams: the triangles round the changed edges are laid with least stretch, everything farther away stays.
 * What a cut does fades with the distance, so this shows most of it at a cost that does not grow with the island, beside one look at its size.
 * Pins stay.
 *
 * @param edges the edges that were cut or joined
 * @returns the layout, or null where it is not to be had so: too many edges, no place yet, a triangle turned over
 * O(faces of the islands) for their scale, the solve by the size of the patch alone.
 */
export function openPatch(mesh: Mesh, set: UvSet, edges: readonly number[], { triangles = 1000 }: PatchOptions = {}): UvSet | null {
  const { edgePoints, pointStart, pointCorners, cornerFace, cornerEdge, twin } = topologyOf(mesh);
  const { states, ofFace, start, faces: ofIsland } = islandsOf(mesh, set);
  const all = trianglesOf(mesh);
  const inPatch = new Uint8Array(mesh.faceStart.length - 1);
  const patch: number[] = [];
  let count = 0;
  const take = (f: number) => {
    if (inPatch[f] || set.unplaced[f]) return;
    inPatch[f] = 1;
    patch.push(f);
    count += all.faceStart[f + 1]! - all.faceStart[f]!;
  };
  for (const e of edges) {
    for (let end = 0; end < 2; end++) {
      const p = edgePoints[e * 2 + end]!;
      for (let k = pointStart[p]!; k < pointStart[p + 1]!; k++) take(cornerFace[pointCorners[k]!]!);
    }
    // the changed edges alone would fill it
    if (count > triangles / 2) return null;
  }
  if (patch.length === 0) return null;
  for (let k = 0; k < patch.length && count < triangles; k++) {
    for (let c = mesh.faceStart[patch[k]!]!; c < mesh.faceStart[patch[k]! + 1]!; c++)
      if (states[cornerEdge[c]!] === EdgeState.joined) take(cornerFace[twin[c]!]!);
  }
  const uv = set.uv.slice();
  for (const island of new Set(patch.map((f) => ofFace[f]!))) {
    const piece = pieceOfFaces(
      mesh,
      set,
      patch.filter((f) => ofFace[f] === island),
    );
    const { scale, mirror } = presentScale(mesh, set, ofIsland.subarray(start[island], start[island + 1]));
    const from = Float64Array.from({ length: piece.vertices * 2 }, (_, k) => set.uv[piece.uvPoint[k >> 1]! * 2 + (k & 1)]! * scale * (k & 1 ? 1 : mirror));
    // what other triangles hang on stays
    const held: number[] = [];
    piece.uvPoint.forEach((id, v) => {
      const p = piece.point[v]!;
      let stays = set.pins[id] === 1;
      for (let k = pointStart[p]!; !stays && k < pointStart[p + 1]!; k++)
        stays = set.cornerUv[pointCorners[k]!] === id && !inPatch[cornerFace[pointCorners[k]!]!];
      if (stays) held.push(v);
    });
    if (held.length === piece.vertices) continue;
    const prepared = prepare(piece.positions, piece.triangles);
    if (!Number.isFinite(stretchEnergy(prepared, from))) return null;
    try {
      const laid = isometric(prepared, from, { held, steps: 3, near: true, tolerance: 1e-3 });
      // what is held keeps its very numbers
      const isHeld = new Set(held);
      for (let v = 0; v < piece.vertices; v++) {
        if (isHeld.has(v)) continue;
        uv[piece.uvPoint[v]! * 2] = (laid.uv[v * 2]! / scale) * mirror;
        uv[piece.uvPoint[v]! * 2 + 1] = laid.uv[v * 2 + 1]! / scale;
      }
    } catch (error) {
      if (error instanceof JigError && error.code === 'singular') return null;
      throw error;
    }
  }
  return { ...set, uv };
}
