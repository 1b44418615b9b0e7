import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { partOf } from '../job/job.ts';
import { judgedSheets } from '../job/judgedSheets.ts';
import { densityAt, limitKeys, purposeLimits, purposes, purposeWords, type Limits } from '../measure/judge.ts';
import { readLimits } from '../measure/limits.ts';
import { someLimitsSchema } from '../measure/limitsSchema.ts';
import type { Offender } from '../measure/offenders.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

export const setLimits = defineOperation({
  name: 'setLimits',
  label: 'What the layout is for, and its limits',
  words: 'purpose tolerance quality check distance',
  changes: ['settings'],
  summary: 'Say what the layout is for, which sets its limits, or set single limits',
  asked: ['purpose'],
  params: z.object({
    purpose: z.enum(purposes).optional().describe('what the layout is for: its limits are those that are usual for it'),
    distance: z
      .number()
      .positive()
      .max(1e9)
      .nullable()
      .optional()
      .describe('units from which it is seen: asks for the texel density of a screen there; null: none'),
    limits: someLimitsSchema.optional().describe('single limits; null: not asked for'),
  }),
  run(job, { purpose, distance, limits }) {
    const { settings } = job;
    const base: Limits = purpose ? purposeLimits[purpose] : settings.limits;
    const far = distance === undefined ? settings.distance : distance;
    const density = distance === undefined && !purpose ? base.density : far === null ? null : Number(densityAt(far).toPrecision(4));
    const next = { ...base, density, ...limits } as Limits;
    const changed = limitKeys.filter((key) => next[key] !== settings.limits[key]).length;
    if (changed === 0 && (purpose ?? settings.purpose) === settings.purpose && far === settings.distance)
      throw new JigError('nothing-to-do', 'These are the limits already.');
    return { job: { ...job, settings: { ...settings, purpose: purpose ?? settings.purpose, distance: far, limits: next } }, report: { changed } };
  },
  sentence: ({ purpose }, { changed }) =>
    purpose ? `The layout is ${purposeWords[purpose]}: ${plural(changed, 'limit')} changed` : `Changed ${plural(changed, 'limit')}`,
});

export const limitsFile = defineOperation({
  name: 'limitsFile',
  label: 'Limits from a file',
  words: 'import',
  asked: [],
  changes: ['settings'],
  summary: 'Take the limits that a file has',
  params: z.object({ text: z.string().max(100_000).default('').describe('the file’s text') }),
  run(job, { text }) {
    const { name, limits } = readLimits(text);
    return { job: { ...job, settings: { ...job.settings, limits } }, report: { name } };
  },
  sentence: (_params, { name }) => `Took the limits “${name}”`,
});

export const offenders = defineOperation({
  name: 'offenders',
  label: 'Places that break a limit',
  words: 'faults problems',
  changes: [],
  summary: 'Where a part breaks a limit, the others on its sheet counted in, the largest places first',
  params: z.object({ part: partSchema, limit: z.enum(limitKeys).default('flips') }),
  async run(job, { part: id, limit: key }): Promise<{ job: typeof job; report: { list: Offender[] } }> {
    const { placesOf } = await import('./offendersWork.ts');
    return { job, report: { list: placesOf(job, partOf(job, id), key) } };
  },
  sentence: ({ limit: key }, { list }) => `Found ${plural(list.length, 'place')} that break the limit “${key}”`,
});

export const report = defineOperation({
  name: 'report',
  label: 'Report of the layout',
  words: 'html json print verdict',
  changes: [],
  summary: 'All sheets measured and judged by the limits, as one HTML file with charts and pictures, and as JSON',
  params: z.object({
    name: z.string().max(200).default('the job’s limits').describe('what the limits are called in it'),
    made: z.string().max(100).default('').describe('when, as it is to be read; default: today'),
  }),
  async run(job, { name, made }, context) {
    const sheets = judgedSheets(job, job.settings.limits, context);
    if (sheets.length === 0) throw new JigError('nothing-to-do', 'No part is on a sheet.', '', 'Give a part a sheet at Pack.');
    const { reportHtml, reportJson } = await import('../formats/checkReport.ts');
    const input = { job: job.name, made: made || new Date().toISOString().slice(0, 10), sheets, limitsName: name };
    return {
      job,
      report: {
        missed: sheets.flatMap(({ verdicts }) => verdicts.filter(({ passed }) => !passed)).length,
        html: reportHtml(input),
        json: reportJson(input),
      },
    };
  },
  sentence: (_params, { missed }) => `Made the report: ${missed === 0 ? 'all limits are kept' : `${plural(missed, 'limit')} not kept`}`,
});
