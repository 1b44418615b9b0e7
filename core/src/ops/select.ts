import { z } from 'zod';
import { partOf, selectionKinds } from '../job/job.ts';
import { rising } from '../select/convert.ts';
import { defineOperation, indexArray, partSchema, plural } from './operation.ts';

export const select = defineOperation({
  name: 'select',
  label: 'Select',
  words: 'choose',
  changes: ['view'],
  summary: 'Choose edges, faces or islands',
  params: z.object({ part: partSchema, kind: z.enum(selectionKinds), ids: z.array(z.number().int().min(0)).or(indexArray).default([]) }),
  run(job, { part, kind, ids }) {
    const target = partOf(job, part);
    return {
      job: { ...job, activePart: target.id, selection: { part: target.id, kind, ids: rising(ids) } },
      report: { selected: ids.length },
    };
  },
  sentence: ({ kind, ids }) => (ids.length === 0 ? 'Selected nothing' : `Selected ${plural(ids.length, kind.slice(0, -1))}`),
});
