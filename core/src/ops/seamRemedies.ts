import { z } from 'zod';
import { viewingSides } from '../measure/seamSight.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

/* What can be done about a seam at which the picture jumps, besides letting an island go on or joining two. */

const edgesSchema = z.array(z.number().int().min(0)).optional().describe('seam edges by number; default: the selected edges');

export const moveSeam = defineOperation({
  name: 'moveSeam',
  label: 'Move the selected seam out of sight',
  words: 'hide reroute shift jump',
  changes: ['seams', 'uvs', 'marks', 'view'],
  needs: 'edges',
  summary: 'Cut a seam where it is seen less, is shorter or follows a crease, instead of where it runs now',
  offered: [{ id: 'seam-move', label: 'Move the selected seam out of sight', words: 'hide reroute shift jump', params: {} }],
  fromSettings: ['seenFrom'],
  params: z.object({
    part: partSchema,
    edges: edgesSchema,
    seenFrom: z.enum(viewingSides).default('standing').describe('where the part is looked at from; standing: around and above, seldom from below'),
  }),
  async run(job, params, context) {
    // loaded when a seam is moved first
    return (await import('./seamRemediesWork.ts')).seamMoved(job, params, context);
  },
  sentence: (_params, { from, to }) => `Moved ${plural(from, 'edge')} of seams to ${plural(to, 'edge')} elsewhere`,
});

const coverWays = ['along', 'whole'] as const;
export type CoverWay = (typeof coverWays)[number];

export const coverSeam = defineOperation({
  name: 'coverSeam',
  label: 'Cover the selected seam from three sides',
  words: 'hide fade blend triplanar jump',
  changes: ['images'],
  needs: 'edges',
  offered: [
    { id: 'seam-cover', label: 'Fade over the selected seam, from three sides', words: 'hide blend triplanar jump', params: {} },
    { id: 'seam-cover-whole', label: 'Islands at the selected seam from three sides', words: 'hide triplanar jump', params: { how: 'whole' } },
  ],
  summary: 'Show what lies by the UVs from three sides along a seam, with a soft edge, or on the whole islands beside it',
  params: z.object({
    part: partSchema,
    edges: edgesSchema,
    how: z.enum(coverWays).default('along').describe('a strip along the seam that fades out, or the islands on both sides whole'),
  }),
  async run(job, params) {
    // loaded when a seam is covered first
    return (await import('./seamRemediesWork.ts')).seamCovered(job, params);
  },
  sentence: (_params, { faces, share }) =>
    `Covered the seam on ${plural(faces, 'face')} (${(share * 100).toFixed(share < 0.1 ? 1 : 0)} % of the part) from three sides`,
});
