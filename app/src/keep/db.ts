import Dexie, { type Table } from 'dexie';
import {
  contentHash,
  JigError,
  jobSchema,
  keptSteps,
  kindOf,
  detachArrays,
  settingsSchema,
  attachArrays,
  type FollowUp,
  type HistoryEntry,
  type Job,
  type JobArray,
} from '@jig-peel/core';
import { readRow, type JobRow, type ReadRow } from './rows.ts';

export type { JobRow } from './rows.ts';

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
  /** See `HistoryEntry`. */
  view?: boolean;
  cold?: boolean;
  followUps?: readonly FollowUp[];
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

const arrayTypes = new Map<string, new (data: ArrayBuffer) => JobArray>([
  ['f64', Float64Array],
  ['u32', Uint32Array],
  ['i32', Int32Array],
  ['u8', Uint8Array],
]);

/** What a save took out of storage: steps and arrays by their keys, and the bytes of these. */
interface Dropped {
  steps: readonly string[];
  arrays: readonly string[];
  bytes: number;
}

/** What was read of a kept job. */
export interface KeptHistory {
  entries: HistoryEntry[];
  index: number;
  /** Steps that were kept and cannot be read any more. */
  missing: number;
}

/** Another session has taken the job: nothing is written any more. */
export class TakenOverError extends Error {}

/**
 * Keeps a job's history: only steps and arrays that are not kept yet are written, in one transaction, so a closed tab leaves either the state
 * before or after. What a save that failed would have written is written again by the next.
 */
export class Keeper {
  private readonly arrayKeys = new WeakMap<JobArray, string>();
  private readonly stepKeys = new WeakMap<HistoryEntry, string>();
  /** Steps and arrays that were read, to be used again when the job is read once more. */
  private readonly readSteps = new Map<string, HistoryEntry>();
  private readonly readArrays = new Map<string, WeakRef<JobArray>>();
  private counter = 0;
  private readonly run = Math.random().toString(36).slice(2, 8);

  /** @param writer who saves: once the job says another one, saving throws TakenOverError */
  constructor(
    readonly jobId: string,
    private readonly db: JobDatabase = database,
    private readonly writer?: string,
  ) {}

  private fresh(): string {
    return `${this.jobId}/${Date.now().toString(36)}-${this.run}-${this.counter++}`;
  }

  /** From now on this session is the one that writes. */
  async claim(): Promise<void> {
    await this.db.jobs.where('id').equals(this.jobId).modify({ writer: this.writer });
  }

  /** @throws what the database throws; TakenOverError where another session writes now */
  async save(all: readonly HistoryEntry[], at: number): Promise<void> {
    const { entries, index } = keptSteps(all, at);
    const newSteps: StepRow[] = [];
    const newArrays = new Map<string, ArrayRow>();
    const newImages = new Map<string, ImageRow>();
    // known for good only once the transaction is through
    const arrayKeys = new Map<JobArray, string>();
    const stepKeys = new Map<HistoryEntry, string>();
    const keys = entries.map((entry) => {
      const known = this.stepKeys.get(entry);
      if (known) return known;
      const used = new Set<string>();
      const pictures = new Set<JobArray>(entry.job.images.map((image) => image.bytes));
      const job = detachArrays(entry.job, (array) => {
        let key = this.arrayKeys.get(array) ?? arrayKeys.get(array);
        if (!key && pictures.has(array)) {
          const hash = contentHash(array as Uint8Array);
          key = imageKey + hash;
          arrayKeys.set(array, key);
          newImages.set(hash, { hash, data: array.slice().buffer as ArrayBuffer });
        } else if (!key) {
          key = this.fresh();
          arrayKeys.set(array, key);
          newArrays.set(key, { key, jobId: this.jobId, kind: kindOf(array), data: array.slice().buffer as ArrayBuffer });
        }
        used.add(key);
        return key;
      });
      const key = this.fresh();
      stepKeys.set(entry, key);
      newSteps.push({
        key,
        jobId: this.jobId,
        operation: entry.operation,
        params: entry.params,
        sentence: entry.sentence,
        time: entry.time,
        ...(entry.view ? { view: true } : {}),
        ...(entry.cold ? { cold: true } : {}),
        ...(entry.followUps ? { followUps: entry.followUps } : {}),
        job,
        arrays: [...used],
      });
      return key;
    });
    const present = entries[index]!.job;
    let gone: Dropped = { steps: [], arrays: [], bytes: 0 };
    await this.db.transaction('rw', this.db.jobs, this.db.steps, this.db.arrays, this.db.images, async () => {
      const stored = await this.db.jobs.get(this.jobId);
      const read = readRow(stored);
      const before = read?.kind === 'sound' ? read.row : null;
      if (this.writer !== undefined && before?.writer !== undefined && before.writer !== this.writer) throw new TakenOverError();
      await this.db.arrays.bulkPut([...newArrays.values()]);
      // one that another job brought is there already
      const there = await this.db.images.bulkGet([...newImages.keys()]);
      await this.db.images.bulkPut([...newImages.values()].filter((_, k) => there[k] === undefined));
      await this.db.steps.bulkPut(newSteps);
      const now = new Set(keys);
      const dropped = (before?.steps ?? []).filter((key) => !now.has(key));
      const images = new Set(before?.images ?? []);
      for (const step of newSteps) for (const key of step.arrays) if (key.startsWith(imageKey)) images.add(key.slice(imageKey.length));
      if (dropped.length > 0) gone = await this.dropSteps(dropped);
      let bytes = before ? (before.bytes ?? (await sizeOf(this.jobId, this.db))) - gone.bytes : 0;
      if (!before || before.bytes !== undefined) {
        for (const { data } of newArrays.values()) bytes += data.byteLength;
        for (const { data } of newImages.values()) bytes += data.byteLength;
      }
      await this.db.jobs.put({
        id: this.jobId,
        name: present.name,
        updated: Date.now(),
        parts: present.parts.map((part) => part.name),
        faces: present.parts.reduce((sum, part) => sum + part.mesh.faceStart.length - 1, 0),
        steps: keys,
        index,
        images: [...images],
        own: true,
        bytes: Math.max(0, bytes),
        ...(before?.removed !== undefined ? { removed: before.removed } : {}),
        ...(this.writer !== undefined ? { writer: this.writer } : before?.writer !== undefined ? { writer: before.writer } : {}),
      });
    });
    for (const [array, key] of arrayKeys) {
      this.arrayKeys.set(array, key);
      this.readArrays.set(key, new WeakRef(array));
    }
    for (const [entry, key] of stepKeys) {
      this.stepKeys.set(entry, key);
      this.readSteps.set(key, entry);
    }
    this.forget(gone);
  }

