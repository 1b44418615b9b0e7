import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { activeSet, withSet } from '../job/job.ts';
import { selectionByPart } from '../job/selected.ts';
import { topologyOf } from '../mesh/topology.ts';
import { StraightWay } from '../unwrap/wishes.ts';
import { defineOperation, plural } from './operation.ts';
import { unwrapTouched } from './touched.ts';

const ways = ['nearest', 'level', 'upright', 'free'] as const;
const markOf = { ...StraightWay, free: 0 };

/** Says which edges come out level or upright; where one unwraps as one cuts their islands are laid so at once. */
export const straightEdges = defineOperation({
  name: 'straightEdges',
  label: 'Keep edges straight in the unwrap',
  words: 'border level upright axis straight hem seam cloth constraint',
  changes: ['marks', 'uvs'],
  needs: 'selection',
  asked: ['way'],
  summary: 'The selected edges come out level or upright whenever their islands are laid by least stretch',
  params: z.object({
    way: z
      .enum(ways)
      .default('nearest')
      .describe('level: along u, upright: along v, nearest: each line as it is nearer; free: as it comes, which takes the mark off'),
  }),
  async run(job, { way }, context) {
    const mark = markOf[way];
    let next = job;
    let edges = 0;
    let laid = false;
    for (const { part, kind, ids, corners } of selectionByPart(job)) {
      if (kind !== 'edges') continue;
      const { edgeStart, edgeCorners, cornerFace } = topologyOf(part.mesh);
      const set = activeSet(part);
      const straight = set.straight?.slice() ?? new Uint8Array(part.mesh.corners.length);
      // taken on the sheet an edge is meant on that island alone
      const meant = corners ?? Array.from(ids).flatMap((e) => Array.from(edgeCorners.subarray(edgeStart[e]!, edgeStart[e + 1]!)));
      for (const c of meant) straight[c] = mark;
      edges += corners ? corners.length : ids.length;
      const { straight: _, ...rest } = set;
      next = withSet(next, part.id, straight.some((x) => x !== 0) ? { ...rest, straight } : rest);
      if (!job.settings.live || job.settings.method !== 'isometric') continue;
      const placed = Array.from(meant, (c) => cornerFace[c]!).filter((f) => !set.unplaced[f]);
      const done = placed.length > 0 ? await unwrapTouched(next, part.id, placed, [], context) : null;
      laid ||= done !== null;
      next = done?.job ?? next;
    }
    if (edges === 0) throw new JigError('nothing-to-do', 'No edge is selected.', '', 'Select edges first, a double click takes a whole border or loop.');
    return { job: next, report: { edges, laid } };
  },
  sentence({ way }, { edges, laid }) {
    if (way === 'free') return `${plural(edges, 'edge')} may lie as ${edges === 1 ? 'it comes' : 'they come'}`;
    const how = way === 'nearest' ? 'level or upright' : way;
    return laid ? `${plural(edges, 'edge')} laid ${how}, and so whenever unwrapped` : `${plural(edges, 'edge')} will be ${how} once unwrapped`;
  },
});
