import { activeSet, type Job, type Part } from '../job/job.ts';
import { pictureSize } from '../job/judgedSheets.ts';
import { meantFaces } from '../job/meantFaces.ts';
import { facesOnSheetWith, meanDensityOnSheet } from '../job/sheetFaults.ts';
import { sheetFor, sheetOfPart } from '../job/sheets.ts';
import { sightOptionsOf } from '../job/sight.ts';
import type { LimitKey } from '../measure/judge.ts';
import { limitProblems } from '../measure/offenderKinds.ts';
import { offendersOf, problemLimits, type Offender, type OffenderOptions } from '../measure/offenders.ts';
import { edgeSight } from '../measure/seamSight.ts';

/** Where a part breaks a limit of the job, the others on its sheet counted in as by the figures. O(T log T) of the sheet. */
export function placesOf(job: Job, part: Part, key: LimitKey): Offender[] {
  const { width, height, tiles, margin } = sheetFor(job, part.id);
  const { limits } = job.settings;
  const set = activeSet(part);
  const problem = limitProblems[key];
  const options: OffenderOptions = {
    width,
    height,
    tiles,
    gap: limits.gap ?? margin,
    density: limits.density ?? sheetOfPart(job, part)?.density ?? null,
    spread: (limits.spread ?? 10) / 100,
    stretch: limits.size ?? 1.5,
    ...(key === 'continuity' ? { placement: part.placement, picture: pictureSize(job, part) } : {}),
    ...(key === 'spread' ? { mean: meanDensityOnSheet(job, part, width, height) } : {}),
    meant: meantFaces(job, part, set),
    sight: key === 'inSight' ? edgeSight(part.mesh, sightOptionsOf(job, part)) : null,
  };
  const marked = problem ? { marked: facesOnSheetWith(problem, job, part, problemLimits(options)) } : {};
  return offendersOf(key, part.mesh, set, { ...options, ...marked });
}
