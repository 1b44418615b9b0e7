import type { Context } from '../context.ts';
import type { ReportSheet } from '../formats/checkReport.ts';
import { imageFacts } from '../images/imageFacts.ts';
import { jumpLengths } from '../measure/continuity.ts';
import { judge, type LimitReport, type Limits, type PartFigures } from '../measure/judge.ts';
import { judgedReport } from '../measure/limits.ts';
import { grainAngles, grainFigures } from '../shape/grain.ts';
import { activeSet, type Job, type Part } from './job.ts';
import { grainSeenIn } from './grainAim.ts';
import { joinParts } from './joinParts.ts';
import { meantFaces } from './meantFaces.ts';
import { jointSight } from './sight.ts';
import { sheetOfPart, sheetsOf } from './sheets.ts';

/** Degrees off the grain that are worth a look. */
const grainLimit = 10;

/** How far the picture runs off the grain in the mean, of the part where it is most; null where no part has a grain. */
export function worstGrain(job: Job, parts: readonly Part[]): number | null {
  const found = parts.flatMap((part) => {
    if (!part.grain) return [];
    const seen = grainSeenIn(job, part, activeSet(part));
    const figures = grainFigures(part.mesh, grainAngles(part.mesh, seen.set, part.grain, seen.aspect, job.settings.grainAlong), grainLimit);
    return figures ? [figures.mean] : [];
  });
  return found.length > 0 ? Math.max(...found) : null;
}

/** Size of a part's picture, px; null where it has none that can be read. */
export function pictureSize(job: Job, part: Part): { width: number; height: number } | null {
  const image = job.images.find(({ id }) => id === part.imageId);
  if (!image) return null;
  try {
    return imageFacts(image.bytes, image.name);
  } catch {
    return null;
  }
}

/** Figures of parts and their pictures, all of them together. */
export function partFigures(job: Job, parts: readonly Part[]): PartFigures {
  let [jumping, all, pictures] = [0, 0, 0];
  for (const part of parts) {
    const size = pictureSize(job, part);
    if (!size) continue;
    pictures++;
    const lengths = jumpLengths(part.mesh, activeSet(part), part.placement, size);
    jumping += lengths.jumping;
    all += lengths.all;
  }
  return { grain: worstGrain(job, parts), jumps: pictures === 0 ? null : all > 0 ? (jumping / all) * 100 : 0 };
}

/** A report as it is judged: overlaps and islands outside that are meant break no limit. */
export function asMeant<R extends LimitReport>(report: R, faults: { overlapping: Uint8Array; outside: Uint8Array }, meant: Uint8Array | null): R {
  if (!meant) return report;
  const only = (marks: Uint8Array) => marks.every((mark, f) => !mark || meant[f] === 1);
  return { ...report, ...(only(faults.overlapping) ? { overlapArea: 0 } : {}), ...(only(faults.outside) ? { outsideArea: 0 } : {}) };
}

/**
 * Each sheet of a job that has parts in view, measured and judged; hidden parts are left out, as by the gauges.
 * @param size px to take instead of the sheet's own, and one tile
 * O(T log T) of each sheet.
 */
export function judgedSheets(job: Job, limits: Limits, context?: Context, size?: { width: number; height: number }): ReportSheet[] {
  return sheetsOf(job).flatMap((sheet) => {
    const parts = job.parts.filter((part) => !part.isHidden && sheetOfPart(job, part)?.id === sheet.id);
    if (parts.length === 0) return [];
    const { width, height } = size ?? sheet;
    const { mesh, set } = joinParts(parts);
    const sight = jointSight(job, parts);
    const { report, faults } = judgedReport(mesh, set, { width, height, tiles: size ? 1 : sheet.tiles, sight }, context);
    const lists = parts.map((part) => meantFaces(job, part, activeSet(part)) ?? new Uint8Array(part.mesh.faceStart.length - 1));
    const meant = new Uint8Array(mesh.faceStart.length - 1);
    let at = 0;
    for (const list of lists) {
      meant.set(list, at);
      at += list.length;
    }
    const verdicts = judge(asMeant(report, faults, meant), limits, partFigures(job, parts));
    return [{ name: sheet.name, width, height, mesh, set, parts: parts.map(({ name }) => name), report, verdicts }];
  });
}
