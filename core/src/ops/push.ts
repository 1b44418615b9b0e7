import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { activeSet, partOf, withSet } from '../job/job.ts';
import { sheetAspect } from '../job/sheets.ts';
import { faceCount } from '../mesh/mesh.ts';
import { separateFans } from '../seams/cut.ts';
import { pushPoints } from '../shape/push.ts';
import { relaxIslands } from '../unwrap/relax.ts';
import { islandsOf } from '../uv/islands.ts';
import { passRanks } from '../uv/ranks.ts';
import { scaleU } from '../uv/scaleU.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

/** Steps of least stretch that the surroundings take. */
const relaxSteps = 6;

export const push = defineOperation({
  name: 'push',
  label: 'Push points with a brush',
  words: 'grab smudge nudge sculpt drag',
  changes: ['uvs'],
  summary: 'Push points of an island along a stroke; the surroundings relax',
  params: z.object({
    part: partSchema,
    face: z.number().int().min(0).describe('a face of the island'),
    path: z.array(z.number()).min(4).max(4000).describe('u, v of the pointer in turn'),
    radius: z.number().positive().max(100).describe('of the brush, heights of the sheet'),
    strength: z.number().min(0).max(1).default(0.8),
    relax: z.boolean().default(true).describe('the surroundings find less stretch'),
  }),
  run(job, { part: id, face, path, radius, strength, relax }, context) {
    const part = partOf(job, id);
    const { mesh } = part;
    const own = activeSet(part);
    if (face >= faceCount(mesh) || own.unplaced[face]) throw new JigError('nothing-to-do', 'There is no island under the brush.');
    const aspect = sheetAspect(job, part.id);
    const given = islandsOf(mesh, own);
    const island = given.ofFace[face]!;
    const faces = given.faces.subarray(given.start[island]!, given.start[island + 1]!);
    const square = separateFans(mesh, scaleU(own, aspect), faces);
    const number = islandsOf(mesh, square).ofFace[face]!;
    const { set: pushed, moved } = pushPoints(mesh, square, number, { path: path.map((x, k) => (k % 2 === 0 ? x * aspect : x)), radius, strength });
    if (moved.size === 0) throw new JigError('nothing-to-do', 'No point went along.', '', 'Use a larger brush; pinned points stay.');
    // what the brush took hold of stays, what is round it gives way
    const free = [...faces].filter((f) => {
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) if ((moved.get(pushed.cornerUv[c]!) ?? 0) > 0.35) return false;
      return true;
    });
    let laid = pushed;
    if (relax && free.length > 0) {
      try {
        laid = relaxIslands(mesh, pushed, [number], { faces: free, steps: relaxSteps }, context).set;
      } catch (error) {
        // an island that had triangles turned over before is pushed as it is
        if (!(error instanceof JigError) || error.code !== 'cannot-lie-flat') throw error;
      }
    }
    return { job: withSet(job, part.id, passRanks(own, scaleU(laid, 1 / aspect))), report: { points: moved.size } };
  },
  sentence: (_params, { points }) => `Pushed ${plural(points, 'point')}`,
});
