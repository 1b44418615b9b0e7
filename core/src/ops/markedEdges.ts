import type { Context } from '../context.ts';
import { activeSet, withSet, type Job } from '../job/job.ts';
import { selectionByPart } from '../job/selected.ts';
import { topologyOf } from '../mesh/topology.ts';
import { unwrapTouched } from './touched.ts';

/**
 * The job with other marks on the selected edges (see `UvSet.straight`), and, where one unwraps as one cuts, their islands laid by these at once.
 * @param change from the mark that an edge has to the one it gets
 * @param lays the mark says something to the unwrap
 */
export async function markedEdges(
  given: Job,
  change: (mark: number) => number,
  context: Context,
  lays = true,
): Promise<{ job: Job; edges: number; laid: boolean }> {
  let job = given;
  let edges = 0;
  let laid = false;
  for (const { part, kind, ids, corners } of selectionByPart(given)) {
    if (kind !== 'edges') continue;
    const { edgeStart, edgeCorners, cornerFace } = topologyOf(part.mesh);
    const set = activeSet(part);
    const straight = set.straight?.slice() ?? new Uint8Array(part.mesh.corners.length);
    // taken on the sheet an edge is meant on that island alone
    const meant = corners ?? Array.from(ids).flatMap((e) => Array.from(edgeCorners.subarray(edgeStart[e]!, edgeStart[e + 1]!)));
    for (const c of meant) straight[c] = change(straight[c]!);
    edges += corners ? corners.length : ids.length;
    const { straight: _, ...rest } = set;
    job = withSet(job, part.id, straight.some((x) => x !== 0) ? { ...rest, straight } : rest);
    if (!lays || !given.settings.live || given.settings.method !== 'isometric') continue;
    const placed = Array.from(meant, (c) => cornerFace[c]!).filter((f) => !set.unplaced[f]);
    const done = placed.length > 0 ? await unwrapTouched(job, part.id, placed, [], context) : null;
    laid ||= done !== null;
    job = done?.job ?? job;
  }
  return { job, edges, laid };
}
