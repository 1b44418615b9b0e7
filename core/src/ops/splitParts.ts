import { z } from 'zod';
import { defineOperation, plural } from './operation.ts';

const waysToSplit = ['material', 'group', 'selected'] as const;

export const splitParts = defineOperation({
  name: 'splitParts',
  label: 'Split parts',
  words: 'separate detach extract texture sets',
  offered: [
    { id: 'split-material', label: 'A part and sheet for each material', params: {} },
    { id: 'split-selected', label: 'Make the selected faces a part', params: { by: 'selected' } },
  ],
  changes: ['parts', 'mesh', 'uvs', 'seams', 'marks', 'jigs', 'images', 'settings', 'view'],
  summary: 'Make a part for each material or group, or of the selected faces; files have the part as a whole again',
  commandLine: { output: 'model', name: 'split', hidden: ['parts'] },
  params: z.object({
    parts: z.array(z.string()).optional().describe('part ids; default: all that can be split so; of selected faces, the part that they are on'),
    by: z.enum(waysToSplit).default('material'),
    sheets: z.boolean().default(true).describe('each material on a sheet of its own, which parts of the same material share'),
  }),
  async run(job, params) {
    // loaded when a part is split first
    const { splitNow } = await import('./splitPartsWork.ts');
    return splitNow(job, params);
  },
  sentence: ({ by }, { parts, pieces, sheets }) =>
    by === 'selected'
      ? 'Made the selected faces a part of their own'
      : `Split ${plural(parts, 'part')} into ${pieces}, by ${by}${sheets > 0 ? `, on ${plural(sheets, 'sheet')}` : ''}`,
});

export const rejoinParts = defineOperation({
  name: 'rejoinParts',
  label: 'Put split parts together again',
  words: 'merge combine attach',
  offered: [{ id: 'rejoin-parts', label: 'Put split parts together again', params: {} }],
  changes: ['parts', 'mesh', 'uvs', 'seams', 'marks', 'jigs', 'images', 'view'],
  summary: 'Put the pieces of split parts together again, on the sheet of the first',
  params: z.object({ parts: z.array(z.string()).optional().describe('ids of pieces; default: of all split parts') }),
  async run(job, params) {
    const { rejoinNow } = await import('./splitPartsWork.ts');
    return rejoinNow(job, params);
  },
  sentence: (_, { parts, pieces }) => `Put ${pieces} pieces together again: ${plural(parts, 'part')}`,
});
