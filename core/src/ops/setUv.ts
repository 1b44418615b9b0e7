import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { activeSet, partOf, withSet, type Part } from '../job/job.ts';
import { selectionByPart, uvPointsOf } from '../job/selected.ts';
import { topologyOf } from '../mesh/topology.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

const value = z.number().min(-1000).max(1000).optional();

/** Changes UV values by number. Corners that share a UV point move together: the seams stay as they are. */
export const setUv = defineOperation({
  name: 'setUv',
  label: 'Set u or v',
  needs: 'selection',
  words: 'coordinates value type',
  changes: ['uvs', 'marks'],
  summary: 'Set the u or v of corners by number',
  params: z.object({
    part: partSchema,
    corners: z.array(z.number().int().min(0)).min(1).optional().describe('default: those of what is selected, of all parts unless one is named'),
    u: value,
    v: value,
  }),
  run(job, { part: id, corners, u, v }) {
    const part = partOf(job, id);
    if (u === undefined && v === undefined) throw new JigError('bad-parameter', 'Neither u nor v was given.');
    const chosen = selectionByPart(job).filter((one) => id === undefined || one.part.id === part.id);
    const meant = corners ? [{ part, points: pointsAt(part, corners) }] : chosen.map((one) => ({ part: one.part, points: uvPointsOf(one) }));
    if (!corners && meant.every(({ points }) => points.length === 0))
      throw new JigError('nothing-to-do', 'Nothing that has a place on the sheet is selected.', '', 'Select points first.');
    let next = job;
    let moved = 0;
    for (const { part: own, points } of meant) {
      const set = activeSet(own);
      const uv = set.uv.slice();
      const before = moved;
      for (const point of points) {
        if ((u === undefined || uv[point * 2] === u) && (v === undefined || uv[point * 2 + 1] === v)) continue;
        if (u !== undefined) uv[point * 2] = u;
        if (v !== undefined) uv[point * 2 + 1] = v;
        moved++;
      }
      if (moved > before) next = withSet(next, own.id, { ...set, uv });
    }
    return { job: next, report: { moved } };
  },
  sentence: ({ u, v }, { moved }) =>
    `Set ${[u === undefined ? '' : `u to ${u}`, v === undefined ? '' : `v to ${v}`].filter(Boolean).join(', ')} for ${plural(moved, 'UV point')}`,
});

/** UV points of corners. @throws JigError where a corner is not there, or has no place */
function pointsAt(part: Part, corners: readonly number[]): Uint32Array {
  const set = activeSet(part);
  const { cornerFace } = topologyOf(part.mesh);
  const ids = new Set<number>();
  for (const c of corners) {
    if (c >= set.cornerUv.length) throw new JigError('bad-parameter', `There is no corner ${c}.`, '', `Corners run from 0 to ${set.cornerUv.length - 1}.`);
    if (set.unplaced[cornerFace[c]!])
      throw new JigError('nothing-to-do', 'This face has no place on the sheet yet.', '', 'Unwrap its island, or give it a projection first.');
    ids.add(set.cornerUv[c]!);
  }
  return Uint32Array.from(ids);
}
