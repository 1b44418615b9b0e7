import type { Context } from '../context.ts';
import { grainWish } from '../job/grainWish.ts';
import { activeSet, partOf, withSet, type Job } from '../job/job.ts';
import { sheetAspect } from '../job/sheets.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { placeFresh } from './placeFresh.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import { scaleU } from '../uv/scaleU.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { openPatch } from '../unwrap/openPatch.ts';
import { passRanks } from '../uv/ranks.ts';
import { unwrapIslands, type UnwrapHow } from '../unwrap/unwrapIslands.ts';

/** Faces at both ends of the given edges: the islands that a change of seams touches are theirs. O(faces round the edges). */
export function touchedFaces(mesh: Mesh, edges: Iterable<number>): Set<number> {
  const { edgePoints, pointStart, pointCorners, cornerFace } = topologyOf(mesh);
  const faces = new Set<number>();
  for (const e of edges) {
    for (let end = 0; end < 2; end++) {
      const p = edgePoints[e * 2 + end]!;
      for (let k = pointStart[p]!; k < pointStart[p + 1]!; k++) faces.add(cornerFace[pointCorners[k]!]!);
    }
  }
  return faces;
}

/** Edges whose seam state differs between two layouts of a mesh. O(edges). */
export function changedSeams(mesh: Mesh, before: UvSet, after: UvSet): number[] {
  const a = islandsOf(mesh, before).states;
  const b = islandsOf(mesh, after).states;
  const out: number[] = [];
  for (let e = 0; e < a.length; e++) if (a[e] !== b[e]) out.push(e);
  return out;
}

/**
 * Whether `openEdges` gives a first shape of changed seams: not where pieces came apart or together, or have no place, which are laid out as a whole.
 * @param before the layout before the seams changed
 */
export function canOpenEdges(mesh: Mesh, before: UvSet, after: UvSet, edges: readonly number[]): boolean {
  const { count, ofFace } = islandsOf(mesh, after);
  if (count !== islandsOf(mesh, before).count) return false;
  const facts = islandFacts(mesh, after);
  for (const f of touchedFaces(mesh, edges)) {
    const { shape, unplaced } = facts[ofFace[f]!]!;
    if ((shape !== 'disk' && shape !== 'ring') || unplaced) return false;
  }
  return true;
}

/**
 * The layout with the places round some edges laid out again, to be shown together with their change; what is farther off follows with `unwrapTouched`.
 * Some 10 ms whatever the size of the island. Null where that is not to be had, e.g. because too much changed.
 */
export function openEdges(job: Job, partId: string, edges: readonly number[]): Job | null {
  const part = partOf(job, partId);
  const aspect = sheetAspect(job, partId);
  const laid = openPatch(part.mesh, scaleU(activeSet(part), aspect), edges);
  return laid && withSet(job, partId, scaleU(laid, 1 / aspect));
}

/**
 * Faces that stand for islands which need room of their own: of the pieces that were one island before, all but the largest.
 * @param faces faces of the islands that were touched
 * O(faces of the layout).
 */
export function partedIslands(mesh: Mesh, before: UvSet, after: UvSet, faces: Iterable<number>): number[] {
  const islands = islandsOf(mesh, after);
  const old = islandsOf(mesh, before);
  const first = (i: number) => islands.faces[islands.start[i]!]!;
  const size = (i: number) => islands.start[i + 1]! - islands.start[i]!;
  const byOld = new Map<number, number[]>();
  for (const i of new Set(Array.from(faces, (f) => islands.ofFace[f]!))) {
    const was = old.ofFace[first(i)]!;
    byOld.set(was, [...(byOld.get(was) ?? []), i]);
  }
  const out: number[] = [];
  for (const group of byOld.values()) {
    const largest = group.reduce((a, b) => (size(a) >= size(b) ? a : b));
    out.push(...group.filter((i) => i !== largest).map(first));
  }
  return out;
}

/**
 * Unwraps the islands of the given faces again. Pieces that came apart are given free room.
 * @param parted faces of the islands that need room (see `partedIslands`)
 * @param how quick: a first shape to be seen at once
 * @returns the new job, and how many new islands found no room and wait in the tray; null if nothing was to do
 */
export async function unwrapTouched(
  job: Job,
  partId: string,
  faces: Iterable<number>,
  parted: readonly number[],
  context: Context,
  how: UnwrapHow = {},
): Promise<{ job: Job; waiting: number } | null> {
  const part = partOf(job, partId);
  const set = activeSet(part);
  const facts = islandFacts(part.mesh, set);
  const { ofFace } = islandsOf(part.mesh, set);
  // pieces of a bare mesh, too, as soon as they can lie flat
  const touched = [...new Set(Array.from(faces, (f) => ofFace[f]!))].filter((i) => facts[i]!.shape === 'disk' || facts[i]!.shape === 'ring');
  if (touched.length === 0) return null;
  const aspect = sheetAspect(job, partId);
  const { set: laid, report } = await unwrapIslands(part.mesh, scaleU(set, aspect), touched, job.settings.method, context, {
    ...how,
    ...grainWish(job, part),
    apart: job.settings.apart,
  });
  let next = scaleU(laid, 1 / aspect);
  const seeking = new Set(report.fresh);
  for (const f of parted) if (touched.includes(ofFace[f]!)) seeking.add(ofFace[f]!);
  const everything = facts.filter((fact) => !fact.unplaced).length;
  let waiting = 0;
  if (report.fresh.length > 0 || (seeking.size > 0 && seeking.size < everything))
    ({ set: next, waiting } = await placeFresh(job, part, next, [...seeking], context));
  return { job: withSet(job, partId, passRanks(laid, next)), waiting };
}
