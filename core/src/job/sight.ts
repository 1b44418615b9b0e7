import { edgeSight, viewingDirections, type SightOptions, type ViewingSide } from '../measure/seamSight.ts';
import { bounds, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import { activeSet, type Job, type Part } from './job.ts';

const boxes = new WeakMap<Mesh, ReturnType<typeof bounds>>();
function boxOf(mesh: Mesh): ReturnType<typeof bounds> {
  let box = boxes.get(mesh);
  if (!box) boxes.set(mesh, (box = bounds(mesh)));
  return box;
}

/** Does a mesh come nearer to another one than that is large? What is farther off hides little of it. */
function isNear(mesh: Mesh, other: Mesh): boolean {
  const [a, b] = [boxOf(mesh), boxOf(other)];
  const reach = Math.hypot(a[3] - a[0], a[4] - a[1], a[5] - a[2]);
  const apart = [0, 1, 2].map((d) => Math.max(0, b[d]! - a[d + 3]!, a[d]! - b[d + 3]!));
  return Math.hypot(...apart) <= reach;
}

/** From where a part is seen, and what stands before it: the other parts in view that are no farther off than it is large. O(parts) once their boxes are known. */
export const sightOptionsOf = (job: Job, part: Part, seenFrom: ViewingSide = job.settings.seenFrom): SightOptions => ({
  ...viewingDirections[seenFrom],
  blockers: job.parts.filter((other) => other.id !== part.id && !other.isHidden && isNear(part.mesh, other.mesh)).map(({ mesh }) => mesh),
});

/** Has the layout of a part a seam? How much its edges are seen matters for nothing else in it. */
export const hasSeams = (part: Part): boolean => islandsOf(part.mesh, activeSet(part)).states.includes(EdgeState.seam);

/** In place of how much the edges of a part are seen, where it has no seams. */
export const unseenEdges = ({ mesh }: Part): Float64Array => new Float64Array(topologyOf(mesh).edgeCount);

/** How much the seams of some parts joined to one mesh are seen, by edge (see `edgeSight`): edges of the first part come first; 0 in parts without seams. */
export function jointSight(job: Job, parts: readonly Part[]): Float64Array {
  return joinedSight(parts.map((part) => (hasSeams(part) ? edgeSight(part.mesh, sightOptionsOf(job, part)) : unseenEdges(part))));
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
