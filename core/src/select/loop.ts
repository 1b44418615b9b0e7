import { type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { pointEdges } from '../seams/shortestPaths.ts';
import { follow, straightest } from './run.ts';

/**
 * The loop that an edge belongs to. Where four quads meet it goes straight across; along a border it follows the border; elsewhere it
 * takes the edge that turns least: under `maxTurn` degrees among triangles, under 30 where quads meet irregularly. It ends at poles and
 * where it would run into itself.
 * @returns edges, `edge` among them, in order along the loop
 * O(length of the loop).
 */
export function edgeLoop(mesh: Mesh, edge: number, maxTurn = 40): number[] {
  const { edgePoints } = topologyOf(mesh);
  const seen = new Set([edge]);
  const ahead = follow(mesh, edge, edgePoints[edge * 2 + 1]!, seen, (e, p) => straightOn(mesh, e, p, maxTurn));
  const behind = follow(mesh, edge, edgePoints[edge * 2]!, seen, (e, p) => straightOn(mesh, e, p, maxTurn));
  return [...behind.reverse(), edge, ...ahead];
}

function straightOn(mesh: Mesh, e: number, p: number, maxTurn: number): number {
  const { edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
  const { start, edges } = pointEdges(mesh);
  const from = start[p]!;
  const to = start[p + 1]!;
  const isBorder = (k: number) => edgeStart[k + 1]! - edgeStart[k]! === 1;
  if (isBorder(e)) {
    let other = -1;
    for (let i = from; i < to; i++) {
      const k = edges[i]!;
      if (k === e || !isBorder(k)) continue;
      if (other >= 0) return -1;
      other = k;
    }
    return other;
  }
  /** Do two edges share a face? */
  const meet = (k: number, m: number) => {
    for (let i = edgeStart[k]!; i < edgeStart[k + 1]!; i++)
      for (let j = edgeStart[m]!; j < edgeStart[m + 1]!; j++) if (cornerFace[edgeCorners[i]!] === cornerFace[edgeCorners[j]!]) return true;
    return false;
  };
  let quads = true;
  for (let i = from; i < to && quads; i++) {
    for (let j = edgeStart[edges[i]!]!; j < edgeStart[edges[i]! + 1]!; j++) {
      const f = cornerFace[edgeCorners[j]!]!;
      if (mesh.faceStart[f + 1]! - mesh.faceStart[f]! !== 4) quads = false;
    }
  }
  if (quads && to - from === 4) {
    for (let i = from; i < to; i++) if (edges[i] !== e && !meet(edges[i]!, e)) return edges[i]!;
    return -1;
  }
  // where quads meet irregularly a loop goes on only if it hardly turns
  return straightest(mesh, e, p, quads ? Math.min(maxTurn, 30) : maxTurn);
}
