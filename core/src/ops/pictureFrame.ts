import { z } from 'zod';
import { defineOperation, plural } from './operation.ts';
import type { FrameError } from './pictureFrameWork.ts';

const triple = z.tuple([z.number(), z.number(), z.number()]);
const pair = z.tuple([z.number(), z.number()]);

const errorWords = (errors: readonly FrameError[]) => {
  if (errors.length === 0) return '';
  const mean = errors.reduce((sum, { error }) => sum + error, 0) / errors.length;
  const worst = errors.reduce((a, b) => (b.error > a.error ? b : a));
  return `: outlines ${mean.toFixed(2)} px off in the mean${errors.length > 1 ? `, ${worst.name} most, ${worst.error.toFixed(2)} px` : ''}`;
};

/** A picture in space, as one frame for all parts that were traced from it. */
export const standPicture = defineOperation({
  name: 'standPicture',
  label: 'Stand the picture in space',
  words: 'blueprint trace reference plane project decal sheet frame',
  changes: ['jigs', 'uvs', 'seams', 'marks', 'images'],
  summary: 'Stand the part’s picture in space as one frame that gives all chosen parts their UVs, at the width it was traced at',
  params: z.object({
    right: triple.default([1, 0, 0]).describe('which way the picture’s own right points in space'),
    up: triple.default([0, 1, 0]).describe('which way its up points'),
    width: z.number().nonnegative().max(1e9).default(0).describe('how wide the picture stands, units; 0: as wide as the parts'),
    fit: z.boolean().default(false).describe('find place, turn and size by the outlines of all parts and what is opaque in the picture'),
    threshold: z.number().int().min(1).max(255).default(128).describe('alpha from which on the picture is opaque'),
  }),
  run: async (job, params, context) => (await import('./pictureFrameWork.ts')).standInSpace(job, params, context),
  sentence: ({ fit }, { parts, errors }) => `Stood the picture in space for ${plural(parts, 'part')}${fit ? errorWords(errors) : ''}`,
});

/** Finds where a picture in space was traced. */
export const fitFrame = defineOperation({
  name: 'fitFrame',
  label: 'Find the frame of a picture in space',
  words: 'register align blueprint trace outline two points',
  changes: ['jigs', 'uvs', 'seams', 'marks'],
  summary: 'Move, turn and size a picture in space so that the outlines of its parts meet its alpha, or two of its places two points of the model',
  params: z.object({
    id: z.string().describe('jig by id'),
    points: z.array(triple).length(2).optional().describe('two points of the model; default: by outlines'),
    places: z.array(pair).length(2).optional().describe('u and v of the places of the picture that belong on them'),
    threshold: z.number().int().min(1).max(255).default(128).describe('alpha from which on the picture is opaque'),
  }),
  run: async (job, params, context) => (await import('./pictureFrameWork.ts')).fitInSpace(job, params, context),
  sentence: ({ points }, { name, errors }) => (points ? `Laid two places of ${name} on two points` : `Fitted ${name} to the outlines${errorWords(errors)}`),
});
