import { expect, it } from 'vitest';
import { CancelBoard, isFlagged } from './cancelBoard.ts';
import { Seats, WorkerPool, type Seat } from './workerPool.ts';

const wait = (ms: number) => new Promise((next) => setTimeout(next, ms));

/** A pool of one worker whose tasks take a while; those that look at the flag stop soon. */
function poolOfOne(looks: boolean) {
  const made: { ended: boolean }[] = [];
  const make = (): Seat => {
    const own = { ended: false };
    made.push(own);
    return {
      run: async ({ cancel }) => {
        for (let k = 0; k < 30 && !own.ended; k++) {
          await wait(5);
          if (looks && cancel && isFlagged(cancel)) return { ok: false, error: { code: 'cancelled', message: '', place: '', advice: '' } };
        }
        return own.ended ? new Promise(() => {}) : { ok: true, output: [] as never };
      },
      note: () => {},
      end: () => void (own.ended = true),
      gone: new Promise(() => {}),
    };
  };
  return { pool: new WorkerPool(new Seats(make, false), 1, new CancelBoard()), made };
}

it('a worker that stops by itself stays, and what it does next is not ended by the cancel before', async () => {
  const { pool, made } = poolOfOne(true);
  const first = pool.run('solve', []);
  await wait(10);
  pool.cancel();
  await expect(first).rejects.toMatchObject({ code: 'cancelled' });
  // still under way when the time to stop of the first is over
  await expect(pool.run('solve', [])).resolves.toEqual([]);
  expect(made).toEqual([{ ended: false }]);
});

it('one that does not look is ended, and another takes its place', async () => {
  const { pool, made } = poolOfOne(false);
  const first = pool.run('solve', []);
  await wait(10);
  pool.cancel();
  await expect(first).rejects.toMatchObject({ code: 'cancelled' });
  await expect(pool.run('solve', [])).resolves.toEqual([]);
  expect(made).toEqual([{ ended: true }, { ended: false }]);
});

it('what uses up what it is given is not done once more where its worker ends, but told', async () => {
  let runs = 0;
  const seat = (): Seat => {
    let end: () => void = () => {};
    const gone = new Promise<void>((resolve) => (end = resolve));
    return {
      run: () => {
        runs++;
        end();
        return new Promise(() => {});
      },
      note: () => {},
      end: () => {},
      gone,
    };
  };
  const pool = new WorkerPool(new Seats(seat, false), 1, new CancelBoard());
  await expect(pool.run('solve', [], { isOnce: true })).rejects.toMatchObject({ code: 'ended' });
  expect(runs).toBe(1);
  await expect(pool.run('solve', [])).rejects.toMatchObject({ code: 'ended' });
  expect(runs).toBe(3);
});