  /** What is not in storage any more is written again where it is needed again: an undo goes back to a change of the view that had been dropped. */
  private forget({ steps, arrays }: Dropped): void {
    for (const key of steps) {
      const entry = this.readSteps.get(key);
      if (entry) this.stepKeys.delete(entry);
      this.readSteps.delete(key);
    }
    for (const key of arrays) {
      const array = this.readArrays.get(key)?.deref();
      if (array) this.arrayKeys.delete(array);
      this.readArrays.delete(key);
    }
  }

  /** Removes steps and the arrays that no other step of the job uses. */
  private async dropSteps(keys: string[]): Promise<Dropped> {
    const gone = (await this.db.steps.bulkGet(keys)).filter((step): step is StepRow => step !== undefined);
    await this.db.steps.bulkDelete(keys);
    const candidates = new Set<string>();
    for (const step of gone) for (const key of step.arrays) candidates.add(key);
    if (candidates.size === 0) return { steps: keys, arrays: [], bytes: 0 };
    // images are other jobs' too: those of this job that no step uses any more go with the job
    await this.db.steps
      .where('jobId')
      .equals(this.jobId)
      .each((step) => step.arrays.forEach((key) => candidates.delete(key)));
    const rows = await this.db.arrays.bulkGet([...candidates]);
    await this.db.arrays.bulkDelete([...candidates]);
    return { steps: keys, arrays: [...candidates], bytes: rows.reduce((sum, row) => sum + (row?.data.byteLength ?? 0), 0) };
  }

  /**
   * Brings a job's history back, or null if there is none of that id. Steps that cannot be read any more are left out and counted.
   * @param asNow puts steps right that an earlier version kept; the next save writes those that it changed
   * @throws JigError `bad-file` where its entry is damaged, or no step of it can be read
   */
  async load(asNow?: (entries: readonly HistoryEntry[]) => Promise<HistoryEntry[]>): Promise<KeptHistory | null> {
    const stored = await this.db.jobs.get(this.jobId);
    if (stored === undefined) return null;
    const read = readRow(stored);
    if (read?.kind !== 'sound')
      throw new JigError('bad-file', 'What is kept of this job is damaged.', '', 'On the jobs page, let “Save what is left” bring its steps back.');
    const { row } = read;
    const steps = await this.db.steps.bulkGet(row.steps);
    const wanted = new Set<string>();
    for (const step of steps) if (step && Array.isArray(step.arrays) && !this.readSteps.has(step.key)) for (const key of step.arrays) wanted.add(key);
    const arrays = await this.readAll(wanted);
    const entries: HistoryEntry[] = [];
    let index = row.index;
    steps.forEach((step, k) => {
      const entry = step && (this.readSteps.get(step.key) ?? readStep(step, arrays));
      if (entry) {
        this.stepKeys.set(entry, step.key);
        this.readSteps.set(step.key, entry);
        entries.push(entry);
      } else if (k <= row.index) index--;
    });
    if (entries.length === 0) throw new JigError('bad-file', 'No step of this job can be read any more.', '', 'Open its job archive, if there is one.');
    if (asNow && !row.own) entries.splice(0, entries.length, ...(await asNow(entries)));
    return { entries, index: Math.max(0, Math.min(index, entries.length - 1)), missing: row.steps.length - entries.length };
  }

