import { createWriteStream } from 'node:fs';
import { mkdir, mkdtemp, open, rename, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { UnrecoverableError, Worker, type Job } from 'bullmq';
import { z } from 'zod';
import { Recent } from './recent.ts';
import type { FileTask } from './recipeFile.ts';
import { connectionTo, queueName, type TaskResult } from './redisQueue.ts';
import { RecipeThread, threadEnded } from './thread.ts';
import { givenUp, tries, type QueueTask } from './workQueue.ts';

export interface WorkerOptions {
  /** The Redis, `redis://host:port`. */
  queue: string;
  /** The server that holds the files, `http://host:port`. */
  server: string;
  /** Its token, where it is on another machine. */
  token?: string;
  /** The server's folder of batches as this machine sees it: files are read and written there, and none goes over HTTP. */
  shared?: string;
  /** Files at once. */
  threads: number;
  /** Ms without a sign of life after which a worker counts as lost. */
  patience?: number;
  say(words: string): void;
}

/** What the server says of a batch to its workers. */
export const workSchema = z.object({
  recipe: z.string(),
  limits: z.string().nullable(),
  /** Files that any model of the batch may need: materials, buffers, images. */
  beside: z.array(z.string()),
  files: z.array(z.object({ name: z.string(), output: z.string() })),
});
export type BatchWork = z.infer<typeof workSchema>;

const usualPatience = 15_000;
/** Batches of which nothing is at work and whose side files stay all the same, since more of them may come. */
const keptBatches = 4;

/** The server could not be reached, or did not give what was asked: the file is tried again. */
class NoAnswer extends Error {}

/** Takes files of a queue that servers and workers share, until it is ended. */
export class QueueWorker {
  private readonly options: WorkerOptions;
  private readonly worker: Worker;
  private readonly idle: RecipeThread[] = [];
  private readonly connection;
  private readonly batches = new Map<string, Promise<BatchWork>>();
  private readonly recent = new Recent(keptBatches);
  private readonly folder = mkdtemp(join(tmpdir(), 'jig-peel-worker-'));

  constructor(options: WorkerOptions) {
    this.options = options;
    this.connection = connectionTo(options.queue);
    this.connection.on('error', () => {});
    this.worker = new Worker(queueName, (job) => this.work(job), {
      connection: this.connection,
      concurrency: options.threads,
      lockDuration: options.patience ?? usualPatience,
      stalledInterval: options.patience ?? usualPatience,
      maxStalledCount: 2,
    });
    this.worker.on('error', () => {});
    this.worker.on('completed', (job, done: TaskResult) => options.say(`${job.id}: ${done.ok ? 'done' : 'failed'}, ${done.words}`));
    this.worker.on('failed', (job, error) => options.say(`${job?.id ?? '?'}: ${error.message}`));
  }

  async ready(): Promise<void> {
    await this.worker.waitUntilReady();
  }

  /** Ends when what is being worked is done, or at once. */
  async end(force = false): Promise<void> {
    await this.worker.close(force);
    await Promise.all(this.idle.map((thread) => thread.end()));
    this.connection.disconnect();
    await rm(await this.folder, { recursive: true, force: true });
  }

  private async work(job: Job): Promise<TaskResult> {
    const { batch } = job.data as QueueTask;
    this.recent.begin(batch);
    try {
      return await this.workFile(job);
    } finally {
      for (const old of this.recent.end(batch)) {
        this.batches.delete(old);
        await rm(join(await this.folder, old), { recursive: true, force: true });
      }
    }
  }

  private async workFile(job: Job): Promise<TaskResult> {
    const { batch, file } = job.data as QueueTask;
    const isLast = job.attemptsMade + 1 >= tries;
    const work = await this.batchOf(batch);
    const own = work.files[file];
    if (!own) throw new NoAnswer('The batch has no such file.');
    const { recipe, limits } = work;
    if (this.options.shared !== undefined) {
      const folder = join(this.options.shared, batch);
      const out = join(folder, 'out', String(file));
      await mkdir(out, { recursive: true });
      return this.thread({ file: join(folder, 'in', own.name), output: join(out, own.output), recipe, limits }, isLast);
    }
    const folder = join(await this.folder, batch);
    const out = join(folder, `out-${file}`);
    await mkdir(out, { recursive: true });
    const model = join(folder, own.name);
    try {
      await this.fetchInto(`${batch}/in/${encodeURIComponent(own.name)}`, model);
      const done = await this.thread({ file: model, output: join(out, own.output), recipe, limits }, isLast);
      for (const name of done.files) await this.send(`${batch}/${file}/out/${encodeURIComponent(name)}`, join(out, name));
      return done;
    } finally {
      await Promise.all([rm(out, { recursive: true, force: true }), rm(model, { force: true })]);
    }
  }

  private async thread(task: FileTask, isLast: boolean): Promise<TaskResult> {
    const thread = this.idle.pop() ?? new RecipeThread();
    const done = await thread.work(task);
    if (!done) throw isLast ? new UnrecoverableError(givenUp) : new Error(threadEnded.words);
    this.idle.push(thread);
    return { ok: done.ok, words: done.words, files: done.files, missed: done.missed, seconds: done.seconds };
  }

  /** What a batch is worked by, asked for once, and what stands beside its models. */
  private batchOf(batch: string): Promise<BatchWork> {
    const known = this.batches.get(batch);
    if (known) return known;
    const asked = this.askFor(batch);
    this.batches.set(batch, asked);
    // asked again with the next file
    asked.catch(() => this.batches.delete(batch));
    return asked;
  }

  private async askFor(batch: string): Promise<BatchWork> {
    const work = workSchema.parse(await (await this.get(batch)).json());
    if (this.options.shared !== undefined) return work;
    const folder = join(await this.folder, batch);
    await mkdir(folder, { recursive: true });
    for (const name of work.beside) await this.fetchInto(`${batch}/in/${encodeURIComponent(name)}`, join(folder, name));
    return work;
  }

  private headers(): Record<string, string> {
    return this.options.token ? { authorization: `Bearer ${this.options.token}` } : {};
  }

  private async get(path: string): Promise<Response> {
    const response = await fetch(`${this.options.server}/api/tasks/${path}`, { headers: this.headers() }).catch(() => {
      throw new NoAnswer(`The server at ${this.options.server} does not answer.`);
    });
    if (!response.ok) throw new NoAnswer(`The server answered ${response.status}: ${(await response.text()).slice(0, 200)}`);
    return response;
  }

  private async fetchInto(path: string, target: string): Promise<void> {
    const response = await this.get(path);
    const part = `${target}.part`;
    await pipeline(Readable.fromWeb(response.body as import('node:stream/web').ReadableStream), createWriteStream(part));
    await rename(part, target);
  }

  private async send(path: string, file: string): Promise<void> {
    const { size } = await stat(file);
    const handle = await open(file);
    try {
      const response = await fetch(`${this.options.server}/api/tasks/${path}`, {
        method: 'PUT',
        headers: { ...this.headers(), 'content-type': 'application/octet-stream', 'content-length': String(size) },
        body: handle.readableWebStream({ type: 'bytes' }) as unknown as BodyInit,
        duplex: 'half',
      } as RequestInit).catch(() => {
        throw new NoAnswer(`The server at ${this.options.server} does not answer.`);
      });
      // a file that another worker has finished meanwhile is its own
      if (!response.ok && response.status !== 409) throw new NoAnswer(`The server answered ${response.status}.`);
    } finally {
      await handle.close();
    }
  }
}
