import { z } from 'zod';
import { imageFacts } from '../images/imageFacts.ts';
import { JigError } from '../jigError.ts';
import { activeSet, partOf, withSet } from '../job/job.ts';
import { sheetAspect, sheetFor } from '../job/sheets.ts';
import { goOnFrom, goOnWays, seamJumps, type GoOnWay, type SeamJump } from '../measure/continuity.ts';
import type { Job, Part } from '../job/job.ts';
import { islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

/** How many seams are told at most. */
const mostTold = 200;

export const continuity = defineOperation({
  name: 'continuity',
  label: 'Where the picture jumps',
  words: 'seam continuity alignment texture',
  changes: [],
  commandLine: { output: 'none', hidden: ['part'] },
  summary: 'Seams where the picture does not go on: offset in px of the image, turn and scale, worst first',
  params: z.object({ part: partSchema }),
  run(job, { part: id }) {
    const part = partOf(job, id);
    const { placement, size } = pictureOf(job, part);
    const jumps: SeamJump[] = seamJumps(part.mesh, activeSet(part), placement, size);
    return {
      job,
      report: {
        part: part.name,
        /** Px of the picture that offsets are told in. */
        width: size.width,
        height: size.height,
        seams: jumps.length,
        jumps: jumps.slice(0, mostTold),
      },
    };
  },
  sentence: (_, { seams }) => (seams === 0 ? 'The picture goes on over all seams' : `The picture jumps at ${seams} ${seams === 1 ? 'seam' : 'seams'}`),
});

/** The picture that jumps are measured in: a square of 1024 px where the part has none. */
export function pictureOf(job: Job, part: Part) {
  const image = job.images.find((one) => one.id === part.imageId);
  return { placement: image ? part.placement : undefined, size: image ? imageFacts(image.bytes, image.name) : { width: 1024, height: 1024 } };
}

export const goOnAll = defineOperation({
  name: 'goOnAll',
  label: 'Let the picture go on over all seams',
  words: 'continue align texture seams ring closing error',
  changes: ['uvs', 'jigs'],
  headings: 'set',
  asked: ['way', 'spread'],
  summary: 'Place islands so that the picture goes on over all seams of a part; what does not close round a ring of them is told, or spread over its seams',
  params: z.object({
    part: partSchema,
    way: z.enum(goOnWays).default('turn').describe('islands are moved alone, also turned, or also sized'),
    spread: z.boolean().default(false).describe('spread what does not close round a ring over its seams, instead of leaving it at one'),
  }),
  async run(job, { part: id, way, spread }, context) {
    const part = partOf(job, id);
    const { placement, size } = pictureOf(job, part);
    const before = activeSet(part);
    // loaded when it is asked for first
    const { goOnAll: placedAll } = await import('../measure/goOnAll.ts');
    const found = placedAll(part.mesh, before, { way, spreads: spread, aspect: sheetAspect(job, part.id), placement }, () => context.throwIfCancelled());
    if (!found) throw new JigError('nothing-to-do', 'No two islands of this part have a seam in common.');
    if (found.placed === 0) throw new JigError('nothing-to-do', 'All islands with a seam are locked.', '', 'Unlock those that are to go on.');
    const worst = (set: typeof before) =>
      Math.max(
        0,
        ...seamJumps(part.mesh, set, placement, size)
          .filter(({ islands: [i, j] }) => i !== j)
          .map(({ offset }) => offset),
      );
    return { job: withSet(job, part.id, found.set), report: { islands: found.placed, before: worst(before), after: worst(found.set) } };
  },
  sentence: (_, { islands, before, after }) =>
    `Placed ${plural(islands, 'island')} so that the picture goes on: ${after < 0.5 ? 'it does, over all seams between islands' : `${after.toFixed(1)} px of it are left at the worst seam`}, of ${before.toFixed(1)} px before`,
});

export const goOn = defineOperation({
  name: 'goOn',
  label: 'Go on from another island',
  words: 'continue align texture seam',
  changes: ['uvs', 'jigs'],
  headings: 'set',
  summary: 'Place an island so that its picture goes on from its neighbour’s over their seam, without joining them',
  params: z.object({
    part: partSchema,
    island: z.number().int().min(0).describe('the island that is placed'),
    from: z.number().int().min(0).describe('the island that stays'),
    way: z.enum(goOnWays).default('turn').describe('moved alone, also turned, or also sized'),
  }),
  run(job, { part: id, island, from, way }) {
    const part = partOf(job, id);
    const { set, left } = goneOn(job, part, island, from, way);
    return { job: withSet(job, part.id, set), report: { left: left * sheetFor(job, part.id).height } };
  },
  sentence: (_, { left }) => `The picture goes on${left > 0.5 ? `, but for ${left.toFixed(1)} px on the sheet that the two sides differ by` : ''}`,
});

/**
 * The layout with an island placed so that the picture goes on from another one, and what both sides of their seam differ by then, in heights of the sheet.
 * @throws JigError `nothing-to-do` where it cannot be placed
 */
export function goneOn(job: Job, part: Part, island: number, from: number, way: GoOnWay): { set: UvSet; left: number } {
  const { mesh } = part;
  const set = activeSet(part);
  const islands = islandsOf(mesh, set);
  if (island >= islands.count || from >= islands.count) throw new JigError('bad-parameter', `There is no such island: there are ${islands.count}.`);
  const faces = islands.faces.subarray(islands.start[island], islands.start[island + 1]);
  if (island === from) throw new JigError('nothing-to-do', 'Both sides of this seam are one island.', '', 'Move the seam, or cover it from three sides.');
  if (faces.some((f) => set.locked?.[f] === 1)) throw new JigError('nothing-to-do', 'This island is locked.', '', 'Unlock it, or place the other one.');
  const aspect = sheetAspect(job, part.id);
  const change = goOnFrom(mesh, set, island, from, way, aspect);
  if (!change) throw new JigError('nothing-to-do', 'These two islands have no seam in common.');
  const uv = set.uv.slice();
  const points = new Set<number>();
  for (const f of faces) for (let k = mesh.faceStart[f]!; k < mesh.faceStart[f + 1]!; k++) points.add(set.cornerUv[k]!);
  const { a, b, c, d, left } = change;
  for (const p of points) {
    const [u, v] = [set.uv[p * 2]! * aspect, set.uv[p * 2 + 1]!];
    uv[p * 2] = (a * u - b * v + c) / aspect;
    uv[p * 2 + 1] = b * u + a * v + d;
  }
  return { set: { ...set, uv }, left };
}
