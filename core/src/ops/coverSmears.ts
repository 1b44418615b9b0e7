import { z } from 'zod';
import { defineOperation, plural } from './operation.ts';

/** What a projection cannot serve: the poles of a ball, the ends of a tube, sides that a flat one grazes. */
export const coverSmears = defineOperation({
  name: 'coverSmears',
  label: 'Cover the poles and smears of a jig',
  words: 'hide pinch stretch triplanar blend fade grazing',
  changes: ['images'],
  summary: 'Show the part’s picture from three sides, with a soft edge, where a jig smears it',
  params: z.object({ id: z.string().describe('jig by id') }),
  async run(job, { id }) {
    // loaded when a jig's smears are covered first
    const { coveredSmears } = await import('./coverSmearsWork.ts');
    return coveredSmears(job, id);
  },
  sentence: (_, { name, faces, share }) =>
    `Covered ${plural(faces, 'face')} that ${name} smears (${(share * 100).toFixed(share < 0.1 ? 1 : 0)} % of its area) with the picture from three sides`,
});
