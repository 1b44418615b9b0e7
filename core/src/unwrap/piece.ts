import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { islandsOf } from '../uv/islands.ts';
import { keepsLength, straightCorners, wayOf } from '../uv/straight.ts';
import type { UvSet } from '../uv/uvSet.ts';
import type { Wishes } from './wishes.ts';

/** One island by itself, ready for a solver: its vertices are its UV points, numbered from 0. */
export interface Piece {
  readonly vertices: number;
  /** 3 numbers a vertex. */
  readonly positions: Float64Array;
  /** 3 vertices a triangle. */
  readonly triangles: Uint32Array;
  /** The UV point of each vertex. */
  readonly uvPoint: Uint32Array;
  /** The mesh point of each vertex. */
  readonly point: Uint32Array;
  /** How much the stretch of each triangle counts; absent: all alike. */
  readonly care?: Float64Array;
  /** Edges that are to be straight; absent: none. */
  readonly lines?: NonNullable<Wishes['lines']>;
  /** Edges that keep their length, 2 vertices each; absent: none. */
  readonly lengths?: Uint32Array;
}

/** Takes an island out of a layout whose fans are separate (see separateFans). O(corners of the island). */
export function pieceOf(mesh: Mesh, set: UvSet, island: number): Piece {
  const islands = islandsOf(mesh, set);
  return pieceOfFaces(mesh, set, islands.faces.subarray(islands.start[island]!, islands.start[island + 1]!));
}

/** What number a UV point has in a piece: a table where the piece has much of the layout, else a map, so that many small pieces cost no more than their own size. */
function numbering(points: number, triangles: number): { get(id: number): number | undefined; set(id: number, at: number): unknown } {
  if (triangles * 8 < points) return new Map<number, number>();
  const table = new Int32Array(points).fill(-1);
  return { get: (id) => (table[id]! < 0 ? undefined : table[id]), set: (id, at) => (table[id] = at) };
}

/** Takes some faces out of a layout as they hang together there. O(their corners). */
export function pieceOfFaces(mesh: Mesh, set: UvSet, faces: ArrayLike<number>): Piece {
  const all = trianglesOf(mesh);
  let count = 0;
  for (let k = 0; k < faces.length; k++) count += all.faceStart[faces[k]! + 1]! - all.faceStart[faces[k]!]!;
  const local = numbering(set.uv.length / 2, count);
  const uvPoint: number[] = [];
  const point: number[] = [];
  const triangles = new Uint32Array(count * 3);
  let filled = 0;
  const care: number[] = [];
  for (let k = 0; k < faces.length; k++) {
    const f = faces[k]!;
    for (let t = all.faceStart[f]! * 3; t < all.faceStart[f + 1]! * 3; t++) {
      const c = all.corners[t]!;
      const id = set.cornerUv[c]!;
      let at = local.get(id);
      if (at === undefined) {
        at = uvPoint.length;
        local.set(id, at);
        uvPoint.push(id);
        point.push(mesh.corners[c]!);
      }
      triangles[filled++] = at;
    }
    if (set.care) for (let t = all.faceStart[f]!; t < all.faceStart[f + 1]!; t++) care.push(set.care[f]!);
  }
  const positions = new Float64Array(point.length * 3);
  point.forEach((p, v) => {
    for (let d = 0; d < 3; d++) positions[v * 3 + d] = mesh.points[p * 3 + d]!;
  });
  const marked = straightCorners(mesh, set, faces);
  const { cornerFace } = topologyOf(mesh);
  const endsOf = (c: number) => [local.get(set.cornerUv[c]!)!, local.get(set.cornerUv[nextCorner(mesh, c, cornerFace[c]!)]!)!];
  const keeping = straightCorners(mesh, set, faces, keepsLength);
  return {
    vertices: uvPoint.length,
    positions,
    triangles,
    uvPoint: Uint32Array.from(uvPoint),
    point: Uint32Array.from(point),
    ...(marked.length > 0
      ? {
          lines: {
            vertices: Uint32Array.from(marked.flatMap(endsOf)),
            ways: Uint8Array.from(marked, (c) => wayOf(set.straight![c]!)),
          },
        }
      : {}),
    ...(keeping.length > 0 ? { lengths: Uint32Array.from(keeping.flatMap(endsOf)) } : {}),
    ...(care.some((x) => x !== 1) ? { care: Float64Array.from(care) } : {}),
  };
}
