import { database, listJobs, type JobDatabase } from './db.ts';

/** Ms that a removed job waits in the bin. */
export const binTime = 30 * 24 * 3600 * 1000;

/** Puts a job into the bin: nothing of it is deleted. */
export async function binJob(id: string, db: JobDatabase = database): Promise<void> {
  await db.jobs.where('id').equals(id).modify({ removed: Date.now() });
}

/** Takes a job out of the bin. */
export async function putBackJob(id: string, db: JobDatabase = database): Promise<void> {
  await db.jobs
    .where('id')
    .equals(id)
    .modify((row) => void delete row.removed);
}

/** Deletes what has waited in the bin for its time; returns how many jobs went. */
export async function emptyOldBin(db: JobDatabase = database, now = Date.now()): Promise<number> {
  let gone = 0;
  for (const read of await listJobs(db)) {
    const removed = read.kind === 'sound' ? (read.row.removed ?? null) : read.removed;
    if (removed === null || removed > now - binTime) continue;
    await deleteJob(read.kind === 'sound' ? read.row.id : read.id, db);
    gone++;
  }
  return gone;
}

/** Under which this browser keeps what is pinned over a job. */
export const pinnedKey = (job: string) => `jig-peel pinned ${job}`;

/** Deletes a job and all that belongs to it for good; images that another job uses stay. */
export async function deleteJob(id: string, db: JobDatabase = database): Promise<void> {
  await db.transaction('rw', db.jobs, db.steps, db.arrays, db.images, async () => {
    const own = ((await db.jobs.get(id)) as { images?: unknown } | undefined)?.images;
    const spare = new Set<string>(Array.isArray(own) ? (own as string[]) : []);
    await db.jobs.delete(id);
    await db.steps.where('jobId').equals(id).delete();
    await db.arrays.where('jobId').equals(id).delete();
    await db.jobs.each((job) => Array.isArray(job.images) && job.images.forEach((hash) => spare.delete(hash)));
    await db.images.bulkDelete([...spare]);
  });
  // where pictures were pinned over it
  globalThis.localStorage?.removeItem(pinnedKey(id));
}
