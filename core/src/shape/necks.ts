import TinyQueue from 'tinyqueue';
import type { Mesh } from '../mesh/mesh.ts';
import { nextCorner } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { cut } from '../seams/cut.ts';
import { openIslands } from '../seams/cutGraph.ts';
import { islandFacts, islandsOf, nextBorderCorner } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { hullOf } from './islandTurn.ts';

export interface NeckOptions {
  /** Width over height of the sheet. */
  aspect: number;
  /** Share of their hulls that the pieces are to fill: then nothing more is cut. */
  enough?: number;
  mostCuts?: number;
}

export interface NeckCuts {
  /** Edges to be cut, of the mesh's topology. */
  edges: number[];
  /** Pieces that the island falls into. */
  pieces: number;
  /** Share of their hulls that island and pieces fill. */
  before: number;
  after: number;
}

/** A cut is to save at least this share of the island's hull, the pieces' hulls taken together. */
const leastGain = 0.02;
/** Border points that cuts are looked for from: of large pieces fewer, so that all together look at about as many points. */
const mostStarts = 240;
const leastStarts = 40;
const lookedAt = 3e6;
/** Ways that are found from each before it is enough, and of these measured. */
const foundOfEach = 8;
const mostOfEach = 3;
/** Border points by which hulls are measured. */
const mostMeasured = 500;

interface Border {
  /** Half edges of the border, one after the other. */
  corners: number[];
  /** UV point where each starts, and its place in sheet heights. */
  ids: number[];
  x: Float64Array;
  y: Float64Array;
  /** Way along the border to each, and all round. */
  along: Float64Array;
  round: number;
}

interface Neck {
  edges: number[];
  /** Area of the hull that it saves; below 0 where the pieces have larger ones. */
  saved: number;
}

/**
 * Cuts across the necks of an island that fills little of its hull, so that its pieces fill much of theirs. The piece that wastes the most is cut along the
 * short way from border to border that leaves the smallest hulls, again and again; of these cuts the fewest are kept that serve. A ring is opened first. No UV
 * point moves. Our own. O(cuts · (starts · (a way's reach + cuts of each · border) + corners) + cuts · corners)
 */
export function neckCuts(
  mesh: Mesh,
  set: UvSet,
  island: number,
  { aspect, enough = 0.7, mostCuts = 16 }: NeckOptions,
  throwIfCancelled: () => void = () => {},
): NeckCuts {
  const { start, faces } = islandsOf(mesh, set);
  const own = faces.slice(start[island]!, start[island + 1]!);
  const isDisk = islandFacts(mesh, set)[island]!.shape === 'disk';
  const opened = isDisk ? { set, cuts: [] } : openIslands(mesh, set, [island]);
  /** What is known of a piece, by its first face and its size: as cuts are added, that tells it. */
  const known = new Map<number, Fact & { faces: number; neck?: Neck | null }>();
  const piecesOf = (now: UvSet) => {
    const islands = islandsOf(mesh, now);
    return [...new Set(Array.from(own, (f) => islands.ofFace[f]!))].map((i) => {
      const list = islands.faces.subarray(islands.start[i]!, islands.start[i + 1]!);
      let fact = known.get(list[0]!);
      if (fact?.faces !== list.length) {
        fact = { faces: list.length, ...factOf(mesh, now, list, aspect) };
        known.set(list[0]!, fact);
      }
      return { list, fact };
    });
  };
  const sumOf = (pieces: ReturnType<typeof piecesOf>) =>
    pieces.reduce((sum, { fact }) => ({ area: sum.area + fact.area, hull: sum.hull + fact.hull }), { area: 0, hull: 0 });
  let now = opened.set;
  let pieces = piecesOf(now);
  const { area, hull: whole } = sumOf(pieces);
  const share = (hull: number) => (hull > 0 ? Math.min(1, area / hull) : 1);
  const before = share(whole);
  const none = { edges: [], pieces: 1, before, after: before };
  if (before >= enough) return none;
  /** Each cut, and the pieces' hulls after it. */
  const steps: { edges: number[]; hull: number }[] = [];
  while (steps.length < mostCuts) {
    let wasted: (typeof pieces)[number] | null = null;
    for (const piece of pieces) {
      const { fact } = piece;
      if (fact.neck === null || fact.hull - fact.area < leastGain * whole) continue;
      if (!wasted || fact.hull - fact.area > wasted.fact.hull - wasted.fact.area) wasted = piece;
    }
    if (!wasted) break;
    const { fact, list } = wasted;
    fact.neck = bestNeck(mesh, now, list, fact, aspect, throwIfCancelled);
    if (!fact.neck) continue;
    const result = cut(mesh, now, fact.neck.edges);
    if (result.changed.length === 0) break;
    now = result.set;
    pieces = piecesOf(now);
    steps.push({ edges: fact.neck.edges, hull: sumOf(pieces).hull });
  }
  const worth = (k: number) => whole - steps[k]!.hull - leastGain * whole * (k + 1);
  const serves = steps.findIndex(({ hull }) => share(hull) >= enough);
  const last = serves >= 0 ? serves : steps.reduce((best, _, k) => (worth(k) > (best < 0 ? 0 : worth(best)) ? k : best), -1);
  if (last < 0) return none;
  let kept = steps.slice(0, last + 1).map(({ edges }) => edges);
  let { hull } = steps[last]!;
  const hullWithout = (k: number) => {
    // without a cut another piece may have the same first face and size
    known.clear();
    return sumOf(piecesOf(cut(mesh, opened.set, kept.filter((_, j) => j !== k).flat()).set)).hull;
  };
  // an early cut may have lost its sense by later ones
  for (let k = kept.length - 1; k >= 0 && kept.length > 1; k--) {
    const alone = hullWithout(k);
    if (alone - hull >= leastGain * whole) continue;
    kept = kept.filter((_, j) => j !== k);
    hull = alone;
  }
  const edges = [...needed(mesh, own, cut(mesh, opened.set, kept.flat()).set, opened.cuts), ...kept.flat()];
  return { edges, pieces: piecesOf(cut(mesh, set, edges).set).length, before, after: share(hull) };
}

