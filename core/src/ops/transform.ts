import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { gripOf, moveGroups } from '../job/grip.ts';
import { boxRound, middleOf } from '../uv/box.ts';
import { sheetAspect } from '../job/sheets.ts';
import { affineOf } from '../shape/transform.ts';
import { softWays } from '../shape/softReach.ts';
import { defineOperation, plural } from './operation.ts';

const pair = z.tuple([z.number().min(-1000).max(1000), z.number().min(-1000).max(1000)]);
const factor = z
  .number()
  .min(-1000)
  .max(1000)
  .refine((x) => Math.abs(x) > 1e-6, 'no size of 0');

/** Moves, turns and sizes what is selected on the sheet, of all parts at once. */
export const transform = defineOperation({
  name: 'transform',
  headings: ({ turn }) => (turn === 0 ? undefined : 'set'),
  label: 'Move, turn or size on the sheet',
  words: 'rotate scale flip mirror translate drag nudge transform',
  changes: ['uvs'],
  needs: 'selection',
  summary: 'Move, turn, size or mirror what is selected on the sheet',
  params: z.object({
    move: pair.default([0, 0]).describe('along u and v, shares of the sheet'),
    turn: z.number().min(-36000).max(36000).default(0).describe('degrees, counterclockwise'),
    scale: z.tuple([factor, factor]).default([1, 1]).describe('along u and v; below 0 mirrors'),
    pivot: z
      .union([z.enum(['middle', 'each']), pair])
      .default('middle')
      .describe('what it turns and sizes round: the middle of all, of each island, or a place'),
    radius: z.number().min(0).max(100).default(0).describe('points so near go along in part, heights of the sheet'),
    way: z.enum(softWays).default('island').describe('near on the sheet, or over the island’s own faces'),
  }),
  run(job, { move, turn, scale, pivot, radius, way }) {
    const grips = gripOf(job, { each: pivot === 'each', radius, way });
    if (grips.length === 0)
      throw new JigError('nothing-to-do', 'Nothing that has a place on the sheet is selected.', '', 'Select islands, faces, edges or points first.');
    const aspect = sheetAspect(job);
    const still = move[0] === 0 && move[1] === 0 && turn === 0 && scale[0] === 1 && scale[1] === 1;
    const whole = typeof pivot === 'string' ? middleOf(boxRound(grips.flatMap(({ groups }) => groups.map(({ box }) => box)))) : pivot;
    const groups = grips.flatMap((grip) => grip.groups);
    const points = groups.reduce((sum, group) => sum + group.points.length, 0);
    const { job: next } = still
      ? { job }
      : moveGroups(job, grips, (n) => affineOf({ move, turn, scale }, pivot === 'each' ? middleOf(groups[n]!.box) : whole, aspect));
    return { job: next, report: { points, parts: grips.length } };
  },
  sentence: ({ move, turn, scale }, { points }) => {
    const done = [
      scale[0] * scale[1] < 0 ? 'Mirrored' : scale[0] !== 1 || scale[1] !== 1 ? 'Sized' : '',
      turn !== 0 ? `Turned by ${Math.round(turn * 100) / 100}°` : '',
      move[0] !== 0 || move[1] !== 0 ? 'Moved' : '',
    ].filter(Boolean);
    return `${done.length > 0 ? done.map((word, k) => (k > 0 ? word[0]!.toLowerCase() + word.slice(1) : word)).join(', ') : 'Left in place'}: ${plural(points, 'UV point')}`;
  },
});
