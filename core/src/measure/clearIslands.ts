import Flatbush from 'flatbush';
import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';

/** Directed outline edges, the island on their left: what is left of them after those that lie on one another the other way round. */
interface Outline {
  /** 4 numbers an edge. */
  xy: Float64Array;
  island: Int32Array;
  /** The edge that goes on at each one's end; −1 where none or several do. */
  next: Int32Array;
  /** Pairs of islands whose outlines lie on one another: their common outline is looked at. */
  links: [number, number][];
}

/**
 * 1 for each island that surely overlaps nothing, itself included, told from outlines alone. An island whose triangles all turn the same way covers a place as
 * often as its outline winds round it (the degree of a map), so where outlines neither cross nor touch, and none winds round another, nothing is covered
 * twice. 0 says nothing: islands with turned or flat triangles, or with outlines that touch, have to be looked at triangle by triangle.
 *
 * O(T + B log B) for B outline edges.
 */
export function clearIslands(mesh: Mesh, set: UvSet): Uint8Array {
  const islands = islandsOf(mesh, set);
  const { clear, turned } = evenlyTurned(mesh, set);
  const outline = outlineOf(mesh, set, clear, turned);
  markMeetings(outline, clear);
  spread(outline.links, clear);
  markNested(outline, clear);
  return widen(mesh, set, islands.ofFace, clear);
}

/** Islands whose triangles all have area and turn the same way; and whether that is clockwise. */
function evenlyTurned(mesh: Mesh, set: UvSet): { clear: Uint8Array; turned: Uint8Array } {
  const { count, ofFace } = islandsOf(mesh, set);
  const triangles = trianglesOf(mesh);
  const { uv, cornerUv } = set;
  const clear = new Uint8Array(count).fill(1);
  const sign = new Int8Array(count);
  for (let t = 0; t < triangles.count; t++) {
    const f = triangles.face[t]!;
    const island = ofFace[f]!;
    const i = cornerUv[triangles.corners[t * 3]!]! * 2;
    const j = cornerUv[triangles.corners[t * 3 + 1]!]! * 2;
    const m = cornerUv[triangles.corners[t * 3 + 2]!]! * 2;
    const twice = (uv[j]! - uv[i]!) * (uv[m + 1]! - uv[i + 1]!) - (uv[m]! - uv[i]!) * (uv[j + 1]! - uv[i + 1]!);
    const now = twice > 0 ? 1 : twice < 0 ? -1 : 0;
    if (set.unplaced[f] || now === 0 || (sign[island] !== 0 && sign[island] !== now)) clear[island] = 0;
    sign[island] = now;
  }
  return { clear, turned: Uint8Array.from(sign, (x) => (x < 0 ? 1 : 0)) };
}

function outlineOf(mesh: Mesh, set: UvSet, clear: Uint8Array, turned: Uint8Array): Outline {
  const { states, ofFace } = islandsOf(mesh, set);
  const { cornerEdge, cornerFace } = topologyOf(mesh);
  const { uv, cornerUv } = set;
  // places by number, so that edges between the same two places are found
  const numbers = new Map<number, Map<number, number>>();
  let places = 0;
  const numberOf = (id: number): number => {
    let row = numbers.get(uv[id * 2]!);
    if (!row) numbers.set(uv[id * 2]!, (row = new Map()));
    let number = row.get(uv[id * 2 + 1]!);
    if (number === undefined) row.set(uv[id * 2 + 1]!, (number = places++));
    return number;
  };
  const from: number[] = [];
  const to: number[] = [];
  const ids: number[] = [];
  const island: number[] = [];
  for (let c = 0; c < cornerEdge.length; c++) {
    if (states[cornerEdge[c]!] === EdgeState.joined) continue;
    const f = cornerFace[c]!;
    const mine = ofFace[f]!;
    if (!clear[mine]) continue;
    const a = cornerUv[c]!;
    const b = cornerUv[nextCorner(mesh, c, f)]!;
    const [start, end] = turned[mine] ? [b, a] : [a, b];
    from.push(numberOf(start));
    to.push(numberOf(end));
    ids.push(start, end);
    island.push(mine);
  }
  const open = new Map<number, number[]>();
  const gone = new Uint8Array(from.length);
  const links: [number, number][] = [];
  for (let k = 0; k < from.length; k++) {
    if (from[k] === to[k]) {
      gone[k] = 1;
      continue;
    }
    const opposite = open.get(to[k]! * places + from[k]!)?.pop();
    if (opposite !== undefined) {
      gone[k] = gone[opposite] = 1;
      if (island[k] !== island[opposite]) links.push([island[k]!, island[opposite]!]);
    } else {
      const key = from[k]! * places + to[k]!;
      const list = open.get(key);
      if (list) list.push(k);
      else open.set(key, [k]);
    }
  }
  const kept = from.map((_, k) => k).filter((k) => !gone[k]);
  const outline: Outline = { xy: new Float64Array(kept.length * 4), island: new Int32Array(kept.length), next: new Int32Array(kept.length).fill(-1), links };
  const leaving = new Int32Array(places).fill(-1);
  kept.forEach((k, e) => {
    for (let end = 0; end < 2; end++) for (let d = 0; d < 2; d++) outline.xy[e * 4 + end * 2 + d] = uv[ids[k * 2 + end]! * 2 + d]!;
    outline.island[e] = island[k]!;
    leaving[from[k]!] = leaving[from[k]!] === -1 ? e : -2;
  });
  kept.forEach((k, e) => {
    const next = Math.max(-1, leaving[to[k]!]!);
    outline.next[e] = next;
    if (next >= 0 && outline.island[next] !== outline.island[e]) links.push([outline.island[e]!, outline.island[next]!]);
  });
  return outline;
}

