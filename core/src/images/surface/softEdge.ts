import TinyQueue from 'tinyqueue';
import type { Mesh } from '../../mesh/mesh.ts';
import { faceNormals } from '../../mesh/normals.ts';
import { topologyOf } from '../../mesh/topology.ts';

/** Numbers a corner that a soft edge takes at most: so many border edges of a face are told apart. */
export const mostSoftFields = 12;

/** 1 on the corners of some faces. */
export function onFaces(mesh: Mesh, has: (face: number) => boolean): Float64Array {
  const out = new Float64Array(mesh.corners.length);
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) if (has(f)) out.fill(1, mesh.faceStart[f], mesh.faceStart[f + 1]);
  return out;
}

/**
 * How far within some faces each place is, in lengths of `soft` from their common border; 0 on all other faces. The least of the fields at a place, no more
 * than 1, is the mask: each is linear over a face, as distances from a straight edge are, so that a face keeps up to `most` border edges of its own exactly,
 * however large it is (of more, so many that are spread round it). Faces without a border edge have the distances of their corners, over the faces' edges and
 * diagonals (E. W. Dijkstra, 1959). Borders of the mesh itself are none.
 * @returns as many fields as a face needs, one number a corner. O(corners log corners)
 */
export function softEdge(mesh: Mesh, has: (face: number) => boolean, soft: number, most = mostSoftFields): Float64Array[] {
  if (soft <= 0) return [onFaces(mesh, has)];
  const { points, corners, faceStart } = mesh;
  const topology = topologyOf(mesh);
  const { edgeStart, edgeCorners, cornerFace, cornerEdge, edgeCount } = topology;
  const isBorder = new Uint8Array(edgeCount);
  for (let e = 0; e < edgeCount; e++) {
    let inside = false;
    let outside = false;
    for (let i = edgeStart[e]!; i < edgeStart[e + 1]!; i++) {
      if (has(cornerFace[edgeCorners[i]!]!)) inside = true;
      else outside = true;
    }
    if (inside && outside) isBorder[e] = 1;
  }
  const normals = faceNormals(mesh);
  /** Distances of a face's corners from the line of its border edge that begins at a corner; negative: beyond it. */
  const fromEdge = (f: number, c: number): number[] => {
    const [first, end] = [faceStart[f]!, faceStart[f + 1]!];
    const a = corners[c]! * 3;
    const b = corners[c + 1 === end ? first : c + 1]! * 3;
    const along = [0, 1, 2].map((d) => points[b + d]! - points[a + d]!);
    const length = Math.hypot(...along) || 1;
    const n = [0, 1, 2].map((d) => normals[f * 3 + d]!);
    // into the face: its normal across the edge
    const inward = [0, 1, 2].map((d) => (n[(d + 1) % 3]! * along[(d + 2) % 3]! - n[(d + 2) % 3]! * along[(d + 1) % 3]!) / length);
    return Array.from({ length: end - first }, (_, k) => {
      const p = corners[first + k]! * 3;
      return [0, 1, 2].reduce((sum, d) => sum + inward[d]! * (points[p + d]! - points[a + d]!), 0);
    });
  };
  const linesOf = (f: number): number[][] => {
    const found: number[][] = [];
    for (let c = faceStart[f]!; c < faceStart[f + 1]!; c++) {
      if (!isBorder[cornerEdge[c]!]) continue;
      const line = fromEdge(f, c);
      // a line that parts its own face, at a notch, says nothing of what is beyond
      if (line.every((at) => at >= -1e-6 * soft)) found.push(line);
    }
    if (found.length <= most) return found;
    // one number a corner can only say the least of them; of several, some that are spread round the face
    if (most === 1) return [found[0]!.map((_, k) => Math.min(...found.map((line) => line[k]!)))];
    return Array.from({ length: most }, (_, k) => found[Math.floor((k * found.length) / most)]!);
  };
  const lines = new Map<number, number[][]>();
  let count = 1;
  for (let f = 0; f + 1 < faceStart.length; f++) {
    if (!has(f)) continue;
    const own = linesOf(f);
    if (own.length === 0) continue;
    lines.set(f, own);
    count = Math.max(count, own.length);
  }
  const distance = cornerDistances(mesh, has, lines, isBorder, soft);
  const fields = Array.from({ length: count }, () => new Float64Array(corners.length));
  for (let f = 0; f + 1 < faceStart.length; f++) {
    if (!has(f)) continue;
    const own = lines.get(f);
    for (let c = faceStart[f]!; c < faceStart[f + 1]!; c++)
      for (let k = 0; k < count; k++) fields[k]![c] = (own ? own[Math.min(k, own.length - 1)]![c - faceStart[f]!]! : distance[corners[c]!]!) / soft;
  }
  return fields;
}

/** Distance of the points of some faces from their border, units; those beyond `soft` and not beside what is nearer: twice as far. */
function cornerDistances(mesh: Mesh, has: (face: number) => boolean, lines: ReadonlyMap<number, number[][]>, isBorder: Uint8Array, soft: number): Float64Array {
  const { points, corners, faceStart } = mesh;
  const { edgePoints, pointStart, pointCorners, cornerFace } = topologyOf(mesh);
  const distance = new Float64Array(points.length / 3).fill(soft * 2);
  const queue = new TinyQueue<{ point: number; at: number }>([], (a, b) => a.at - b.at);
  const reach = (point: number, at: number) => {
    if (at >= distance[point]!) return;
    distance[point] = at;
    if (at <= soft) queue.push({ point, at });
  };
  isBorder.forEach((on, e) => {
    if (!on) return;
    reach(edgePoints[e * 2]!, 0);
    reach(edgePoints[e * 2 + 1]!, 0);
  });
  // straight from the border edges of a face to its other corners
  for (const [f, own] of lines) for (const line of own) line.forEach((at, k) => reach(corners[faceStart[f]! + k]!, Math.max(0, at)));
  for (let next = queue.pop(); next; next = queue.pop()) {
    const p = next.point;
    if (next.at > distance[p]!) continue;
    for (let i = pointStart[p]!; i < pointStart[p + 1]!; i++) {
      const f = cornerFace[pointCorners[i]!]!;
      if (!has(f)) continue;
      for (let c = faceStart[f]!; c < faceStart[f + 1]!; c++) {
        const q = corners[c]!;
        reach(q, next.at + Math.hypot(points[p * 3]! - points[q * 3]!, points[p * 3 + 1]! - points[q * 3 + 1]!, points[p * 3 + 2]! - points[q * 3 + 2]!));
      }
    }
  }
  return distance;
}
