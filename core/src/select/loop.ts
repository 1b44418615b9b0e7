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
  const topology = topologyOf(mesh);
  const { edgeStart, edgeCorners, cornerFace } = topology;
  const { start, edges } = pointEdges(mesh);
  const isBorder = (k: number) => edgeStart[k + 1]! - edgeStart[k]! === 1;
  const here = edges.subarray(start[p], start[p + 1]);
  if (isBorder(e)) {
    const others = [...here].filter((k) => k !== e && isBorder(k));
    return others.length === 1 ? others[0]! : -1;
  }
  const facesOf = (k: number) => Array.from(edgeCorners.subarray(edgeStart[k], edgeStart[k + 1]), (c) => cornerFace[c]!);
  const quads = [...here].every((k) => facesOf(k).every((f) => mesh.faceStart[f + 1]! - mesh.faceStart[f]! === 4));
  if (quads && here.length === 4) {
    const mine = new Set(facesOf(e));
    return [...here].find((k) => k !== e && !facesOf(k).some((f) => mine.has(f))) ?? -1;
  }
  // where quads meet irregularly a loop goes on only if it hardly turns
  return straightest(mesh, e, p, quads ? Math.min(maxTurn, 30) : maxTurn);
}
