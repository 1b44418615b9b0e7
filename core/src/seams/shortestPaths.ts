import TinyQueue from 'tinyqueue';
import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';

/** Distances over edges and the edge by which each point was reached (−1 at sources and unreached points). */
export interface PathTree {
  distance: Float64Array;
  byEdge: Int32Array;
}

const incidence = new WeakMap<Mesh, { start: Uint32Array; edges: Uint32Array }>();

/** Edges at each point: edges[start[p]] … O(edges), kept as long as the mesh lives. */
export function pointEdges(mesh: Mesh): { start: Uint32Array; edges: Uint32Array } {
  let known = incidence.get(mesh);
  if (known) return known;
  const { edgeCount, edgePoints } = topologyOf(mesh);
  const start = new Uint32Array(mesh.points.length / 3 + 1);
  for (let k = 0; k < edgeCount * 2; k++) start[edgePoints[k]! + 1]!++;
  for (let p = 0; p + 1 < start.length; p++) start[p + 1]! += start[p]!;
  const fill = start.slice(0, -1);
  const edges = new Uint32Array(edgeCount * 2);
  for (let e = 0; e < edgeCount; e++) {
    edges[fill[edgePoints[e * 2]!]!++] = e;
    edges[fill[edgePoints[e * 2 + 1]!]!++] = e;
  }
  known = { start, edges };
  incidence.set(mesh, known);
  return known;
}

/**
 * Shortest paths from several points over edges with the given cost (Infinity: not usable). Stops early once `target` is settled.
 * Source: E. Dijkstra, "A Note on Two Problems in Connexion with Graphs", 1959. O(E log E).
 */
export function shortestPaths(mesh: Mesh, sources: Iterable<number>, cost: (edge: number) => number, target = -1): PathTree {
  const { edgePoints } = topologyOf(mesh);
  const { start, edges } = pointEdges(mesh);
  const points = mesh.points.length / 3;
  const distance = new Float64Array(points).fill(Infinity);
  const byEdge = new Int32Array(points).fill(-1);
  const settled = new Uint8Array(points);
  const queue = new TinyQueue<{ d: number; p: number }>([], (a, b) => a.d - b.d);
  for (const p of sources) {
    distance[p] = 0;
    queue.push({ d: 0, p });
  }
  for (let item = queue.pop(); item; item = queue.pop()) {
    const p = item.p;
    if (settled[p]) continue;
    settled[p] = 1;
    if (p === target) break;
    for (let k = start[p]!; k < start[p + 1]!; k++) {
      const e = edges[k]!;
      const q = edgePoints[e * 2] === p ? edgePoints[e * 2 + 1]! : edgePoints[e * 2]!;
      if (settled[q]) continue;
      const d = item.d + cost(e);
      if (d < distance[q]!) {
        distance[q] = d;
        byEdge[q] = e;
        queue.push({ d, p: q });
      }
    }
  }
  return { distance, byEdge };
}

/** The edges from `point` back to its source. */
export function pathTo(mesh: Mesh, tree: PathTree, point: number): number[] {
  const { edgePoints } = topologyOf(mesh);
  const path: number[] = [];
  let p = point;
  while (tree.byEdge[p]! >= 0) {
    const e = tree.byEdge[p]!;
    path.push(e);
    p = edgePoints[e * 2] === p ? edgePoints[e * 2 + 1]! : edgePoints[e * 2]!;
  }
  return path;
}
