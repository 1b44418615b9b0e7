import Dexie, { type Table } from 'dexie';
import { contentHash, kindOf, pack, settingsSchema, unpack, type HistoryEntry, type Job, type JobArray } from '@jig-peel/core';

export interface JobRow {
  id: string;
  name: string;
  updated: number;
  parts: string[];
  faces: number;
  /** Keys of the steps in order, and where in them one stands. */
  steps: string[];
  index: number;
  /** Content hashes of the images that its steps use. */
  images?: string[];
}

/** An image, kept once for all jobs. */
interface ImageRow {
  hash: string;
  data: ArrayBuffer;
}

interface StepRow {
  key: string;
  jobId: string;
  operation: string;
  params: unknown;
  sentence: string;
  time: number;
  /** The job with its arrays replaced by their keys. */
  job: unknown;
  arrays: string[];
}

interface ArrayRow {
  key: string;
  jobId: string;
  kind: string;
  data: ArrayBuffer;
}

/** What is kept in this browser. Every array is kept once, however many steps use it. */
export class JobDatabase extends Dexie {
  jobs!: Table<JobRow, string>;
  steps!: Table<StepRow, string>;
  arrays!: Table<ArrayRow, string>;
  images!: Table<ImageRow, string>;

  constructor(name = 'jig-peel') {
    super(name);
    this.version(1).stores({ jobs: 'id, updated', steps: 'key, jobId', arrays: 'key, jobId' });
    this.version(2).stores({ jobs: 'id, updated', steps: 'key, jobId', arrays: 'key, jobId', images: 'hash' });
  }
}

export const database = new JobDatabase();

/** Keys of arrays that are images: this and their content hash. */
const imageKey = 'image/';

const arrayTypes = { f64: Float64Array, u32: Uint32Array, i32: Int32Array, u8: Uint8Array } as const;

/**
 * Keeps a job's history: only steps and arrays that are not kept yet are written, in one transaction, so a closed tab leaves either the state
 * before or after.
 */
export class Keeper {
  private readonly arrayKeys = new WeakMap<JobArray, string>();
  private readonly stepKeys = new WeakMap<HistoryEntry, string>();
  private counter = 0;
  private readonly run = Math.random().toString(36).slice(2, 8);

  constructor(
    private readonly jobId: string,
    private readonly db: JobDatabase = database,
  ) {}

  private fresh(): string {
    return `${this.jobId}/${Date.now().toString(36)}-${this.run}-${this.counter++}`;
  }

  async save(entries: readonly HistoryEntry[], index: number): Promise<void> {
    const newSteps: StepRow[] = [];
    const newArrays = new Map<string, ArrayRow>();
    const newImages = new Map<string, ImageRow>();
    const keys = entries.map((entry) => {
      const known = this.stepKeys.get(entry);
      if (known) return known;
      const used = new Set<string>();
      const pictures = new Set<JobArray>(entry.job.images.map((image) => image.bytes));
      const job = pack(entry.job, (array) => {
        let key = this.arrayKeys.get(array);
        if (!key && pictures.has(array)) {
          const hash = contentHash(array as Uint8Array);
          key = imageKey + hash;
          this.arrayKeys.set(array, key);
          newImages.set(hash, { hash, data: array.slice().buffer as ArrayBuffer });
        } else if (!key) {
          key = this.fresh();
          this.arrayKeys.set(array, key);
          newArrays.set(key, { key, jobId: this.jobId, kind: kindOf(array), data: array.slice().buffer as ArrayBuffer });
        }
        used.add(key);
        return key;
      });
      const key = this.fresh();
      this.stepKeys.set(entry, key);
      newSteps.push({
        key,
        jobId: this.jobId,
        operation: entry.operation,
        params: entry.params,
        sentence: entry.sentence,
        time: entry.time,
        job,
        arrays: [...used],
      });
      return key;
    });
    const present = entries[index]!.job;
    const row: JobRow = {
      id: this.jobId,
      name: present.name,
      updated: Date.now(),
      parts: present.parts.map((part) => part.name),
      faces: present.parts.reduce((sum, part) => sum + part.mesh.faceStart.length - 1, 0),
      steps: keys,
      index,
    };
    await this.db.transaction('rw', this.db.jobs, this.db.steps, this.db.arrays, this.db.images, async () => {
      const before = await this.db.jobs.get(this.jobId);
      await this.db.arrays.bulkPut([...newArrays.values()]);
      // one that another job brought is there already
      const there = await this.db.images.bulkGet([...newImages.keys()]);
      await this.db.images.bulkPut([...newImages.values()].filter((_, k) => there[k] === undefined));
      await this.db.steps.bulkPut(newSteps);
      const now = new Set(keys);
      const dropped = (before?.steps ?? []).filter((key) => !now.has(key));
      const images = new Set(before?.images ?? []);
      for (const key of newSteps.flatMap((step) => step.arrays)) if (key.startsWith(imageKey)) images.add(key.slice(imageKey.length));
      await this.db.jobs.put({ ...row, images: [...images] });
      if (dropped.length > 0) await this.dropSteps(dropped);
    });
  }

