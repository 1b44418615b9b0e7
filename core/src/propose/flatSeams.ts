import type { Mesh } from '../mesh/mesh.ts';
import { faceAreas, faceNormals } from '../mesh/normals.ts';
import { topologyOf } from '../mesh/topology.ts';
import { absorbBevels, type BevelWay } from './bevels.ts';
import { creaseEdges, edgeLengths } from '../seams/crease.ts';
import { cut } from '../seams/cut.ts';
import { islandsOf } from '../uv/islands.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import * as portable from '../numeric/portable.ts';

/**
 * Borders of near-flat groups: faces join the group whose mean facing they are within an angle of, flattest and largest first; groups of next to
 * nothing go to the neighbour with the longest common border.
 *
 * Growing groups by facing is common practice, no source.
 *
 * @param angle degrees from the mean facing of a group; default 45
 * @param bevels where bevels and rounded edges stay (see `absorbBevels`)
 * @param least smallest share of the whole area that a group may have; default 0.01
 * @returns edges between groups, rising
 * O(F log F).
 */
export function flatSeams(mesh: Mesh, angle = 45, least = 0.01, bevels: BevelWay = 'larger'): number[] {
  const { cornerEdge, cornerFace, twin, edgeCount, edgeStart, edgeCorners } = topologyOf(mesh);
  const faces = mesh.faceStart.length - 1;
  const normals = faceNormals(mesh);
  const lengths = edgeLengths(mesh);
  const area = faceAreas(mesh);
  const whole = area.reduce((sum, a) => sum + a, 0);
  const group = new Int32Array(faces).fill(-1);
  const limit = portable.cos((angle * Math.PI) / 180);
  // large faces first: they say best how a group lies
  const order = Uint32Array.from({ length: faces }, (_, f) => f).sort((a, b) => area[b]! - area[a]! || a - b);
  let groups = 0;
  const size: number[] = [];
  for (const seed of order) {
    if (group[seed] !== -1) continue;
    const mean = [0, 0, 0];
    const list = [seed];
    group[seed] = groups;
    size[groups] = 0;
    for (let k = 0; k < list.length; k++) {
      const f = list[k]!;
      size[groups]! += area[f]!;
      for (let d = 0; d < 3; d++) mean[d]! += normals[f * 3 + d]! * area[f]!;
      const long = Math.hypot(mean[0]!, mean[1]!, mean[2]!) || 1;
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        const t = twin[c]!;
        if (t < 0) continue;
        const g = cornerFace[t]!;
        if (group[g] !== -1) continue;
        if ((normals[g * 3]! * mean[0]! + normals[g * 3 + 1]! * mean[1]! + normals[g * 3 + 2]! * mean[2]!) / long < limit) continue;
        group[g] = groups;
        list.push(g);
      }
    }
    groups++;
  }
  const absorbed = absorbBevels(mesh, group, bevels);
  group.set(absorbed.group);
  size.fill(0);
  for (let f = 0; f < faces; f++) size[group[f]!]! += area[f]!;
  // crumbs, the smallest first
  const members: number[][] = Array.from({ length: groups }, () => []);
  for (let f = 0; f < faces; f++) members[group[f]!]!.push(f);
  const crumbs = [...size.keys()].filter((i) => size[i]! < least * whole).sort((a, b) => size[a]! - size[b]!);
  for (const i of crumbs) {
    if (size[i]! >= least * whole) continue;
    const border = new Map<number, number>();
    for (const f of members[i]!) {
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        if (twin[c]! < 0) continue;
        const other = group[cornerFace[twin[c]!]!]!;
        if (other !== i) border.set(other, (border.get(other) ?? 0) + lengths[cornerEdge[c]!]!);
      }
    }
    const [to] = [...border].sort((a, b) => b[1] - a[1])[0] ?? [-1];
    if (to < 0) continue;
    for (const f of members[i]!) group[f] = to;
    for (const f of members[i]!) members[to]!.push(f);
    members[i] = [];
    size[to]! += size[i]!;
    size[i] = 0;
  }
  const edges: number[] = [];
  for (let e = 0; e < edgeCount; e++) {
    if (edgeStart[e + 1]! - edgeStart[e]! !== 2) continue;
    const [a, b] = [edgeCorners[edgeStart[e]!]!, edgeCorners[edgeStart[e]! + 1]!];
    if (group[cornerFace[a]!] !== group[cornerFace[b]!] || absorbed.corners[e]) edges.push(e);
  }
  return edges;
}

/**
 * Edges that fold by `angle` degrees and more, but for the two sides of bevels and rounded edges: those are cut once (see `absorbBevels`).
 * @returns edges, rising
 * O(E log E).
 */
export function creaseSeams(mesh: Mesh, angle = 40, bevels: BevelWay = 'larger'): number[] {
  const { cornerFace, edgeStart, edgeCorners, twin } = topologyOf(mesh);
  const creases = creaseEdges(mesh, angle);
  const islands = islandsOf(mesh, cut(mesh, emptyUvSet(mesh), creases).set);
  const { group, corners } = absorbBevels(mesh, Int32Array.from(islands.ofFace), bevels);
  const folds = new Uint8Array(corners.length);
  for (const e of creases) folds[e] = 1;
  const out: number[] = [];
  for (let e = 0; e < corners.length; e++) {
    const c = edgeCorners[edgeStart[e]!]!;
    if (twin[c]! < 0) continue;
    const [f, g] = [cornerFace[c]!, cornerFace[twin[c]!]!];
    // within a bevel a fold is no border any more
    const stays = folds[e] === 1 && (islands.ofFace[f] === islands.ofFace[g] ? group[f] === islands.ofFace[f] : group[f] !== group[g]);
    if (stays || corners[e] || (group[f] !== group[g] && islands.ofFace[f] === islands.ofFace[g])) out.push(e);
  }
  return out;
}
