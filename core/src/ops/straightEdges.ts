import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { StraightWay } from '../unwrap/wishes.ts';
import { defineOperation, plural } from './operation.ts';

const ways = ['nearest', 'level', 'upright', 'free'] as const;
const markOf = { ...StraightWay, free: 0 };

/** Says which edges come out level or upright; where one unwraps as one cuts their islands are laid so at once. */
export const straightEdges = defineOperation({
  name: 'straightEdges',
  label: 'Keep edges straight in the unwrap',
  words: 'border level upright axis straight hem seam cloth constraint',
  changes: ['marks', 'uvs'],
  needs: 'selection',
  asked: ['way'],
  summary: 'The selected edges come out level or upright whenever their islands are laid by least stretch',
  params: z.object({
    way: z
      .enum(ways)
      .default('nearest')
      .describe('level: along u, upright: along v, nearest: each line as it is nearer; free: as it comes, which takes the mark off'),
  }),
  async run(job, { way }, context) {
    const { job: next, edges, laid } = await (await import('./markedEdges.ts')).markedEdges(job, (mark) => (mark & ~3) | markOf[way], context);
    if (edges === 0) throw new JigError('nothing-to-do', 'No edge is selected.', '', 'Select edges first, a double click takes a whole border or loop.');
    return { job: next, report: { edges, laid } };
  },
  sentence({ way }, { edges, laid }) {
    if (way === 'free') return `${plural(edges, 'edge')} may lie as ${edges === 1 ? 'it comes' : 'they come'}`;
    const how = way === 'nearest' ? 'level or upright' : way;
    return laid ? `${plural(edges, 'edge')} laid ${how}, and so whenever unwrapped` : `${plural(edges, 'edge')} will be ${how} once unwrapped`;
  },
});
