import { type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { pointEdges } from '../seams/shortestPaths.ts';

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
  const ahead = follow(mesh, edge, edgePoints[edge * 2 + 1]!, seen, maxTurn);
  const behind = follow(mesh, edge, edgePoints[edge * 2]!, seen, maxTurn);
  return [...behind.reverse(), edge, ...ahead];
}

function follow(mesh: Mesh, edge: number, towards: number, seen: Set<number>, maxTurn: number): number[] {
  const { edgePoints } = topologyOf(mesh);
  const out: number[] = [];
  let e = edge;
  let p = towards;
  for (;;) {
    const next = straightOn(mesh, e, p, maxTurn);
    if (next < 0 || seen.has(next)) return out;
    seen.add(next);
    out.push(next);
    e = next;
    p = edgePoints[e * 2] === p ? edgePoints[e * 2 + 1]! : edgePoints[e * 2]!;
  }
}

function straightOn(mesh: Mesh, e: number, p: number, maxTurn: number): number {
  const topology = topologyOf(mesh);
  const { edgeStart, edgeCorners, cornerFace, edgePoints } = topology;
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
  const points = mesh.points;
  const other = (k: number) => (edgePoints[k * 2] === p ? edgePoints[k * 2 + 1]! : edgePoints[k * 2]!);
  const from = other(e);
  const dir = [0, 1, 2].map((k) => points[p * 3 + k]! - points[from * 3 + k]!);
  let best = -1;
  // where quads meet irregularly a loop goes on only if it hardly turns
  let bestCos = Math.cos(((quads ? Math.min(maxTurn, 30) : maxTurn) * Math.PI) / 180);
  for (const k of here) {
    if (k === e) continue;
    const q = other(k);
    const to = [0, 1, 2].map((i) => points[q * 3 + i]! - points[p * 3 + i]!);
    const cos = (dir[0]! * to[0]! + dir[1]! * to[1]! + dir[2]! * to[2]!) / (Math.hypot(...dir) * Math.hypot(...to) || 1);
    if (cos > bestCos) {
      bestCos = cos;
      best = k;
    }
  }
  return best;
}
