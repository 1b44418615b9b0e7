import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { emptySelection, partOf, withPart, type Job, type Part } from '../job/job.ts';
import type { Context } from '../context.ts';
import type { MeshMatch } from '../job/newerMesh.ts';
import type { NewerMeshReport } from '../job/withNewerMesh.ts';
import type { UvSet } from '../uv/uvSet.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

const meshSchema = z.custom<Mesh>((x) => {
  const { points, faceStart, corners } = (x ?? {}) as Partial<Mesh>;
  return points instanceof Float64Array && faceStart instanceof Uint32Array && corners instanceof Uint32Array;
}, 'a mesh');

/** New faces laid flat beside their neighbours; they stay among those to look at. */
async function filledIn(part: Part, report: NewerMeshReport, { faceFrom }: MeshMatch, context: Context) {
  const { fillIn } = await import('../job/fillIn.ts');
  const fresh = [...faceFrom.keys()].filter((f) => faceFrom[f]! < 0);
  const uvSets: UvSet[] = [];
  let filled = 0;
  for (const [k, set] of part.uvSets.entries()) {
    const done = fillIn(
      part.mesh,
      set,
      fresh.filter((f) => set.unplaced[f]),
      context,
    );
    uvSets.push(done.set);
    if (k === part.activeUv) filled = done.filled.length;
  }
  return { part: { ...part, uvSets }, report: { ...report, filled } };
}

export const newerMesh = defineOperation({
  name: 'newerMesh',
  label: 'A newer mesh of the part',
  words: 'replace update reload changed',
  asked: [],
  changes: ['mesh', 'uvs', 'seams', 'marks', 'jigs', 'images', 'view'],
  stacks: 'apart',
  summary: 'A part gets a newer mesh: its layout stays where the form is the same, and is carried over by place elsewhere; faces that need work are selected',
  params: z.object({
    part: partSchema,
    mesh: meshSchema.optional(),
    origin: z.custom<Part['origin']>((x) => typeof x === 'object').optional(),
    up: z.literal('z').optional(),
    fill: z.boolean().default(true).describe('lay new faces flat beside their neighbours, which stay where they are'),
  }),
  async run(job, { part: id, mesh, origin, up, fill }, context): Promise<{ job: Job; report: NewerMeshReport }> {
    const before = partOf(job, id);
    if (!mesh) throw new JigError('bad-parameter', 'There is no newer mesh.', '', 'Choose its file at Intake.');
    if (before.piece)
      throw new JigError(
        'nothing-to-do',
        `${before.name} is a piece of ${before.piece.name}, and the newer mesh is of the whole.`,
        '',
        'Put the pieces together again first, at Parts; split the part again after.',
      );
    if (mesh.faceStart.length < 2) throw new JigError('no-faces', 'The newer mesh has no faces; nothing was changed.');
    // loaded when a mesh comes again first
    const { withNewerMesh } = await import('../job/withNewerMesh.ts');
    const { part: carried, report: found, match } = withNewerMesh(before, mesh, origin ?? { kind: 'made' }, up);
    const { part, report } = fill && match && found.fresh > 0 ? await filledIn(carried, found, match, context) : { part: carried, report: found };
    if (
      report.onlyMoved &&
      report.work.length === 0 &&
      mesh.points.length === before.mesh.points.length &&
      mesh.points.every((x, k) => x === before.mesh.points[k])
    )
      throw new JigError('nothing-to-do', 'The mesh is the same as before.');
    if (!report.onlyMoved && report.same + report.carried === 0)
      throw new JigError(
        'nothing-to-do',
        'Nothing of the newer mesh lies where the part is; nothing was changed.',
        '',
        'Is it the file of this part? Add it as a part of its own at Intake.',
      );
    const jigs = match
      ? job.jigs?.map((jig) => ({
          ...jig,
          drives: jig.drives.map((drive) => {
            if (drive.part !== before.id) return drive;
            const had = new Set(drive.faces);
            return { ...drive, faces: Uint32Array.from([...match.faceFrom.keys()].filter((f) => had.has(match.faceFrom[f]!))) };
          }),
        }))
      : job.jigs;
    const saved = match ? job.savedSelections?.filter((one) => one.part !== before.id) : job.savedSelections;
    const next = {
      ...withPart(job, before.id, () => part),
      ...(jigs ? { jigs } : {}),
      ...(saved ? { savedSelections: saved } : {}),
      activePart: before.id,
      selection: { ...emptySelection(before.id), kind: 'faces' as const, ids: report.work },
    };
    return { job: next, report };
  },
  sentence: (_params, { name, onlyMoved, mirrored, same, carried, fresh, filled, work }) =>
    onlyMoved
      ? `${name} has moved points: no UV changed${work.length > 0 ? `; ${plural(work.length, 'face')} of another shape ${work.length === 1 ? 'is' : 'are'} selected` : ''}`
      : `${name} has a newer mesh${mirrored ? ', mirrored' : ''}: ${plural(same, 'face')} as before, ${carried} carried over, ${fresh} new${filled > 0 ? ` (${filled} laid beside their neighbours)` : ''}; ${work.length === 0 ? 'none needs work' : `${work.length} to work on ${work.length === 1 ? 'is' : 'are'} selected`}`,
});
