import type { Mesh } from '../mesh/mesh.ts';
import { simplify, type Simplified } from '../mesh/simplify.ts';
import { topologyOf } from '../mesh/topology.ts';
import { symmetryOf, type Symmetry } from '../select/symmetry.ts';
import { edgeLengths } from '../seams/crease.ts';
import { cut } from '../seams/cut.ts';
import { seamRuns } from '../seams/seamRuns.ts';
import { pathTo, pointEdges, shortestPaths } from '../seams/shortestPaths.ts';
import { islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import { emptyUvSet, type UvSet } from '../uv/uvSet.ts';
import type { SeamPrices } from './seamPrices.ts';

export type Prices = Pick<SeamPrices, 'price' | 'length'>;

/** A coarser mesh on which seams are sought, and the way back. */
export interface CoarseSeams {
  mesh: Mesh;
  /** The seams there are. */
  given: UvSet;
  prices: Prices;
  mirror: Symmetry | null;
  /** Edges of the given mesh that stand for the seams of a coarse set beyond the given ones. */
  toFine(set: UvSet): number[];
}

/**
 * A mesh of about `target` triangles with the prices of the fine one: seams and faces to keep whole keep their lines, the two sides of a plane of symmetry
 * are alike. O(T log T).
 */
export function coarseSeams(mesh: Mesh, given: UvSet, prices: Prices, mirror: Symmetry | null, target: number): CoarseSeams {
  const { edgeCount, edgePoints, edgeStart, edgeCorners, twin, cornerFace } = topologyOf(mesh);
  const { states } = islandsOf(mesh, given);
  // faces to keep whole are those that share an edge where no seam may run
  const kept = new Uint8Array(mesh.faceStart.length - 1);
  for (let e = 0; e < edgeCount; e++) {
    if (prices.price[e] !== Infinity) continue;
    for (let k = edgeStart[e]!; k < edgeStart[e + 1]!; k++) kept[cornerFace[edgeCorners[k]!]!] = 1;
  }
  const lines = new Uint8Array(edgeCount);
  for (let e = 0; e < edgeCount; e++) {
    const c = edgeCorners[edgeStart[e]!]!;
    lines[e] = states[e] !== EdgeState.joined || (twin[c]! >= 0 && kept[cornerFace[c]!] !== kept[cornerFace[twin[c]!]!]) ? 1 : 0;
  }
  const coarse = simplify(mesh, target, { lines, across: mirror?.points ?? null });
  const { pointOf, standsFor, faceOf } = coarse;
  const top = topologyOf(coarse.mesh);
  // a unit of length costs at an edge what it costs round its ends
  const rate = new Float64Array(mesh.points.length / 3);
  const around = new Float64Array(rate.length);
  for (let e = 0; e < edgeCount; e++) {
    if (prices.price[e] === Infinity) continue;
    for (let k = 0; k < 2; k++) {
      // what a merged point says goes to the point that stands for it
      const stands = standsFor[edgePoints[e * 2 + k]!]!;
      if (stands < 0) continue;
      rate[pointOf[stands]!]! += prices.price[e]!;
      around[pointOf[stands]!]! += prices.length[e]!;
    }
  }
  const length = edgeLengths(coarse.mesh);
  const price = new Float64Array(top.edgeCount);
  for (let e = 0; e < top.edgeCount; e++) {
    let sum = 0;
    for (let k = 0; k < 2; k++) {
      const p = pointOf[top.edgePoints[e * 2 + k]!]!;
      sum += around[p]! > 0 ? rate[p]! / around[p]! : 1;
    }
    price[e] = (length[e]! * sum) / 2 + 1e-12;
    const corners = top.edgeCorners.subarray(top.edgeStart[e]!, top.edgeStart[e + 1]!);
    if (corners.length > 1 && corners.every((c) => kept[faceOf[top.cornerFace[c]!]!])) price[e] = Infinity;
  }
  const seams = givenSeams(mesh, states, coarse);
  const start = cut(coarse.mesh, emptyUvSet(coarse.mesh), seams).set;
  const startStates = islandsOf(coarse.mesh, start).states;
  const coarseMirror = mirror ? symmetryOf(coarse.mesh, mirror.axis) : null;
  return {
    mesh: coarse.mesh,
    given: start,
    prices: { price, length },
    mirror: coarseMirror,
    toFine: (set) => {
      const now = islandsOf(coarse.mesh, set).states;
      const added = new Uint8Array(now.length);
      for (let e = 0; e < now.length; e++) if (now[e] === EdgeState.seam && startStates[e] !== EdgeState.seam) added[e] = 1;
      const edges = new WayBack(mesh, prices, states, mirror, coarse, coarseMirror).edges(set, added);
      return withoutCrumbs(mesh, given, edges, islandsOf(coarse.mesh, set).count);
    },
  };
}

/** Edges without those that part more islands than wanted: where ways had to share a place, the smallest islands are joined to a neighbour. */
function withoutCrumbs(mesh: Mesh, given: UvSet, edges: number[], wanted: number): number[] {
  const { edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
  let left = edges;
  for (;;) {
    const { count, start, ofFace } = islandsOf(mesh, cut(mesh, given, left).set);
    if (count <= wanted) return left;
    // the edges between each island and each of its neighbours
    const between = new Map<number, number[]>();
    for (const e of left) {
      const [a, b] = [0, 1].map((k) => ofFace[cornerFace[edgeCorners[edgeStart[e]! + k]!]!]!) as [number, number];
      if (a === b) continue;
      const key = Math.min(a, b) * count + Math.max(a, b);
      const list = between.get(key);
      if (list) list.push(e);
      else between.set(key, [e]);
    }
    const size = (i: number) => start[i + 1]! - start[i]!;
    const smaller = (key: number) => Math.min(size(Math.floor(key / count)), size(key % count));
    const best = [...between].sort(([k, x], [l, y]) => smaller(k) - smaller(l) || y.length - x.length)[0];
    if (!best) return left;
    const whole = new Set(best[1]);
    left = left.filter((e) => !whole.has(e));
  }
}

/** Coarse edges along the seams of the given mesh: both ends lie on one seam line, next to one another. */
function givenSeams(mesh: Mesh, states: Uint8Array, { mesh: coarse, pointOf, lineTo }: Simplified): number[] {
  const { edgePoints } = topologyOf(mesh);
  const onSeam = new Uint8Array(mesh.points.length / 3);
  for (let e = 0; e < states.length; e++) if (states[e] === EdgeState.seam) onSeam[edgePoints[e * 2]!] = onSeam[edgePoints[e * 2 + 1]!] = 1;
  const { edgeCount, edgePoints: ends } = topologyOf(coarse);
  const out: number[] = [];
  for (let e = 0; e < edgeCount; e++) {
    const [p, q] = [pointOf[ends[e * 2]!]!, pointOf[ends[e * 2 + 1]!]!];
    if (onSeam[p] && onSeam[q] && lineTo(p).includes(q)) out.push(e);
  }
  return out;
}

/** Runs of coarse seams as ways over the fine mesh. */
class WayBack {
  /** Points that seams use already: ways do not run into one another. */
  private readonly used: Uint8Array;
  private readonly near: Uint8Array;

  constructor(
    private readonly mesh: Mesh,
    private readonly prices: Prices,
    private readonly states: Uint8Array,
    private readonly mirror: Symmetry | null,
    private readonly coarse: Simplified,
    private readonly coarseMirror: Symmetry | null,
  ) {
    const { edgePoints } = topologyOf(mesh);
    this.used = new Uint8Array(mesh.points.length / 3);
    for (let e = 0; e < states.length; e++) {
      if (states[e] !== EdgeState.joined) this.used[edgePoints[e * 2]!] = this.used[edgePoints[e * 2 + 1]!] = 1;
    }
    this.near = new Uint8Array(coarse.pointOf.length);
  }

  edges(set: UvSet, added: Uint8Array): number[] {
    const { coarseMirror, mirror } = this;
    const out = new Set<number>();
    const done = new Uint8Array(added.length);
    // no way leads through a place of another run
    const ends = topologyOf(this.coarse.mesh).edgePoints;
    for (let e = 0; e < added.length; e++) {
      if (added[e]) for (let k = 0; k < 2; k++) this.used[this.coarse.pointOf[ends[e * 2 + k]!]!] = 1;
    }
    for (const run of this.runs(set, added)) {
      if (run.every((e) => done[e])) continue;
      const path = this.path(this.pointsAlong(run));
      for (const e of run) done[e] = 1;
      for (const e of path) out.add(e);
      this.use(path);
      if (!mirror || !coarseMirror) continue;
      const across = run.map((e) => coarseMirror.edges[e]!);
      if (across.some((e) => e < 0 || !added[e] || done[e])) continue;
      const image = path.map((e) => mirror.edges[e]!);
      if (image.some((e) => e < 0)) continue;
      for (const e of across) done[e] = 1;
      for (const e of image) out.add(e);
      this.use(image);
    }
    return [...out].sort((a, b) => a - b);
  }

  private use(path: number[]): void {
    const { edgePoints } = topologyOf(this.mesh);
    for (const e of path) this.used[edgePoints[e * 2]!] = this.used[edgePoints[e * 2 + 1]!] = 1;
  }

  /** Runs of the added edges from one junction, end or given seam to the next; parted where they reach the plane or lose their image across it; closed ones in thirds. */
  private runs(set: UvSet, added: Uint8Array): number[][] {
    const { edgePoints } = topologyOf(this.coarse.mesh);
    const across = this.coarseMirror?.points;
    const onPlane = (p: number) => across?.[p] === p;
    const flat = (e: number) => onPlane(edgePoints[e * 2]!) && onPlane(edgePoints[e * 2 + 1]!);
    const paired = (e: number) => this.coarseMirror !== null && added[this.coarseMirror.edges[e]!] === 1;
    const out: number[][] = [];
    for (const whole of seamRuns(this.coarse.mesh, set)) {
      let run: number[] = [];
      const end = () => {
        if (run.length > 0) out.push(run);
        run = [];
      };
      let last = -1;
      for (const e of whole) {
        if (!added[e]) {
          end();
        } else {
          if (run.length > 0) {
            const shared = [edgePoints[e * 2]!, edgePoints[e * 2 + 1]!].find((p) => p === edgePoints[last * 2] || p === edgePoints[last * 2 + 1])!;
            if (paired(e) !== paired(last) || flat(e) !== flat(last) || (onPlane(shared) && !flat(e))) end();
          }
          run.push(e);
        }
        last = e;
      }
      end();
    }
    return out.flatMap((run) => {
      const points = this.pointsAlong(run);
      if (points[0] !== points.at(-1) || run.length < 3) return [run];
      const third = Math.floor(run.length / 3);
      return [run.slice(0, third), run.slice(third, 2 * third), run.slice(2 * third)];
    });
  }

  /** The points along a run of coarse edges, in order. */
  private pointsAlong(run: number[]): number[] {
    const { edgePoints } = topologyOf(this.coarse.mesh);
    const [a, b] = [edgePoints[run[0]! * 2]!, edgePoints[run[0]! * 2 + 1]!];
    if (run.length === 1) return [a, b];
    const next = [edgePoints[run[1]! * 2]!, edgePoints[run[1]! * 2 + 1]!];
    const out = next.includes(b) ? [a, b] : [b, a];
    for (const e of run.slice(1)) out.push(edgePoints[e * 2] === out.at(-1) ? edgePoints[e * 2 + 1]! : edgePoints[e * 2]!);
    return out;
  }

  /** The cheapest way over the fine mesh through places that belong to the run and what lies next to it. */
  private path(run: number[]): number[] {
    const { mesh, prices, states, coarse, used, near, coarseMirror, mirror } = this;
    const { edgePoints } = topologyOf(mesh);
    const [from, to] = [coarse.pointOf[run[0]!]!, coarse.pointOf[run.at(-1)!]!];
    near.fill(0);
    const { start, edges } = pointEdges(coarse.mesh);
    const ends = topologyOf(coarse.mesh).edgePoints;
    for (const p of run) for (let k = start[p]!; k < start[p + 1]!; k++) near[ends[edges[k]! * 2]!] = near[ends[edges[k]! * 2 + 1]!] = 1;
    const flat = coarseMirror !== null && run.every((p) => coarseMirror.points[p] === p);
    const inside = (p: number) => near[coarse.standsFor[p]!] === 1 && (!flat || mirror!.points[p] === p);
    const own = new Set(run.slice(1, -1).map((p) => coarse.pointOf[p]!));
    for (const tries of ['free', 'shared', 'any'] as const) {
      const open = (p: number) => p === from || p === to || tries === 'any' || (inside(p) && (tries === 'shared' || !used[p] || own.has(p)));
      const tree = shortestPaths(
        mesh,
        [from],
        (e) => (states[e] === EdgeState.joined && open(edgePoints[e * 2]!) && open(edgePoints[e * 2 + 1]!) ? prices.price[e]! : Infinity),
        to,
      );
      if (tree.distance[to]! < Infinity) return pathTo(mesh, tree, to);
    }
    return [];
  }
}
