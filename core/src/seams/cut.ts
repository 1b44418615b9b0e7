import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf } from '../uv/islands.ts';
import { EdgeState, sharesBothEnds } from '../uv/seamEdges.ts';
import { passRanks } from '../uv/ranks.ts';
import type { UvSet } from '../uv/uvSet.ts';

export interface CutResult {
  set: UvSet;
  /** Edges that are seams now and were not before. */
  changed: number[];
}

/**
 * Makes edges seams. UV points are split only round the ends of these edges; no UV point moves. Edges that part nothing yet are
 * kept as slits. Borders and non-manifold edges are passed over: nothing runs across them anyway.
 * O(corners at the touched points) after copying the corner array.
 */
export function cut(mesh: Mesh, set: UvSet, edges: Iterable<number>): CutResult {
  const topology = topologyOf(mesh);
  const states = islandsOf(mesh, set).states.slice();
  const changed: number[] = [];
  for (const e of edges) {
    if (states[e] !== EdgeState.joined) continue;
    states[e] = EdgeState.seam;
    changed.push(e);
  }
  if (changed.length === 0) return { set, changed };
  const cornerUv = set.cornerUv.slice();
  const added: number[] = [];
  let uvCount = set.uv.length / 2;
  const touched = new Set<number>();
  for (const e of changed) {
    touched.add(topology.edgePoints[e * 2]!);
    touched.add(topology.edgePoints[e * 2 + 1]!);
  }
  for (const p of touched) {
    const fans = fansAt(mesh, states, p);
    // the first fan that uses a UV point keeps it
    const owner = new Map<number, number>();
    for (let k = 0; k < fans.length; k++) {
      const renamed = new Map<number, number>();
      for (const c of fans[k]!) {
        const old = cornerUv[c]!;
        const keeper = owner.get(old);
        if (keeper === undefined || keeper === k) {
          owner.set(old, k);
          continue;
        }
        let fresh = renamed.get(old);
        if (fresh === undefined) {
          fresh = uvCount++;
          added.push(old);
          renamed.set(old, fresh);
        }
        cornerUv[c] = fresh;
      }
    }
  }
  const uv = new Float64Array(uvCount * 2);
  uv.set(set.uv);
  const pins = new Uint8Array(uvCount);
  pins.set(set.pins);
  const before = set.uv.length / 2;
  for (let k = 0; k < added.length; k++) {
    uv[(before + k) * 2] = uv[added[k]! * 2]!;
    uv[(before + k) * 2 + 1] = uv[added[k]! * 2 + 1]!;
    pins[before + k] = pins[added[k]!]!;
  }
  const split: UvSet = { ...set, cornerUv, uv, pins, slits: new Uint32Array(0) };
  const slits = [...set.slits, ...changed].filter((e) => sharesBothEnds(mesh, split, topology.edgeCorners[topology.edgeStart[e]!]!));
  return { set: passRanks(set, { ...split, slits: Uint32Array.from(slits).sort() }), changed };
}

/** The corners at point p, in groups that hang together across joined edges; larger groups first. */
function fansAt(mesh: Mesh, states: Uint8Array, p: number): number[][] {
  const { pointStart, pointCorners, twin, cornerFace, cornerEdge } = topologyOf(mesh);
  const corners = pointCorners.subarray(pointStart[p]!, pointStart[p + 1]!);
  const place = new Map<number, number>();
  corners.forEach((c, k) => place.set(c, k));
  const root = Int32Array.from(corners, (_, k) => k);
  const find = (k: number): number => {
    while (root[k] !== k) k = root[k] = root[root[k]!]!;
    return k;
  };
  for (let k = 0; k < corners.length; k++) {
    const c = corners[k]!;
    if (states[cornerEdge[c]!] !== EdgeState.joined) continue;
    const t = twin[c]!;
    root[find(k)] = find(place.get(nextCorner(mesh, t, cornerFace[t]!))!);
  }
  const groups = new Map<number, number[]>();
  for (let k = 0; k < corners.length; k++) {
    const r = find(k);
    const group = groups.get(r);
    if (group) group.push(corners[k]!);
    else groups.set(r, [corners[k]!]);
  }
  return [...groups.values()].sort((a, b) => b.length - a.length);
}

/** Splits UV points that are shared by corners which do not hang together round their point, so that each island is a plain piece. O(corners of the faces). */
export function separateFans(mesh: Mesh, set: UvSet, faces: Iterable<number>): UvSet {
  const { states } = islandsOf(mesh, set);
  const { edgePoints, edgeCount, pointStart, pointCorners } = topologyOf(mesh);
  // round points off all seams and borders the corners hang together
  const onBorder = new Uint8Array(mesh.points.length / 3);
  for (let e = 0; e < edgeCount; e++) if (states[e] !== EdgeState.joined) onBorder[edgePoints[e * 2]!] = onBorder[edgePoints[e * 2 + 1]!] = 1;
  const seen = new Uint8Array(onBorder.length);
  const owner = new Int32Array(set.uv.length / 2).fill(-1);
  const cornerUv = set.cornerUv.slice();
  const copies: number[] = [];
  let uvCount = set.uv.length / 2;
  let fan = 0;
  const claim = (corners: ArrayLike<number>) => {
    fan++;
    let renamed: Map<number, number> | null = null;
    for (let k = 0; k < corners.length; k++) {
      const c = corners[k]!;
      const old = cornerUv[c]!;
      if (owner[old]! < 0 || owner[old] === fan) {
        owner[old] = fan;
        continue;
      }
      renamed ??= new Map();
      if (!renamed.has(old)) {
        renamed.set(old, uvCount++);
        copies.push(old);
      }
      cornerUv[c] = renamed.get(old)!;
    }
  };
  for (const f of faces) {
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const p = mesh.corners[c]!;
      if (seen[p]) continue;
      seen[p] = 1;
      if (onBorder[p]) for (const group of fansAt(mesh, states, p)) claim(group);
      else claim(pointCorners.subarray(pointStart[p]!, pointStart[p + 1]!));
    }
  }
  if (copies.length === 0) return set;
  const uv = new Float64Array(uvCount * 2);
  uv.set(set.uv);
  const pins = new Uint8Array(uvCount);
  pins.set(set.pins);
  copies.forEach((old, k) => {
    const at = set.uv.length / 2 + k;
    uv[at * 2] = uv[old * 2]!;
    uv[at * 2 + 1] = uv[old * 2 + 1]!;
  });
  return { ...set, cornerUv, uv, pins };
}
