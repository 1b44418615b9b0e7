import { JigError, type Context, type IslandResult, type IslandTask, type Mesh, type SolverPool } from '@jig-peel/core';
import type { CancelFlag } from './cancelBoard.ts';
import type { Answer, Note, TaskName, TaskRequest, Tasks, Tools } from './tasks.ts';

/** A worker that does tasks, one at a time. */
export interface Seat {
  run<N extends TaskName>(request: TaskRequest<N>, progress: Tools['progress']): Promise<Answer<Tasks[N]['output']>>;
  note(note: Note): void;
  end(): void;
  /** Resolves when it is gone without having been ended here; never where that cannot be known. */
  readonly gone: Promise<void>;
}

export const workerEnded = () =>
  new JigError(
    'ended',
    'The browser ended a part of the app that computes, probably for lack of memory; nothing was changed.',
    '',
    'Close other tabs, or work on a smaller part.',
  );
export const cancelled = () => new JigError('cancelled', 'Cancelled; nothing was changed.');

interface Held {
  seat: Seat;
  isGone: boolean;
  busy: boolean;
  /** The meshes that it has been sent, the newest last. */
  meshes: number[];
}

/** Ms that a worker is given to stop by itself when its task is cancelled; then it is ended. */
const grace = 80;
const meshesKept = 2;

/** Starts workers. They are slow at their first task, so one that is warmed up waits, for all pools together. */
export class Seats {
  private spare: Held | null = null;
  private idle: ReturnType<typeof setTimeout> | undefined;
  /** Tasks under way. */
  busy = 0;

  /** @param keepsSpare whether one waits warmed up */
  constructor(
    private readonly make: () => Seat,
    readonly keepsSpare = true,
  ) {}

  take(): Held {
    const place = this.spare && !this.spare.isGone ? this.spare : this.open();
    this.spare = null;
    return place;
  }

  /** One is kept ready, but not started beside a task: that one has the machine for itself. */
  keepSpare(): void {
    clearTimeout(this.idle);
    if (!this.keepsSpare) return;
    this.idle = setTimeout(() => (this.busy > 0 ? this.keepSpare() : (this.spare ??= this.warm())), 1000);
  }

  close(): void {
    clearTimeout(this.idle);
    this.spare?.seat.end();
    this.spare = null;
  }

  warm(): Held {
    const place = this.open();
    void place.seat.run({ name: 'warm', input: null, mesh: null, cancel: null }, () => {}).catch(() => {});
    return place;
  }

  private open(): Held {
    const place: Held = { seat: this.make(), isGone: false, busy: false, meshes: [] };
    void place.seat.gone.then(() => (place.isGone = true));
    return place;
  }
}

export interface Asked {
  /** Of the mesh that the task is about. */
  mesh?: { id: number; mesh: Mesh };
  cancel?: CancelFlag | null;
  /** The piece of work that it belongs to: `cancel` can end that alone. */
  of?: number;
  progress?: Tools['progress'];
  /** What it is given is used up by it: where its worker ends it is not done once more, but told. */
  isOnce?: boolean;
}

/** A task that somebody waits for. */
interface Call {
  name: TaskName;
  of: number | undefined;
  stopped: Promise<never>;
  isStopped: boolean;
  stop(): void;
}

/**
 * Workers that do tasks side by side; what finds no free one waits. A task whose worker ends is done once more by another, then it is told. Cancelling
 * rejects what is under way at once; workers that look at the shared flag stop by themselves and stay, others are ended.
 */
export class WorkerPool implements SolverPool {
  private places: Held[] = [];
  private waiting: (() => void)[] = [];
  private readonly running = new Set<Call>();

  constructor(
    private readonly seats: Seats,
    private readonly size: number,
    /** Flag that stands for all of this pool's tasks that bring none. */
    private readonly flags: { begin(): number; cancel(slot: number): void; flag(slot: number): CancelFlag | null } | null = null,
  ) {}

  /** Gets ready for the first task. */
  warm(): void {
    if (this.places.length === 0) this.places.push(this.seats.warm());
    this.seats.keepSpare();
  }

  /** @throws JigError of the task, `cancelled`, or `ended` where two workers ended over it */
  async run<N extends TaskName>(name: N, input: Tasks[N]['input'], asked: Asked = {}): Promise<Tasks[N]['output']> {
    const slot = asked.cancel === undefined ? this.flags?.begin() : undefined;
    const flag = asked.cancel ?? (slot === undefined ? null : this.flags!.flag(slot));
    let reject: (error: JigError) => void = () => {};
    const stopped = new Promise<never>((_, no) => (reject = no));
    stopped.catch(() => {});
    const call: Call = {
      name,
      of: asked.of,
      stopped,
      isStopped: false,
      stop: () => {
        call.isStopped = true;
        if (slot !== undefined) this.flags!.cancel(slot);
        reject(cancelled());
        this.wake();
      },
    };
    this.running.add(call);
    try {
      for (let again = false; ; again = true) {
        const answer = await this.once({ name, input, mesh: null, cancel: flag }, asked, call);
        if (answer === 'gone') {
          if (again || asked.isOnce) throw workerEnded();
          continue;
        }
        if (answer.ok) return answer.output;
        const { code, message, place, advice } = answer.error;
        throw code === null ? new Error(message) : new JigError(code, message, place, advice);
      }
    } finally {
      this.running.delete(call);
    }
  }

