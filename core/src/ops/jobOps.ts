import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { isAsItLies, placementSchema } from '../images/placement.ts';
import { emptySelection, partOf, settingsSchema, withPart, type JobSettings } from '../job/job.ts';
import { withLayersAlong } from '../job/setMates.ts';
import { defineOperation, partSchema } from './operation.ts';
import { withSheet } from './pack.ts';

/**
 * The settings, each of them optional and without what a new job begins with: a default inside an optional would be filled in, and a change of one
 * would put all others back.
 */
const changes = z.object(
  Object.fromEntries(Object.entries(settingsSchema.shape).map(([name, schema]) => [name, schema.unwrap().optional()])),
) as unknown as z.ZodObject<{
  [K in keyof JobSettings]: z.ZodOptional<z.ZodType<JobSettings[K]>>;
}>;

const words: Record<keyof JobSettings, string> = {
  countImage: 'whether stretch counts the image',
  width: 'sheet width',
  height: 'sheet height',
  margin: 'margin',
  borderGap: 'gap to the border',
  turn: 'turns when packing',
  effort: 'effort of packing',
  upright: 'laying upright when packing',
  keepPinned: 'pinned and done islands staying when packing',
  evenDensity: 'even density when packing',
  live: 'laying flat while cutting',
  method: 'method of unwrapping',
  apart: 'islands kept from lying over themselves',
  views: 'own views',
  grainAlong: 'the way pictures run',
  holdGrain: 'grain held in unwrapping',
  stacksFollow: 'islands of a stack following one another',
  mirror: 'mirrored hand work',
  seenFrom: 'the side looked at',
  purpose: 'what the layout is for',
  limits: 'its limits',
  distance: 'the distance it is seen from',
  unit: 'unit',
  gridRepeat: 'repeats of the test grid',
  gridKind: 'test grid',
  gridSize: 'size of the test grid',
};

export const settings = defineOperation({
  name: 'settings',
  label: 'Settings of the job',
  words: 'sheet size margin units',
  changes: ['settings', 'uvs', 'seams', 'jigs'],
  summary: 'Change the job’s settings',
  params: changes,
  run(job, params) {
    const given = Object.fromEntries(Object.entries(params).filter(([, value]) => value !== undefined));
    const next = settingsSchema.parse({ ...job.settings, ...given });
    const sized = withSheet(job, next.width, next.height);
    return { job: { ...sized, settings: next }, report: given };
  },
  sentence: (params) =>
    `Changed: ${Object.entries(params)
      .filter(([, value]) => value !== undefined)
      .map(
        ([name, value]) =>
          `${words[name as keyof JobSettings]} ${value === true ? 'on' : value === false ? 'off' : value === null ? 'none' : typeof value === 'object' ? 'changed' : String(value)}`,
      )
      .join(', ')}`,
});

export const renameJob = defineOperation({
  name: 'renameJob',
  label: 'Rename the job',
  words: 'name title',
  changes: ['settings'],
  summary: 'Give the job another name',
  params: z.object({ name: z.string().trim().min(1).max(120) }),
  run: (job, { name }) => ({ job: { ...job, name }, report: {} }),
  sentence: ({ name }) => `Named the job “${name}”`,
});

export const activatePart = defineOperation({
  name: 'activatePart',
  label: 'Work on another part',
  words: 'object',
  changes: ['view'],
  summary: 'Work on another part',
  params: z.object({ part: z.string() }),
  run(job, { part }) {
    const found = job.parts.find((p) => p.id === part);
    if (!found) throw new JigError('not-found', `There is no part “${part}”.`);
    return { job: { ...job, activePart: part, selection: { ...emptySelection(part), kind: job.selection.kind } }, report: { name: found.name } };
  },
  sentence: () => 'Went to another part',
});

export const showImage = defineOperation({
  name: 'showImage',
  label: 'Show an image on a part',
  words: 'texture picture',
  changes: ['images'],
  summary: 'Show an image on a part, or the test grid',
  params: z.object({ part: z.string(), image: z.string().nullable() }),
  run(job, { part, image }) {
    if (image !== null && !job.images.some((i) => i.id === image)) throw new JigError('not-found', 'This image is not in the job.');
    return { job: withPart(job, partOf(job, part).id, (p) => ({ ...p, imageId: image })), report: {} };
  },
  sentence: ({ image }) => (image ? 'Showed an image' : 'Showed the test grid'),
});

export const placeImage = defineOperation({
  name: 'placeImage',
  label: 'Place a part’s image',
  words: 'repeat offset turn tile',
  changes: ['images'],
  summary: 'Lay a part’s image in its UVs: repeats, offset, turn, outside',
  params: z.object({ part: partSchema, placement: placementSchema, what: z.string().max(40).default('') }),
  run(job, { part: id, placement }) {
    const part = partOf(job, id);
    const plain = isAsItLies(placement);
    const next = withPart(job, part.id, ({ placement: _, ...rest }) => withLayersAlong(job, part, plain ? rest : { ...rest, placement }));
    return { job: plain && !part.placement ? job : next, report: { name: part.name, plain } };
  },
  sentence: ({ what }, { name, plain }) =>
    plain ? `Image of ${name} as it lies` : `${what ? what[0]!.toUpperCase() + what.slice(1) : 'Placed'} the image of ${name}`,
});
