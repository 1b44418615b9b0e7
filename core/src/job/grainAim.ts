import { placementMatrix } from '../images/placement.ts';
import * as portable from '../numeric/portable.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { asImageLands } from './asImageLands.ts';
import type { Job, Part } from './job.ts';
import { sheetAspect } from './sheets.ts';

/**
 * Which way the picture of a part runs on its sheet, radians counterclockwise from u: along u or v, and where the image counts, as its placement turns, sizes and
 * mirrors it.
 */
export function grainAim(job: Job, part: Part): number {
  const { grainAlong, countImage } = job.settings;
  const plain = grainAlong === 'u' ? 0 : Math.PI / 2;
  const placement = countImage && job.images.some(({ id }) => id === part.imageId) ? part.placement : undefined;
  if (!placement) return plain;
  const [a, b, , d, e] = placementMatrix(placement);
  const det = a * e - b * d;
  // the image's own axis, back on the sheet
  const [u, v] = grainAlong === 'u' ? [e / det, -d / det] : [-b / det, a / det];
  const aim = portable.atan2(v, u * sheetAspect(job, part.id));
  // exact where it is as without a placement, so that nothing else differs then
  return Math.abs(aim - plain) < 1e-12 ? plain : aim;
}

/** The layout in which the grain's angle is measured, with its width over its height: the sheet's, or the image's as it lands, where that counts. */
export function grainSeenIn(job: Job, part: Part, set: UvSet): { set: UvSet; aspect: number } {
  if (!job.settings.countImage) return { set, aspect: sheetAspect(job, part.id) };
  const landed = asImageLands(job, part, set);
  return { set: landed.set, aspect: landed.width / landed.height };
}
