import { z } from 'zod';
import { defineOperation, plural } from './operation.ts';

/** Islands on the outlines that a picture's alpha has. */
export const matchOutline = defineOperation({
  name: 'matchOutline',
  headings: 'set',
  label: 'Match outlines to the picture',
  words: 'alpha silhouette cutout trace fit shape register',
  changes: ['uvs', 'marks'],
  asked: ['fit', 'pieces', 'threshold', 'lock'],
  summary: 'Move, turn and size islands, or change their shape, so that their borders meet the outlines of what is opaque in the part’s picture',
  params: z.object({
    fit: z
      .enum(['together', 'each', 'shape'])
      .default('each')
      .describe('all by one move, turn and size; each by its own; or each by its own and then its border drawn onto the outline, the inside relaxed'),
    pieces: z
      .enum(['near', 'like'])
      .default('like')
      .describe('which opaque piece an island goes to: the one it is on, or the one whose outline is most like its own'),
    threshold: z.number().int().min(1).max(255).default(128).describe('alpha from which on the picture is opaque, 1 to 255'),
    lock: z.boolean().default(true).describe('packing leaves them there'),
  }),
  run: async (job, params, context) => (await import('./matchOutlineWork.ts')).matchOutlines(job, params, context),
  sentence: ({ fit }, { matched, left, unused }) => {
    const mean = matched.reduce((sum, { error }) => sum + error, 0) / matched.length;
    const worst = matched.reduce((a, b) => (b.error > a.error ? b : a));
    return [
      `Matched ${plural(matched.length, 'island')} to the picture’s outline${fit === 'together' ? ' by one move, turn and size' : ''}: ${mean.toFixed(2)} px off in the mean`,
      ...(matched.length > 1 ? [`${worst.letter} most, ${worst.error.toFixed(2)} px`] : []),
      ...(left.length > 0 ? [`${left.join(', ')} found no piece`] : []),
      ...(unused > 0 ? [`${plural(unused, 'opaque piece')} unused`] : []),
    ].join('; ');
  },
});
