import { z } from 'zod';
import { partOf } from '../job/job.ts';
import { openEdges, unwrapTouched } from './touched.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

/* What follows a change of seams by itself. These are steps of no history of their own, but parts of the step that they follow. */

const indices = z.array(z.number().int().min(0));

export const openSeams = defineOperation({
  name: 'openSeams',
  label: 'Open changed seams',
  changes: ['uvs'],
  summary: 'Lay out the places round changed seams again, as a first shape',
  params: z.object({ part: partSchema, edges: indices }),
  run: (job, { part, edges }) => ({ job: openEdges(job, partOf(job, part).id, edges) ?? job, report: {} }),
  sentence: ({ edges }) => `Opened ${plural(edges.length, 'seam')}`,
});

export const layTouched = defineOperation({
  name: 'layTouched',
  label: 'Lay touched islands out again',
  changes: ['uvs', 'seams', 'parts'],
  summary: 'Lay islands out again whose seams have changed',
  params: z.object({
    part: partSchema,
    faces: indices.describe('faces of the islands'),
    parted: indices.default([]).describe('faces of the islands among them that need room of their own'),
    quick: z.boolean().default(false).describe('only a first shape'),
  }),
  async run(job, { part, faces, parted, quick }, context) {
    const laid = await unwrapTouched(job, partOf(job, part).id, faces, parted, context, quick ? { quick } : { warm: true });
    return { job: laid?.job ?? job, report: { waiting: laid?.waiting ?? 0 } };
  },
  sentence: () => 'Laid the touched islands out again',
});