  /** Removes steps and the arrays that no other step of the job uses. */
  private async dropSteps(keys: string[]): Promise<void> {
    const gone = (await this.db.steps.bulkGet(keys)).filter((step): step is StepRow => step !== undefined);
    await this.db.steps.bulkDelete(keys);
    const candidates = new Set(gone.flatMap((step) => step.arrays));
    if (candidates.size === 0) return;
    // images are other jobs' too: those of this job that no step uses any more go with the job
    await this.db.steps
      .where('jobId')
      .equals(this.jobId)
      .each((step) => step.arrays.forEach((key) => candidates.delete(key)));
    await this.db.arrays.bulkDelete([...candidates]);
  }

  /** Brings a job's history back, or null if there is none of that id. */
  async load(): Promise<{ entries: HistoryEntry[]; index: number } | null> {
    const row = await this.db.jobs.get(this.jobId);
    if (!row) return null;
    const steps = (await this.db.steps.bulkGet(row.steps)).filter((step): step is StepRow => step !== undefined);
    const wanted = [...new Set(steps.flatMap((step) => step.arrays))];
    const arrays = new Map<string, JobArray>();
    const hashes = wanted.filter((key) => key.startsWith(imageKey)).map((key) => key.slice(imageKey.length));
    for (const stored of await this.db.images.bulkGet(hashes)) {
      if (!stored) continue;
      const bytes = new Uint8Array(stored.data);
      arrays.set(imageKey + stored.hash, bytes);
      this.arrayKeys.set(bytes, imageKey + stored.hash);
    }
    // a lost image costs its picture, never a step
    for (const hash of hashes) if (!arrays.has(imageKey + hash)) arrays.set(imageKey + hash, new Uint8Array(0));
    for (const stored of await this.db.arrays.bulkGet(wanted)) {
      if (!stored) continue;
      const array = new arrayTypes[stored.kind as keyof typeof arrayTypes](stored.data);
      arrays.set(stored.key, array);
      this.arrayKeys.set(array, stored.key);
    }
    const entries: HistoryEntry[] = [];
    let index = row.index;
    for (const step of steps) {
      if (step.arrays.some((key) => !arrays.has(key))) {
        // a step whose arrays are gone cannot be shown; the others still can
        if (entries.length <= index) index--;
        continue;
      }
      const stored = unpack(step.job, (key) => arrays.get(key)!) as Job;
      // settings that came later begin with what a new job has
      const job: Job = { ...stored, settings: settingsSchema.parse(stored.settings) };
      const entry: HistoryEntry = { job, operation: step.operation, params: step.params as Record<string, unknown>, sentence: step.sentence, time: step.time };
      this.stepKeys.set(entry, step.key);
      entries.push(entry);
    }
    return entries.length > 0 ? { entries, index: Math.max(0, Math.min(index, entries.length - 1)) } : null;
  }
}

/** Removes a job and all that belongs to it; images that another job uses stay. */
export async function removeJob(id: string, db: JobDatabase = database): Promise<void> {
  await db.transaction('rw', db.jobs, db.steps, db.arrays, db.images, async () => {
    const spare = new Set((await db.jobs.get(id))?.images ?? []);
    await db.jobs.delete(id);
    await db.steps.where('jobId').equals(id).delete();
    await db.arrays.where('jobId').equals(id).delete();
    await db.jobs.each((job) => job.images?.forEach((hash) => spare.delete(hash)));
    await db.images.bulkDelete([...spare]);
  });
}
