import { edgeSight, viewingDirections, type SightOptions, type ViewingSide } from '../measure/seamSight.ts';
import type { Job, Part } from './job.ts';

/** From where a part is seen, and what stands before it: all other parts in view. */
export const sightOptionsOf = (job: Job, part: Part, seenFrom: ViewingSide = job.settings.seenFrom): SightOptions => ({
  ...viewingDirections[seenFrom],
  blockers: job.parts.filter((other) => other.id !== part.id && !other.isHidden).map(({ mesh }) => mesh),
});

/** How much each edge of some parts joined to one mesh is seen (see `edgeSight`): edges of the first part come first. */
export function jointSight(job: Job, parts: readonly Part[]): Float64Array {
  return joinedSight(parts.map((part) => edgeSight(part.mesh, sightOptionsOf(job, part))));
}

/** Lists of parts as the one of the parts joined. */
export function joinedSight(lists: readonly Float64Array[]): Float64Array {
  const out = new Float64Array(lists.reduce((sum, list) => sum + list.length, 0));
  let at = 0;
  for (const list of lists) {
    out.set(list, at);
    at += list.length;
  }
  return out;
}
