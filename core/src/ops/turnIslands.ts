import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { islandsOfGrips, moveGroups, wholeIslands, type WholeIsland } from '../job/grip.ts';
import { sheetAspect } from '../job/sheets.ts';
import { islandTurns, turnOfIsland, type IslandTurn } from '../shape/islandTurn.ts';
import { affineOf, unmoved } from '../shape/transform.ts';
import { middleOf } from '../uv/box.ts';
import { pieceOf } from '../unwrap/piece.ts';
import { defineOperation, plural } from './operation.ts';

const words = { up: 'the model’s up runs up the sheet', leastBox: 'their boxes are least', longestEdge: 'their longest border is level' } as const;

/** Turns each selected island by itself, whichever part it is of. */
export const turnIslands = defineOperation({
  name: 'turnIslands',
  label: 'Turn islands',
  words: 'orient rotate upright straighten align heading',
  changes: ['uvs'],
  needs: 'selection',
  offered: islandTurns.map((to) => ({ id: `turn-${to}`, label: `Turn islands: ${words[to]}`, params: { to } })),
  summary: 'Turn each island so that the model’s up, its least box or its longest border lies right',
  params: z.object({ to: z.enum(islandTurns) }),
  run(job, { to }) {
    const grips = wholeIslands(job);
    if (grips.length === 0) throw new JigError('nothing-to-do', 'Nothing that has a place on the sheet is selected.', '', 'Select islands first.');
    const turns = islandsOfGrips(job, grips).map((one) => {
      const aspect = sheetAspect(job, one.part.id);
      return affineOf({ ...unmoved, turn: turnTo(one, to, aspect) }, middleOf(one.box), aspect);
    });
    const { job: next, moved } = moveGroups(job, grips, (n) => turns[n]!);
    return { job: next, report: { islands: turns.length, moved } };
  },
  sentence: ({ to }, { islands }) => `Turned ${plural(islands, 'island')}: ${words[to]}`,
});

/** Degrees counterclockwise that an island has to be turned by. */
export function turnTo({ part, set, island }: Pick<WholeIsland, 'part' | 'set' | 'island'>, to: IslandTurn, aspect: number): number {
  const piece = pieceOf(part.mesh, set, island);
  const at = Float64Array.from([...piece.uvPoint].flatMap((p) => [set.uv[p * 2]! * aspect, set.uv[p * 2 + 1]!]));
  const turn = (turnOfIsland(piece, at, to) * 180) / Math.PI;
  // less than can be seen on any sheet is none
  return Math.abs(turn) < 1e-9 ? 0 : turn;
}
