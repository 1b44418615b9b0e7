import { faceCount, nextCorner, pointCount, type Mesh } from '../mesh/mesh.ts';
import { faceNormals } from '../mesh/normals.ts';
import { topologyOf } from '../mesh/topology.ts';
import { foldAngles } from '../seams/crease.ts';
import { shortestPaths } from '../seams/shortestPaths.ts';
import { marksOf, listed } from './convert.ts';
import * as portable from '../numeric/portable.ts';

/** Goes from face to face over edges that `crosses` allows. O(corners reached). */
function floodFaces(mesh: Mesh, seeds: Iterable<number>, crosses: (edge: number, from: number, to: number) => boolean): Uint32Array {
  const { cornerEdge, edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
  const out = new Uint8Array(faceCount(mesh));
  const stack: number[] = [];
  for (const f of seeds) {
    if (out[f]) continue;
    out[f] = 1;
    stack.push(f);
  }
  while (stack.length > 0) {
    const f = stack.pop()!;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const e = cornerEdge[c]!;
      for (let i = edgeStart[e]!; i < edgeStart[e + 1]!; i++) {
        const g = cornerFace[edgeCorners[i]!]!;
        if (out[g] || !crosses(e, f, g)) continue;
        out[g] = 1;
        stack.push(g);
      }
    }
  }
  return listed(out);
}

/** Faces that hang together with the given ones over edges, whatever the layout. */
export const connectedFaces = (mesh: Mesh, faces: Iterable<number>): Uint32Array => floodFaces(mesh, faces, () => true);

/** Faces reached from the given ones over edges that fold less than `angle` degrees. */
export function flatRegion(mesh: Mesh, faces: Iterable<number>, angle: number): Uint32Array {
  const folds = foldAngles(mesh);
  return floodFaces(mesh, faces, (e) => folds[e]! < angle);
}

/** All faces whose normal is within `angle` degrees of the average one of the given faces, wherever they are. O(faces). */
export function sameFacing(mesh: Mesh, faces: Iterable<number>, angle: number): Uint32Array {
  const normals = faceNormals(mesh);
  const average = [0, 0, 0];
  for (const f of faces) for (let d = 0; d < 3; d++) average[d]! += normals[f * 3 + d]!;
  const length = Math.hypot(...average);
  const out = new Uint8Array(faceCount(mesh));
  if (length < 1e-12) return listed(marksOf(out.length, faces));
  const least = portable.cos((angle * Math.PI) / 180) - 1e-12;
  for (let f = 0; f < out.length; f++) {
    const dot = (normals[f * 3]! * average[0]! + normals[f * 3 + 1]! * average[1]! + normals[f * 3 + 2]! * average[2]!) / length;
    if (dot >= least && Math.hypot(normals[f * 3]!, normals[f * 3 + 1]!, normals[f * 3 + 2]!) > 0.5) out[f] = 1;
  }
  return listed(out);
}

/** Edges across quads: from each side of a quad to the one opposite, until a face with another number of sides. O(length). */
export function edgeRing(mesh: Mesh, edge: number): number[] {
  const { edgeStart, edgeCorners, cornerFace, cornerEdge } = topologyOf(mesh);
  const seen = new Set([edge]);
  const out: number[][] = [];
  for (let i = edgeStart[edge]!; i < Math.min(edgeStart[edge + 1]!, edgeStart[edge]! + 2); i++) {
    const way: number[] = [];
    out.push(way);
    let corner = edgeCorners[i]!;
    for (;;) {
      const f = cornerFace[corner]!;
      if (mesh.faceStart[f + 1]! - mesh.faceStart[f]! !== 4) break;
      const across = nextCorner(mesh, nextCorner(mesh, corner, f), f);
      const e = cornerEdge[across]!;
      if (seen.has(e)) break;
      seen.add(e);
      way.push(e);
      if (edgeStart[e + 1]! - edgeStart[e]! !== 2) break;
      const other = edgeCorners[edgeStart[e]!]! === across ? edgeCorners[edgeStart[e]! + 1]! : edgeCorners[edgeStart[e]!]!;
      corner = other;
    }
  }
  return [...(out[1] ?? []).reverse(), edge, ...(out[0] ?? [])];
}

