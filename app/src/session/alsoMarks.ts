import {
  activeSet,
  borderOfFaces,
  convertSelection,
  islandsOf,
  nextCorner,
  partsOnSheet,
  selectionByPart,
  topologyOf,
  type Job,
  type Mesh,
  type PartSelection,
} from '@jig-peel/core';
import { cornersOf } from './cornersOf.ts';
import type { AlsoMarks } from './messages.ts';

/** What is selected of parts beside the one at work, as the views draw it. O(corners of these parts) */
export function alsoMarks(job: Job): AlsoMarks[] {
  if (!job.selection.also) return [];
  const onSheet = new Set(partsOnSheet(job));
  return selectionByPart(job)
    .filter(({ part }) => part.id !== job.activePart && onSheet.has(part) && !part.isHidden)
    .map(marksOfSelected);
}

/** How what is selected of a part is drawn. */
export const marksOfSelected = (one: PartSelection): AlsoMarks => ({
  part: one.part.id,
  kind: one.kind,
  corners: sheetCorners(one),
  model: onModel(one),
});

/** Corners of points and faces, ends of half edges; those of faces without a place are left out. */
function sheetCorners({ part, kind, ids, corners }: PartSelection): Uint32Array {
  if (kind === 'islands') return new Uint32Array(0);
  const { mesh } = part;
  const { unplaced } = activeSet(part);
  const { cornerFace } = topologyOf(mesh);
  const isThere = (c: number) => unplaced[cornerFace[c]!] !== 1 && part.hidden?.[cornerFace[c]!] !== 1;
  if (kind === 'faces') {
    const chosen = new Set(ids);
    return Uint32Array.from(mesh.corners.keys()).filter((c) => chosen.has(cornerFace[c]!) && isThere(c));
  }
  const meant = (corners ?? cornersOf(part, kind, ids)).filter(isThere);
  if (kind === 'points') return meant;
  const ends = new Uint32Array(meant.length * 2);
  meant.forEach((c, k) => ends.set([c, nextCorner(mesh, c, cornerFace[c]!)], k * 2));
  return ends;
}

/** Places of points, else lines: of faces and islands their outlines. */
function onModel({ part, kind, ids }: PartSelection): Float32Array {
  const { mesh } = part;
  if (kind === 'points') return placesOf(mesh, ids);
  const { edgePoints } = topologyOf(mesh);
  const faces = () => convertSelection(mesh, islandsOf(mesh, activeSet(part)), kind, ids, 'faces');
  const edges = kind === 'edges' ? ids : borderOfFaces(mesh, faces());
  const ends = new Uint32Array(edges.length * 2);
  edges.forEach((e, k) => ends.set(edgePoints.subarray(e * 2, e * 2 + 2), k * 2));
  return placesOf(mesh, ends);
}

function placesOf(mesh: Mesh, points: ArrayLike<number>): Float32Array {
  const out = new Float32Array(points.length * 3);
  for (let k = 0; k < points.length; k++) for (let d = 0; d < 3; d++) out[k * 3 + d] = mesh.points[points[k]! * 3 + d]!;
  return out;
}
