import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf, type Islands } from '../uv/islands.ts';
import { EdgeState, edgeStates, sharesBothEnds } from '../uv/seamEdges.ts';
import { passRanks } from '../uv/ranks.ts';
import type { UvSet } from '../uv/uvSet.ts';
import type { CutResult } from './cut.ts';

/**
 * Makes seams whole again. Where an edge parts two islands, the one with fewer faces travels (turned, moved and sized so that the
 * shared edge meets) and is joined; within one island both sides meet half way. Seams beside these edges stay seams.
 * @param travelling the island that travels, whatever its size
 * O(corners).
 */
export function uncut(mesh: Mesh, set: UvSet, edges: Iterable<number>, travelling?: number): CutResult {
  const topology = topologyOf(mesh);
  const islands = islandsOf(mesh, set);
  const before = islands.states;
  const changed = [...new Set(edges)].filter((e) => before[e] === EdgeState.seam);
  if (changed.length === 0) return { set, changed };
  const open = new Set(changed);
  const uv = travel(mesh, set, islands, changed, travelling);

  const count = uv.length / 2;
  const root = Int32Array.from({ length: count }, (_, k) => k);
  const find = (k: number): number => {
    while (root[k] !== k) k = root[k] = root[root[k]!]!;
    return k;
  };
  const { twin, cornerFace } = topology;
  for (const e of changed) {
    const a = topology.edgeCorners[topology.edgeStart[e]!]!;
    const b = twin[a]!;
    const pairs = [
      [set.cornerUv[a]!, set.cornerUv[nextCorner(mesh, b, cornerFace[b]!)]!],
      [set.cornerUv[nextCorner(mesh, a, cornerFace[a]!)]!, set.cornerUv[b]!],
    ] as const;
    for (const [x, y] of pairs) {
      const rx = find(x);
      const ry = find(y);
      if (rx !== ry) root[Math.max(rx, ry)] = Math.min(rx, ry);
    }
  }
  // a merged point lies in the middle of the points it was made of
  const sum = new Float64Array(count * 2);
  const parts = new Int32Array(count);
  for (let k = 0; k < count; k++) {
    const r = find(k);
    sum[r * 2]! += uv[k * 2]!;
    sum[r * 2 + 1]! += uv[k * 2 + 1]!;
    parts[r]!++;
  }
  for (let k = 0; k < count; k++) {
    if (parts[k]! < 2) continue;
    uv[k * 2] = sum[k * 2]! / parts[k]!;
    uv[k * 2 + 1] = sum[k * 2 + 1]! / parts[k]!;
  }
  const cornerUv = set.cornerUv.map((k) => find(k));
  const merged: UvSet = { ...set, cornerUv, uv, slits: new Uint32Array(0) };
  // what was a seam and is not one of these edges stays one, as a slit if its ends now hang together
  const slits: number[] = [];
  for (let e = 0; e < topology.edgeCount; e++) {
    if (before[e] !== EdgeState.seam || open.has(e)) continue;
    if (sharesBothEnds(mesh, merged, topology.edgeCorners[topology.edgeStart[e]!]!)) slits.push(e);
  }
  const next: UvSet = { ...merged, slits: Uint32Array.from(slits) };
  const after = edgeStates(mesh, next);
  return { set: passRanks(set, next), changed: changed.filter((e) => after[e] === EdgeState.joined) };
}

/** UV points after the smaller islands have travelled to the larger ones along the given seams. */
function travel(mesh: Mesh, set: UvSet, islands: Islands, seams: number[], travelling: number | undefined): Float64Array {
  const { twin, cornerFace, edgeStart, edgeCorners } = topologyOf(mesh);
  const uv = set.uv.slice();
  const group = Int32Array.from({ length: islands.count }, (_, i) => i);
  const members: number[][] = Array.from({ length: islands.count }, (_, i) => [i]);
  const size = Int32Array.from({ length: islands.count }, (_, i) => islands.start[i + 1]! - islands.start[i]!);
  const between = new Map<string, number[]>();
  for (const e of seams) {
    const a = edgeCorners[edgeStart[e]!]!;
    const i = islands.ofFace[cornerFace[a]!]!;
    const j = islands.ofFace[cornerFace[twin[a]!]!]!;
    if (i === j) continue;
    const key = i < j ? `${i} ${j}` : `${j} ${i}`;
    const list = between.get(key);
    if (list) list.push(a);
    else between.set(key, [a]);
  }
  for (const corners of [...between.values()].sort((x, y) => y.length - x.length)) {
    const a = corners[0]!;
    let stay = group[islands.ofFace[cornerFace[a]!]!]!;
    let go = group[islands.ofFace[cornerFace[twin[a]!]!]!]!;
    if (stay === go) continue;
    const named = travelling === undefined ? -1 : group[travelling]!;
    const swapped = named === stay || (named !== go && size[stay]! < size[go]!);
    if (swapped) [stay, go] = [go, stay];
    const from: number[] = [];
    const to: number[] = [];
    for (const c of corners) {
      const t = twin[c]!;
      const mine = [set.cornerUv[c]!, set.cornerUv[nextCorner(mesh, c, cornerFace[c]!)]!];
      const theirs = [set.cornerUv[nextCorner(mesh, t, cornerFace[t]!)]!, set.cornerUv[t]!];
      for (const p of swapped ? mine : theirs) from.push(p);
      for (const p of swapped ? theirs : mine) to.push(p);
    }
    const move = similarity(uv, from, to);
    const moved = new Set<number>();
    for (const i of members[go]!) {
      group[i] = stay;
      members[stay]!.push(i);
      for (let k = islands.start[i]!; k < islands.start[i + 1]!; k++) {
        const f = islands.faces[k]!;
        for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) moved.add(set.cornerUv[c]!);
      }
    }
    size[stay]! += size[go]!;
    for (const k of moved) {
      const x = uv[k * 2]!;
      const y = uv[k * 2 + 1]!;
      uv[k * 2] = move.a * x - move.b * y + move.x;
      uv[k * 2 + 1] = move.b * x + move.a * y + move.y;
    }
  }
  return uv;
}

/** The turn, size and move that bring points `from` nearest to points `to` (least squares over complex numbers). */
function similarity(uv: Float64Array, from: number[], to: number[]) {
  const n = from.length;
  let fx = 0,
    fy = 0,
    tx = 0,
    ty = 0;
  for (let k = 0; k < n; k++) {
    fx += uv[from[k]! * 2]! / n;
    fy += uv[from[k]! * 2 + 1]! / n;
    tx += uv[to[k]! * 2]! / n;
    ty += uv[to[k]! * 2 + 1]! / n;
  }
  let a = 0,
    b = 0,
    weight = 0;
  for (let k = 0; k < n; k++) {
    const px = uv[from[k]! * 2]! - fx;
    const py = uv[from[k]! * 2 + 1]! - fy;
    const qx = uv[to[k]! * 2]! - tx;
    const qy = uv[to[k]! * 2 + 1]! - ty;
    a += px * qx + py * qy;
    b += px * qy - py * qx;
    weight += px * px + py * py;
  }
  if (!(weight > 0) || a * a + b * b === 0) return { a: 1, b: 0, x: tx - fx, y: ty - fy };
  a /= weight;
  b /= weight;
  return { a, b, x: tx - (a * fx - b * fy), y: ty - (b * fx + a * fy) };
}
