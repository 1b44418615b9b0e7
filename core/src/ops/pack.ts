import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { partOf, type Job } from '../job/job.ts';
import { joinParts, splitUv } from '../job/joinParts.ts';
import { partsOnSheet, sheetAspect, sheetOfPart } from '../job/sheets.ts';
import type { Mesh } from '../mesh/mesh.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { evenDensity } from '../pack/density.ts';
import { scaleU } from '../uv/scaleU.ts';
import { packAside } from '../pack/pack.ts';
import type { PackReport } from '../pack/packing.ts';
import { carryStacks } from '../job/stacks.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import { lockedIslands } from '../uv/locked.ts';
import { onceEach } from '../uv/stacks.ts';
import { defineOperation, parseSize, partSchema, plural, sizeSchema } from './operation.ts';

const partsSchema = z
  .enum(['active', 'sheet', 'all'])
  .default('all')
  .describe('the active part alone, all parts on its sheet that are not hidden, or all parts of the job on one sheet');
const partsOf = (job: Job, which: 'active' | 'sheet' | 'all', part?: string) =>
  which === 'all'
    ? job.parts
    : which === 'sheet'
      ? partsOnSheet(job, part).filter((one) => !one.isHidden || one.id === partOf(job, part).id)
      : [partOf(job, part)];

export const pack = defineOperation({
  name: 'pack',
  label: 'Pack',
  words: 'arrange nest layout shells',
  asked: ['size', 'gap', 'borderGap', 'turn', 'keepScale', 'evenDensity', 'parts'],
  changes: ['uvs', 'settings'],
  commandLine: { output: 'model', hidden: ['parts'] },
  summary: 'Place islands on the sheet by their outlines',
  fromSettings: ['size', 'margin', 'borderGap', 'turn'],
  params: z.object({
    size: sizeSchema.default('2048'),
    margin: z.number().min(0).max(512).optional().describe('gap and border gap in px (default 8)'),
    gap: z.number().min(0).max(512).optional().describe('px between islands'),
    borderGap: z.number().min(0).max(512).optional().describe('px to the border of the sheet'),
    turn: z.enum(['none', 'quarter']).default('quarter').describe('turns that islands may take'),
    keepScale: z.boolean().default(false).describe('leave the size of every island'),
    evenDensity: z.boolean().default(false).describe('first make the texel density even'),
    parts: partsSchema,
  }),
  async run(given, params, context) {
    const { width, height } = parseSize(params.size);
    const job = withSheet(given, width, height);
    const margin = params.margin ?? 8;
    const joined = joinParts(partsOf(job, params.parts));
    // of a stack one island is packed, the others go along
    const once = onceEach(joined.mesh, joined.set);
    const copies = unplacedIslands(joined.mesh, once) - unplacedIslands(joined.mesh, joined.set);
    const locked = lockedIslands(joined.mesh, joined.set);
    const free = [...locked.keys()].filter((i) => !locked[i]);
    const even =
      params.evenDensity && !params.keepScale ? { ...once, uv: evenDensity(joined.mesh, without(joined.mesh, once, locked), width, height).set.uv } : once;
    if (free.length === 0) throw new JigError('nothing-to-do', 'All islands are locked.', '', 'Unlock those that are to be packed.');
    const options = {
      width,
      height,
      gap: params.gap ?? margin,
      borderGap: params.borderGap ?? margin,
      turn: params.turn,
      keepScale: params.keepScale,
      ...(free.length < locked.length ? { islands: free } : {}),
    };
    const { set, report } = await packAside(joined.mesh, even, options, context);
    const next = carryStacks(job, splitUv(job, joined, set.uv));
    const settings = { ...job.settings, margin: params.gap ?? margin, borderGap: params.borderGap ?? null, turn: params.turn };
    return { job: { ...next, settings }, report: { ...report, packed: report.packed + copies, skipped: report.skipped - copies } };
  },
  sentence: (params, report: PackReport) =>
    `Packed ${plural(report.packed, 'island')} on ${params.size.replace('x', ' × ')} px, ${Math.round(report.coverage * 100)} % covered`,
});

const unplacedIslands = (mesh: Mesh, set: UvSet) => islandFacts(mesh, set).filter(({ unplaced }) => unplaced).length;

/** The layout without some islands: they have no place there. */
function without(mesh: Mesh, set: UvSet, islands: Uint8Array): UvSet {
  const { ofFace } = islandsOf(mesh, set);
  return { ...set, unplaced: set.unplaced.map((away, f) => (away || islands[ofFace[f]!] ? 1 : 0)) };
}

/** The job with another size of the sheet at work: UVs of the parts on it are rescaled so that islands keep their shape in px. */
export function withSheet(job: Job, width: number, height: number): Job {
  const { settings } = job;
  if (settings.width === width && settings.height === height) return job;
  const factor = sheetAspect(job) / (width / height);
  const on = new Set(partsOnSheet(job));
  const parts = factor === 1 ? job.parts : job.parts.map((part) => (on.has(part) ? { ...part, uvSets: part.uvSets.map((set) => scaleU(set, factor)) } : part));
  return { ...job, parts, settings: { ...settings, width, height } };
}

export const density = defineOperation({
  name: 'density',
  label: 'Even out density',
  words: 'texel density scale',
  asked: ['even', 'target', 'parts'],
  changes: ['uvs', 'settings'],
  commandLine: { output: 'model', hidden: ['part', 'parts', 'toSheet'] },
  summary: 'Even out texel density, or set it in px per unit',
  fromSettings: ['size'],
  params: z.object({
    size: sizeSchema.optional(),
    even: z.boolean().default(false).describe('one density for all islands'),
    target: z.number().positive().optional().describe('px per unit'),
    toSheet: z.boolean().default(false).describe('px per unit as the sheet states'),
    part: partSchema,
    parts: partsSchema,
  }),
  run(given, params) {
    const stated = params.toSheet ? (sheetOfPart(given, partOf(given, params.part))?.density ?? undefined) : undefined;
    if (params.toSheet && stated === undefined) throw new JigError('nothing-to-do', 'The sheet states no density.', '', 'Give it one first.');
    const target = params.target ?? stated;
    if (!params.even && target === undefined) throw new JigError('bad-parameter', 'Say --even or --target.');
    const size = params.size ? parseSize(params.size) : given.settings;
    const job = withSheet(given, size.width, size.height);
    const joined = joinParts(partsOf(job, params.parts, params.part));
    const once = onceEach(joined.mesh, joined.set);
    // what is locked keeps its size, too
    const free = without(joined.mesh, once, lockedIslands(joined.mesh, once));
    const result = evenDensity(joined.mesh, free, size.width, size.height, target);
    if (result.density === 0) throw new JigError('nothing-to-do', 'No island has a place on the sheet yet.', '', 'Unwrap first.');
    return {
      job: result.changed > 0 ? carryStacks(job, splitUv(job, joined, result.set.uv)) : job,
      report: { density: result.density, changed: result.changed },
    };
  },
  sentence: (params, report: { density: number; changed: number }) =>
    `${params.target || params.toSheet ? 'Set' : 'Evened out'} density at ${report.density.toPrecision(4)} px per unit`,
});
