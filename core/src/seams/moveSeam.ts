import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandFacts, islandsOf, nextBorderCorner } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { cut } from './cut.ts';
import { runsOf } from './seamRuns.ts';
import { pathTo, shortestPaths } from './shortestPaths.ts';
import { uncut } from './uncut.ts';

export interface MovedSeam {
  /** The layout with the seam elsewhere; its pieces are to be laid flat again. */
  set: UvSet;
  /** Edges that are seams no longer, and those that are instead. */
  from: number[];
  to: number[];
}

/** Why a seam stays: it is a closed ring or has a loose end, or no other way is cheaper. */
export type SeamStays = 'ring' | 'best';

/** Another way has to save at least so much of the price to be worth a move; common practice, no source. */
const leastSaved = 0.1;
/** So many runs of a seam are looked at, the costliest first: each takes a walk over the mesh, so that they are fewer on a large one. */
const mostRuns = ({ corners }: Mesh) => Math.max(2, Math.min(24, Math.floor(2_000_000 / corners.length)));
/** No piece may become smaller than this share of what it was. */
const leastLeft = 0.3;

/**
 * A seam moved to where seams cost less: each of its runs is made whole and the cheapest way through the pieces that it parted is cut instead, between the
 * same ends or, where these are on two rims as those of a tube, from anywhere on the one to anywhere on the other, if these stay as many and of the same forms (disks stay disks) and none becomes a mere rest. Other seams stay.
 *
 * @param seam seam edges; all of them may belong to one piece, as those of a tube do
 * @param price what a seam along each edge costs, see `seamPrices`
 * O(runs · (E log E)), of at most 24 runs
 */
export function movedSeam(mesh: Mesh, set: UvSet, seam: Iterable<number>, price: Float64Array, throwIfCancelled: () => void = () => {}): MovedSeam | SeamStays {
  const among = new Set(seam);
  const { edgePoints } = topologyOf(mesh);
  const runs = runsOf(mesh, set, (e) => among.has(e))
    .map((run) => ({ ...run, costs: run.edges.reduce((sum, e) => sum + price[e]!, 0) }))
    .sort((a, b) => b.costs - a.costs)
    .slice(0, mostRuns(mesh));
  let next = set;
  let open = false;
  for (const { edges, degrees } of runs) {
    throwIfCancelled();
    const ends = endsOf(edges, edgePoints);
    if (!ends || degrees.includes(1)) continue;
    open = true;
    next = movedRun(mesh, next, edges, ends, price) ?? next;
  }
  if (next === set) return open ? 'best' : 'ring';
  const [before, after] = [islandsOf(mesh, set).states, islandsOf(mesh, next).states];
  const changed = (state: Uint8Array, other: Uint8Array) => [...state.keys()].filter((e) => state[e] === EdgeState.seam && other[e] !== EdgeState.seam);
  return { set: next, from: changed(before, after), to: changed(after, before) };
}

/** The two points at which a run begins and ends; null for a closed one. */
function endsOf(edges: readonly number[], edgePoints: ArrayLike<number>): [number, number] | null {
  const odd = new Set<number>();
  for (const e of edges)
    for (let k = 0; k < 2; k++) {
      const p = edgePoints[e * 2 + k]!;
      if (!odd.delete(p)) odd.add(p);
    }
  const [p, q] = [...odd];
  return odd.size === 2 ? [p!, q!] : null;
}

function movedRun(mesh: Mesh, set: UvSet, run: readonly number[], [p, q]: [number, number], price: Float64Array): UvSet | null {
  const { edgeStart, edgeCorners, cornerFace, edgePoints, edgeCount } = topologyOf(mesh);
  const whole = uncut(mesh, set, run).set;
  const { states, ofFace } = islandsOf(mesh, whole);
  const faceAt = (e: number) => cornerFace[edgeCorners[edgeStart[e]!]!]!;
  const piece = ofFace[faceAt(run[0]!)]!;
  // a way that touched another seam or the border would cut off a piece of its own
  const taken = new Uint8Array(mesh.points.length / 3);
  for (let e = 0; e < edgeCount; e++) if (states[e] !== EdgeState.joined) taken[edgePoints[e * 2]!] = taken[edgePoints[e * 2 + 1]!] = 1;
  const [starts, goals] = freeEnds(mesh, states, (f) => ofFace[f] === piece, p, q);
  const usable = (a: number, b: number) =>
    [a, b].every((point) => !taken[point] || starts.has(point) || goals.has(point)) && !(starts.has(a) && starts.has(b)) && !(goals.has(a) && goals.has(b));
  const cost = (e: number) =>
    states[e] === EdgeState.joined && ofFace[faceAt(e)] === piece && usable(edgePoints[e * 2]!, edgePoints[e * 2 + 1]!) ? price[e]! : Infinity;
  const tree = shortestPaths(mesh, starts, cost, goals.size === 1 ? q : -1);
  let goal = q;
  for (const point of goals) if (tree.distance[point]! < tree.distance[goal]!) goal = point;
  const path = pathTo(mesh, tree, goal);
  const sum = (edges: readonly number[]) => edges.reduce((all, e) => all + price[e]!, 0);
  if (path.length === 0 || !(sum(path) < (1 - leastSaved) * sum(run))) return null;
  const moved = cut(mesh, whole, path).set;
  return isAsGood(mesh, set, moved, [...run, ...path]) ? moved : null;
}

/** Where a way may begin and end: at the two ends, or, where these are on two different rims of a piece, anywhere on them. O(corners) */
function freeEnds(mesh: Mesh, states: Uint8Array, isOf: (face: number) => boolean, p: number, q: number): [Set<number>, Set<number>] {
  const { cornerEdge } = topologyOf(mesh);
  const seen = new Uint8Array(mesh.corners.length);
  const rims: Set<number>[] = [];
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
    if (!isOf(f)) continue;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      if (seen[c] || states[cornerEdge[c]!] === EdgeState.joined) continue;
      const rim = new Set<number>();
      for (let at = c; !seen[at]; at = nextBorderCorner(mesh, states, at)) {
        seen[at] = 1;
        rim.add(mesh.corners[at]!);
      }
      rims.push(rim);
    }
  }
  const at = (point: number) => rims.filter((rim) => rim.has(point));
  const [one, other] = [at(p), at(q)];
  const apart = one.length === 1 && other.length === 1 && one[0] !== other[0] && ![...one[0]!].some((point) => other[0]!.has(point));
  return apart ? [one[0]!, other[0]!] : [new Set([p]), new Set([q])];
}

/** As many pieces as before, of the same forms (disks stay disks), and none is but a small rest of what it was. */
function isAsGood(mesh: Mesh, before: UvSet, after: UvSet, edges: readonly number[]): boolean {
  const { edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
  const piecesOf = (set: UvSet) => {
    const { ofFace, count } = islandsOf(mesh, set);
    const facts = islandFacts(mesh, set);
    const touched = new Set(edges.flatMap((e) => [...edgeCorners.subarray(edgeStart[e]!, edgeStart[e + 1]!)].map((c) => ofFace[cornerFace[c]!]!)));
    const each = [...touched].map((i) => facts[i]!);
    const forms = each
      .map(({ euler, loops }) => `${euler} ${loops}`)
      .sort()
      .join();
    return { count, forms, least: Math.min(...each.map(({ faces }) => faces)) };
  };
  const [a, b] = [piecesOf(before), piecesOf(after)];
  return b.count === a.count && b.forms === a.forms && b.least >= leastLeft * a.least;
}
