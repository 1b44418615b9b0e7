import Dexie, { type Table } from 'dexie';
import { kindOf, pack, settingsSchema, unpack, type HistoryEntry, type Job, type JobArray } from '@jig-peel/core';

export interface JobRow {
  id: string;
  name: string;
  updated: number;
  parts: string[];
  faces: number;
  /** Keys of the steps in order, and where in them one stands. */
  steps: string[];
  index: number;
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

  constructor(name = 'jig-peel') {
    super(name);
    this.version(1).stores({ jobs: 'id, updated', steps: 'key, jobId', arrays: 'key, jobId' });
  }
}

export const database = new JobDatabase();

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
    const keys = entries.map((entry) => {
      const known = this.stepKeys.get(entry);
      if (known) return known;
      const used = new Set<string>();
      const job = pack(entry.job, (array) => {
        let key = this.arrayKeys.get(array);
        if (!key) {
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
    await this.db.transaction('rw', this.db.jobs, this.db.steps, this.db.arrays, async () => {
      const before = await this.db.jobs.get(this.jobId);
      await this.db.arrays.bulkPut([...newArrays.values()]);
      await this.db.steps.bulkPut(newSteps);
      await this.db.jobs.put(row);
      const now = new Set(keys);
      const dropped = (before?.steps ?? []).filter((key) => !now.has(key));
      if (dropped.length > 0) await this.dropSteps(dropped);
    });
  }

  /** Removes steps and the arrays that no other step of the job uses. */
  private async dropSteps(keys: string[]): Promise<void> {
    const gone = (await this.db.steps.bulkGet(keys)).filter((step): step is StepRow => step !== undefined);
    await this.db.steps.bulkDelete(keys);
    const candidates = new Set(gone.flatMap((step) => step.arrays));
    if (candidates.size === 0) return;
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

/** Removes a job and all that belongs to it. */
export async function removeJob(id: string, db: JobDatabase = database): Promise<void> {
  await db.transaction('rw', db.jobs, db.steps, db.arrays, async () => {
    await db.jobs.delete(id);
    await db.steps.where('jobId').equals(id).delete();
    await db.arrays.where('jobId').equals(id).delete();
  });
}
