import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { cut } from './cut.ts';
import { edgeLengths, foldAngles } from './crease.ts';
import { pathTo, shortestPaths } from './shortestPaths.ts';

export interface OpenResult {
  set: UvSet;
  /** Edges that were cut. */
  cuts: number[];
  /** Islands (of the layout before) that were opened. */
  opened: number[];
}

/** Cost of cutting each edge: its length, creases at down to a third of the price. */
export function cutCosts(mesh: Mesh): Float64Array {
  const costs = edgeLengths(mesh);
  const angles = foldAngles(mesh);
  for (let e = 0; e < costs.length; e++) costs[e] = costs[e]! * (1 - 0.67 * Math.min(1, angles[e]! / 60)) + 1e-12;
  return costs;
}

/**
 * Opens islands that are no disks along a short cut graph, so that each is one disk.
 *
 * Source: J. Erickson, K. Whittlesey, "Greedy Optimal Homotopy and Homology Generators", SODA 2005: a shortest-path tree from the
 * border (or from one point of a closed piece), a spanning tree of the faces over the edges that close the longest loops first,
 * and the 1 − χ (closed: 2 − χ) edges that are left, each with its ways back to the source. A closed piece without handles has
 * none left: it is cut along the shortest way between two points that lie far apart.
 *
 * @param which islands to open; those that are disks already are passed over
 * @param costs price of each edge; Infinity: not to be cut if there is another way
 * O(E log E) for each round; pinched pieces may need a second round.
 */
export function openIslands(mesh: Mesh, set: UvSet, which: Iterable<number> | 'all' = 'all', costs = cutCosts(mesh)): OpenResult {
  let current = set;
  const facts = islandFacts(mesh, set);
  const wanted = which === 'all' ? facts.map((_, i) => i) : [...which];
  const opened = wanted.filter((i) => facts[i] && facts[i].shape !== 'disk');
  if (opened.length === 0) return { set, cuts: [], opened };
  const inside = new Uint8Array(mesh.faceStart.length - 1);
  const islands = islandsOf(mesh, set);
  for (const i of opened) for (let k = islands.start[i]!; k < islands.start[i + 1]!; k++) inside[islands.faces[k]!] = 1;
  const cuts: number[] = [];
  for (let round = 0; round < 4; round++) {
    const now = islandsOf(mesh, current);
    const nowFacts = islandFacts(mesh, current);
    const edges: number[] = [];
    for (let i = 0; i < now.count; i++) {
      if (nowFacts[i]!.shape !== 'disk' && inside[now.faces[now.start[i]!]!]) for (const e of cutGraph(mesh, current, i, costs)) edges.push(e);
    }
    if (edges.length === 0) break;
    const result = cut(mesh, current, edges);
    if (result.changed.length === 0) break;
    for (const e of result.changed) cuts.push(e);
    current = result.set;
  }
  return { set: current, cuts, opened };
}

function cutGraph(mesh: Mesh, set: UvSet, island: number, costs: Float64Array): number[] {
  const topology = topologyOf(mesh);
  const islands = islandsOf(mesh, set);
  const { states } = islands;
  const faces = islands.faces.subarray(islands.start[island], islands.start[island + 1]);
  const inner: number[] = [];
  const border = new Set<number>();
  for (const f of faces) {
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const e = topology.cornerEdge[c]!;
      if (states[e] !== EdgeState.joined) {
        border.add(topology.edgePoints[e * 2]!);
        border.add(topology.edgePoints[e * 2 + 1]!);
      } else if (topology.edgeCorners[topology.edgeStart[e]!] === c) inner.push(e);
    }
  }
  const usable = new Set(inner);
  // what is not to be cut is cut only where nothing else opens the piece
  let forbidden = 1;
  for (const e of inner) if (costs[e]! < Infinity) forbidden += costs[e]!;
  const priced = inner.some((e) => costs[e] === Infinity) ? costs.map((c) => (c < Infinity ? c : forbidden)) : costs;
  const cost = (e: number) => (usable.has(e) ? priced[e]! : Infinity);
  if (border.size === 0) {
    const cheap = inner.find((e) => costs[e]! < Infinity);
    const anyPoint = cheap === undefined ? mesh.corners[mesh.faceStart[faces[0]!]!]! : topology.edgePoints[cheap * 2]!;
    const first = farthest(shortestPaths(mesh, [anyPoint], cost).distance, forbidden);
    const tree = shortestPaths(mesh, [first], cost);
    const graph = leftOver(mesh, tree, inner, faces, priced);
    return graph.length > 0 ? graph : pathTo(mesh, tree, farthest(tree.distance, forbidden));
  }
  const tree = shortestPaths(mesh, border, cost);
  const graph = leftOver(mesh, tree, inner, faces, priced);
  // closed but for a slit of one edge: that is made longer
  return graph.length > 0 ? graph : pathTo(mesh, tree, farthest(tree.distance, forbidden));
}

/** The point that lies furthest, of those nearer than `within` if there are two. */
function farthest(distance: Float64Array, within: number): number {
  let best = -1;
  for (let p = 0; p < distance.length; p++) if (distance[p]! < within && (best < 0 || distance[p]! > distance[best]!)) best = p;
  if (best >= 0 && distance[best]! > 0) return best;
  for (let p = 0; p < distance.length; p++) if (distance[p]! < Infinity && (best < 0 || distance[p]! > distance[best]!)) best = p;
  return best;
}

/** Edges outside both trees, with their ways to the source. */
function leftOver(mesh: Mesh, tree: ReturnType<typeof shortestPaths>, inner: number[], faces: Uint32Array, costs: Float64Array): number[] {
  const { edgePoints, edgeStart, edgeCorners, twin, cornerFace } = topologyOf(mesh);
  const inTree = new Set<number>();
  for (const e of inner) for (let k = 0; k < 2; k++) if (tree.byEdge[edgePoints[e * 2 + k]!] === e) inTree.add(e);
  const loopLength = (e: number) => tree.distance[edgePoints[e * 2]!]! + tree.distance[edgePoints[e * 2 + 1]!]! + costs[e]!;
  const rest = inner.filter((e) => !inTree.has(e)).sort((a, b) => loopLength(b) - loopLength(a));
  const place = new Map<number, number>();
  faces.forEach((f, k) => place.set(f, k));
  const root = Int32Array.from(faces, (_, k) => k);
  const find = (k: number): number => {
    while (root[k] !== k) k = root[k] = root[root[k]!]!;
    return k;
  };
  const graph = new Set<number>();
  for (const e of rest) {
    const c = edgeCorners[edgeStart[e]!]!;
    const a = find(place.get(cornerFace[c]!)!);
    const b = find(place.get(cornerFace[twin[c]!]!)!);
    if (a !== b) {
      root[a] = b;
      continue;
    }
    graph.add(e);
    for (let k = 0; k < 2; k++) for (const step of pathTo(mesh, tree, edgePoints[e * 2 + k]!)) graph.add(step);
  }
  return [...graph];
}
