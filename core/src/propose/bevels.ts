import TinyQueue from 'tinyqueue';
import type { Mesh } from '../mesh/mesh.ts';
import { faceAreas, faceNormals } from '../mesh/normals.ts';
import { topologyOf } from '../mesh/topology.ts';
import { edgeLengths, foldAngles } from '../seams/crease.ts';
import * as portable from '../numeric/portable.ts';

export const bevelWays = ['larger', 'half', 'apart'] as const;
/** Bevels and rounded edges stay with the larger neighbour, are parted in their middle, or become islands of their own. */
export type BevelWay = (typeof bevelWays)[number];

/** A group counts as a bevel when it is narrower than so much of a neighbour, and where they meet is turned from the facing of its neighbours by no more degrees than this. */
const narrow = 0.5;
const mostFold = 65;

/**
 * Groups of faces without those that are bevels or rounded edges: their faces go to the groups on both sides of them, so that no such strip becomes an
 * island of its own and no edge is cut twice. Strips that meet at a corner are parted from one another there, since no corner lies flat. Our own.
 *
 * @param group a number from 0 for each face
 * @returns the new group of each face, and 1 for each edge to be cut within a group
 * O(E log E).
 */
export function absorbBevels(mesh: Mesh, group: Int32Array, way: BevelWay = 'larger'): { group: Int32Array; corners: Uint8Array } {
  const { cornerEdge, cornerFace, twin, edgeCount, edgeStart, edgeCorners } = topologyOf(mesh);
  const corners = new Uint8Array(edgeCount);
  if (way === 'apart') return { group, corners };
  const lengths = edgeLengths(mesh);
  const folds = foldAngles(mesh);
  const areas = faceAreas(mesh);
  const count = group.reduce((most, g) => Math.max(most, g), -1) + 1;
  const area = new Float64Array(count);
  const border = new Float64Array(count);
  const folded = new Float64Array(count);
  const shared = new Float64Array(count);
  const neighbours: Set<number>[] = Array.from({ length: count }, () => new Set());
  const normals = faceNormals(mesh);
  const means = new Float64Array(count * 3);
  for (let f = 0; f < group.length; f++) {
    area[group[f]!]! += areas[f]!;
    for (let d = 0; d < 3; d++) means[group[f]! * 3 + d]! += areas[f]! * normals[f * 3 + d]!;
  }
  for (let c = 0; c < twin.length; c++) {
    const g = group[cornerFace[c]!]!;
    const length = lengths[cornerEdge[c]!]!;
    if (twin[c]! < 0) {
      border[g]! += length;
      continue;
    }
    const h = group[cornerFace[twin[c]!]!]!;
    if (g === h) continue;
    border[g]! += length;
    shared[g]! += length;
    folded[g]! += length * turnBetween(normals, cornerFace[c]! * 3, means, h * 3);
    neighbours[g]!.add(h);
  }
  const width = (g: number) => (2 * area[g]!) / (border[g]! || 1);
  /** The width of the wide group that a strip lies next to, or next to one that does. */
  const reach = new Float64Array(count);
  const isBevel = new Uint8Array(count);
  // strips side by side, as of a rounded edge, are told by the one that lies next to something wide
  for (let changed = true; changed;) {
    changed = false;
    for (let g = 0; g < count; g++) {
      if (isBevel[g] || !(folded[g]! <= mostFold * shared[g]!)) continue;
      const about = [...neighbours[g]!];
      const next = about.some((h) => isBevel[h]);
      const widest = about.reduce((most, h) => Math.max(most, isBevel[h] ? reach[h]! : width(h)), 0);
      if (about.length < 2 || !(width(g) < narrow * widest) || (!next && about.filter((h) => width(g) < width(h)).length === 0)) continue;
      isBevel[g] = 1;
      reach[g] = widest;
      changed = true;
    }
  }
  if (!isBevel.includes(1)) return { group, corners };

  // each such face is reached from the groups about it, along the way that folds least: the two nearest count
  const faces = group.length;
  const first = new Int32Array(faces).fill(-1);
  const second = new Int32Array(faces).fill(-1);
  const queue = new TinyQueue<{ cost: number; face: number; from: number }>([], (a, b) => a.cost - b.cost || area[b.from]! - area[a.from]! || a.from - b.from);
  const step = (f: number, from: number, cost: number) => {
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const g = twin[c]! < 0 ? -1 : cornerFace[twin[c]!]!;
      if (g < 0 || !isBevel[group[g]!] || first[g] === from || second[g] !== -1) continue;
      queue.push({ cost: Math.round((cost + folds[cornerEdge[c]!]! + 1e-3) * 1e6) / 1e6, face: g, from });
    }
  };
  for (let f = 0; f < faces; f++) if (!isBevel[group[f]!]) step(f, group[f]!, 0);
  for (let item = queue.pop(); item; item = queue.pop()) {
    const { cost, face, from } = item;
    if (first[face] === from || second[face] !== -1) continue;
    if (first[face] === -1) first[face] = from;
    else second[face] = from;
    step(face, from, cost);
  }
  const out = group.slice();
  for (let f = 0; f < faces; f++) {
    if (!isBevel[group[f]!] || first[f]! < 0) continue;
    const [a, b] = [first[f]!, second[f]!];
    out[f] = way === 'half' || b < 0 || area[a]! > area[b]! * (1 + 1e-6) ? a : area[b]! > area[a]! * (1 + 1e-6) ? b : Math.min(a, b);
  }
  // a strip is told by the two groups it lies between
  const strip = (f: number) => (isBevel[group[f]!] && first[f]! >= 0 ? Math.min(first[f]!, second[f]!) * count + Math.max(first[f]!, second[f]!) : -1);
  for (let e = 0; e < edgeCount; e++) {
    if (edgeStart[e + 1]! - edgeStart[e]! !== 2) continue;
    const f = cornerFace[edgeCorners[edgeStart[e]!]!]!;
    const g = cornerFace[edgeCorners[edgeStart[e]! + 1]!]!;
    const [s, t] = [strip(f), strip(g)];
    if (s >= 0 && t >= 0 && s !== t && out[f] === out[g]) corners[e] = 1;
  }
  joinLoose(mesh, out, corners, (f) => isBevel[group[f]!] === 1);
  return { group: out, corners };
}

