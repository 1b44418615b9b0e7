import { z } from 'zod';
import { imageRoles, roleWords, useOf, type ImageUse } from '../images/imageSets.ts';
import { JigError } from '../jigError.ts';
import { defineOperation, partSchema } from './operation.ts';

const setName = z.string().trim().min(1).max(200);

export const setImageUse = defineOperation({
  name: 'setImageUse',
  label: 'Say what an image is of',
  words: 'texture set role channel colour relief normal roughness group',
  changes: ['images'],
  summary: 'Put an image into a set, as its colour, relief, normals or whatever it is of; or take it out',
  params: z.object({
    image: z.string(),
    set: setName.nullable().default(null).describe('name of the set; null: the image is in none'),
    role: z.enum(imageRoles).default('colour'),
  }),
  run(job, { image: id, set, role }) {
    const image = job.images.find((one) => one.id === id);
    if (!image) throw new JigError('not-found', 'This image is not in the job.');
    const use: ImageUse | null = set === null ? null : { set, role };
    const report = { name: image.name, words: use ? `${roleWords(use.role)} of the set “${use.set}”` : 'in no set' };
    if (JSON.stringify(useOf(image)) === JSON.stringify(use)) return { job, report };
    return { job: { ...job, images: job.images.map((one) => (one === image ? { ...one, use } : one)) }, report };
  },
  sentence: (_, { name, words }) => `“${name}” is ${words}`,
});

export const putImageSet = defineOperation({
  name: 'putImageSet',
  label: 'Put a set of images on a part',
  words: 'texture material colour relief normal mask',
  changes: ['images'],
  summary: 'Show a set of images on a part: its colour as the picture or as a layer, its relief, its mask; they move as one',
  params: z.object({
    part: partSchema,
    set: setName.describe('name of the set'),
    as: z.enum(['picture', 'layers']).default('picture').describe('the colour as the part’s own picture, or as a layer over that, within the set’s mask'),
  }),
  async run(job, params) {
    return (await import('./imageSetsWork.ts')).withSetOn(job, params);
  },
  sentence: (_, { set, name, unseen }) => `Put the set “${set}” on ${name}${unseen.length > 0 ? `; ${unseen.map(roleWords).join(', ')} go along unseen` : ''}`,
});
