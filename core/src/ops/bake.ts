import { z } from 'zod';
import { bakeKinds, sampleCounts } from '../images/bakeKinds.ts';
import type { Job } from '../job/job.ts';
import { defineOperation, partSchema, sizeSchema } from './operation.ts';

export interface BakeReport {
  what: string;
  width: number;
  height: number;
  /** Share of the px that islands cover, 0 to 1. */
  coverage: number;
  /** Share of the covered samples that more than one island wanted: the first part, and in it the first face, has them. */
  contested: number;
  /** Height that is white in a relief, units; the surface is mid grey, as far below is black. */
  range: number;
  /** The image in the job, where it was added. */
  image: string | null;
  name: string;
  /** What was left out or is seen otherwise, in words. */
  notes: string[];
  png: () => Uint8Array;
}

const samplesSchema = z.coerce.number().pipe(z.union(sampleCounts.map((n) => z.literal(n))));
const bleedSchema = z.union([z.literal('full'), z.coerce.number().min(0).max(4096)]);

export const bake = defineOperation({
  name: 'bake',
  label: 'Bake',
  words: 'render texture export transfer normal occlusion mask',
  changes: ['images', 'parts'],
  commandLine: { output: 'picture', hidden: ['part', 'from', 'add', 'show', 'layer'] },
  summary: 'Make a picture of what is seen, laid out by a UV set',
  fromSettings: ['size', 'margin'],
  params: z.object({
    what: z.enum(bakeKinds).default('colour').describe('what the picture is of'),
    part: z.string().describe('this part alone; default: all of its sheet').optional(),
    set: z.coerce.number().int().min(0).max(63).describe('UV set that is baked to, counted from 0; default: the one at work').optional(),
    size: sizeSchema.default('2048'),
    samples: samplesSchema.default(4).describe('samples a px: 1, 4 or 16'),
    bleed: bleedSchema.describe('px that islands are carried on beyond their borders, or full; default: the margin').optional(),
    margin: z.coerce.number().min(0).max(512).describe('gap of the layout, px').optional(),
    depth: z.coerce
      .number()
      .pipe(z.union([z.literal(8), z.literal(16)]))
      .default(8)
      .describe('bits a channel: 8 or 16'),
    tile: z.coerce.number().int().min(1001).max(1100).default(1001).describe('the tile of the sheet, by its number'),
    layer: z.string().describe('for a mask: the layer that it is of, by id').optional(),
    range: z.coerce.number().positive().max(1e6).describe('for relief: height that is white, units; default: the most there can be').optional(),
    green: z.enum(['up', 'down']).default('up').describe('for normals for the UVs: which way green is; glTF has it up'),
    reach: z.coerce.number().positive().max(1e6).describe('for occlusion and thickness: how far rays look, units; default: a quarter of the part').optional(),
    rays: z.coerce.number().int().min(1).max(1024).default(64).describe('for occlusion and thickness: rays a sample'),
    within: z.coerce.number().positive().max(1e6).describe('with another model’s picture: how far away it may be, units').optional(),
    from: partSchema.describe('part whose picture is taken, looked up where this one is'),
    add: z.boolean().default(false).describe('add the picture to the job'),
    show: z.boolean().default(false).describe('and show it in place of what it was made of'),
  }),
  async run(job, params, context): Promise<{ job: Job; report: BakeReport }> {
    // loaded when something is baked first
    return (await import('./bakeWork.ts')).baked(job, params, context);
  },
  sentence: (_, { what, width, height, name, image }) => `Baked ${what}, ${width} × ${height} px${image ? `: “${name}” is among the images` : ''}`,
});
