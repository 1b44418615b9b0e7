import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { asImageLands } from '../job/asImageLands.ts';
import { activeSet, partOf } from '../job/job.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

export const pictureHeading = defineOperation({
  name: 'pictureHeading',
  label: 'Where the picture leans',
  words: 'heading upright upside down direction turned lettering',
  changes: ['view'],
  summary: 'Islands on which the picture’s up leans from the model’s up, worst first',
  params: z.object({
    part: partSchema,
    most: z.coerce.number().min(0).max(180).default(10).describe('degrees that a picture may lean'),
    select: z.boolean().default(false).describe('select the islands on which it leans by more'),
  }),
  async run(job, { part: id, most, select }) {
    const { pictureHeadings } = await import('../measure/pictureHeading.ts');
    const part = partOf(job, id);
    const landed = asImageLands(job, part, activeSet(part));
    const all = pictureHeadings(part.mesh, landed.set, landed.width, landed.height);
    if (all.length === 0)
      throw new JigError('nothing-to-do', 'No face that stands has a place on the sheet.', '', 'Faces that look up or down have no up of their own.');
    const leaning = all.filter(({ lean }) => Math.abs(lean) > most).sort((a, b) => Math.abs(b.lean) - Math.abs(a.lean));
    const area = all.reduce((sum, one) => sum + one.area, 0);
    const report = { islands: all.length, leaning, share: leaning.reduce((sum, one) => sum + one.area, 0) / area };
    if (!select) return { job, report };
    const ids = Uint32Array.from(leaning, ({ island }) => island).sort();
    return { job: { ...job, activePart: part.id, selection: { part: part.id, kind: 'islands' as const, ids } }, report };
  },
  sentence: ({ most }, { leaning }) =>
    leaning.length === 0 ? `The picture leans by no more than ${most}°` : `The picture leans on ${plural(leaning.length, 'island')}`,
});
