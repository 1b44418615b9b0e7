import { z } from 'zod';
import { islandsOfGrips, wholeIslands } from '../job/grip.ts';
import { activeSet, withSet, type Job } from '../job/job.ts';
import { facesOfIsland, type IslandOfPart } from '../job/stacks.ts';
import { JigError } from '../jigError.ts';
import { passRanks } from '../uv/ranks.ts';
import { withMates } from './locks.ts';
import { defineOperation, plural } from './operation.ts';

/** Islands are kept together when they are packed, as one block that nothing else gets between; or each goes by itself again. */
export const blockIslands = defineOperation({
  name: 'blockIslands',
  label: 'Keep islands together as a block',
  words: 'group bundle cluster pack together',
  changes: ['marks'],
  needs: 'selection',
  offered: [
    { id: 'makeBlock', label: 'Make a block: packing keeps the selected islands together', params: { do: 'make' } },
    { id: 'leaveBlock', label: 'Take islands out of their block', params: { do: 'leave' } },
  ],
  summary: 'Keep islands together when they are packed',
  params: z.object({ do: z.enum(['make', 'leave']).default('make').describe('make a block of the selected islands, or take them out of theirs') }),
  run(job, { do: what }) {
    const islands = islandsOfGrips(job, wholeIslands(job));
    if (islands.length === 0) throw new JigError('nothing-to-do', 'Nothing that has a place on the sheet is selected.', '', 'Select islands first.');
    if (what === 'make' && islands.length < 2)
      throw new JigError('nothing-to-do', 'A block needs two islands or more.', '', 'Select the islands of the block.');
    // a stack goes as one
    const whole = withMates(job, islands);
    if (what === 'leave' && !whole.some((one) => facesOfIsland(one).some((f) => activeSet(one.part).block?.[f])))
      throw new JigError('nothing-to-do', 'None of the selected islands is in a block.');
    return { job: withBlock(job, whole, what === 'make' ? freshBlock(job) : 0), report: { islands: islands.length } };
  },
  sentence: ({ do: what }, { islands }) =>
    what === 'make'
      ? `Made a block of ${plural(islands, 'island')}`
      : `Took ${plural(islands, 'island')} out of ${islands === 1 ? 'its block' : 'their blocks'}`,
});

/** A number that no block of the job has yet: the lowest, so that numbers on the sheet stay small. */
function freshBlock(job: Job): number {
  const taken = new Set<number>();
  for (const part of job.parts) for (const { block } of part.uvSets) for (const id of block ?? []) taken.add(id);
  let id = 1;
  while (taken.has(id)) id++;
  return id;
}

function withBlock(job: Job, islands: readonly IslandOfPart[], id: number): Job {
  let next = job;
  for (const part of new Set(islands.map((one) => one.part))) {
    const now = activeSet(part);
    const block = now.block?.slice() ?? new Uint32Array(now.unplaced.length);
    for (const one of islands) if (one.part === part) for (const f of facesOfIsland(one)) block[f] = id;
    const { block: _, ...rest } = now;
    next = withSet(next, part.id, passRanks(now, block.some((x) => x !== 0) ? { ...rest, block } : rest));
  }
  return next;
}
