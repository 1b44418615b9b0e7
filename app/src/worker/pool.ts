import * as Comlink from 'comlink';
import { JigError, type Context, type IslandResult, type IslandTask, type SolverPool } from '@jig-peel/core';
import { whenGone } from './alive.ts';
import type { SolverApi } from './solverWorker.ts';

interface Seat {
  worker: Worker;
  api: Comlink.Remote<SolverApi>;
  gone: boolean;
  /** What is to be done when its worker ends by itself. */
  onGone: (() => void) | null;
}

export const workerEnded = () =>
  new JigError(
    'ended',
    'The browser ended a part of the app that computes, probably for lack of memory; nothing was changed.',
    '',
    'Close other tabs, or work on a smaller part.',
  );

const take = (): Seat => {
  const worker = new Worker(new URL('./solverWorker.ts', import.meta.url), { type: 'module', name: 'solver' });
  const seat: Seat = { worker, api: Comlink.wrap<SolverApi>(worker), gone: false, onGone: null };
  void whenGone(worker, seat.api).then(() => {
    seat.gone = true;
    seat.onGone?.();
  });
  return seat;
};

const warm = (): Seat => {
  const seat = take();
  seat.api.warm().catch(() => {});
  return seat;
};

/** One warm worker waits for whichever pool needs one next. */
let spare: Seat | null = null;
let idle: ReturnType<typeof setTimeout> | undefined;
/** Pools that are solving. */
let busy = 0;

function keepSpare(): void {
  clearTimeout(idle);
  // not beside a task: that one has the machine for itself
  idle = setTimeout(() => (busy > 0 ? keepSpare() : (spare ??= warm())), 1000);
}

/**
 * Workers that solve islands side by side, largest first. Cancelling ends the workers at once; new ones take their seats when needed.
 * A worker is slow at its first task, so one that is warmed up waits, for all pools together, to take the next seat.
 */
export class WorkerPool implements SolverPool {
  private seats: Seat[] = [];
  private stop: ((error: JigError) => void) | null = null;

  constructor(private readonly size = Math.max(1, Math.min(4, (navigator.hardwareConcurrency || 2) - 1))) {}

  /** Gets ready for the first task. */
  warm(): void {
    if (this.seats.length === 0) this.seats.push(warm());
    keepSpare();
  }

  async solve(tasks: readonly IslandTask[], context: Context): Promise<IslandResult[]> {
    this.cancel();
    const results: IslandResult[] = new Array(tasks.length);
    const order = tasks.map((_, k) => k).sort((a, b) => tasks[b]!.triangles.length - tasks[a]!.triangles.length);
    const total = tasks.reduce((sum, task) => sum + task.triangles.length, 0) || 1;
    let done = 0;
    let next = 0;
    const stopped = new Promise<never>((_, reject) => (this.stop = reject));
    const mine = this.stop;
    // small ones go together: a message takes as long as laying a few hundred triangles
    const least = Math.min(6000, (total / 3 / this.size) * 0.25);
    const work = async (seat: Seat) => {
      while (next < order.length) {
        const batch: number[] = [];
        for (let size = 0; next < order.length && size < least; next++) {
          batch.push(order[next]!);
          size += tasks[order[next]!]!.triangles.length / 3;
        }
        const solved = await seat.api.solve(batch.map((k) => tasks[k]!));
        batch.forEach((k, i) => {
          results[k] = solved[i]!;
          done += tasks[k]!.triangles.length;
        });
        context.progress(done / total, `Unwrapping: ${Math.round((100 * done) / total)} % of the triangles`);
      }
    };
    this.seats = this.seats.filter((seat) => !seat.gone);
    while (this.seats.length < Math.min(this.size, tasks.length)) {
      this.seats.push(spare && !spare.gone ? spare : take());
      spare = null;
    }
    busy++;
    for (const seat of this.seats) seat.onGone = () => mine?.(workerEnded());
    try {
      await Promise.race([Promise.all(this.seats.slice(0, Math.max(1, Math.min(this.size, tasks.length))).map(work)), stopped]);
    } finally {
      if (this.stop === mine) this.stop = null;
      for (const seat of this.seats) seat.onGone = null;
      busy--;
      keepSpare();
    }
    return results;
  }

  /** Ends what is being solved; its promise is rejected with code `cancelled`. */
  cancel(): void {
    if (!this.stop) return;
    for (const seat of this.seats) {
      seat.onGone = null;
      seat.worker.terminate();
    }
    this.seats = [];
    this.stop(new JigError('cancelled', 'Cancelled; nothing was changed.'));
    this.stop = null;
  }
}
