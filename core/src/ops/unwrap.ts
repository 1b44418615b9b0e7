import { z } from 'zod';
import type { Context } from '../context.ts';
import { JigError } from '../jigError.ts';
import { grainWish } from '../job/grainWish.ts';
import { activeSet, partOf, withSet, type Job, type Part } from '../job/job.ts';
import { sheetAspect } from '../job/sheets.ts';
import { placeFresh } from './placeFresh.ts';
import { seamWays, type SeamWay } from '../propose/seamWays.ts';
import { cut } from '../seams/cut.ts';
import { openIslands } from '../seams/cutGraph.ts';
import { islandsOf } from '../uv/islands.ts';
import { islandsToGrain } from '../shape/grain.ts';
import { grainAim } from '../job/grainAim.ts';
import { scaleU } from '../uv/scaleU.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { passRanks } from '../uv/ranks.ts';
import { unwrapMethods, type UnwrapMethod } from '../unwrap/solveIsland.ts';
import { unwrapIslands, type UnwrapReport } from '../unwrap/unwrapIslands.ts';
import { shrunkFrom } from '../uv/shrunkShare.ts';
import { defineOperation, isUnsettled, partSchema, plural } from './operation.ts';
import { proposalFor, wayParams } from './seams.ts';

export const methodSchema = z
  .enum(unwrapMethods)
  .default('isometric')
  .describe('conformal keeps angles, rigid keeps shapes, isometric (symmetric Dirichlet) stretches least; the last two turn no triangle over');

export const apartSchema = z.boolean().default(true).describe('no island lies over itself: where one would, least stretch holds it apart');

interface UnwrapOutcome {
  islands: number;
  triangles: number;
  flips: number;
  /** Symmetric Dirichlet energy, area-weighted mean: 4 without stretch. */
  energy: number;
  putRight: number;
  /** Islands laid by angles that are held apart. */
  heldApart: number;
  cuts: number;
  /** New islands that found no room and wait beside the sheet. */
  waiting: number;
  /** Share of the surface laid by angles that hardly has a px left (see `shrunkShare`). */
  shrunk: number;
  left: UnwrapReport['left'];
}

export const unwrap = defineOperation({
  name: 'unwrap',
  headings: 'free',
  label: 'Unwrap',
  words: 'unfold flatten peel shell',
  asked: ['method', 'apart'],
  changes: ['uvs', 'seams', 'marks'],
  commandLine: { output: 'model', hidden: ['part', 'also'] },
  summary: 'Lay islands flat; new ones are placed in free room',
  fromSettings: ['method', 'apart'],
  params: z.object({
    part: partSchema,
    method: methodSchema,
    seams: z
      .enum(['keep', ...seamWays])
      .default('keep')
      .describe('cut seams first: crease folds, borders of near-flat groups, or few by a stretch limit'),
    ...wayParams,
    apart: apartSchema,
    islands: z
      .union([z.literal('all'), z.array(z.number().int().min(0))])
      .default('all')
      .describe('island numbers, or all'),
    also: z
      .array(z.object({ part: z.string(), islands: z.array(z.number().int().min(0)) }))
      .default([])
      .describe('islands of other parts, too'),
  }),
  async run(job, params, context) {
    const part = partOf(job, params.part);
    let set = activeSet(part);
    let cuts = 0;
    if (params.seams !== 'keep') {
      const proposal = await proposalFor(job, part, { ...params, by: params.seams }, context);
      cuts = proposal.cuts.length;
      set = cut(part.mesh, set, proposal.cuts).set;
      // what no wish allowed to be cut still has to be opened
      const opened = openIslands(part.mesh, set);
      cuts += opened.cuts.length;
      set = opened.set;
    }
    const count = islandsOf(part.mesh, set).count;
    const islands = params.seams === 'keep' ? params.islands : 'all';
    if (islands !== 'all' && islands.some((i) => i >= count))
      throw new JigError('bad-parameter', `There is no island ${islands.find((i) => i >= count)!}; there are ${count}.`);
    let done = await finish(job, part, set, islands, params.method, cuts, context, params.apart);
    for (const other of params.also) {
      const next = await finish(
        done.job,
        partOf(done.job, other.part),
        activeSet(partOf(done.job, other.part)),
        other.islands,
        params.method,
        0,
        context,
        params.apart,
      );
      done = { job: next.job, report: together(done.report, next.report) };
    }
    return done;
  },
  warns: (report) => isUnsettled(report) || isShrunk(report.shrunk),
  sentence: ({ method }, report: UnwrapOutcome) =>
    `Unwrapped ${plural(report.islands, 'island')}${report.cuts > 0 ? `, ${plural(report.cuts, 'edge')} cut for it` : ''}${besides(method, report)}`,
});

/** What came of laying flat otherwise than asked for. */
function besides(method: UnwrapMethod, { islands, putRight, heldApart, flips, waiting, shrunk }: UnwrapOutcome): string {
  const words: string[] = [];
  const of = (count: number) => (islands === 1 ? '' : `${count} of them `);
  if (putRight > 0) words.push(`${of(putRight)}by least stretch, or ${putRight === 1 ? 'it' : 'they'} would overlap or turn over`);
  if (heldApart > 0) words.push(`${of(heldApart)}held apart, where angles give way`);
  if (flips > 0) words.push(turnedOver(method, flips));
  if (waiting > 0) words.push(`${waiting} found no free room and ${waiting === 1 ? 'waits' : 'wait'} in the tray`);
  if (isShrunk(shrunk)) words.push(hardlySeen(shrunk));
  return words.map((one) => `; ${one}`).join('');
}

