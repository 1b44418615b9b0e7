import type { HistoryEntry } from '@jig-peel/core';
import { TakenOverError } from '../keep/db.ts';
import { wordsOf } from './words.ts';

/** Where a history is kept. */
export interface Store {
  save(entries: readonly HistoryEntry[], index: number): Promise<void>;
}

export type KeepingEvent =
  | { kind: 'saved'; time: number }
  /** Steps since then are not kept; it is tried again. */
  | { kind: 'unsaved'; since: number; sentence: string }
  /** The room in this browser is nearly used up. */
  | { kind: 'room'; used: number; quota: number }
  | { kind: 'takenOver' };

export interface KeepingOptions {
  /** What the browser says of its room; asked now and then after a save. */
  estimate?: () => Promise<{ usage?: number; quota?: number }>;
  /** Ms to the first and to the last wait before a save that failed is tried again. */
  firstWait?: number;
  longestWait?: number;
}

/** The share of the room from which on it is told, and ms between two looks at it. */
const nearlyFull = 0.9;
const lookAtRoom = 15_000;

/**
 * Keeps a history after each step. One save at a time, always of the newest state; one that fails is said and tried again, soon and then less
 * often, and with each further step, until it is kept.
 */
export class Keeping {
  private wanted: { entries: readonly HistoryEntry[]; index: number } | null = null;
  private running: Promise<void> | null = null;
  private failingSince: number | null = null;
  private wait: number;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private lookedAtRoom = -Infinity;
  private stopped = false;

  constructor(
    private readonly store: Store,
    readonly teller: (event: KeepingEvent) => void,
    private readonly options: KeepingOptions = {},
  ) {
    this.wait = options.firstWait ?? 2000;
  }

  /** There is a new state to keep. */
  keep(entries: readonly HistoryEntry[], index: number): void {
    if (this.stopped) return;
    this.wanted = { entries, index };
    clearTimeout(this.timer);
    this.start();
  }

  /** Tries at once what could not be kept. */
  retry(): void {
    clearTimeout(this.timer);
    this.start();
  }

  /** Until nothing is being saved; true if all is kept. */
  async settle(): Promise<boolean> {
    while (this.running) await this.running;
    return this.wanted === null;
  }

  /** Nothing more is saved: another session writes, or another job is open. */
  stop(): void {
    this.stopped = true;
    this.wanted = null;
    clearTimeout(this.timer);
  }

  private start(): void {
    if (this.running || this.stopped || !this.wanted) return;
    this.running = this.saveAll().finally(() => {
      this.running = null;
    });
  }

  private async saveAll(): Promise<void> {
    while (this.wanted && !this.stopped) {
      const { entries, index } = this.wanted;
      this.wanted = null;
      try {
        await this.store.save(entries, index);
      } catch (error) {
        if (this.stopped) return;
        if (error instanceof TakenOverError) {
          this.stop();
          this.teller({ kind: 'takenOver' });
          return;
        }
        this.wanted ??= { entries, index };
        this.failingSince ??= Date.now();
        this.teller({ kind: 'unsaved', since: this.failingSince, sentence: wordsOf(error) });
        this.timer = setTimeout(() => this.start(), this.wait);
        this.wait = Math.min(this.options.longestWait ?? 30_000, this.wait * 2);
        return;
      }
      this.failingSince = null;
      this.wait = this.options.firstWait ?? 2000;
      if (!this.wanted && !this.stopped) this.teller({ kind: 'saved', time: Date.now() });
    }
    void this.lookAtRoom();
  }

  private async lookAtRoom(): Promise<void> {
    if (!this.options.estimate || performance.now() - this.lookedAtRoom < lookAtRoom) return;
    this.lookedAtRoom = performance.now();
    try {
      const { usage = 0, quota = 0 } = await this.options.estimate();
      if (quota > 0 && usage > nearlyFull * quota) this.teller({ kind: 'room', used: usage, quota });
    } catch {
      // a browser that does not say it is not asked again soon
    }
  }
}
