import {
  activeSet,
  changedSeams,
  canOpenEdges,
  JigError,
  partedIslands,
  partOf,
  runOperation,
  touchedFaces,
  withChanges,
  type Context,
  type FollowUp,
  type History,
  type Job,
  type UvSet,
} from '@jig-peel/core';
import type { WorkerEvent } from './messages.ts';
import type { WorkerPool } from './pool/workerPool.ts';
import { wordsOf } from './words.ts';

/** Ms that measuring and the index for picking wait at most for a shape that is on its way. */
const patience = 1500;

/** Faces of islands of a part that are still on their way, the layout before their seams changed, and the one that they are worked out from. */
interface Pending {
  faces: Set<number>;
  before: UvSet;
  from: UvSet;
}

/** Seams of a part that changed, and whether a first shape of its islands stands already. */
export interface SeamChange {
  part: string;
  edges: readonly number[];
  shown: boolean;
}

interface Events {
  tell(event: WorkerEvent): void;
  /** The present job was amended. */
  amended(): void;
  /** Waits while a step runs: it goes by the job that it began with. */
  betweenSteps(): Promise<void>;
}

/**
 * Unwrapping on a change of seams: a first shape together with the change, the final one a moment later, both as follow-ups of the step. A further change
 * takes over what is still on its way.
 */
export class CutFollower {
  /** What is still on its way, part by part. */
  private readonly pending = new Map<string, Pending>();
  /** Parts of the round of laying flat that goes on. */
  private round = new Set<string>();
  private onTheWay = 0;
  private since = 0;

  constructor(
    private readonly pool: WorkerPool,
    private readonly history: () => History | null,
    private readonly events: Events,
  ) {}

  /** While true, what is less urgent leaves the machine to the shape. */
  get isUrgent(): boolean {
    return this.onTheWay > 0 && performance.now() - this.since < patience;
  }

  /** Whether something is on its way at all. */
  get isBusy(): boolean {
    return this.onTheWay > 0;
  }

  /** Whether a change of seams of these parts takes over all that is on its way. */
  isTakenOverBy(parts: readonly string[]): boolean {
    return this.onTheWay > 0 && [...this.round].every((part) => parts.includes(part));
  }

  /** Waits for what is on its way. */
  async settled(throwIfCancelled: () => void): Promise<void> {
    while (this.onTheWay > 0) {
      throwIfCancelled();
      await new Promise((next) => setTimeout(next, 5));
    }
  }

  /** What is on its way ends and is forgotten. */
  drop(): void {
    this.pool.cancel();
    this.pending.clear();
    this.round = new Set();
  }

  /** The same, unless what is on its way still belongs to this job. */
  dropUnlessOf(job: Job): void {
    if (this.pending.size > 0 && [...this.pending].every(([part, { from }]) => setOf(job, part) === from)) return;
    this.drop();
  }

  /** What is on its way ends; a further change takes its faces over. */
  stop(): void {
    this.pool.cancel();
  }

  /**
   * A first shape where that costs no more than the cut itself; conformal as a whole is as quick.
   * @returns the job to show with the change, what changed, and how it was made
   */
  async first(before: Job, after: Job): Promise<{ job: Job; changes: SeamChange[]; followUps: FollowUp[] }> {
    let job = after;
    const changes: SeamChange[] = [];
    const followUps: FollowUp[] = [];
    for (const part of before.parts) {
      const [old, set] = [activeSet(part), setOf(after, part.id)];
      if (!set || set === old) continue;
      const edges = changedSeams(part.mesh, old, set);
      if (edges.length === 0) continue;
      const change = { part: part.id, edges, shown: false };
      changes.push(change);
      if (after.settings.method === 'conformal' || !canOpenEdges(part.mesh, old, set, edges)) continue;
      const followUp = { operation: 'openSeams', params: { part: part.id, edges } };
      const opened = await runOperation(job, followUp.operation, followUp.params);
      // live jigs drive their faces: these are not unwrapped behind their back
      if (opened.job === job || opened.released.length > 0) continue;
      job = opened.job;
      followUps.push(followUp);
      change.shown = true;
    }
    return { job, changes, followUps };
  }