/** Is it worth telling that so much of the surface has hardly a px left? */
export const isShrunk = (share: number): boolean => share >= 0.05;

/** What keeping angles made too small, and what would help. */
export const hardlySeen = (share: number): string =>
  `${Math.round(share * 100)} % of the surface came out less than a ${shrunkFrom}th as large as the rest, as keeping angles does where limbs stand out: take these off, or use least stretch`;

/** Why triangles are turned over, and what would help. */
export const turnedOver = (method: UnwrapMethod, flips: number): string =>
  `${plural(flips, 'triangle')} turned over, ${
    method === 'conformal'
      ? 'as keeping angles alone may do: “No island over itself” or least stretch avoids it'
      : `too thin to be laid out without: cut ${flips === 1 ? 'it' : 'them'} off, or mend the mesh`
  }`;

export const firstLayout = defineOperation({
  name: 'firstLayout',
  headings: 'free',
  label: 'Make a first layout',
  words: 'auto unwrap smart',
  asked: ['by', 'angle', 'limit', 'method', 'preferHidden', 'symmetry', 'seenFrom'],
  changes: ['uvs', 'seams', 'marks'],
  summary: 'From a bare mesh to a first packed layout in one step',
  fromSettings: ['method', 'apart', 'seenFrom'],
  params: z.object({
    part: partSchema,
    method: methodSchema,
    by: z
      .enum(['auto', ...seamWays])
      .default('auto')
      .describe('how seams are found where there is none; auto: by crease where that lies well already, else at the limbs and by stretch'),
    ...wayParams,
    apart: apartSchema,
    symmetry: wayParams.symmetry.default('auto'),
  }),
  async run(job, params, context) {
    const part = partOf(job, params.part);
    const given = activeSet(part);
    const hasSeams = islandsOf(part.mesh, given).states.some((state) => state === EdgeState.seam);
    // seams that a person has cut stand; only a mesh without any gets some
    const cuts = hasSeams ? [] : await firstCuts(job, part, params, context);
    const opened = openIslands(part.mesh, cut(part.mesh, given, cuts).set);
    return finish(job, part, opened.set, 'all', params.method, cuts.length + opened.cuts.length, context, params.apart);
  },
  warns: (report) => isUnsettled(report) || isShrunk(report.shrunk),
  sentence: ({ method }, report: UnwrapOutcome) =>
    `Made a first layout: ${plural(report.islands, 'island')}, ${plural(report.cuts, 'edge')} cut${besides(method, report)}`,
});

/** Creases where these alone lay the part out well; else rings at the limbs and few seams by a stretch limit. */
async function firstCuts(
  job: Job,
  part: Part,
  params: Omit<Parameters<typeof proposalFor>[2], 'by'> & { by: 'auto' | SeamWay },
  context: Context,
): Promise<number[]> {
  if (params.by !== 'auto') return (await proposalFor(job, part, { ...params, by: params.by }, context)).cuts;
  const creased = await proposalFor(job, part, { ...params, by: 'crease' }, context);
  if (creased.energy <= params.limit && creased.flips === 0) return creased.cuts;
  // where there are limbs they come off, as a person would do it; else as few seams as serve
  return (await proposalFor(job, part, { ...params, by: 'limbs' }, context)).cuts;
}

/** What was done to two parts. */
function together(a: UnwrapOutcome, b: UnwrapOutcome): UnwrapOutcome {
  const triangles = a.triangles + b.triangles;
  return {
    islands: a.islands + b.islands,
    triangles,
    flips: a.flips + b.flips,
    energy: triangles > 0 ? (a.energy * a.triangles + b.energy * b.triangles) / triangles : a.energy,
    putRight: a.putRight + b.putRight,
    heldApart: a.heldApart + b.heldApart,
    cuts: a.cuts + b.cuts,
    waiting: a.waiting + b.waiting,
    shrunk: triangles > 0 ? (a.shrunk * a.triangles + b.shrunk * b.triangles) / triangles : a.shrunk,
    left: [...a.left, ...b.left],
  };
}

async function finish(
  job: Job,
  part: Part,
  seamed: UvSet,
  islands: readonly number[] | 'all',
  method: UnwrapMethod,
  cuts: number,
  context: Context,
  apart: boolean,
) {
  const aspect = sheetAspect(job, part.id);
  const square = scaleU(passRanks(activeSet(part), seamed), aspect);
  const { set: flat, report } = await unwrapIslands(part.mesh, square, islands, method, context, { apart, ...grainWish(job, part) });
  // what has no heading yet takes that of its grain
  const set = part.grain ? passRanks(flat, islandsToGrain(part.mesh, flat, report.fresh, part.grain, grainAim(job, part))) : flat;
  const laid = scaleU(set, 1 / aspect);
  const placed = await placeFresh(job, part, laid, report.fresh, context);
  const outcome: UnwrapOutcome = {
    islands: report.islands.length,
    triangles: report.triangles,
    flips: report.flips,
    energy: report.energy,
    putRight: report.putRight,
    heldApart: report.heldApart,
    cuts,
    waiting: placed.waiting,
    shrunk: report.shrunk,
    left: report.left,
  };
  return { job: withSet(job, part.id, placed.set), report: outcome };
}
