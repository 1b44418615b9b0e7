import { z } from 'zod';
import { activeSet, partOf, type Job } from '../job/job.ts';
import { placedIslandsOf, selectionByPart } from '../job/selected.ts';
import { sheetAspect } from '../job/sheets.ts';
import { JigError } from '../jigError.ts';
import { cut } from '../seams/cut.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import { defineOperation, partSchema, plural } from './operation.ts';
import { mirroredEdges, withSeams } from './seams.ts';

/** Islands that fill little of their hulls are cut at their necks, so that they pack well. */
export const cutNecks = defineOperation({
  name: 'cutNecks',
  label: 'Cut islands at their necks',
  words: 'split spidery branches arms part pack',
  changes: ['seams', 'uvs', 'marks', 'view'],
  needs: 'selection',
  asked: ['enough'],
  summary: 'Cut islands that are spread out at their necks, so that the pieces pack well',
  params: z.object({
    part: partSchema,
    islands: z.array(z.number().int().min(0)).optional().describe('island numbers; default: the selected ones'),
    enough: z.number().min(0.2).max(0.95).default(0.7).describe('share of their hulls that the pieces are to fill'),
  }),
  async run(job, { part: id, islands, enough }, context) {
    const meant = islandsMeant(job, id, islands);
    if (meant.length === 0) throw new JigError('nothing-to-do', 'No island is selected.', '', 'Select the islands that are spread out.');
    // loaded when something is cut so first
    const { neckCuts } = await import('../shape/necks.ts');
    const report = { islands: 0, pieces: 0, edges: 0, before: 1, after: 1 };
    let next = job;
    let done = 0;
    const total = meant.reduce((sum, one) => sum + one.islands.length, 0);
    for (const { part, islands: own } of meant) {
      const set = activeSet(part);
      const aspect = sheetAspect(job, part.id);
      const edges: number[] = [];
      for (const i of own) {
        context.throwIfCancelled();
        context.progress(done++ / total, 'Looking for necks');
        const found = neckCuts(part.mesh, set, i, { aspect, enough }, () => context.throwIfCancelled());
        if (found.edges.length === 0) continue;
        report.islands++;
        report.pieces += found.pieces;
        if (found.before < report.before) [report.before, report.after] = [found.before, found.after];
        edges.push(...found.edges);
      }
      if (edges.length === 0) continue;
      const result = cut(part.mesh, set, mirroredEdges(job, part, edges));
      report.edges += result.changed.length;
      next = withSeams(next, part, result.set);
    }
    if (report.edges === 0)
      throw new JigError('nothing-to-do', `${total === 1 ? 'This island has' : 'These islands have'} no necks: cuts would not make the pieces pack better.`);
    return { job: next, report };
  },
  sentence: (_params, { islands, pieces, before, after }) =>
    `Cut ${plural(islands, 'island')} at ${islands === 1 ? 'its' : 'their'} necks into ${pieces} pieces: ${Math.round(before * 100)} → ${Math.round(after * 100)} % of the hull filled`,
});

/** Islands with a place, by part. */
function islandsMeant(job: Job, id: string | undefined, islands: readonly number[] | undefined) {
  if (!islands) {
    const named = id === undefined ? null : partOf(job, id).id;
    return selectionByPart(job)
      .filter(({ part }) => named === null || part.id === named)
      .map((one) => ({ part: one.part, islands: placedIslandsOf(one) }));
  }
  const part = partOf(job, id);
  const set = activeSet(part);
  const { count } = islandsOf(part.mesh, set);
  for (const i of islands) if (i >= count) throw new JigError('bad-parameter', `${part.name} has no island ${i}: they are 0 to ${count - 1}.`);
  const facts = islandFacts(part.mesh, set);
  return [{ part, islands: islands.filter((i) => !facts[i]!.unplaced) }];
}
