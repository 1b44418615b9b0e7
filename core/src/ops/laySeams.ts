import { z } from 'zod';
import { JigError } from '../jigError.ts';
import type { Context } from '../context.ts';
import { borderGapOf } from '../job/borderGap.ts';
import { grainWish } from '../job/grainWish.ts';
import { activeSet, partOf, withSet, type Job, type Part } from '../job/job.ts';
import { partsOnSheet, sheetAspect, sheetFor, sheetOfPart } from '../job/sheets.ts';
import { seamWays } from '../propose/seamWays.ts';
import { findSymmetry, symmetryOf } from '../select/symmetry.ts';
import { cut } from '../seams/cut.ts';
import { openIslands } from '../seams/cutGraph.ts';
import { symmetricLayout } from '../unwrap/symmetricLayout.ts';
import { unwrapIslands } from '../unwrap/unwrapIslands.ts';
import { islandsOf } from '../uv/islands.ts';
import { passRanks } from '../uv/ranks.ts';
import { scaleU } from '../uv/scaleU.ts';
import { unplacedCount, type UvSet } from '../uv/uvSet.ts';
import { defineOperation, isUnsettled, partSchema, plural } from './operation.ts';
import { placeFresh } from './placeFresh.ts';
import { proposalFor, wayParams, withoutSeams } from './seams.ts';
import { touchedFaces } from './touched.ts';
import { apartSchema, methodSchema, hardlySeen, isShrunk, turnedOver } from './unwrap.ts';

/** Was anything of a layout set by hand: headings, pins, locks, stacks, faces marked as done? */
export function isArranged(part: Part): boolean {
  const { headed, pins, locked, stack } = activeSet(part);
  return [headed, pins, locked, stack, part.done].some((marks) => marks?.some((mark) => mark > 0) ?? false);
}

export const laySeams = defineOperation({
  name: 'laySeams',
  label: 'Cut seams and lay the pieces flat',
  words: 'take proposal unwrap pack',
  asked: ['by', 'limit', 'symmetry', 'method'],
  changes: ['seams', 'uvs', 'marks', 'view'],
  needs: 'edges',
  headings: 'free',
  summary: 'Cut edges, lay the pieces flat and give them places: all are packed where nothing was arranged by hand, else only what is new moves',
  fromSettings: ['method', 'apart', 'seenFrom'],
  params: z.object({
    part: partSchema,
    edges: z.array(z.number().int().min(0)).optional().describe('edge numbers; default: those that are worked out, else the selected edges'),
    by: z.enum(seamWays).optional().describe('how the seams were, or are to be, worked out'),
    ...wayParams,
    keepSeams: z.boolean().default(true).describe('off: these seams take the place of those that are there, and everything is laid out again'),
    method: methodSchema,
    apart: apartSchema,
  }),
  async run(job, params, context) {
    const part = partOf(job, params.part);
    const { selection } = job;
    const proposed =
      !params.edges && params.by ? await proposalFor(job, params.keepSeams ? part : withoutSeams(part), { ...params, by: params.by }, context) : null;
    if (proposed?.cuts.length === 0) throw new JigError('nothing-to-do', 'No further seam is needed.');
    const edges = params.edges ?? proposed?.cuts ?? (selection.part === part.id && selection.kind === 'edges' ? [...selection.ids] : []);
    if (edges.length === 0) throw new JigError('nothing-to-do', 'No edge is selected.', '', 'Select edges first, or take a proposal.');
    const seamed = cut(part.mesh, activeSet(params.keepSeams ? part : withoutSeams(part)), edges);
    if (seamed.changed.length === 0) throw new JigError('nothing-to-do', 'These edges are seams already.');
    const opened = openIslands(part.mesh, seamed.set).set;
    const axis = params.symmetry === 'auto' ? (findSymmetry(part.mesh)?.axis ?? 'none') : params.symmetry;
    const laid = await layOut(job, part, opened, seamed.changed, { ...params, symmetry: axis }, context);
    const next = withSet(job, part.id, laid.set);
    const before = islandsOf(part.mesh, activeSet(part)).count;
    const { count } = islandsOf(part.mesh, laid.set);
    const reset = selection.kind === 'islands' && selection.part === part.id && before !== count;
    return {
      job: reset ? { ...next, selection: { ...selection, ids: new Uint32Array(0) } } : next,
      report: {
        edges: seamed.changed.length,
        islands: count,
        energy: laid.energy,
        flips: laid.flips,
        packed: laid.packed,
        waiting: laid.waiting,
        shrunk: laid.shrunk,
      },
    };
  },
  warns: (report) => isUnsettled(report) || isShrunk(report.shrunk),
  sentence: ({ method }, { edges, islands, flips, packed, waiting, shrunk }) =>
    `Cut ${plural(edges, 'edge')} and laid ${plural(islands, 'piece')} flat${packed ? ', packed' : ''}${flips > 0 ? `; ${turnedOver(method, flips)}` : ''}${
      waiting > 0 ? `; ${waiting} found no free room` : ''
    }${isShrunk(shrunk) ? `; ${hardlySeen(shrunk)}` : ''}`,
});

