import { Queue, QueueEvents } from 'bullmq';
import { Redis } from 'ioredis';
import type { FileDone } from './recipeFile.ts';
import { givenUp, type QueueListener, type QueueTask, type WorkQueue } from './workQueue.ts';

/** Name of the queue in Redis; workers of one server share it. */
export const queueName = 'jig-peel-files';

/** Times that a file is tried while the server does not answer its worker; a file that kills its worker is given up sooner. */
const attempts = 8;
/** Seconds that a result waits in Redis for a server that is away. */
const keepFor = 7 * 86_400;

/** What a worker gives back of a task. */
export type TaskResult = Omit<FileDone, 'file'>;

const idOf = ({ batch, file }: QueueTask) => `${batch}-${file}`;

/** The task that an id of the queue means, or null. */
function taskOf(id: string): QueueTask | null {
  const match = /^(.+)-(\d+)$/.exec(id);
  return match ? { batch: match[1]!, file: Number(match[2]) } : null;
}

/** A connection that waits for a Redis that is away. */
export const connectionTo = (address: string) => new Redis(address, { maxRetriesPerRequest: null, enableReadyCheck: false });

/** @throws Error where no Redis answers within five seconds */
export async function lookFor(address: string): Promise<void> {
  const probe = new Redis(address, { maxRetriesPerRequest: 1, connectTimeout: 5000, lazyConnect: true, retryStrategy: () => null });
  probe.on('error', () => {});
  try {
    await probe.connect();
    await probe.ping();
  } finally {
    probe.disconnect();
  }
}

/** The queue of many machines: tasks in a Redis, taken by workers (`jig worker`). A worker that is killed loses its lock, and another takes the file up. */
export class RedisQueue implements WorkQueue {
  readonly kind = 'redis';
  private readonly queue: Queue;
  private readonly events: QueueEvents;
  private readonly connections: Redis[];
  private readonly ended = new Set<string>();

  constructor(address: string, listener: QueueListener) {
    this.connections = [connectionTo(address), connectionTo(address)];
    // a Redis that goes away is waited for; what it says meanwhile is no end of the server
    for (const connection of this.connections) connection.on('error', () => {});
    this.queue = new Queue(queueName, { connection: this.connections[0]! });
    this.events = new QueueEvents(queueName, { connection: this.connections[1]! });
    this.queue.on('error', () => {});
    this.events.on('error', () => {});
    const once = (id: string, tell: (task: QueueTask) => void) => {
      const task = taskOf(id);
      if (!task || this.ended.has(id)) return;
      this.ended.add(id);
      tell(task);
      void this.queue.remove(id).catch(() => {});
    };
    this.events.on('active', ({ jobId }) => {
      const task = taskOf(jobId);
      if (task && !this.ended.has(jobId)) listener.started(task);
    });
    this.events.on('stalled', ({ jobId }) => {
      const task = taskOf(jobId);
      if (task && !this.ended.has(jobId)) listener.triedAgain(task, 'Its worker was lost; another one takes it up.');
    });
    this.events.on('completed', ({ jobId, returnvalue }) => once(jobId, (task) => listener.finished(task, returnvalue as unknown as TaskResult)));
    this.events.on('failed', ({ jobId, failedReason }) =>
      once(jobId, (task) =>
        listener.finished(task, { ok: false, words: /stall/i.test(failedReason) ? givenUp : failedReason, files: [], missed: [], seconds: 0 }),
      ),
    );
  }

  /**
   * Hands tasks to the workers; one that is in Redis already (the server was started again) stays as it is, and what it ended with meanwhile is told.
   */
  async add(tasks: readonly QueueTask[], isAgain = false): Promise<void> {
    await this.events.waitUntilReady();
    // a task of the same name would be taken for the one that ended
    if (isAgain) for (const task of tasks) await this.queue.remove(idOf(task)).catch(() => {});
    for (const task of tasks) this.ended.delete(idOf(task));
    for (let k = 0; k < tasks.length; k += 500) {
      const some = tasks.slice(k, k + 500);
      await this.queue.addBulk(
        some.map((task) => ({
          name: 'file',
          data: task,
          opts: {
            jobId: idOf(task),
            attempts,
            backoff: { type: 'exponential', delay: 1000 },
            removeOnComplete: { age: keepFor },
            removeOnFail: { age: keepFor },
          },
        })),
      );
    }
  }

  /** Tasks that ended while no server listened, with what they ended with; they leave the queue. */
  async endedMeanwhile(tasks: readonly QueueTask[]): Promise<Map<QueueTask, TaskResult>> {
    const found = new Map<QueueTask, TaskResult>();
    for (const task of tasks) {
      const job = await this.queue.getJob(idOf(task));
      if (!job) continue;
      if (await job.isCompleted()) found.set(task, job.returnvalue as TaskResult);
      else if (await job.isFailed()) found.set(task, { ok: false, words: job.failedReason ?? givenUp, files: [], missed: [], seconds: 0 });
      else continue;
      await job.remove().catch(() => {});
    }
    return found;
  }

  async drop(batch: string): Promise<void> {
    for (const job of await this.queue.getJobs(['waiting', 'delayed', 'prioritized'])) {
      if ((job?.data as QueueTask | undefined)?.batch === batch) await job.remove().catch(() => {});
    }
  }

  async counts(): Promise<{ waiting: number; working: number }> {
    const { waiting = 0, delayed = 0, active = 0 } = await this.queue.getJobCounts('waiting', 'delayed', 'active');
    return { waiting: waiting + delayed, working: active };
  }

  async close(): Promise<void> {
    await Promise.all([this.queue.close(), this.events.close()]);
    for (const connection of this.connections) connection.disconnect();
  }
}
