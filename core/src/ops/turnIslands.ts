import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { islandsOfGrips, moveGroups, wholeIslands, type WholeIsland } from '../job/grip.ts';
import { grainAim } from '../job/grainAim.ts';
import { sheetAspect } from '../job/sheets.ts';
import { islandTurns, turnOfIsland, type IslandTurn } from '../shape/islandTurn.ts';
import { affineOf, unmoved } from '../shape/transform.ts';
import { grainTurn } from '../shape/grain.ts';
import { islandsOf } from '../uv/islands.ts';
import { middleOf } from '../uv/box.ts';
import { pieceOf } from '../unwrap/piece.ts';
import { defineOperation, plural } from './operation.ts';

const ways = [...islandTurns, 'grain'] as const;
const words = {
  up: 'the model’s up runs up the sheet',
  leastBox: 'their boxes are least',
  longestEdge: 'their longest border is level',
  grain: 'their grain runs as pictures do',
} as const;

/** Turns each selected island by itself, whichever part it is of. */
export const turnIslands = defineOperation({
  name: 'turnIslands',
  headings: 'set',
  label: 'Turn islands',
  words: 'orient rotate upright straighten align heading',
  changes: ['uvs'],
  needs: 'selection',
  offered: ways.map((to) => ({ id: `turn-${to}`, label: `Turn islands: ${words[to]}`, params: { to } })),
  summary: 'Turn each island so that the model’s up, its least box, its longest border or its grain lies right',
  params: z.object({ to: z.enum(ways) }),
  run(job, { to }) {
    const grips = wholeIslands(job);
    if (grips.length === 0) throw new JigError('nothing-to-do', 'Nothing that has a place on the sheet is selected.', '', 'Select islands first.');
    const turns = islandsOfGrips(job, grips).map((one) => {
      const aspect = sheetAspect(job, one.part.id);
      const turn = to === 'grain' ? turnToGrain(one, aspect, grainAim(job, one.part)) : turnTo(one, to, aspect);
      return affineOf({ ...unmoved, turn: turn ?? 0 }, middleOf(one.box), aspect);
    });
    if (to === 'grain' && islandsOfGrips(job, grips).every(({ part }) => !part.grain))
      throw new JigError('nothing-to-do', 'None of these islands has a grain.', '', 'Draw it on the model first.');
    const { job: next, moved } = moveGroups(job, grips, (n) => turns[n]!);
    return { job: next, report: { islands: turns.length, moved } };
  },
  sentence: ({ to }, { islands }) => `Turned ${plural(islands, 'island')}: ${words[to]}`,
});

/** Degrees that bring an island's grain to run as the picture does; null where it has none. @param aim which way the picture runs, radians from u */
export function turnToGrain({ part, set, island }: Pick<WholeIsland, 'part' | 'set' | 'island'>, aspect: number, aim: number): number | null {
  if (!part.grain) return null;
  const { start, faces } = islandsOf(part.mesh, set);
  const turn = grainTurn(part.mesh, set, part.grain, faces.subarray(start[island]!, start[island + 1]!), aspect, aim);
  return turn === null ? null : Math.abs(turn) < 1e-9 ? 0 : (turn * 180) / Math.PI;
}

/** Degrees counterclockwise that an island has to be turned by. */
export function turnTo({ part, set, island }: Pick<WholeIsland, 'part' | 'set' | 'island'>, to: IslandTurn, aspect: number): number {
  const piece = pieceOf(part.mesh, set, island);
  const at = Float64Array.from([...piece.uvPoint].flatMap((p) => [set.uv[p * 2]! * aspect, set.uv[p * 2 + 1]!]));
  const turn = (turnOfIsland(piece, at, to) * 180) / Math.PI;
  // less than can be seen on any sheet is none
  return Math.abs(turn) < 1e-9 ? 0 : turn;
}