/** Of the edges that opened a ring those that part two pieces; the others are not needed once it is parted. */
function needed(mesh: Mesh, faces: Uint32Array, now: UvSet, cuts: readonly number[]): number[] {
  if (cuts.length === 0) return [];
  const { cornerEdge, twin, cornerFace } = topologyOf(mesh);
  const { ofFace } = islandsOf(mesh, now);
  const opening = new Set(cuts);
  const out = new Set<number>();
  for (const f of faces)
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const e = cornerEdge[c]!;
      if (opening.has(e) && twin[c]! >= 0 && ofFace[cornerFace[twin[c]!]!] !== ofFace[f]) out.add(e);
    }
  return [...out];
}

interface Fact {
  /** In sheet heights². */
  area: number;
  hull: number;
  border: Border | null;
}

/** Area of a piece and of its hull. */
function factOf(mesh: Mesh, set: UvSet, faces: Uint32Array, aspect: number): Fact {
  const border = borderOf(mesh, set, faces, aspect);
  if (!border) return { area: 0, hull: 0, border };
  const { corners, x, y } = border;
  const all = corners.map((_, k) => k);
  return { area: Math.abs(areaOf(x, y, all)), hull: hullArea(x, y, all), border };
}

/** The border of a piece that is a disk; null where it has none, or several. */
function borderOf(mesh: Mesh, set: UvSet, faces: Uint32Array, aspect: number): Border | null {
  const { cornerEdge } = topologyOf(mesh);
  const { states } = islandsOf(mesh, set);
  let first = -1;
  let count = 0;
  for (const f of faces)
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++)
      if (states[cornerEdge[c]!] !== EdgeState.joined) {
        count++;
        if (first < 0) first = c;
      }
  if (first < 0) return null;
  const corners: number[] = [];
  let at = first;
  do {
    corners.push(at);
    at = nextBorderCorner(mesh, states, at);
  } while (at !== first && corners.length <= count);
  if (corners.length !== count) return null;
  const ids = corners.map((c) => set.cornerUv[c]!);
  const x = Float64Array.from(ids, (id) => set.uv[id * 2]! * aspect);
  const y = Float64Array.from(ids, (id) => set.uv[id * 2 + 1]!);
  const along = new Float64Array(count);
  let round = 0;
  for (let k = 0; k < count; k++) {
    along[k] = round;
    const next = (k + 1) % count;
    round += Math.hypot(x[next]! - x[k]!, y[next]! - y[k]!);
  }
  return { corners, ids, x, y, along, round };
}

const areaOf = (x: Float64Array, y: Float64Array, list: readonly number[]): number => {
  let twice = 0;
  for (let k = 0, j = list.length - 1; k < list.length; j = k++) twice += x[list[j]!]! * y[list[k]!]! - x[list[k]!]! * y[list[j]!]!;
  return twice / 2;
};

/** Of a long list every so many. */
function hullArea(x: Float64Array, y: Float64Array, list: readonly number[]): number {
  const stride = Math.ceil(list.length / mostMeasured);
  const at: number[] = [];
  for (let k = 0; k < list.length; k += stride) at.push(x[list[k]!]!, y[list[k]!]!);
  const hull = hullOf(at);
  return Math.abs(
    hull.reduce((sum, [a, b], k) => {
      const [c, d] = hull[(k + 1) % hull.length]!;
      return sum + a * d - c * b;
    }, 0) / 2,
  );
}

