import { activeSet, islandsOf, nextCorner, partOf, projectPlaces, topologyOf, trianglesOf, type Job, type Part, type SelectionKind } from '@jig-peel/core';
import { marksOfSelected } from './alsoMarks.ts';
import type { BesideAt, UnderPointer } from './messages.ts';

/** How near (px) the pointer must be to an edge or a point to mean it. */
const reach = 13;

/**
 * What of another part than the one at work is under the pointer; null where nothing of the kind is near enough. O(corners of the part), for its triangles in sight.
 */
export function underPointer(job: Job, at: BesideAt): UnderPointer | null {
  const part = job.parts.find(({ id }) => id === at.part) && partOf(job, at.part);
  if (!part) return null;
  const { mesh } = part;
  const { cornerFace, cornerEdge } = topologyOf(mesh);
  const face = at.view.view === 'model' ? shownFace(part, at.triangle) : (cornerFace[at.corner] ?? -1);
  if (!(face >= 0)) return null;
  const island = islandsOf(mesh, activeSet(part)).ofFace[face]!;
  const own = Array.from({ length: mesh.faceStart[face + 1]! - mesh.faceStart[face]! }, (_, k) => mesh.faceStart[face]! + k);
  const px = pxOf(part, own, at.view);
  let [edgeCorner, point] = [-1, -1];
  let [nearestEdge, nearestPoint] = [reach, reach];
  own.forEach((c, k) => {
    const [[ax, ay], [bx, by]] = [px[k]!, px[(k + 1) % px.length]!];
    const toPoint = Math.hypot(ax - at.x, ay - at.y);
    if (toPoint < nearestPoint) [nearestPoint, point] = [toPoint, c];
    const length = (bx - ax) ** 2 + (by - ay) ** 2;
    const t = length > 0 ? Math.max(0, Math.min(1, ((at.x - ax) * (bx - ax) + (at.y - ay) * (by - ay)) / length)) : 0;
    const toEdge = Math.hypot(ax + t * (bx - ax) - at.x, ay + t * (by - ay) - at.y);
    if (toEdge < nearestEdge) [nearestEdge, edgeCorner] = [toEdge, c];
  });
  const id = { islands: island, faces: face, edges: edgeCorner < 0 ? -1 : cornerEdge[edgeCorner]!, points: point < 0 ? -1 : mesh.corners[point]! }[at.kind];
  const corner = at.kind === 'edges' ? edgeCorner : at.kind === 'points' ? point : own[0]!;
  return { part: part.id, island, ...(id < 0 ? noMarks : knownMarks(part, at.kind, id, corner)) };
}

const noMarks = { model: new Float32Array(0), sheet: new Uint32Array(0) };

type Marks = Pick<UnderPointer, 'model' | 'sheet'>;
/** What was marked last: a pointer that moves stays on the same thing most of the time. */
let last: { part: Part; kind: SelectionKind; id: number; corner: number; marks: Marks } | null = null;

function knownMarks(part: Part, kind: SelectionKind, id: number, corner: number): Marks {
  // an island is the same, whichever of its faces is pointed at
  const isSame = last?.part === part && last.kind === kind && last.id === id && (kind === 'islands' || last.corner === corner);
  if (!isSame) last = { part, kind, id, corner, marks: marksOf(part, kind, id, corner) };
  return last!.marks;
}

/** Of a face and an island the outline, of an edge the half edge that is meant. */
function marksOf(part: Part, kind: SelectionKind, id: number, corner: number): Marks {
  const { mesh } = part;
  const { cornerFace } = topologyOf(mesh);
  const model = marksOfSelected({ part, kind, ids: Uint32Array.of(id) }).model;
  // the outlines of islands are drawn by their number
  if (kind === 'islands' || activeSet(part).unplaced[cornerFace[corner]!]) return { model, sheet: noMarks.sheet };
  if (kind === 'points') return { model, sheet: Uint32Array.of(corner) };
  const starts = kind === 'edges' ? [corner] : Array.from({ length: mesh.faceStart[id + 1]! - mesh.faceStart[id]! }, (_, k) => mesh.faceStart[id]! + k);
  return { model, sheet: Uint32Array.from(starts.flatMap((c) => [c, nextCorner(mesh, c, cornerFace[c]!)])) };
}

/** The face of a triangle, counted among those that are shown. */
function shownFace({ mesh, hidden }: Part, triangle: number): number {
  const { face, count } = trianglesOf(mesh);
  if (!hidden) return face[triangle] ?? -1;
  for (let t = 0, at = 0; t < count; t++) {
    if (hidden[face[t]!]) continue;
    if (at === triangle) return face[t]!;
    at++;
  }
  return -1;
}

/** Where corners are in a view, px. */
function pxOf(part: Part, corners: readonly number[], view: BesideAt['view']): [number, number][] {
  const { mesh } = part;
  if (view.view === 'sheet') {
    const { uv, cornerUv } = activeSet(part);
    return corners.map((c) => [uv[cornerUv[c]! * 2]! * view.scaleU + view.left, view.top - uv[cornerUv[c]! * 2 + 1]! * view.scaleV]);
  }
  const places = Float64Array.from(corners.flatMap((c) => [0, 1, 2].map((d) => mesh.points[mesh.corners[c]! * 3 + d]!)));
  const { px, py } = projectPlaces(places, view);
  return corners.map((_, k) => [px[k]!, py[k]!]);
}
