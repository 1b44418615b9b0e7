import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { emptySelection, settingsSchema } from '../job/job.ts';
import { defineOperation } from './operation.ts';
import { withSheet } from './pack.ts';

export const settings = defineOperation({
  name: 'settings',
  summary: 'Change the job’s settings',
  params: settingsSchema.partial(),
  sentence: (params) => `Changed ${Object.keys(params).join(', ')}`,
  run(job, params) {
    const given = Object.fromEntries(Object.entries(params).filter(([, value]) => value !== undefined));
    const next = settingsSchema.parse({ ...job.settings, ...given });
    const sized = withSheet(job, next.width, next.height);
    return { job: { ...sized, settings: next }, report: given };
  },
});

export const renameJob = defineOperation({
  name: 'renameJob',
  summary: 'Give the job another name',
  params: z.object({ name: z.string().trim().min(1).max(120) }),
  sentence: ({ name }) => `Named the job “${name}”`,
  run: (job, { name }) => ({ job: { ...job, name }, report: {} }),
});

export const activatePart = defineOperation({
  name: 'activatePart',
  summary: 'Work on another part',
  params: z.object({ part: z.string() }),
  sentence: () => 'Went to another part',
  run(job, { part }) {
    const found = job.parts.find((p) => p.id === part);
    if (!found) throw new JigError('not-found', `There is no part “${part}”.`);
    return { job: { ...job, activePart: part, selection: { ...emptySelection(part), kind: job.selection.kind } }, report: { name: found.name } };
  },
});

export const showImage = defineOperation({
  name: 'showImage',
  summary: 'Show an image on a part, or the test grid',
  params: z.object({ part: z.string(), image: z.string().nullable() }),
  sentence: ({ image }) => (image ? 'Showed an image' : 'Showed the test grid'),
  run(job, { part, image }) {
    if (image !== null && !job.images.some((i) => i.id === image)) throw new JigError('not-found', 'This image is not in the job.');
    return { job: { ...job, parts: job.parts.map((p) => (p.id === part ? { ...p, imageId: image } : p)) }, report: {} };
  },
});
