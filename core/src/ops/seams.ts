import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { activeSet, emptySelection, partOf, withSet, type Job, type Part } from '../job/job.ts';
import { creaseEdges } from '../seams/crease.ts';
import { cut as cutEdges } from '../seams/cut.ts';
import { openIslands } from '../seams/cutGraph.ts';
import { uncut as uncutEdges } from '../seams/uncut.ts';
import { islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

const edgesSchema = z.array(z.number().int().min(0)).optional().describe('edge numbers; default: the selected edges');

/** The edges that an operation means: the given ones, else the selected ones. */
function edgesOf(job: Job, part: Part, given: number[] | undefined): number[] {
  if (given) return given;
  if (job.selection.part === part.id && job.selection.kind === 'edges') return [...job.selection.ids];
  return [];
}

/** A selection of islands does not outlive a change of the islands' numbers. */
function withSeams(job: Job, part: Part, set: UvSet): Job {
  const next = withSet(job, part.id, set);
  const same = islandsOf(part.mesh, set).count === islandsOf(part.mesh, activeSet(part)).count;
  return job.selection.kind === 'islands' && !same ? { ...next, selection: { ...emptySelection(part.id), kind: 'islands' } } : next;
}

export const cut = defineOperation({
  name: 'cut',
  summary: 'Make edges seams',
  params: z.object({ part: partSchema, edges: edgesSchema }),
  sentence: (_params, report: { edges: number; islands: number }) => `Cut ${plural(report.edges, 'edge')}`,
  run(job, params) {
    const part = partOf(job, params.part);
    const edges = edgesOf(job, part, params.edges);
    if (edges.length === 0) throw new JigError('nothing-to-do', 'No edge is selected.', '', 'Select edges first, or draw with the seam pen.');
    const { set, changed } = cutEdges(part.mesh, activeSet(part), edges);
    if (changed.length === 0) throw new JigError('nothing-to-do', 'These edges are seams or borders already.');
    return { job: withSeams(job, part, set), report: { edges: changed.length, islands: islandsOf(part.mesh, set).count } };
  },
});

export const uncut = defineOperation({
  name: 'uncut',
  summary: 'Make seams whole again',
  params: z.object({ part: partSchema, edges: edgesSchema }),
  sentence: (_params, report: { edges: number; islands: number }) => `Made ${plural(report.edges, 'edge')} whole`,
  run(job, params) {
    const part = partOf(job, params.part);
    const edges = edgesOf(job, part, params.edges);
    if (edges.length === 0) throw new JigError('nothing-to-do', 'No edge is selected.', '', 'Select seams first.');
    const { set, changed } = uncutEdges(part.mesh, activeSet(part), edges);
    if (changed.length === 0) throw new JigError('nothing-to-do', 'None of these edges is a seam.');
    return { job: withSeams(job, part, set), report: { edges: changed.length, islands: islandsOf(part.mesh, set).count } };
  },
});

export const open = defineOperation({
  name: 'open',
  summary: 'Cut open what cannot lie flat, along the shortest cuts',
  params: z.object({ part: partSchema, islands: z.array(z.number().int().min(0)).optional().describe('island numbers; default: all that need it') }),
  sentence: (_params, report: { opened: number; edges: number }) => `Opened ${plural(report.opened, 'piece')} with ${plural(report.edges, 'edge')}`,
  run(job, params) {
    const part = partOf(job, params.part);
    const { set, cuts, opened } = openIslands(part.mesh, activeSet(part), params.islands ?? 'all');
    if (cuts.length === 0) throw new JigError('nothing-to-do', 'Every piece can lie flat already.');
    return { job: withSeams(job, part, set), report: { opened: opened.length, edges: cuts.length } };
  },
});

export const seams = defineOperation({
  name: 'seams',
  summary: 'Cut all edges that fold sharply',
  params: z.object({
    part: partSchema,
    by: z.enum(['crease']).default('crease'),
    angle: z.number().min(1).max(180).default(40).describe('fold in degrees from which an edge is cut'),
  }),
  sentence: ({ angle }, report: { edges: number }) => `Cut ${plural(report.edges, 'crease')} of ${angle}° and more`,
  run(job, { part: id, angle }) {
    const part = partOf(job, id);
    const { set, changed } = cutEdges(part.mesh, activeSet(part), creaseEdges(part.mesh, angle));
    if (changed.length === 0) throw new JigError('nothing-to-do', `No uncut edge folds by ${angle}° or more.`, '', 'Try a smaller angle.');
    return { job: withSeams(job, part, set), report: { edges: changed.length } };
  },
});