/** Islands of outline edges that touch or cross others than their neighbours are not clear. */
function markMeetings(outline: Outline, clear: Uint8Array): void {
  const { xy, island, next } = outline;
  const n = island.length;
  if (n === 0) return;
  const index = new Flatbush(n);
  for (let e = 0; e < n; e++) {
    if (next[e] === -1) clear[island[e]!] = 0;
    const o = e * 4;
    index.add(Math.min(xy[o]!, xy[o + 2]!), Math.min(xy[o + 1]!, xy[o + 3]!), Math.max(xy[o]!, xy[o + 2]!), Math.max(xy[o + 1]!, xy[o + 3]!));
  }
  index.finish();
  // one that meets an island that is not clear already is looked at with it anyhow (see `widen`)
  for (let e = 0; e < n; e++) {
    const mine = island[e]!;
    if (!clear[mine]) continue;
    const o = e * 4;
    index.search(Math.min(xy[o]!, xy[o + 2]!), Math.min(xy[o + 1]!, xy[o + 3]!), Math.max(xy[o]!, xy[o + 2]!), Math.max(xy[o + 1]!, xy[o + 3]!), (m) => {
      if (m === e || !clear[mine] || !clear[island[m]!] || areFine(outline, e, m)) return false;
      clear[mine] = clear[island[m]!] = 0;
      return false;
    });
  }
}

/** Do two outline edges only follow one another, or have room between them? */
function areFine({ xy, next }: Outline, e: number, m: number): boolean {
  if (next[e] === m) return !turnsBack(xy, e, m);
  if (next[m] === e) return !turnsBack(xy, m, e);
  return areApart(xy, e, m);
}

/** An island whose outline is one with that of another that is not clear is not clear either. */
function spread(links: [number, number][], clear: Uint8Array): void {
  for (let changed = links.length > 0; changed;) {
    changed = false;
    for (const [a, b] of links) {
      if (clear[a] === clear[b]) continue;
      clear[a] = clear[b] = 0;
      changed = true;
    }
  }
}

const turn = (xy: Float64Array, a: number, b: number, c: number) =>
  (xy[b]! - xy[a]!) * (xy[c + 1]! - xy[a + 1]!) - (xy[b + 1]! - xy[a + 1]!) * (xy[c]! - xy[a]!);

/** Does an edge run back along the one that it follows? */
function turnsBack(xy: Float64Array, first: number, second: number): boolean {
  const [a, b, c] = [first * 4, first * 4 + 2, second * 4 + 2];
  const scale = Math.hypot(xy[b]! - xy[a]!, xy[b + 1]! - xy[a + 1]!) * Math.hypot(xy[c]! - xy[b]!, xy[c + 1]! - xy[b + 1]!);
  const along = (xy[b]! - xy[a]!) * (xy[c]! - xy[b]!) + (xy[b + 1]! - xy[a + 1]!) * (xy[c + 1]! - xy[b + 1]!);
  return along < 0 && Math.abs(turn(xy, a, b, c)) <= 1e-9 * scale;
}

