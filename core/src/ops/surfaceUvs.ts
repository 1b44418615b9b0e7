import { z } from 'zod';
import { defineOperation, partSchema, plural } from './operation.ts';

const writeParams = z.object({
  part: partSchema,
  layer: z.string().describe('a layer of the part, or of the material, by id; default: the part’s own picture').optional(),
  material: z.string().max(1000).describe('with a layer: it is one of this material; the faces of all parts that have it are written').optional(),
  into: z.enum(['this', 'copy']).default('this').describe('the UV set that drives it, or a copy of that'),
  faces: z
    .enum(['all', 'selected'])
    .default('all')
    .describe('those of all faces, or of the selected ones of the part, for which there is a layer of its own then'),
});
export type WriteParams = z.output<typeof writeParams>;

export const writePlacement = defineOperation({
  name: 'writePlacement',
  label: 'Write a picture’s placement to the UVs',
  words: 'bake transform repeats offset',
  changes: ['uvs', 'images', 'parts', 'jigs'],
  headings: 'set',
  summary: 'The UVs take a picture’s repeats, turn and offset over; it looks as before and its placement is at rest',
  params: writeParams,
  async run(job, params) {
    return (await import('./surfaceUvsWork.ts')).placementWritten(job, params);
  },
  sentence: (_, { set, faces, madeOwn, alsoMoved }) =>
    `Wrote the placement to ${set}${faces === null ? '' : ` for ${plural(faces, 'face')}, which have a layer of their own now`}${madeOwn && `; ${madeOwn}`}${alsoMoved.length > 0 ? `; ${alsoMoved.join(', ')} ${alsoMoved.length === 1 ? 'is' : 'are'} driven by it too and moved along` : ''}`,
});

const varyParams = z.object({
  part: partSchema,
  by: z.enum(['island', 'part']).default('island').describe('each island by itself, or each part as one'),
  which: z.enum(['selected', 'all']).default('all').describe('the selected islands (all where none is), or all of the part'),
  offset: z.boolean().default(true).describe('random offsets'),
  turn: z.enum(['none', 'half', 'quarter', 'free']).default('none').describe('random turns by halves, quarters or any angle'),
  mirror: z.boolean().default(false).describe('mirror half of them'),
  seed: z.coerce.number().int().min(1).max(1e9).default(1).describe('another seed, another variation'),
  texels: z.coerce.number().int().min(1).max(16_384).default(1024).describe('offsets by whole texels of a picture so many px wide'),
});
export type VaryParams = z.output<typeof varyParams>;

export const vary = defineOperation({
  name: 'vary',
  label: 'Vary the picture',
  words: 'random offset turn mirror repetition seed',
  changes: ['uvs', 'jigs'],
  headings: 'set',
  asked: ['by', 'offset', 'turn', 'mirror', 'seed'],
  commandLine: { output: 'model', hidden: ['part'] },
  summary: 'Islands or parts of a repeated picture get random offsets and turns, the same for the same seed',
  params: varyParams,
  async run(job, params) {
    return (await import('./surfaceUvsWork.ts')).varied(job, params);
  },
  sentence: ({ seed }, { varied }) => `Varied ${plural(varied, 'island')}, seed ${seed}`,
});
