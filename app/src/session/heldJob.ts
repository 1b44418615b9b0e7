import { History, JigError, type HistoryEntry } from '@jig-peel/core';
import { Keeper, type JobDatabase, type KeptHistory } from '../keep/db.ts';
import { Keeping } from './keeping.ts';
import type { WorkerEvent } from './messages.ts';
import { Ownership, type Channel, type Locks } from './ownership.ts';
import type { Turns } from './turns.ts';

/** Steps that an earlier version kept, as they would be made now. */
const asNow = async (entries: readonly HistoryEntry[]): Promise<HistoryEntry[]> => (await import('./ownPointsKept.ts')).ownPointsKept(entries);

/** What of its surroundings a held job needs. */
export interface Storage {
  database: JobDatabase;
  /** Unlike for every session of this browser. */
  token: string;
  /** What the browser says of its room. */
  estimate?: () => Promise<{ usage?: number; quota?: number }>;
  /** Absent where there is none; then the database's mark of the last writer decides. */
  locks?: Locks;
  makeChannel?: (name: string) => Channel | null;
}

interface Held {
  history: History | null;
  keeper: Keeper;
  keeping: Keeping;
  ownership: Ownership;
}

export interface HeldEvents {
  tell(event: WorkerEvent): void;
  /** Another state than the screen shows, not by a step of this session. */
  changed(): void;
  /** What is under way ends: the job is left, or another session takes it over. */
  stopWork(): void;
  /** What follows a step by itself ends: the job is another one now. */
  stopFollowing(): void;
}

/** The job at hand: its history, how it is kept, and who may write it. */
export class HeldJob {
  private held: Held | null = null;
  /** Jobs that were left before all of their steps could be kept: it goes on being tried, and they are gone back to as they are. */
  private readonly unfinished = new Map<string, Held>();

  constructor(
    private readonly storage: Storage,
    private readonly turns: Turns,
    private readonly events: HeldEvents,
  ) {}

  get history(): History | null {
    return this.held?.history ?? null;
  }

  get jobId(): string | null {
    return this.held?.keeper.jobId ?? null;
  }

  /** False while another session writes it. */
  get isMine(): boolean {
    return this.held?.ownership.isMine !== false;
  }

  /** @throws JigError `looks-on` while another session writes the job */
  assertMine(): void {
    if (!this.isMine)
      throw new JigError('looks-on', 'This job is being worked on in another tab; here it can be looked at.', '', 'Take it over to work on it here.');
  }

  /** Keeps the history after each step. */
  save(): void {
    const { history, keeping } = this.held ?? {};
    if (history) keeping!.keep(history.entries, history.index);
  }

  /** Until all that was done so far is kept, or cannot be. */
  settle = async (): Promise<boolean> => (this.held ? this.held.keeping.settle() : true);

  retry(): void {
    this.held?.keeping.retry();
  }

  async takeOver(): Promise<void> {
    await this.held?.ownership.takeOver();
  }

  /** A new job takes the place of the one at hand. */
  async begin(first: HistoryEntry): Promise<void> {
    const mine = await this.adopt(first.job.id);
    mine.history = new History(first);
    this.save();
  }

  /** Back to a job that was left before all of it could be kept; false if this is none. */
  async goBack(id: string): Promise<boolean> {
    const rest = this.unfinished.get(id);
    if (!rest) return false;
    await this.leave();
    this.unfinished.delete(id);
    this.held = rest;
    rest.keeping.retry();
    return true;
  }

  /** What jobs are kept in. */
  get database(): JobDatabase {
    return this.storage.database;
  }

  /** @returns null where nothing of that id is kept. @throws JigError `cancelled` where another job was asked for meanwhile */
  async load(id: string): Promise<KeptHistory | null> {
    const mine = await this.adopt(id);
    const kept = await mine.keeper.load(asNow);
    if (this.held !== mine) throw new JigError('cancelled', 'Another job was opened meanwhile.');
    if (kept) mine.history = History.restore(kept.entries, kept.index);
    return kept;
  }

  /** Lets go of the job at hand. What could not be kept of it stays here and is tried again. */
  async leave(): Promise<void> {
    const left = this.held;
    if (!left) return;
    const all = await left.keeping.settle();
    if (!all && left.history) this.unfinished.set(left.keeper.jobId, left);
    else {
      left.keeping.stop();
      left.ownership.close();
    }
    if (this.held === left) this.held = null;
  }

  /** Makes a job this session's: its keeper, who may write it, and what happens when that changes. */
  private async adopt(id: string): Promise<Held> {
    await this.leave();
    const { database, token, locks, makeChannel } = this.storage;
    const keeper = new Keeper(id, database, token);
    const mine: Held = { history: null, keeper, keeping: this.keepingOf(id, keeper), ownership: null as never };
    const ownership = new Ownership(
      id,
      token,
      {
        givingUp: async () => {
          this.events.stopWork();
          await mine.keeping.settle();
        },
        changed: (owner, how) => {
          if (this.held !== mine) return;
          void this.turns.take(async () => {
            if (owner === 'mine') await this.becomeWriter(mine);
            this.events.tell({ kind: 'owner', owner, how });
          });
        },
        kept: () => void this.turns.take(() => this.follow(mine)),
      },
      locks,
      makeChannel,
    );
    mine.ownership = ownership;
    this.held = mine;
    const owner = await ownership.take();
    if (owner === 'mine') await keeper.claim();
    if (this.held === mine) this.events.tell({ kind: 'owner', owner, how: owner === 'mine' ? 'got' : 'busy' });
    return mine;
  }

  private keepingOf(id: string, keeper: Keeper): Keeping {
    return new Keeping(
      keeper,
      (event) => {
        const held = this.held?.keeper === keeper ? this.held : null;
        if (held) {
          this.events.tell(event.kind === 'takenOver' ? { kind: 'owner', owner: 'others', how: 'stolen' } : event);
          if (event.kind === 'saved') held.ownership.tellKept();
          return;
        }
        // left before all was kept
        const rest = this.unfinished.get(id);
        if (event.kind !== 'saved' || rest?.keeper !== keeper) return;
        this.unfinished.delete(id);
        rest.ownership.close();
        this.events.tell({ kind: 'trouble', sentence: `All steps of “${rest.history!.present.name}” are kept now.` });
      },
      { estimate: this.storage.estimate },
    );
  }

  /** This session writes from now on, from what the other one kept. */
  private async becomeWriter(mine: Held): Promise<void> {
    await mine.keeper.claim();
    mine.keeping = this.keepingOf(mine.keeper.jobId, mine.keeper);
    await this.follow(mine);
  }

  /** Shows what another session has kept. */
  private async follow(mine: Held): Promise<void> {
    if (this.held !== mine) return;
    const kept = await mine.keeper.load(asNow).catch(() => null);
    if (!kept || this.held !== mine) return;
    mine.history = History.restore(kept.entries, kept.index);
    this.events.stopFollowing();
    this.events.changed();
  }
}
