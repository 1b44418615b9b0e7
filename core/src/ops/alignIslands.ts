import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { activeSet, partOf, withSet } from '../job/job.ts';
import { convertSelection } from '../select/convert.ts';
import { alignIslands as align, alignSides } from '../uv/alignIslands.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

const words = { left: 'left', right: 'right', top: 'top', bottom: 'bottom', middleU: 'middles one above the other', middleV: 'middles side by side' } as const;

export const alignIslands = defineOperation({
  name: 'alignIslands',
  label: 'Align islands',
  words: 'line up edge distribute',
  changes: ['uvs'],
  needs: 'islands',
  summary: 'Move the selected islands so that they end at one line',
  offered: alignSides.map((side) => ({ id: `align-${side}`, label: `Align islands: ${words[side]}`, params: { side } })),
  params: z.object({ part: partSchema, side: z.enum(alignSides) }),
  run(job, { part: id, side }) {
    const part = partOf(job, id);
    const set = activeSet(part);
    const { selection } = job;
    const islands = islandsOf(part.mesh, set);
    const facts = islandFacts(part.mesh, set);
    const chosen = selection.part === part.id ? [...convertSelection(part.mesh, islands, selection.kind, selection.ids, 'islands', 'touching')] : [];
    const placed = chosen.filter((i) => !facts[i]!.unplaced);
    if (placed.length < 2) throw new JigError('nothing-to-do', 'Two islands or more are aligned with each other.', '', 'Select them first.');
    const { set: next, moved } = align(part.mesh, set, placed, side);
    return { job: moved === 0 ? job : withSet(job, part.id, next), report: { islands: placed.length, moved } };
  },
  sentence: ({ side }, report) => `Aligned ${plural(report.islands, 'island')}: ${words[side]}`,
});
