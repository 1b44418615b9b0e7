import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { activeSet, partOf, withSet } from '../job/job.ts';
import { topologyOf } from '../mesh/topology.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

const value = z.number().min(-1000).max(1000).optional();

/** Changes UV values by number. Corners that share a UV point move together: the seams stay as they are. */
export const setUv = defineOperation({
  name: 'setUv',
  label: 'Set u or v',
  words: 'coordinates value type',
  changes: ['uvs', 'marks'],
  summary: 'Set the u or v of corners by number',
  params: z.object({ part: partSchema, corners: z.array(z.number().int().min(0)).min(1), u: value, v: value }),
  run(job, { part: id, corners, u, v }) {
    const part = partOf(job, id);
    const set = activeSet(part);
    const { cornerFace } = topologyOf(part.mesh);
    if (u === undefined && v === undefined) throw new JigError('bad-parameter', 'Neither u nor v was given.');
    const ids = new Set<number>();
    for (const c of corners) {
      if (c >= set.cornerUv.length) throw new JigError('bad-parameter', `There is no corner ${c}.`, '', `Corners run from 0 to ${set.cornerUv.length - 1}.`);
      if (set.unplaced[cornerFace[c]!])
        throw new JigError('nothing-to-do', 'This face has no place on the sheet yet.', '', 'Unwrap its island, or give it a projection first.');
      ids.add(set.cornerUv[c]!);
    }
    const uv = set.uv.slice();
    let moved = 0;
    for (const point of ids) {
      if ((u === undefined || uv[point * 2] === u) && (v === undefined || uv[point * 2 + 1] === v)) continue;
      if (u !== undefined) uv[point * 2] = u;
      if (v !== undefined) uv[point * 2 + 1] = v;
      moved++;
    }
    return { job: moved === 0 ? job : withSet(job, part.id, { ...set, uv }), report: { moved } };
  },
  sentence: ({ u, v }, { moved }) =>
    `Set ${[u === undefined ? '' : `u to ${u}`, v === undefined ? '' : `v to ${v}`].filter(Boolean).join(', ')} for ${plural(moved, 'UV point')}`,
});
