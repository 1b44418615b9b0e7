import { mkdir } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { resolve } from 'node:path';
import { ThreadQueue, type WorkQueue } from '@jig-peel/batch';
import { Batches } from './batches.ts';
import type { UploadLimits } from './upload.ts';

export interface RunningWork {
  batches: Batches;
  queue: WorkQueue;
  limits: UploadLimits;
  end(): Promise<void>;
}

/** Ms between two looks for batches that are old. */
const lookMs = 3_600_000;

/** A positive number out of the environment. @throws Error that names the setting */
function numberIn(environment: NodeJS.ProcessEnv, name: string, usual: number): number {
  const text = environment[name]?.trim();
  if (!text) return usual;
  const value = Number(text);
  if (!(value > 0 && Number.isFinite(value))) throw new Error(`${name} is “${text}”, which is no number above 0.`);
  return value;
}

/**
 * Begins to work batches: in threads of this process, or, with JIG_QUEUE=redis://…, by workers that share a Redis. What was not done when the server
 * ended is taken up.
 * @throws Error in a sentence: a setting that cannot be used, a folder that cannot be made, no Redis
 */
export async function beginWork(environment: NodeJS.ProcessEnv): Promise<RunningWork> {
  const folder = resolve(environment.JIG_BATCHES?.trim() || 'data/batches');
  const number = (name: string, usual: number) => numberIn(environment, name, usual);
  const limits: UploadLimits = {
    fileBytes: number('JIG_FILE_MB', 512) * 1e6,
    batchBytes: number('JIG_BATCH_MB', 8000) * 1e6,
    files: Math.round(number('JIG_BATCH_FILES', 5000)),
  };
  const batches = new Batches(folder, {
    batches: Math.round(number('JIG_BATCHES_KEPT', 50)),
    bytes: number('JIG_BATCHES_MB', 20_000) * 1e6,
    days: number('JIG_BATCHES_DAYS', 14),
  });
  await mkdir(folder, { recursive: true }).catch((error: NodeJS.ErrnoException) => {
    throw new Error(`the folder for batches cannot be made (${error.code}). Set JIG_BATCHES to another one.`);
  });
  const queue = await queueFor(environment, batches, number('JIG_THREADS', availableParallelism()), number('JIG_FILE_MINUTES', 60));
  await batches.begin(queue);
  const timer = setInterval(() => void batches.removeOld(), lookMs);
  timer.unref();
  return {
    batches,
    queue,
    limits,
    end: async () => {
      clearInterval(timer);
      await queue.close();
      await batches.settled();
    },
  };
}

async function queueFor(environment: NodeJS.ProcessEnv, batches: Batches, threads: number, minutes: number): Promise<WorkQueue> {
  const address = environment.JIG_QUEUE?.trim();
  if (!address) return new ThreadQueue({ threads: Math.round(threads), minutes, placeOf: (task) => batches.placeOf(task), listener: batches });
  if (!/^rediss?:\/\//.test(address)) throw new Error(`JIG_QUEUE is “${address}”; it should be redis://host:port.`);
  const { lookFor, RedisQueue } = await import('@jig-peel/batch/redisQueue');
  await lookFor(address).catch(() => {
    throw new Error(`no Redis answers at ${address}. Start it, or leave JIG_QUEUE out to work in this process.`);
  });
  return new RedisQueue(address, batches);
}