  private async readAll(wanted: ReadonlySet<string>): Promise<Map<string, JobArray>> {
    const arrays = new Map<string, JobArray>();
    const take = (key: string, array: JobArray) => {
      arrays.set(key, array);
      this.arrayKeys.set(array, key);
      this.readArrays.set(key, new WeakRef(array));
    };
    const ask: string[] = [];
    for (const key of wanted) {
      const held = this.readArrays.get(key)?.deref();
      if (held) arrays.set(key, held);
      else ask.push(key);
    }
    const hashes = ask.filter((key) => key.startsWith(imageKey)).map((key) => key.slice(imageKey.length));
    for (const stored of await this.db.images.bulkGet(hashes)) if (stored?.data) take(imageKey + stored.hash, new Uint8Array(stored.data));
    // a lost image costs its picture, never a step
    for (const hash of hashes) if (!arrays.has(imageKey + hash)) arrays.set(imageKey + hash, new Uint8Array(0));
    for (const stored of await this.db.arrays.bulkGet(ask.filter((key) => !key.startsWith(imageKey)))) {
      const type = stored && arrayTypes.get(stored.kind);
      if (!type || !(stored.data instanceof ArrayBuffer) || stored.data.byteLength % (type as unknown as { BYTES_PER_ELEMENT: number }).BYTES_PER_ELEMENT !== 0)
        continue;
      take(stored.key, new type(stored.data));
    }
    return arrays;
  }
}

/** A step as it was kept; null where its arrays are gone or it is no whole job any more. */
function readStep(step: StepRow, arrays: ReadonlyMap<string, JobArray>): HistoryEntry | null {
  if (!Array.isArray(step.arrays) || step.arrays.some((key) => !arrays.has(key))) return null;
  try {
    const stored = attachArrays(step.job, (key) => arrays.get(key)!) as Job;
    // settings that came later begin with what a new job has
    const job: Job = { ...stored, settings: settingsSchema.parse(stored.settings) };
    if (!jobSchema.safeParse(job).success) return null;
    const { operation, sentence, time, view, cold, followUps } = step;
    return {
      job,
      operation,
      params: step.params as Record<string, unknown>,
      sentence,
      time,
      ...(view === true ? { view } : {}),
      ...(cold === true ? { cold } : {}),
      ...(Array.isArray(followUps) ? { followUps } : {}),
    };
  } catch {
    return null;
  }
}

/** All jobs, each row read by itself, the newest first. */
export async function listJobs(db: JobDatabase = database): Promise<ReadRow[]> {
  const rows: ReadRow[] = [];
  for (const raw of await db.jobs.toArray()) {
    const read = readRow(raw);
    if (read) rows.push(read);
  }
  const newest = (read: ReadRow) => (read.kind === 'sound' ? read.row.updated : 0);
  return rows.sort((a, b) => newest(b) - newest(a));
}

/** Bytes of a job's arrays and images. O(its arrays); asked for only where the row does not say it. */
export async function sizeOf(id: string, db: JobDatabase = database): Promise<number> {
  let bytes = 0;
  await db.arrays
    .where('jobId')
    .equals(id)
    .each((row) => void (bytes += row.data?.byteLength ?? 0));
  const images = (await db.jobs.get(id))?.images;
  for (const image of await db.images.bulkGet(Array.isArray(images) ? images : [])) bytes += image?.data?.byteLength ?? 0;
  return bytes;
}

/**
 * Makes a damaged job one that opens again: its steps, in the order in which they were done, under a new entry.
 * @returns how many steps there are
 * @throws JigError `bad-file` where none is left
 */
export async function restoreJob(id: string, db: JobDatabase = database): Promise<number> {
  return db.transaction('rw', db.jobs, db.steps, db.arrays, db.images, async () => {
    const raw = (await db.jobs.get(id)) as unknown as Record<string, unknown> | undefined;
    const steps = (await db.steps.where('jobId').equals(id).toArray())
      .filter((step) => Array.isArray(step.arrays))
      .sort((a, b) => a.time - b.time || (a.key < b.key ? -1 : 1));
    if (steps.length === 0) throw new JigError('bad-file', 'Nothing of this job is left that could be saved.', '', 'Open its job archive, if there is one.');
    const newest = steps.at(-1)!.job as { name?: unknown; parts?: unknown } | undefined;
    const parts = Array.isArray(newest?.parts) ? (newest.parts as { name?: unknown }[]) : [];
    const images = new Set<string>();
    for (const step of steps) for (const key of step.arrays) if (key.startsWith(imageKey)) images.add(key.slice(imageKey.length));
    await db.jobs.put({
      id,
      name: typeof newest?.name === 'string' ? newest.name : typeof raw?.name === 'string' ? raw.name : 'Saved job',
      updated: Date.now(),
      parts: parts.map((part) => String(part?.name ?? 'part')),
      faces: 0,
      steps: steps.map(({ key }) => key),
      index: steps.length - 1,
      images: [...images],
    });
    return steps.length;
  });
}
