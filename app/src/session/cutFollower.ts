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
  /** Faces of islands of a part that are still on their way, the layout before their seams changed, and the one that they are worked out from. */
  private pending: { part: string; faces: Set<number>; before: UvSet; from: UvSet } | null = null;
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

  /** Whether shapes of this part are on their way. */
  isLaying(part: string): boolean {
    return this.onTheWay > 0 && this.pending?.part === part;
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
    this.pending = null;
  }

  /** The same, unless what is on its way still belongs to this job. */
  dropUnlessOf(job: Job): void {
    if (this.pending && setOf(job, this.pending.part) === this.pending.from) return;
    this.drop();
  }

  /** What is on its way ends; a further change takes its faces over. */
  stop(): void {
    this.pool.cancel();
  }

  /**
   * A first shape where that costs no more than the cut itself; conformal as a whole is as quick.
   * @returns the job to show with the change, and how it was made
   */
  async first(before: Job, after: Job, partId: string): Promise<{ job: Job; edges: number[]; followUps: FollowUp[] }> {
    const part = partOf(before, partId);
    const set = activeSet(partOf(after, partId));
    const edges = changedSeams(part.mesh, activeSet(part), set);
    const none = { job: after, edges, followUps: [] };
    if (edges.length === 0 || after.settings.method === 'conformal' || !canOpenEdges(part.mesh, activeSet(part), set, edges)) return none;
    const followUp = { operation: 'openSeams', params: { part: partId, edges } };
    const { job, released } = await runOperation(after, followUp.operation, followUp.params);
    // live jigs drive their faces: these are not unwrapped behind their back
    return job === after || released.length > 0 ? none : { job, edges, followUps: [followUp] };
  }

  /** @param shown a first shape stands already */
  async follow(partId: string, edges: readonly number[], before: Job, shown: boolean): Promise<void> {
    const part = partOf(before, partId);
    if (this.onTheWay++ === 0) this.since = performance.now();
    try {
      await this.lay(partId, touchedFaces(part.mesh, edges), activeSet(part), shown);
    } finally {
      this.onTheWay--;
    }
  }

  private async lay(partId: string, faces: Set<number>, before: UvSet, shown: boolean): Promise<void> {
    const history = this.history();
    if (!history) return;
    this.pool.cancel();
    const former = this.pending?.part === partId ? this.pending : null;
    const start = history.present;
    const pending = {
      part: partId,
      faces: new Set([...(former?.faces ?? []), ...faces]),
      before: former?.before ?? before,
      from: activeSet(partOf(start, partId)),
    };
    this.pending = pending;
    const followUps = history.step.followUps ?? [];
    const mark = performance.now();
    const quiet: Context = { progress: () => {}, throwIfCancelled: () => {}, pool: this.pool };
    const { mesh } = partOf(start, partId);
    const parted = partedIslands(mesh, pending.before, pending.from, pending.faces);
    /** Whether it is still wanted: changes of the view made meanwhile do not matter. */
    const stands = () => this.history() === history && this.pending === pending && setOf(history.present, partId) === pending.from;
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
      if (this.pending === pending) this.pending = null;
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
      if (this.pending === pending) this.pending = null;
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