/** Is there surely room between two segments? */
function areApart(xy: Float64Array, e: number, m: number): boolean {
  const [a, b, c, d] = [e * 4, e * 4 + 2, m * 4, m * 4 + 2];
  const far = 1 + Math.abs(xy[a]!) + Math.abs(xy[a + 1]!);
  const tiny = 1e-12 * far * (Math.hypot(xy[b]! - xy[a]!, xy[b + 1]! - xy[a + 1]!) + Math.hypot(xy[d]! - xy[c]!, xy[d + 1]! - xy[c + 1]!));
  const oneSide = (p: number, q: number) => (p > tiny && q > tiny) || (p < -tiny && q < -tiny);
  return oneSide(turn(xy, a, b, c), turn(xy, a, b, d)) || oneSide(turn(xy, c, d, a), turn(xy, c, d, b));
}

/** Islands with a loop that another one winds round, other than as the rim of its hole, are not clear; nor are those that do the winding. */
function markNested({ xy, island, next }: Outline, clear: Uint8Array): void {
  const n = island.length;
  if (n === 0) return;
  const kept: number[] = [];
  for (let e = 0; e < n; e++) if (clear[island[e]!]) kept.push(e);
  if (kept.length === 0) return;
  const index = new Flatbush(kept.length);
  for (const e of kept)
    index.add(
      Math.min(xy[e * 4]!, xy[e * 4 + 2]!),
      Math.min(xy[e * 4 + 1]!, xy[e * 4 + 3]!),
      Math.max(xy[e * 4]!, xy[e * 4 + 2]!),
      Math.max(xy[e * 4 + 1]!, xy[e * 4 + 3]!),
    );
  index.finish();
  const loop = new Int32Array(n).fill(-1);
  for (const seed of kept) {
    if (loop[seed] !== -1) continue;
    let lowest = seed;
    let twice = 0;
    for (let e = seed; loop[e] === -1; e = next[e]!) {
      loop[e] = seed;
      const o = e * 4;
      twice += xy[o]! * xy[o + 3]! - xy[o + 2]! * xy[o + 1]!;
      if (xy[o + 1]! < xy[lowest * 4 + 1]!) lowest = e;
    }
    const [x, y] = [xy[lowest * 4]!, xy[lowest * 4 + 1]!];
    // what winds round the loop's lowest place: edges of other loops below it
    let winds = 0;
    const by: number[] = [];
    for (const k of index.search(x, -Infinity, x, y)) {
      const e = kept[k]!;
      if (loop[e] === seed) continue;
      const o = e * 4;
      const [x0, x1] = [xy[o]!, xy[o + 2]!];
      if (x0 <= x === x1 <= x) continue;
      const below = xy[o + 1]! + ((x - x0) / (x1 - x0)) * (xy[o + 3]! - xy[o + 1]!) < y;
      if (!below) continue;
      winds += x1 > x0 ? 1 : -1;
      by.push(island[e]!);
    }
    if (winds === (twice > 0 ? 0 : 1)) continue;
    clear[island[seed]!] = 0;
    for (const other of by) clear[other] = 0;
  }
}

/** An island whose box meets that of one that is not clear is looked at with it. */
function widen(mesh: Mesh, set: UvSet, ofFace: Int32Array, clear: Uint8Array): Uint8Array {
  if (!clear.includes(0)) return clear;
  const boxes = new Float64Array(clear.length * 4);
  for (let i = 0; i < clear.length; i++) boxes.set([Infinity, Infinity, -Infinity, -Infinity], i * 4);
  const { cornerFace } = topologyOf(mesh);
  for (let c = 0; c < cornerFace.length; c++) {
    const f = cornerFace[c]!;
    if (set.unplaced[f]) continue;
    const b = ofFace[f]! * 4;
    const u = set.uv[set.cornerUv[c]! * 2]!;
    const v = set.uv[set.cornerUv[c]! * 2 + 1]!;
    if (u < boxes[b]!) boxes[b] = u;
    if (v < boxes[b + 1]!) boxes[b + 1] = v;
    if (u > boxes[b + 2]!) boxes[b + 2] = u;
    if (v > boxes[b + 3]!) boxes[b + 3] = v;
  }
  const index = new Flatbush(clear.length);
  // one without a place has no box: it meets nothing
  for (let i = 0; i < clear.length; i++) {
    const [a, b, c, d] = boxes.subarray(i * 4, i * 4 + 4) as unknown as [number, number, number, number];
    if (a <= c) index.add(a, b, c, d);
    else index.add(1e300, 1e300, 1e300, 1e300);
  }
  index.finish();
  const out = clear.slice();
  for (let i = 0; i < clear.length; i++) {
    if (clear[i] || boxes[i * 4]! > boxes[i * 4 + 2]!) continue;
    for (const j of index.search(boxes[i * 4]!, boxes[i * 4 + 1]!, boxes[i * 4 + 2]!, boxes[i * 4 + 3]!)) out[j] = 0;
  }
  return out;
}
