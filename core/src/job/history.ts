import type { Job } from './job.ts';

export interface HistoryEntry {
  /** The job after this step. */
  job: Job;
  operation: string;
  params: Record<string, unknown>;
  sentence: string;
  /** Milliseconds since 1970. */
  time: number;
}

/** The steps of a job and where in them one stands. Jobs share what they do not change, so a step costs what it touched. */
export class History {
  private list: HistoryEntry[];
  private at: number;

  constructor(
    first: HistoryEntry,
    private readonly limit = 300,
  ) {
    this.list = [first];
    this.at = 0;
  }

  /** A history as it was kept. @throws RangeError for an empty list */
  static restore(entries: HistoryEntry[], index: number): History {
    if (entries.length === 0) throw new RangeError('a history has at least one entry');
    const history = new History(entries[0]!);
    history.list = entries;
    history.at = Math.max(0, Math.min(entries.length - 1, index));
    return history;
  }

  get entries(): readonly HistoryEntry[] {
    return this.list;
  }

  get index(): number {
    return this.at;
  }

  get present(): Job {
    return this.list[this.at]!.job;
  }

  get canUndo(): boolean {
    return this.at > 0;
  }

  get canRedo(): boolean {
    return this.at + 1 < this.list.length;
  }

  /** Adds a step; what had been undone is dropped; the oldest steps go once there are more than the limit. */
  push(entry: HistoryEntry): void {
    this.list = [...this.list.slice(0, this.at + 1), entry];
    if (this.list.length > this.limit) this.list = this.list.slice(this.list.length - this.limit);
    this.at = this.list.length - 1;
  }

  /** Replaces the present job in its step: for what is worked out after the step itself, like islands laid flat again. */
  amend(job: Job): void {
    this.list = this.list.map((entry, k) => (k === this.at ? { ...entry, job } : entry));
  }

  undo(): Job {
    if (this.canUndo) this.at--;
    return this.present;
  }

  redo(): Job {
    if (this.canRedo) this.at++;
    return this.present;
  }
}