  /** The final shapes of what changed, part after part, and of what was still on its way. */
  async follow(changes: readonly SeamChange[], before: Job): Promise<void> {
    const history = this.history();
    if (!history) return;
    if (this.onTheWay++ === 0) this.since = performance.now();
    try {
      this.pool.cancel();
      const start = history.present;
      const waiting = new Map<string, { pending: Pending; shown: boolean }>();
      for (const id of new Set([...this.round, ...changes.map(({ part }) => part)])) {
        const change = changes.find(({ part }) => part === id);
        const former = this.pending.get(id);
        const part = before.parts.find((one) => one.id === id);
        const from = setOf(start, id);
        if (!part || !from || (!change && !former)) continue;
        const pending = {
          faces: new Set([...(former?.faces ?? []), ...(change ? touchedFaces(part.mesh, change.edges) : [])]),
          before: former?.before ?? activeSet(part),
          from,
        };
        this.pending.set(id, pending);
        waiting.set(id, { pending, shown: change?.shown ?? false });
      }
      const round = new Set(waiting.keys());
      this.round = round;
      for (const [id, { pending, shown }] of waiting) {
        await this.lay(history, id, pending, shown);
        // a further change took the rest over, or all was dropped
        if (this.round !== round) return;
        round.delete(id);
      }
    } finally {
      this.onTheWay--;
    }
  }

  private async lay(history: History, partId: string, pending: Pending, shown: boolean): Promise<void> {
    const start = history.present;
    const followUps = history.step.followUps ?? [];
    const mark = performance.now();
    const quiet: Context = { progress: () => {}, throwIfCancelled: () => {}, pool: this.pool };
    const { mesh } = partOf(start, partId);
    const parted = partedIslands(mesh, pending.before, pending.from, pending.faces);
    /** Whether it is still wanted: changes of the view made meanwhile do not matter. */
    const stands = () => this.history() === history && this.pending.get(partId) === pending && setOf(history.present, partId) === pending.from;
    if (!stands()) return;
    /** The job before and after the first shape. */
    let first: { before: Job; after: Job } | null = null;
    /** Runs it on what is present, and amends the step with it; null where the layout changed meanwhile or live jigs drive the faces. */
    const amend = async (params: { faces: number[]; parted: number[]; quick: boolean }) => {
      const seen = history.present;
      const followUp = { operation: 'layTouched', params: { part: partId, ...params } };
      const { job: laid, report, released } = await runOperation(seen, followUp.operation, followUp.params, quiet);
      await this.events.betweenSteps();
      if (!stands() || laid === seen || released.length > 0) return null;
      history.amend(withChanges(history.present, seen, laid), [...(history.step.followUps ?? []), followUp]);
      pending.from = activeSet(partOf(laid, partId));
      return { seen, laid, waiting: (report as { waiting: number }).waiting };
    };
    try {
      // a first shape at once, unless it stands or conformal is as quick anyway
      if (!shown && start.settings.method !== 'conformal') {
        const quick = await amend({ faces: [...pending.faces], parted, quick: true });
        if (quick) {
          first = { before: quick.seen, after: quick.laid };
          this.events.amended();
          performance.measure('unwrap touched, first shape', { start: mark });
        }
      }
      if (!stands()) return;
      const done = await amend({ faces: [...pending.faces], parted: first ? [] : parted, quick: false });
      if (this.pending.get(partId) === pending) this.pending.delete(partId);
      if (!done) return;
      if (done.waiting > 0) this.events.tell({ kind: 'note', sentence: waitingWords(done.waiting) });
      this.events.amended();
      performance.measure('unwrap touched', { start: mark });
    } catch (error) {
      const code = error instanceof JigError ? error.code : '';
      await this.events.betweenSteps();
      if (code !== 'cancelled' && first && stands()) {
        // a first shape of what cannot lie flat after all is taken back
        history.amend(withChanges(history.present, first.after, first.before), followUps);
        this.events.amended();
      }
      if (code === 'cancelled' || code === 'cannot-lie-flat') return;
      if (this.pending.get(partId) === pending) this.pending.delete(partId);
      this.events.tell({ kind: 'trouble', sentence: `The touched islands could not be unwrapped: ${wordsOf(error)}` });
    }
  }
}

const setOf = (job: Job, id: string): UvSet | null => {
  const part = job.parts.find((one) => one.id === id);
  return part ? activeSet(part) : null;
};

const waitingWords = (waiting: number) =>
  `${waiting === 1 ? 'One new island' : `${waiting} new islands`} found no free room on the sheet and ${waiting === 1 ? 'waits' : 'wait'} in the tray, left of it. Pack makes room.`;
