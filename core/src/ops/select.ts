import { z } from 'zod';
import { partOf, selectionKinds, type Selection } from '../job/job.ts';
import { rising } from '../select/convert.ts';
import { defineOperation, indexArray, partSchema, plural } from './operation.ts';

export const select = defineOperation({
  name: 'select',
  label: 'Select',
  words: 'choose',
  changes: ['view'],
  summary: 'Choose edges, faces or islands',
  params: z.object({
    part: partSchema,
    kind: z.enum(selectionKinds),
    ids: z.array(z.number().int().min(0)).or(indexArray).default([]),
    corners: z.array(z.number().int().min(0)).or(indexArray).optional().describe('of points and edges taken on the sheet: the corners that are meant'),
    also: z
      .array(
        z.object({
          part: z.string(),
          ids: z.array(z.number().int().min(0)).or(indexArray),
          corners: z.array(z.number().int().min(0)).or(indexArray).optional(),
        }),
      )
      .optional()
      .describe('what is chosen of other parts'),
  }),
  run(job, { part, kind, ids, corners, also = [] }) {
    const target = partOf(job, part);
    const others = also.filter((one) => one.part !== target.id && one.ids.length > 0);
    for (const other of others) partOf(job, other.part);
    const takesCorners = kind === 'points' || kind === 'edges';
    const chosen = (one: { ids: ArrayLike<number>; corners?: ArrayLike<number> | undefined }) => ({
      ids: rising(one.ids),
      ...(one.corners && one.ids.length > 0 && takesCorners ? { corners: rising(one.corners) } : {}),
    });
    const selection: Selection = {
      part: target.id,
      kind,
      ...chosen({ ids, corners }),
      ...(others.length > 0 ? { also: others.map((one) => ({ part: one.part, ...chosen(one) })) } : {}),
    };
    return { job: { ...job, activePart: target.id, selection }, report: { selected: others.reduce((sum, one) => sum + one.ids.length, ids.length) } };
  },
  sentence: ({ kind }, { selected }) => (selected === 0 ? 'Selected nothing' : `Selected ${plural(selected, kind.slice(0, -1))}`),
});
