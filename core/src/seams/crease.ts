import type { Mesh } from '../mesh/mesh.ts';
import { faceNormals } from '../mesh/normals.ts';
import { topologyOf } from '../mesh/topology.ts';
import * as portable from '../numeric/portable.ts';

/**
 * How far each plain edge folds, in degrees (0 flat, 90 a box's edge, up to 180); 0 for borders. O(edges).
 */
export function foldAngles(mesh: Mesh): Float64Array {
  let angles = known.get(mesh);
  if (!angles) known.set(mesh, (angles = measureFolds(mesh)));
  return angles;
}

const known = new WeakMap<Mesh, Float64Array>();

function measureFolds(mesh: Mesh): Float64Array {
  const topology = topologyOf(mesh);
  const normals = faceNormals(mesh);
  const angles = new Float64Array(topology.edgeCount);
  for (let e = 0; e < topology.edgeCount; e++) {
    const c = topology.edgeCorners[topology.edgeStart[e]!]!;
    const t = topology.twin[c]!;
    if (t < 0) continue;
    const f = topology.cornerFace[c]! * 3;
    const g = topology.cornerFace[t]! * 3;
    const dot = normals[f]! * normals[g]! + normals[f + 1]! * normals[g + 1]! + normals[f + 2]! * normals[g + 2]!;
    angles[e] = (portable.acos(Math.max(-1, Math.min(1, dot))) * 180) / Math.PI;
  }
  return angles;
}

/** Edges that fold by at least `angle` degrees. */
export function creaseEdges(mesh: Mesh, angle = 40): number[] {
  const angles = foldAngles(mesh);
  const edges: number[] = [];
  for (let e = 0; e < angles.length; e++) if (angles[e]! >= angle) edges.push(e);
  return edges;
}

/** Length of each edge in units. */
export function edgeLengths(mesh: Mesh): Float64Array {
  const { edgeCount, edgePoints } = topologyOf(mesh);
  const lengths = new Float64Array(edgeCount);
  const p = mesh.points;
  for (let e = 0; e < edgeCount; e++) {
    const a = edgePoints[e * 2]! * 3;
    const b = edgePoints[e * 2 + 1]! * 3;
    lengths[e] = Math.hypot(p[a]! - p[b]!, p[a + 1]! - p[b + 1]!, p[a + 2]! - p[b + 2]!);
  }
  return lengths;
}