/** Edges of a shortest way between two points, by length in space; empty if there is none. */
export function pointPath(mesh: Mesh, from: number, to: number): number[] {
  const { edgePoints } = topologyOf(mesh);
  const length = (e: number) => Math.hypot(...[0, 1, 2].map((d) => mesh.points[edgePoints[e * 2]! * 3 + d]! - mesh.points[edgePoints[e * 2 + 1]! * 3 + d]!));
  const tree = shortestPaths(mesh, [from], length, to);
  const out: number[] = [];
  for (let p = to; p !== from;) {
    const e = tree.byEdge[p]!;
    if (e < 0) return [];
    out.push(e);
    p = edgePoints[e * 2] === p ? edgePoints[e * 2 + 1]! : edgePoints[e * 2]!;
  }
  return out.reverse();
}

/** Faces of a shortest way between two faces over shared edges (fewest faces); both ends included, empty if there is none. O(corners). */
export function facePath(mesh: Mesh, from: number, to: number): number[] {
  const { cornerEdge, edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
  const before = new Int32Array(faceCount(mesh)).fill(-1);
  before[from] = from;
  let ring = [from];
  while (ring.length > 0 && before[to]! < 0) {
    const next: number[] = [];
    for (const f of ring) {
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        const e = cornerEdge[c]!;
        for (let i = edgeStart[e]!; i < edgeStart[e + 1]!; i++) {
          const g = cornerFace[edgeCorners[i]!]!;
          if (before[g]! >= 0) continue;
          before[g] = f;
          next.push(g);
        }
      }
    }
    ring = next;
  }
  if (before[to]! < 0) return [];
  const out = [to];
  while (out.at(-1) !== from) out.push(before[out.at(-1)!]!);
  return out.reverse();
}

/**
 * For each point the one at its mirror image across the plane coordinate[axis] = at, or −1. Points are looked up in cells of the
 * tolerance, by hash. O(points).
 */
export function mirrorPoints(mesh: Mesh, axis: 0 | 1 | 2, at: number, tolerance: number): Int32Array {
  const cell = Math.max(tolerance, 1e-12) * 2;
  const { points } = mesh;
  const n = pointCount(mesh);
  // chains of points whose cells have one hash; that different cells may share one costs time only
  let size = 16;
  while (size < n * 2) size *= 2;
  const hash = (x: number, y: number, z: number) => (Math.imul(x, 73856093) ^ Math.imul(y, 19349663) ^ Math.imul(z, 83492791)) & (size - 1);
  const first = new Int32Array(size).fill(-1);
  const next = new Int32Array(n);
  for (let p = n - 1; p >= 0; p--) {
    const h = hash(Math.floor(points[p * 3]! / cell), Math.floor(points[p * 3 + 1]! / cell), Math.floor(points[p * 3 + 2]! / cell));
    next[p] = first[h]!;
    first[h] = p;
  }
  const out = new Int32Array(n).fill(-1);
  for (let p = 0; p < n; p++) {
    const ix = axis === 0 ? 2 * at - points[p * 3]! : points[p * 3]!;
    const iy = axis === 1 ? 2 * at - points[p * 3 + 1]! : points[p * 3 + 1]!;
    const iz = axis === 2 ? 2 * at - points[p * 3 + 2]! : points[p * 3 + 2]!;
    const [toX, toY, toZ] = [Math.floor((ix + tolerance) / cell), Math.floor((iy + tolerance) / cell), Math.floor((iz + tolerance) / cell)];
    let nearest = tolerance * tolerance;
    for (let x = Math.floor((ix - tolerance) / cell); x <= toX; x++) {
      for (let y = Math.floor((iy - tolerance) / cell); y <= toY; y++) {
        for (let z = Math.floor((iz - tolerance) / cell); z <= toZ; z++) {
          for (let q = first[hash(x, y, z)]!; q >= 0; q = next[q]!) {
            const d = (points[q * 3]! - ix) ** 2 + (points[q * 3 + 1]! - iy) ** 2 + (points[q * 3 + 2]! - iz) ** 2;
            if (d <= nearest) {
              nearest = d;
              out[p] = q;
            }
          }
        }
      }
    }
  }
  return out;
}
