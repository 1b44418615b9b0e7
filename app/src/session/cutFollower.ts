import {
  activeSet,
  changedSeams,
  canOpenEdges,
  JigError,
  partedIslands,
  partOf,
  runOperation,
  touchedFaces,
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
}

/**
 * Unwrapping on a change of seams: a first shape together with the change, the final one a moment later, both as follow-ups of the step. A further change
 * takes over what is still on its way.
 */
export class CutFollower {
  /** Faces of islands that are still on their way, and the layout before their seams changed. */
  private pending: { faces: Set<number>; before: UvSet } | null = null;
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

  /** What is on its way ends and is forgotten. */
  drop(): void {
    this.pool.cancel();
    this.pending = null;
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
    const pending = { faces: new Set([...(this.pending?.faces ?? []), ...faces]), before: this.pending?.before ?? before };
    this.pending = pending;
    const job = history.present;
    const followUps = history.entries[history.index]!.followUps ?? [];
    const mark = performance.now();
    const quiet: Context = { progress: () => {}, throwIfCancelled: () => {}, pool: this.pool };
    const { mesh } = partOf(job, partId);
    const parted = partedIslands(mesh, pending.before, activeSet(partOf(job, partId)), pending.faces);
    let hasFirst: Job | null = null;
    /** Runs it on what is present, and amends the step with it; false where that changed meanwhile or live jigs drive the faces. */
    const amend = async (params: { faces: number[]; parted: number[]; quick: boolean }) => {
      const seen = history.present;
      const followUp = { operation: 'layTouched', params: { part: partId, ...params } };
      const { job: laid, report, released } = await runOperation(seen, followUp.operation, followUp.params, quiet);
      if (this.history() !== history || history.present !== seen) return null;
      if (laid === seen || released.length > 0) return null;
      history.amend(laid, [...(history.entries[history.index]!.followUps ?? []), followUp]);
      return report as { waiting: number };
    };
    try {
      // a first shape at once, unless it stands or conformal is as quick anyway
      if (!shown && job.settings.method !== 'conformal' && (await amend({ faces: [...pending.faces], parted, quick: true }))) {
        hasFirst = history.present;
        this.events.amended();
        performance.measure('unwrap touched, first shape', { start: mark });
      }
      if (this.history() !== history || history.present !== (hasFirst ?? job)) return;
      const done = await amend({ faces: [...pending.faces], parted: hasFirst ? [] : parted, quick: false });
      if (this.pending === pending) this.pending = null;
      if (!done) return;
      if (done.waiting > 0) this.events.tell({ kind: 'note', sentence: waitingWords(done.waiting) });
      this.events.amended();
      performance.measure('unwrap touched', { start: mark });
    } catch (error) {
      const code = error instanceof JigError ? error.code : '';
      if (code !== 'cancelled' && hasFirst !== null && this.history()?.present === hasFirst) {
        // a first shape of what cannot lie flat after all is taken back
        history.amend(job, followUps);
        this.events.amended();
      }
      if (code === 'cancelled' || code === 'cannot-lie-flat') return;
      this.pending = null;
      this.events.tell({ kind: 'trouble', sentence: `The touched islands could not be unwrapped: ${wordsOf(error)}` });
    }
  }
}

const waitingWords = (waiting: number) =>
  `${waiting === 1 ? 'One new island' : `${waiting} new islands`} found no free room on the sheet and ${waiting === 1 ? 'waits' : 'wait'} in the tray, left of it. Pack makes room.`;
