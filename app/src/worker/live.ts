import {
  activeSet,
  islandFacts,
  islandsOf,
  openPatch,
  placeFresh,
  topologyOf,
  unwrapIslands,
  withSet,
  type Context,
  type Job,
  type Part,
  type UnwrapHow,
  type UvSet,
} from '@jig-peel/core';

/** Faces at both ends of the given edges: the islands that a change of seams touches are theirs. */
export function touchedFaces(part: Part, edges: readonly number[]): Set<number> {
  const { edgePoints, pointStart, pointCorners, cornerFace } = topologyOf(part.mesh);
  const faces = new Set<number>();
  for (const e of edges) {
    for (let end = 0; end < 2; end++) {
      const p = edgePoints[e * 2 + end]!;
      for (let k = pointStart[p]!; k < pointStart[p + 1]!; k++) faces.add(cornerFace[pointCorners[k]!]!);
    }
  }
  return faces;
}

/**
 * The layout with the places round the changed edges laid anew, to be shown together with the change; what lies farther off follows with
 * `unwrapTouched`. Some 10 ms whatever the size of the island.
 * @param before the layout before the seams changed
 * @returns null where pieces came apart or together, or have no place, or too much changed: they are laid as a whole
 */
export function firstShape(job: Job, partId: string, edges: readonly number[], before: UvSet): Job | null {
  const part = job.parts.find((p) => p.id === partId)!;
  const set = activeSet(part);
  const { count, ofFace } = islandsOf(part.mesh, set);
  if (count !== islandsOf(part.mesh, before).count) return null;
  const facts = islandFacts(part.mesh, set);
  for (const f of touchedFaces(part, edges)) {
    const { shape, unplaced } = facts[ofFace[f]!]!;
    if ((shape !== 'disk' && shape !== 'ring') || unplaced) return null;
  }
  const aspect = job.settings.width / job.settings.height;
  const laid = openPatch(part.mesh, scaleU(set, aspect), edges);
  return laid && withSet(job, partId, scaleU(laid, 1 / aspect));
}

/** u as a multiple of itself, so that a unit is as long both ways. */
const scaleU = (set: UvSet, factor: number): UvSet => (factor === 1 ? set : { ...set, uv: set.uv.map((x, k) => (k % 2 === 0 ? x * factor : x)) });

/**
 * Unwraps the islands of the given faces again. Pieces that came apart are given free room (the largest stays).
 * @param before the layout before the seams changed, to see which pieces came apart; null once these have their room
 * @param how quick: a first shape to be seen at once
 * @returns the new job, and how many new islands found no room and wait in the tray; null if nothing was to do
 */
export async function unwrapTouched(
  job: Job,
  partId: string,
  faces: ReadonlySet<number>,
  before: UvSet | null,
  context: Context,
  how: UnwrapHow = {},
): Promise<{ job: Job; waiting: number } | null> {
  const part = job.parts.find((p) => p.id === partId)!;
  const set = activeSet(part);
  const facts = islandFacts(part.mesh, set);
  const islands = islandsOf(part.mesh, set);
  const old = before ? islandsOf(part.mesh, before) : null;
  // pieces of a bare mesh, too, as soon as they can lie flat
  const touched = [...new Set([...faces].map((f) => islands.ofFace[f]!))].filter((i) => facts[i]!.shape === 'disk' || facts[i]!.shape === 'ring');
  if (touched.length === 0) return null;
  const aspect = job.settings.width / job.settings.height;
  const { set: laid, report } = await unwrapIslands(part.mesh, scaleU(set, aspect), touched, job.settings.method, context, {
    ...how,
    apart: job.settings.apart,
  });
  let next = scaleU(laid, 1 / aspect);
  // of the pieces that were one island before, all but the largest look for room
  const byOld = new Map<number, number[]>();
  for (const i of old ? touched : []) {
    const was = old!.ofFace[islands.faces[islands.start[i]!]!]!;
    byOld.set(was, [...(byOld.get(was) ?? []), i]);
  }
  const apart: number[] = [...report.fresh];
  for (const group of byOld.values()) {
    if (group.length < 2) continue;
    const largest = group.reduce((a, b) => (facts[a]!.faces >= facts[b]!.faces ? a : b));
    apart.push(...group.filter((i) => i !== largest && !apart.includes(i)));
  }
  const everything = facts.filter((fact) => !fact.unplaced).length;
  let waiting = 0;
  if (report.fresh.length > 0 || (apart.length > 0 && apart.length < everything))
    ({ set: next, waiting } = placeFresh(part, next, apart, job.settings, context));
  return { job: withSet(job, partId, next), waiting };
}
