import { forgetRanks } from '../uv/ranks.ts';
import type { Job } from './job.ts';

/** What was worked out after a step and belongs to it, such as islands that were laid flat again after a cut: an operation that can be run again. */
export interface FollowUp {
  operation: string;
  params: Record<string, unknown>;
}

export interface HistoryEntry {
  /** The job after this step. */
  job: Job;
  operation: string;
  /** With every default and setting filled in, so that the step can be run again. */
  params: Record<string, unknown>;
  sentence: string;
  /** Milliseconds since 1970. */
  time: number;
  /** It changes only what is selected or shown: undone like any other, not counted, and kept only while it is the newest. */
  view?: boolean;
  /** In the order in which they were done. */
  followUps?: readonly FollowUp[];
  /** It was done after the job had been read from storage: what solvers remember of earlier steps was gone. */
  cold?: boolean;
}

/** The steps of a job and where in them one stands. Jobs share what they do not change, so a step costs what it touched. */
export class History {
  private list: HistoryEntry[];
  private at: number;
  private cold = false;

  /** @param limit how many steps that change the document are kept, and how many that change the view */
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
    history.cold = true;
    for (const part of history.present.parts) for (const set of part.uvSets) forgetRanks(set);
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
    this.list = this.within([...this.list.slice(0, this.at + 1), this.cold ? { ...entry, cold: true } : entry]);
    this.cold = false;
    this.at = this.list.length - 1;
  }

  /** Oldest first, changes of the view go by themselves: each entry holds its whole job. */
  private within(list: HistoryEntry[]): HistoryEntry[] {
    const views = list.filter(({ view }) => view).length;
    let [tooMany, tooManyViews] = [list.length - views - this.limit, views - this.limit];
    if (tooMany <= 0 && tooManyViews <= 0) return list;
    return list.filter(({ view }) => (view ? tooManyViews-- <= 0 : tooMany-- <= 0));
  }

  /** The newest step that changed the document: the present one, or the one below the changes of the view that stand last. */
  get step(): HistoryEntry {
    return this.list[this.stepIndex]!;
  }

  private get stepIndex(): number {
    let at = this.at;
    while (at > 0 && this.list[at]!.view) at--;
    return at;
  }

  /**
   * Replaces the present job: for what is worked out after a step itself, like islands laid flat again. It belongs to that step; the changes of the view
   * that were made since, undone or not, stand on it.
   */
  amend(job: Job, followUps: readonly FollowUp[]): void {
    const before = this.present;
    const from = this.stepIndex;
    let to = from + 1;
    while (this.list[to]?.view) to++;
    this.list = this.list.map((entry, k) => {
      if (k < from || k >= to) return entry;
      const amended = { ...entry, job: k === this.at ? job : withChanges(entry.job, before, job) };
      return k === from ? { ...amended, followUps } : amended;
    });
  }

  /** Goes back to how it was before some steps, as though they had never been: what had been undone then can be done again. */
  forget(before: { entries: readonly HistoryEntry[]; index: number }): Job {
    this.list = [...before.entries];
    this.at = before.index;
    return this.present;
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

/** What differs between two states of an object, put into a third one. */
function withDifferences<T extends object>(target: T, before: T, after: T): T {
  const changed = (Object.keys({ ...before, ...after }) as (keyof T)[]).filter((key) => before[key] !== after[key]);
  return changed.length === 0 ? target : { ...target, ...Object.fromEntries(changed.map((key) => [key, after[key]])) };
}

/** A job with what differs between two others; of parts, those properties alone that differ. */
export function withChanges(target: Job, before: Job, after: Job): Job {
  if (before === after) return target;
  const was = new Map(before.parts.map((part) => [part.id, part]));
  const is = new Map(after.parts.map((part) => [part.id, part]));
  const parts = target.parts.map((part) => {
    const [a, b] = [was.get(part.id), is.get(part.id)];
    return a && b && a !== b ? withDifferences(part, a, b) : part;
  });
  return { ...withDifferences({ ...target, parts: [] }, { ...before, parts: target.parts }, { ...after, parts: target.parts }), parts };
}

/** What is kept of a history in storage: its steps, and of the changes of the view only the one that is present. */
export function keptSteps(entries: readonly HistoryEntry[], index: number): { entries: HistoryEntry[]; index: number } {
  const kept: HistoryEntry[] = [];
  let at = 0;
  entries.forEach((entry, k) => {
    if (entry.view && k !== index && k !== 0) return;
    if (k <= index) at = kept.length;
    kept.push(entry);
  });
  return { entries: kept, index: at };
}
