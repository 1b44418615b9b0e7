import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { activeSet, partOf, type Job } from '../job/job.ts';
import { sheetAspect } from '../job/sheets.ts';
import { selectionByPart } from '../job/selected.ts';
import { sidesApart } from '../unwrap/keptLengths.ts';
import { scaleU } from '../uv/scaleU.ts';
import { continuingSeams } from '../uv/continuing.ts';
import { goesOnOver, keepsLength } from '../uv/straight.ts';
import { defineOperation, plural } from './operation.ts';

/** Says over which seams the picture goes on, and is to go on: islands on both sides of one are varied as one. */
export const keepGoing = defineOperation({
  name: 'keepGoing',
  label: 'Keep the picture going on over seams',
  words: 'continuous seam vary random pattern match hold',
  changes: ['marks'],
  needs: 'edges',
  offered: [
    { id: 'seam-keep-going', label: 'Keep the picture going on over the selected seams', words: 'continuous vary hold', params: {} },
    { id: 'seam-let-go', label: 'Let the picture go at the selected seams', words: 'continuous vary free', params: { keep: false } },
  ],
  summary: 'Islands on both sides of the selected seams are varied as one, so that the picture goes on over them',
  params: z.object({ keep: z.boolean().default(true).describe('or they are varied apart again') }),
  async run(job, { keep }, context) {
    const change = (mark: number) => (keep ? mark | goesOnOver : mark & ~goesOnOver);
    const { job: next } = await (await import('./markedEdges.ts')).markedEdges(job, change, context, false);
    const seamsOf = (of: Job) => of.parts.reduce((sum, part) => sum + continuingSeams(part.mesh, activeSet(part)).length, 0);
    const changed = Math.abs(seamsOf(next) - seamsOf(job));
    if (changed === 0)
      throw new JigError('nothing-to-do', keep ? 'None of these edges is a seam that is not kept so already.' : 'None of these seams is kept so.');
    return { job: next, report: { edges: changed } };
  },
  sentence: ({ keep }, { edges }) => `The picture ${keep ? 'is kept going on' : 'need not go on any more'} over ${plural(edges, 'edge')} of seams`,
});

/** Says which edges keep their length on the model, so that both sides of a seam are equally long and a pattern goes on over it. */
export const keepLengths = defineOperation({
  name: 'keepLengths',
  label: 'Keep edges at their length in the unwrap',
  words: 'equal seam sides match pattern sewing length density constraint cloth',
  changes: ['marks', 'uvs'],
  needs: 'selection',
  summary: 'The selected edges come out as long as on the model whenever their islands are laid by least stretch: both sides of a seam alike',
  params: z.object({ keep: z.boolean().default(true).describe('or they may be longer or shorter again') }),
  async run(job, { keep }, context) {
    const {
      job: next,
      edges,
      laid,
    } = await (await import('./markedEdges.ts')).markedEdges(job, (mark) => (keep ? mark | keepsLength : mark & ~keepsLength), context);
    if (edges === 0) throw new JigError('nothing-to-do', 'No edge is selected.', '', 'Select edges first: seams are selected by one press.');
    const apart = Math.max(
      0,
      ...selectionByPart(job).map(({ part: { id } }) => sidesApart(partOf(next, id).mesh, scaleU(activeSet(partOf(next, id)), sheetAspect(next, id)))),
    );
    return { job: next, report: { edges, laid, apart } };
  },
  sentence({ keep }, { edges, laid, apart }) {
    if (!keep) return `${plural(edges, 'edge')} may be longer or shorter`;
    return laid
      ? `${plural(edges, 'edge')} as long as on the model; sides of seams differ by ${(apart * 100).toFixed(2)} % at most`
      : `${plural(edges, 'edge')} will keep their length once unwrapped`;
  },
});