  private async once<N extends TaskName>(request: TaskRequest<N>, { mesh, progress = () => {} }: Asked, call: Call) {
    const place = await this.free(call);
    const has = mesh !== undefined && place.meshes.includes(mesh.id);
    if (mesh && !has) place.meshes = [...place.meshes, mesh.id].slice(-meshesKept);
    const whole = { ...request, mesh: mesh ? { id: mesh.id, mesh: has ? null : mesh.mesh } : null };
    const done = place.seat.run(whole, progress).finally(() => this.release(place));
    done.catch(() => {});
    try {
      return await Promise.race([done, place.seat.gone.then(() => 'gone' as const), call.stopped]);
    } catch (error) {
      if (call.isStopped) this.endUnless(place, done, request.cancel !== null);
      throw error;
    } finally {
      if (place.isGone) this.release(place);
    }
  }

  /** One that goes on with what nobody waits for is ended, after it had the time to stop by itself. */
  private endUnless(place: Held, done: Promise<unknown>, looks: boolean): void {
    let over = false;
    void done.catch(() => {}).then(() => (over = true));
    const end = () => {
      // it may have the next task by now
      if (over || !place.busy) return;
      place.seat.end();
      place.isGone = true;
      this.release(place);
    };
    if (!looks) end();
    else setTimeout(end, grace);
  }

  /** A free place, taken. @throws JigError `cancelled` */
  private async free(call: Call): Promise<Held> {
    for (;;) {
      if (call.isStopped) throw cancelled();
      this.places = this.places.filter((place) => !place.isGone);
      let place = this.places.find(({ busy }) => !busy);
      if (!place && this.places.length < this.size) this.places.push((place = this.seats.take()));
      if (place) {
        place.busy = true;
        this.seats.busy++;
        return place;
      }
      await new Promise<void>((next) => this.waiting.push(next));
    }
  }

  private release(place: Held): void {
    if (!place.busy) return;
    place.busy = false;
    this.seats.busy--;
    this.seats.keepSpare();
    this.wake();
  }

  private wake(): void {
    for (const next of this.waiting.splice(0)) next();
  }

  /** Says something to each of its workers. */
  note(note: Note): void {
    for (const { seat, isGone } of this.places) if (!isGone) seat.note(note);
  }

  /** Islands, largest first; a further call takes the place of one that is under way. */
  async solve(tasks: readonly IslandTask[], context: Context, asked: Asked = {}): Promise<IslandResult[]> {
    // deliveries and the like, which go on beside it, are not its affair
    this.stop((call) => call.name === 'solve');
    const results: IslandResult[] = new Array<IslandResult>(tasks.length);
    const order = tasks.map((_, k) => k).sort((a, b) => tasks[b]!.triangles.length - tasks[a]!.triangles.length);
    const total = tasks.reduce((sum, task) => sum + task.triangles.length, 0) || 1;
    let done = 0;
    let next = 0;
    // small ones go together: a message takes as long as laying a few hundred triangles
    const least = Math.min(6000, (total / 3 / this.size) * 0.25);
    const work = async () => {
      while (next < order.length) {
        const batch: number[] = [];
        for (let size = 0; next < order.length && size < least; next++) {
          batch.push(order[next]!);
          size += tasks[order[next]!]!.triangles.length / 3;
        }
        const triangles = batch.reduce((sum, k) => sum + tasks[k]!.triangles.length, 0);
        // how much of this batch has been counted
        let counted = 0;
        const count = (share: number) => {
          done += Math.max(0, share * triangles - counted);
          counted = Math.max(counted, share * triangles);
          context.progress(done / total, `Unwrapping: ${Math.round((100 * done) / total)} %`);
        };
        const solved = await this.run(
          'solve',
          batch.map((k) => tasks[k]!),
          { ...asked, progress: count },
        );
        batch.forEach((k, i) => (results[k] = solved[i]!));
        count(1);
      }
    };
    await Promise.all(Array.from({ length: Math.max(1, Math.min(this.size, tasks.length)) }, work));
    return results;
  }

  /** Ends what is under way, or what of it belongs to one piece of work; its promises are rejected with code `cancelled`. */
  cancel(of?: number): void {
    this.stop((call) => of === undefined || call.of === of);
  }

  private stop(which: (call: Call) => boolean): void {
    for (const call of [...this.running]) if (which(call)) call.stop();
  }

  close(): void {
    this.cancel();
    for (const { seat } of this.places) seat.end();
    this.places = [];
  }
}
