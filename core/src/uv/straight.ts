import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import type { UvSet } from './uvSet.ts';

/** The mark of an edge that keeps its length on the model, beside those of `StraightWay`: both sides of a seam are then equally long. */
export const keepsLength = 4;

/** The mark of a seam over which the picture goes on and is to go on: nothing that varies islands parts those on its two sides. */
export const goesOnOver = 8;

/** How an edge is to lie: 0 as it comes, else a `StraightWay`. */
export const wayOf = (mark: number): number => mark & 3;

/**
 * Marks of edges that are to be straight (`UvSet.straight`) on a mesh whose corners come from another's: kept where both ends of an edge do, whichever way its
 * face goes round now. O(corners)
 * @param cornerFrom the old corner of each new one; −1: none
 */
export function carriedStraight(old: Mesh, mesh: Mesh, straight: Uint8Array, cornerFrom: ArrayLike<number>): Uint8Array | undefined {
  const [before, now] = [topologyOf(old), topologyOf(mesh)];
  const out = new Uint8Array(mesh.corners.length);
  let any = false;
  for (let c = 0; c < out.length; c++) {
    const a = cornerFrom[c]!;
    const b = cornerFrom[nextCorner(mesh, c, now.cornerFace[c]!)]!;
    if (a < 0 || b < 0) continue;
    if (nextCorner(old, a, before.cornerFace[a]!) === b) out[c] = straight[a]!;
    else if (nextCorner(old, b, before.cornerFace[b]!) === a) out[c] = straight[b]!;
    any ||= out[c] !== 0;
  }
  return any ? out : undefined;
}

/** Marked edges of some faces by the corners they begin at, each edge that these faces share once. @param bits of the marks that count. O(corners of the faces) */
export function straightCorners(mesh: Mesh, { straight, cornerUv }: UvSet, faces: ArrayLike<number>, bits = 3): number[] {
  if (!straight) return [];
  const { cornerFace } = topologyOf(mesh);
  const seen = new Set<string>();
  const out: number[] = [];
  for (let k = 0; k < faces.length; k++)
    for (let c = mesh.faceStart[faces[k]!]!; c < mesh.faceStart[faces[k]! + 1]!; c++) {
      if (!(straight[c]! & bits)) continue;
      const [a, b] = [cornerUv[c]!, cornerUv[nextCorner(mesh, c, cornerFace[c]!)]!];
      const key = a < b ? `${a} ${b}` : `${b} ${a}`;
      if (seen.has(key)) continue;
      seen.add(key);
      out.push(c);
    }
  return out;
}
