import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { islandsOfGrips, moveGroups, wholeIslands } from '../job/grip.ts';
import { partOf, type Job } from '../job/job.ts';
import { alignMoves, alignSides, distributeMoves, distributeWays } from '../shape/alignBoxes.ts';
import type { Box } from '../uv/box.ts';
import { islandTurns } from '../shape/islandTurn.ts';
import { defineOperation, plural } from './operation.ts';
import { turnIslands } from './turnIslands.ts';

const words = { left: 'left', right: 'right', top: 'top', bottom: 'bottom', middleU: 'middles one above the other', middleV: 'middles side by side' } as const;

export const alignIslands = defineOperation({
  name: 'alignIslands',
  headings: 'set',
  label: 'Align islands',
  words: 'line up edge distribute',
  changes: ['uvs'],
  needs: 'islands',
  summary: 'Move islands so that they end at one line',
  offered: alignSides.map((side) => ({ id: `align-${side}`, label: `Align islands: ${words[side]}`, params: { side } })),
  params: z.object({
    side: z.enum(alignSides).describe('where their boxes end, or how their middles stand'),
    to: z.enum(['islands', 'sheet']).default('islands').describe('the box round all of them, or the sheet'),
    one: z
      .object({ part: z.string(), island: z.number().int().min(0) })
      .optional()
      .describe('one of them that stays, and that the others are aligned to'),
  }),
  run(job, { side, to, one }) {
    const within = one ? boxOfOne(job, one) : to === 'sheet' ? ([0, 0, 1, 1] as const) : undefined;
    const { job: next, islands, moved } = arranged(job, (boxes) => alignMoves(boxes, side, within), to === 'sheet' && !one ? 1 : 2);
    return { job: next, report: { islands, moved } };
  },
  sentence: ({ side }, report) => `Aligned ${plural(report.islands, 'island')}: ${words[side]}`,
});

const spaced = { gapsU: 'even gaps along u', gapsV: 'even gaps along v', middlesU: 'middles evenly along u', middlesV: 'middles evenly along v' } as const;

export const distributeIslands = defineOperation({
  name: 'distributeIslands',
  label: 'Distribute islands',
  words: 'space spread evenly gaps',
  changes: ['uvs'],
  needs: 'islands',
  summary: 'Move islands so that their gaps or middles are even; the outermost stay',
  offered: distributeWays.map((way) => ({ id: `distribute-${way}`, label: `Distribute islands: ${spaced[way]}`, params: { way } })),
  params: z.object({ way: z.enum(distributeWays) }),
  run(job, { way }) {
    const { job: next, islands, moved } = arranged(job, (boxes) => distributeMoves(boxes, way), 3);
    return { job: next, report: { islands, moved } };
  },
  sentence: ({ way }, report) => `Distributed ${plural(report.islands, 'island')}: ${spaced[way]}`,
});

/** The box of one of the selected islands. @throws JigError where it is not selected, or has no place */
function boxOfOne(job: Job, { part, island }: { part: string; island: number }): Box {
  const found = islandsOfGrips(job, wholeIslands(job)).find((one) => one.part.id === partOf(job, part).id && one.island === island);
  if (!found) throw new JigError('bad-parameter', 'The island to align to is not selected, or has no place on the sheet.');
  return found.box;
}

/** Moves the selected islands of all parts as a function of their boxes says. */
function arranged(job: Job, moves: (boxes: Box[]) => [number, number][], least: number): { job: Job; islands: number; moved: number } {
  const grips = wholeIslands(job);
  const boxes = grips.flatMap(({ groups }) => groups.map(({ box }) => box));
  if (boxes.length < least)
    throw new JigError(
      'nothing-to-do',
      least === 1 ? 'No island is selected.' : `${least === 2 ? 'Two' : 'Three'} islands or more are arranged with each other.`,
      '',
      'Select them first.',
    );
  const by = moves(boxes);
  return { ...moveGroups(job, grips, (n) => [1, 0, 0, 1, ...by[n]!]), islands: boxes.length };
}

const dashed = (word: string) => word.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`);
const hows = [...islandTurns, ...alignSides, ...distributeWays].map(dashed);

/** The other operations of this kind by one name, for the command line and recipes. */
export const arrange = defineOperation({
  name: 'arrange',
  headings: 'set',
  label: 'Align, distribute or turn islands',
  words: 'line up orient',
  changes: ['uvs'],
  needs: 'selection',
  commandLine: { output: 'model', name: 'align' },
  summary: 'Turn islands upright, or align and distribute them',
  params: z.object({
    how: z.enum(hows).describe('turn each island (up, least-box, longest-edge), align them all (left, right, …), or make gaps or middles even'),
    to: z.enum(['islands', 'sheet']).default('islands').describe('what is aligned to: the box round all of them, or the sheet'),
  }),
  async run(job, { how, to }, context) {
    const named = <T extends string>(list: readonly T[]) => list.find((name) => dashed(name) === how);
    const [turn, side, way] = [named(islandTurns), named(alignSides), named(distributeWays)];
    const { job: next, report } = turn
      ? await turnIslands.run(job, { to: turn }, context)
      : side
        ? await alignIslands.run(job, { side, to }, context)
        : await distributeIslands.run(job, { way: way! }, context);
    return { job: next, report };
  },
  sentence: ({ how }, { islands }) => `Arranged ${plural(islands, 'island')}: ${how}`,
});