async function layOut(
  job: Job,
  part: Part,
  seamed: UvSet,
  changed: readonly number[],
  {
    symmetry: axis,
    method,
    apart,
    keepSeams,
  }: { symmetry: 'none' | 'x' | 'y' | 'z'; keepSeams: boolean; method: z.infer<typeof methodSchema>; apart: boolean },
  context: Context,
): Promise<{ set: UvSet; energy: number; flips: number; packed: boolean; waiting: number; shrunk: number }> {
  const aspect = sheetAspect(job, part.id);
  const isFree = !keepSeams || !isArranged(part);
  const square = scaleU(passRanks(activeSet(part), seamed), aspect);
  const symmetry = axis === 'none' ? null : symmetryOf(part.mesh, axis);
  if (!isFree) {
    const { ofFace } = islandsOf(part.mesh, seamed);
    const touched = new Set([...touchedFaces(part.mesh, changed)].map((f) => ofFace[f]!));
    seamed.unplaced.forEach((isUnplaced, f) => isUnplaced && touched.add(ofFace[f]!));
    const { set, report } = await unwrapIslands(part.mesh, square, [...touched], method, context, { apart, ...grainWish(job, part) });
    const placed = await placeFresh(job, part, scaleU(set, 1 / aspect), report.fresh, context);
    return { set: placed.set, energy: report.energy, flips: report.flips, packed: false, waiting: placed.waiting, shrunk: report.shrunk };
  }
  const bare = { ...square, unplaced: new Uint8Array(square.unplaced.length).fill(1) };
  const { set, report } = await unwrapIslands(part.mesh, bare, 'all', method, context, { apart, ...grainWish(job, part) });
  const { energy, flips, shrunk } = report;
  const alone = partsOnSheet(job, part.id).every((one) => one.id === part.id || unplacedCount(activeSet(one)) === activeSet(one).unplaced.length);
  if (alone && (sheetOfPart(job, part)?.density ?? null) === null) {
    const sheet = sheetFor(job, part.id);
    const { width, height, margin: gap } = sheet;
    const { firstPacking } = await import('../propose/layProposal.ts');
    const { set: packed } = await firstPacking(part.mesh, set, symmetry, { width, height, gap, borderGap: borderGapOf(sheet) }, context);
    return { set: packed, energy, flips, packed: true, waiting: 0, shrunk };
  }
  // between the islands of the other parts
  const mirrored = symmetry ? symmetricLayout(part.mesh, set, symmetry).set : set;
  const all = Array.from({ length: islandsOf(part.mesh, mirrored).count }, (_, i) => i);
  const placed = await placeFresh(job, part, scaleU(mirrored, 1 / aspect), all, context);
  return { set: placed.set, energy, flips, packed: true, waiting: placed.waiting, shrunk };
}
