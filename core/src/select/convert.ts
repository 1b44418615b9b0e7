import { faceCount, pointCount, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import type { Islands } from '../uv/islands.ts';

export const elementKinds = ['points', 'edges', 'faces', 'islands'] as const;
/** What can be selected: numbers of mesh points, of the topology's edges, of faces, of the present layout's islands. */
export type ElementKind = (typeof elementKinds)[number];

/** How many elements of a kind there are. */
export function elementCount(mesh: Mesh, islands: Islands, kind: ElementKind): number {
  if (kind === 'points') return pointCount(mesh);
  if (kind === 'edges') return topologyOf(mesh).edgeCount;
  return kind === 'faces' ? faceCount(mesh) : islands.count;
}

/** 1 for each listed element. */
export function marksOf(count: number, ids: Iterable<number>): Uint8Array {
  const out = new Uint8Array(count);
  for (const id of ids) if (id < count) out[id] = 1;
  return out;
}

/** The listed elements of an array of flags, rising. */
export function listed(flagged: Uint8Array): Uint32Array {
  let n = 0;
  for (let k = 0; k < flagged.length; k++) if (flagged[k]) n++;
  const out = new Uint32Array(n);
  n = 0;
  for (let k = 0; k < flagged.length; k++) if (flagged[k]) out[n++] = k;
  return out;
}

/**
 * The same selection in another kind. Up (points → edges → faces → islands): `touching` takes whatever meets the selection, `within`
 * only what it covers whole. Down: all that belongs to it. O(corners).
 */
export function convertSelection(
  mesh: Mesh,
  islands: Islands,
  from: ElementKind,
  ids: Iterable<number>,
  to: ElementKind,
  rule: 'touching' | 'within' = 'within',
): Uint32Array {
  const given = marksOf(elementCount(mesh, islands, from), ids);
  if (from === to) return listed(given);
  if (to === 'islands') {
    const faces = from === 'faces' ? given : marksOf(faceCount(mesh), convertSelection(mesh, islands, from, ids, 'faces', 'touching'));
    const out = new Uint8Array(islands.count);
    for (let f = 0; f < faces.length; f++) if (faces[f]) out[islands.ofFace[f]!] = 1;
    return listed(out);
  }
  if (from === 'islands') {
    const faces = new Uint8Array(faceCount(mesh));
    for (let f = 0; f < faces.length; f++) faces[f] = given[islands.ofFace[f]!]!;
    return convertSelection(mesh, islands, 'faces', listed(faces), to, rule);
  }
  const { edgePoints, edgeCount, cornerFace, cornerEdge, edgeStart, edgeCorners } = topologyOf(mesh);
  const out = new Uint8Array(elementCount(mesh, islands, to));
  if (to === 'points') {
    if (from === 'edges') {
      for (let e = 0; e < edgeCount; e++) if (given[e]) out[edgePoints[e * 2]!] = out[edgePoints[e * 2 + 1]!] = 1;
    } else for (let c = 0; c < cornerFace.length; c++) if (given[cornerFace[c]!]) out[mesh.corners[c]!] = 1;
  } else if (to === 'edges') {
    if (from === 'points') {
      for (let e = 0; e < edgeCount; e++) {
        const hits = given[edgePoints[e * 2]!]! + given[edgePoints[e * 2 + 1]!]!;
        if (hits === 2 || (rule === 'touching' && hits > 0)) out[e] = 1;
      }
    } else for (let c = 0; c < cornerFace.length; c++) if (given[cornerFace[c]!]) out[cornerEdge[c]!] = 1;
  } else if (rule === 'touching') {
    if (from === 'points') {
      for (let c = 0; c < cornerFace.length; c++) if (given[mesh.corners[c]!]) out[cornerFace[c]!] = 1;
    } else for (let e = 0; e < edgeCount; e++) if (given[e]) for (let i = edgeStart[e]!; i < edgeStart[e + 1]!; i++) out[cornerFace[edgeCorners[i]!]!] = 1;
  } else {
    const covered = (c: number) => (from === 'points' ? given[mesh.corners[c]!] : given[cornerEdge[c]!]);
    for (let f = 0; f < out.length; f++) {
      out[f] = 1;
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) if (!covered(c)) out[f] = 0;
    }
  }
  return listed(out);
}

/** The selection and all elements of its kind that share a point with it; islands: those that meet along a seam. O(corners). */
export function growSelection(mesh: Mesh, islands: Islands, kind: ElementKind, ids: Iterable<number>): Uint32Array {
  if (kind === 'points') {
    const { edgePoints, edgeCount } = topologyOf(mesh);
    const given = marksOf(pointCount(mesh), ids);
    const out = given.slice();
    for (let e = 0; e < edgeCount; e++) {
      const [a, b] = [edgePoints[e * 2]!, edgePoints[e * 2 + 1]!];
      if (given[a]) out[b] = 1;
      if (given[b]) out[a] = 1;
    }
    return listed(out);
  }
  const points = convertSelection(mesh, islands, kind, ids, 'points');
  return convertSelection(mesh, islands, 'points', points, kind, 'touching');
}

/** The selection without the elements that share a point with an unselected one: grow undone where nothing merged. O(corners). */
export function shrinkSelection(mesh: Mesh, islands: Islands, kind: ElementKind, ids: Iterable<number>): Uint32Array {
  return invertSelection(mesh, islands, kind, growSelection(mesh, islands, kind, invertSelection(mesh, islands, kind, ids)));
}

/** Every element of the kind that is not selected. */
export function invertSelection(mesh: Mesh, islands: Islands, kind: ElementKind, ids: Iterable<number>): Uint32Array {
  const given = marksOf(elementCount(mesh, islands, kind), ids);
  return listed(given.map((x) => 1 - x));
}

/** Edges between chosen faces and the rest, the mesh's own border included. O(corners). */
export function borderOfFaces(mesh: Mesh, faces: Iterable<number>): Uint32Array {
  const { edgeCount, edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
  const given = marksOf(faceCount(mesh), faces);
  const out = new Uint8Array(edgeCount);
  for (let e = 0; e < edgeCount; e++) {
    let chosen = 0;
    const uses = edgeStart[e + 1]! - edgeStart[e]!;
    for (let i = edgeStart[e]!; i < edgeStart[e + 1]!; i++) chosen += given[cornerFace[edgeCorners[i]!]!]!;
    if (chosen > 0 && (chosen < uses || uses === 1)) out[e] = 1;
  }
  return listed(out);
}

/** Element numbers in rising order, each once. O(n log n). */
export function rising(ids: ArrayLike<number>): Uint32Array {
  const sorted = Uint32Array.from(ids).sort();
  return sorted.filter((id, k) => k === 0 || id !== sorted[k - 1]);
}
