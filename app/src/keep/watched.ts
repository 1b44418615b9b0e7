import Dexie, { type Table } from 'dexie';
import { database } from './db.ts';

/** As far as browsers have it (File System Access). */
export interface FileHandle {
  name: string;
  getFile(): Promise<File>;
  queryPermission?(options: { mode: 'read' }): Promise<string>;
  requestPermission?(options: { mode: 'read' }): Promise<string>;
}

/** Files that something of a job was taken from, and when the newest of them was changed then. */
export interface WatchedRow {
  key: string;
  jobId: string;
  /** `mesh`: all files are of one part; `image`: one file, the image of that name. */
  kind: 'mesh' | 'image';
  /** The part's id, or the image's name. */
  of: string;
  handles: FileHandle[];
  /** Ms since 1970. */
  changed: number;
}

/** Ways to files that outlive a reload. They are of this browser alone and never part of a job, so they have a database of their own. */
class WatchedFiles extends Dexie {
  files!: Table<WatchedRow, string>;

  constructor(name = 'jig-peel watched') {
    super(name);
    this.version(1).stores({ files: 'key, jobId' });
  }
}

const files = new WatchedFiles().files;

/** A browser that cannot keep a way to a file goes on without; the watch ends with the page then. */
export const keepWatched = (row: WatchedRow): Promise<unknown> => files.put(row).catch(() => {});

export const forgetWatched = (keys: string[]): Promise<unknown> => files.bulkDelete(keys).catch(() => {});

/** What is watched for a job; what belonged to jobs that were removed for good goes. */
export async function watchedOf(jobId: string): Promise<WatchedRow[]> {
  try {
    const all = await files.toArray();
    const jobs = new Set(await database.jobs.toCollection().primaryKeys());
    const gone = all.filter((row) => !jobs.has(row.jobId) && row.jobId !== jobId);
    if (gone.length > 0) await files.bulkDelete(gone.map(({ key }) => key));
    return all.filter((row) => row.jobId === jobId && Array.isArray(row.handles) && row.handles.length > 0);
  } catch {
    return [];
  }
}
