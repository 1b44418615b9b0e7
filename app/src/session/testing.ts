import { createHash } from 'node:crypto';
import { isDeepStrictEqual } from 'node:util';
import { islandsOf, kindOf, detachArrays, type ChangeKind, type Job, type Part } from '@jig-peel/core';
import { JobDatabase } from '../keep/db.ts';
import type { WorkerEvent } from './messages.ts';
import { JobSession } from './jobSession.ts';
import { CancelBoard } from './pool/cancelBoard.ts';
import { runTask, tellsProgress } from './pool/tasks.ts';
import { Seats, type Seat } from './pool/workerPool.ts';

/* A session in the thread of a test, with a database that lives in memory. */

export interface LocalSeats extends Seats {
  /** Every seat that was made, in order; `kill` is what the browser does for lack of memory. */
  readonly made: { kill(): void; ended: boolean; tasks: number }[];
  /** Names of the tasks that came, in order. */
  readonly asked: string[];
  /** Kills as many seats as soon as they get a task. */
  killNext: number;
}

/** Seats that do their tasks in this thread, in turns with everything else. */
export function localSeats(): LocalSeats {
  const made: LocalSeats['made'] = [];
  const make = (): Seat => {
    let kill: () => void = () => {};
    const gone = new Promise<void>((resolve) => (kill = resolve));
    const own = { kill: () => ((own.ended = true), kill()), ended: false, tasks: 0 };
    made.push(own);
    return {
      run: async (request, progress) => {
        own.tasks++;
        seats.asked.push(request.name);
        if (seats.killNext > 0 && request.name !== 'warm') {
          seats.killNext--;
          own.kill();
        }
        await new Promise((next) => setTimeout(next, 0));
        if (own.ended) return new Promise(() => {});
        const answer = await runTask(request, tellsProgress(request.name) ? progress : undefined);
        return own.ended ? new Promise(() => {}) : answer;
      },
      note: () => {},
      end: () => void (own.ended = true),
      gone,
    };
  };
  const seats = Object.assign(new Seats(make, false), { made, asked: [] as string[], killNext: 0 });
  return seats;
}

let counter = 0;

export interface Bench {
  session: JobSession;
  told: WorkerEvent[];
  seats: LocalSeats;
  database: JobDatabase;
  board: CancelBoard;
  /** The newest event of a kind. */
  last<K extends WorkerEvent['kind']>(kind: K): Extract<WorkerEvent, { kind: K }> | undefined;
}

export function openBench(database = new JobDatabase(`session-${counter++}`), token = `session-${counter}`): Bench {
  const told: WorkerEvent[] = [];
  const seats = localSeats();
  const board = new CancelBoard();
  const session = new JobSession({ storage: { database, token }, seats, threads: 2, board }, (event) => told.push(event));
  return {
    session,
    told,
    seats,
    database,
    board,
    last: (kind) => told.findLast((event) => event.kind === kind) as never,
  };
}

/** Has layouts not measured, for tests of the steps alone: measuring each one is most of their time. */
export function leaveUnmeasured(session: JobSession): void {
  (session as unknown as { measuring: { layoutChanged(): void } }).measuring.layoutChanged = () => {};
}

const sha256 = (data: string | Uint8Array) => createHash('sha256').update(data).digest('hex');

/** What a job is, as one line: equal for equal jobs, whatever their objects. */
export function hashOf(job: Job): string {
  const plain = detachArrays(job, (array) => `${kindOf(array)} ${array.length} ${sha256(new Uint8Array(array.buffer, array.byteOffset, array.byteLength))}`);
  // what is left out and what is undefined are the same
  return sha256(JSON.stringify(plain));
}

/** Which kinds of change lie between two jobs. */
export function changesBetween(a: Job, b: Job): Set<ChangeKind> {
  const found = new Set<ChangeKind>();
  const note = (kind: ChangeKind, pick: (job: Job) => unknown) => {
    const [was, is] = [pick(a), pick(b)];
    if (!isDeepStrictEqual(was, is) && hashOf({ it: was } as never) !== hashOf({ it: is } as never)) found.add(kind);
  };
  const stay = new Set(a.parts.map(({ id }) => id).filter((id) => b.parts.some((part) => part.id === id)));
  const partsOf = (pick: (part: Part) => unknown) => (job: Job) => job.parts.filter(({ id }) => stay.has(id)).map((part) => [part.id, pick(part)]);
  note(
    'mesh',
    partsOf((part) => part.mesh),
  );
  note(
    'seams',
    partsOf((part) => part.uvSets.map((set) => islandsOf(part.mesh, set).states)),
  );
  note(
    'uvs',
    partsOf((part) =>
      part.uvSets.map((set) => [
        Float64Array.from(set.cornerUv, (id) => set.uv[id * 2]!),
        Float64Array.from(set.cornerUv, (id) => set.uv[id * 2 + 1]!),
        set.unplaced,
      ]),
    ),
  );
  note('jigs', (job) => job.jigs ?? []);
  note('images', (job) => [job.images.map(({ id }) => id), partsOf(({ imageId, placement }) => [imageId, placement])(job)]);
  note('marks', (job) => [
    job.savedSelections ?? [],
    partsOf(({ done, seamMarks, mesh, uvSets }) => [
      done ? [...done].join() : '',
      seamMarks ? [...seamMarks].join() : '',
      uvSets.map((set) => [...mesh.corners].map((_, c) => set.pins[set.cornerUv[c]!]).join()),
    ])(job),
  ]);
  note('settings', (job) => [job.settings, job.name, job.versions ?? []]);
  note('parts', (job) => job.parts.map(({ id, name, uvSets, activeUv }) => [id, name, uvSets.map((set) => set.name), activeUv]));
  note('view', (job) => [
    job.selection,
    job.selectedParts ?? [],
    job.activePart,
    partsOf(({ hidden, isHidden }) => [hidden ? [...hidden].join() : '', isHidden])(job),
  ]);
  return found;
}
