import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { moveGroups, wholeIslands } from '../job/grip.ts';
import { partOf } from '../job/job.ts';
import { sheetAspect } from '../job/sheets.ts';
import { islandTurns, turnOfIsland } from '../shape/islandTurn.ts';
import { affineOf, unmoved } from '../shape/transform.ts';
import { middleOf } from '../uv/box.ts';
import { islandsOf } from '../uv/islands.ts';
import { pieceOfFaces } from '../unwrap/piece.ts';
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
    const turns = grips.flatMap(({ part: id, set, groups }) => {
      const part = partOf(job, id);
      const aspect = sheetAspect(job, id);
      const islands = islandsOf(part.mesh, set);
      const islandAt = new Int32Array(set.uv.length / 2).fill(-1);
      for (let f = 0; f < islands.ofFace.length; f++)
        for (let c = part.mesh.faceStart[f]!; c < part.mesh.faceStart[f + 1]!; c++) islandAt[set.cornerUv[c]!] = islands.ofFace[f]!;
      return groups.map(({ points, box }) => {
        const i = islandAt[points[0]!]!;
        const piece = pieceOfFaces(part.mesh, set, islands.faces.subarray(islands.start[i], islands.start[i + 1]));
        const at = Float64Array.from([...piece.uvPoint].flatMap((p) => [set.uv[p * 2]! * aspect, set.uv[p * 2 + 1]!]));
        const turn = (turnOfIsland(piece, at, to) * 180) / Math.PI;
        // less than can be seen on any sheet is none
        return affineOf({ ...unmoved, turn: Math.abs(turn) < 1e-9 ? 0 : turn }, middleOf(box), aspect);
      });
    });
    const { job: next, moved } = moveGroups(job, grips, (n) => turns[n]!);
    return { job: next, report: { islands: turns.length, moved } };
  },
  sentence: ({ to }, { islands }) => `Turned ${plural(islands, 'island')}: ${words[to]}`,
});
