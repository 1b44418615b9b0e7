import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { asImageLands } from '../job/asImageLands.ts';
import { activeSet, partOf } from '../job/job.ts';
import { sheetFor } from '../job/sheets.ts';
import { defineOperation, partSchema } from './operation.ts';

export const sharpness = defineOperation({
  name: 'sharpness',
  label: 'Where the picture is too coarse',
  words: 'viewing distance resolution texel blurred screen',
  changes: ['view'],
  summary: 'Where a part’s picture has fewer px than the screen it is seen on from a distance; without a picture, its sheet',
  params: z.object({
    part: partSchema,
    distance: z.coerce.number().positive().max(1e9).describe('units from the eye to the surface'),
    screen: z.coerce.number().int().min(16).max(100_000).default(2160).describe('px of the screen from top to bottom'),
    angle: z.coerce.number().min(1).max(170).default(40).describe('degrees that the view spans from top to bottom'),
    select: z.boolean().default(false).describe('select the faces that are too coarse'),
  }),
  async run(job, { part: id, distance, screen, angle, select }) {
    const { sharpFrom, sharpness: sharpnessOf } = await import('../measure/sharpness.ts');
    const part = partOf(job, id);
    const landed = asImageLands(job, part, activeSet(part));
    const sheet = sheetFor(job, part.id);
    const px = landed.px ?? sheet;
    const found = sharpnessOf(part.mesh, landed.px ? landed.set : activeSet(part), px.width, px.height, { distance, screen, angle });
    if (!found) throw new JigError('nothing-to-do', `${part.name} has no layout yet.`, '', 'Unwrap it first.');
    const { faces, ...figures } = found;
    const report = {
      ...figures,
      faces: faces.length,
      of: landed.px ? ('picture' as const) : ('sheet' as const),
      from: sharpFrom(found.mean, { screen, angle }),
    };
    if (!select) return { job, report };
    return { job: { ...job, activePart: part.id, selection: { part: part.id, kind: 'faces' as const, ids: faces } }, report };
  },
  sentence: (_, { coarse, of }) =>
    coarse === 0 ? `The ${of} is sharp enough everywhere` : `The ${of} is too coarse on ${(coarse * 100).toFixed(0)} % of the surface`,
});