/** Degrees between a direction of one list and one of another. */
function turnBetween(a: Float64Array, i: number, b: Float64Array, j: number): number {
  const dot = a[i]! * b[j]! + a[i + 1]! * b[j + 1]! + a[i + 2]! * b[j + 2]!;
  const long = Math.hypot(a[i]!, a[i + 1]!, a[i + 2]!) * Math.hypot(b[j]!, b[j + 1]!, b[j + 2]!);
  return long > 0 ? (portable.acos(Math.max(-1, Math.min(1, dot / long))) * 180) / Math.PI : 0;
}

/** Pieces of strips that hang on no other face, as may be left at a corner, go to the piece they share most of their border with. */
function joinLoose(mesh: Mesh, group: Int32Array, corners: Uint8Array, isStrip: (f: number) => boolean): void {
  const { cornerEdge, cornerFace, twin } = topologyOf(mesh);
  const lengths = edgeLengths(mesh);
  const faces = group.length;
  for (let round = 0; round < 20; round++) {
    const piece = new Int32Array(faces).fill(-1);
    const members: number[][] = [];
    for (let seed = 0; seed < faces; seed++) {
      if (piece[seed] !== -1) continue;
      const list = [seed];
      piece[seed] = members.length;
      for (let k = 0; k < list.length; k++) {
        const f = list[k]!;
        for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
          const g = twin[c]! < 0 ? -1 : cornerFace[twin[c]!]!;
          if (g < 0 || piece[g] !== -1 || group[g] !== group[f] || corners[cornerEdge[c]!]) continue;
          piece[g] = members.length;
          list.push(g);
        }
      }
      members.push(list);
    }
    let changed = false;
    for (const [i, list] of members.entries()) {
      if (!list.every(isStrip)) continue;
      const border = new Map<number, { length: number; edges: number[]; group: number }>();
      for (const f of list)
        for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
          const g = twin[c]! < 0 ? -1 : cornerFace[twin[c]!]!;
          if (g < 0 || piece[g] === i) continue;
          const one = border.get(piece[g]!) ?? { length: 0, edges: [], group: group[g]! };
          one.length += lengths[cornerEdge[c]!]!;
          one.edges.push(cornerEdge[c]!);
          border.set(piece[g]!, one);
        }
      const best = [...border].sort((a, b) => b[1].length - a[1].length || a[0] - b[0])[0]?.[1];
      if (!best) continue;
      // it stays parted from the other pieces of its new group
      for (const { edges } of border.values()) for (const e of edges) corners[e] = 1;
      for (const e of best.edges) corners[e] = 0;
      for (const f of list) group[f] = best.group;
      changed = true;
      break;
    }
    if (!changed) return;
  }
}
