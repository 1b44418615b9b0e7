import { facesWith, type ProblemKind, type ProblemLimits } from '../measure/uvState.ts';
import { islandDensities } from '../pack/density.ts';
import { unplacedCount, type UvSet } from '../uv/uvSet.ts';
import { activeSet, type Job, type Part } from './job.ts';
import { joinParts } from './joinParts.ts';
import { partsOnSheet } from './sheets.ts';

/** A part and those in view beside it on its sheet, as the gauges measure them together. */
function measuredBeside(job: Job, part: Part): Part[] {
  return partsOnSheet(job, part.id).filter((one) => one.id === part.id || (!one.isHidden && unplacedCount(activeSet(one)) < one.mesh.faceStart.length - 1));
}

/** The marks found last: asked for each part of a sheet in turn, they are of all of them. */
let last: { sets: UvSet[]; key: string; marks: Uint8Array } | null = null;

/**
 * Faces of a part that have a problem, its neighbours on the sheet counted in: an overlap or a narrow gap may be with another part's island.
 * @returns 1 for each such face of the part
 * O(T log T) of the sheet, once for all of its parts.
 */
export function facesOnSheetWith(problem: ProblemKind, job: Job, part: Part, limits: ProblemLimits): Uint8Array {
  if (problem !== 'overlapping' && problem !== 'close') return facesWith(problem, part.mesh, activeSet(part), limits);
  const parts = measuredBeside(job, part);
  const sets = parts.map(activeSet);
  const key = JSON.stringify([problem, limits]);
  if (last?.key !== key || last.sets.length !== sets.length || last.sets.some((set, k) => set !== sets[k])) {
    const { mesh, set } = joinParts(parts);
    last = { sets, key, marks: facesWith(problem, mesh, set, limits) };
  }
  const faces = (one: Part) => one.mesh.faceStart.length - 1;
  const from = parts.slice(0, parts.indexOf(part)).reduce((sum, one) => sum + faces(one), 0);
  return last.marks.slice(from, from + faces(part));
}

/** Mean density of the islands on a part's sheet, each over its weight and by its area on the model, px per unit; 0 where none has a place. */
export function meanDensityOnSheet(job: Job, part: Part, width: number, height: number): number {
  let [sum, area] = [0, 0];
  for (const one of measuredBeside(job, part))
    for (const island of islandDensities(one.mesh, activeSet(one), width, height)) {
      if (!(island.density > 0)) continue;
      sum += (island.area * island.density) / island.weight;
      area += island.area;
    }
  return area > 0 ? sum / area : 0;
}
