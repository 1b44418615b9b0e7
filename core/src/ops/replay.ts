import { quietContext, type Context } from '../context.ts';
import { JigError } from '../jigError.ts';
import { runOperation } from './registry.ts';
import { forgetRanks } from '../uv/ranks.ts';
import type { HistoryEntry } from '../job/history.ts';
import type { Job } from '../job/job.ts';

/** A job whose layouts carry nothing but what is kept of them. */
function bare(job: Job): Job {
  const parts = job.parts.map((part) => ({ ...part, uvSets: part.uvSets.map((set) => ({ ...set })) }));
  for (const part of parts) for (const set of part.uvSets) forgetRanks(set);
  return { ...job, parts };
}

/**
 * Runs the steps of a history again, from the job after its first entry. On the same machine the result has the same bytes, except where a search for seams
 * met its time limit.
 * @throws JigError what an operation throws
 */
export async function replay(entries: readonly HistoryEntry[], index = entries.length - 1, context: Context = quietContext): Promise<Job> {
  if (entries.length === 0) throw new JigError('nothing-to-do', 'There is no step.');
  let job = bare(entries[0]!.job);
  for (const entry of entries.slice(1, index + 1)) {
    if (entry.cold) job = bare(job);
    const params = entry.operation === 'addImages' ? withBytes(entry) : entry.params;
    ({ job } = await runOperation(job, entry.operation, params, context));
    for (const { operation, params: own } of entry.followUps ?? []) ({ job } = await runOperation(job, operation, own, context));
  }
  return job;
}

/** Images are kept in the job, and by id in the step that brought them. */
function withBytes({ params, job }: HistoryEntry): Record<string, unknown> {
  const images = params.images as { name: string; id: string }[];
  return { ...params, images: images.map(({ name, id }) => ({ name, bytes: job.images.find((image) => image.id === id)?.bytes ?? new Uint8Array(0) })) };
}
