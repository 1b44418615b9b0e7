import { topologyOf, type Part, type SelectionKind } from '@jig-peel/core';

/** All corners of points, or at which half edges of edges start. */
export function cornersOf({ mesh }: Part, kind: SelectionKind, ids: Iterable<number>): Uint32Array {
  const { cornerEdge } = topologyOf(mesh);
  const wanted = new Set(ids);
  if (wanted.size === 0) return new Uint32Array(0);
  return Uint32Array.from(mesh.corners.keys()).filter((c) => wanted.has(kind === 'edges' ? cornerEdge[c]! : mesh.corners[c]!));
}