/** Border points that ways are looked for from: those in the deepest bays, and others at even distances. */
function startsOf({ corners, x, y, along, round }: Border, faces: number): number[] {
  const count = corners.length;
  const most = Math.max(leastStarts, Math.min(mostStarts, Math.round(lookedAt / faces)));
  if (count <= most) return corners.map((_, k) => k);
  const step = round / 60;
  const hand =
    areaOf(
      x,
      y,
      corners.map((_, k) => k),
    ) < 0
      ? -1
      : 1;
  const turns = corners.map((_, k) => {
    const beside = (way: 1 | -1) => {
      let j = k;
      for (let n = 0; n < count; n++) {
        j = (j + way + count) % count;
        const d = Math.abs(along[j]! - along[k]!);
        if (Math.min(d, round - d) >= step) break;
      }
      return j;
    };
    const [a, b] = [beside(-1), beside(1)];
    // below 0 in a bay, the solid being on the left; on the right where the island is mirrored
    return hand * ((x[k]! - x[a]!) * (y[b]! - y[k]!) - (y[k]! - y[a]!) * (x[b]! - x[k]!));
  });
  const deepest = corners
    .map((_, k) => k)
    .sort((a, b) => turns[a]! - turns[b]! || a - b)
    .slice(0, Math.ceil(most / 2));
  return [...new Set([...deepest, ...Array.from({ length: Math.ceil(most / 2) }, (_, k) => Math.floor((k * count) / Math.ceil(most / 2)))])].sort(
    (a, b) => a - b,
  );
}

/** The way from border to border that leaves the smallest hulls; null where there is none. */
function bestNeck(mesh: Mesh, set: UvSet, faces: Uint32Array, { border, area, hull }: Fact, aspect: number, throwIfCancelled: () => void): Neck | null {
  if (!border) return null;
  const { cornerEdge } = topologyOf(mesh);
  const { states } = islandsOf(mesh, set);
  const { ids, x, y, along, round } = border;
  /** Where a UV point is on the border; −2: more than once. */
  const onBorder = new Map<number, number>();
  ids.forEach((id, k) => onBorder.set(id, onBorder.has(id) ? -2 : k));
  const ways = new Map<number, { to: number; edge: number; length: number }[]>();
  const join = (from: number, to: number, edge: number, length: number) => {
    const list = ways.get(from);
    if (list) list.push({ to, edge, length });
    else ways.set(from, [{ to, edge, length }]);
  };
  const placeOf = (id: number): [number, number] => [set.uv[id * 2]! * aspect, set.uv[id * 2 + 1]!];
  for (const f of faces)
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const e = cornerEdge[c]!;
      if (states[e] !== EdgeState.joined) continue;
      // each side says its own direction
      const [a, b] = [set.cornerUv[c]!, set.cornerUv[nextCorner(mesh, c, f)]!];
      const [p, q] = [placeOf(a), placeOf(b)];
      join(a, b, e, Math.hypot(p[0] - q[0], p[1] - q[1]));
    }
  // short ways first: longer ones are looked for only where these serve nothing
  for (const share of [0.15, 0.3, 0.6]) {
    const best = bestWithin(share * Math.sqrt(area));
    if (best && (best.saved > leastGain * hull || share === 0.6)) return best;
  }
  return null;

  function bestWithin(reach: number): Neck | null {
    let best: Neck | null = null;
    for (const from of startsOf(border!, faces.length)) {
      throwIfCancelled();
      if (onBorder.get(ids[from]!) === -2) continue;
      const arcOf = (to: number) => {
        const d = Math.abs(along[to]! - along[from]!);
        return Math.min(d, round - d);
      };
      const found: { to: number; length: number }[] = [];
      const distance = new Map<number, number>([[ids[from]!, 0]]);
      const by = new Map<number, { from: number; edge: number }>();
      const settled = new Set<number>();
      const queue = new TinyQueue<{ d: number; id: number }>([{ d: 0, id: ids[from]! }], (a, b) => a.d - b.d);
      for (let item = queue.pop(); item; item = queue.pop()) {
        const { d, id } = item;
        if (settled.has(id)) continue;
        settled.add(id);
        const place = onBorder.get(id);
        if (place !== undefined && id !== ids[from]) {
          if (place >= 0 && arcOf(place) > 2 * d && found.push({ to: place, length: d }) === foundOfEach) break;
          continue;
        }
        for (const way of ways.get(id) ?? []) {
          const next = d + way.length;
          if (next > reach || next >= (distance.get(way.to) ?? Infinity)) continue;
          distance.set(way.to, next);
          by.set(way.to, { from: id, edge: way.edge });
          queue.push({ d: next, id: way.to });
        }
      }
      const shortest = found.sort((a, b) => a.length / arcOf(a.to) - b.length / arcOf(b.to)).slice(0, mostOfEach);
      for (const { to, length } of shortest) {
        const [low, high] = [Math.min(from, to), Math.max(from, to)];
        const inner = range(low, high);
        const outer = [...range(high, ids.length - 1), ...range(0, low)];
        // the way itself is nearly straight: its ends stand for it
        const saved = hull - hullArea(x, y, inner) - hullArea(x, y, outer);
        const least = Math.min(Math.abs(areaOf(x, y, inner)), Math.abs(areaOf(x, y, outer)));
        // of like gains the shorter
        const worth = saved - 0.05 * length * Math.sqrt(area);
        if (worth <= (best?.saved ?? -Infinity) || least < 0.01 * area) continue;
        const edges: number[] = [];
        for (let id = ids[to]!; by.has(id); id = by.get(id)!.from) edges.push(by.get(id)!.edge);
        best = { edges, saved: worth };
      }
    }
    return best;
  }
}

const range = (from: number, to: number) => Array.from({ length: to - from + 1 }, (_, k) => from + k);
