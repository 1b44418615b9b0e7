import { JigError } from '@jig-peel/core';
import { describe, expect, it } from 'vitest';
import { MeshIds } from './meshIds.ts';
import type { Progress } from './messages.ts';
import { Works } from './work.ts';

const wait = (ms: number) => new Promise((next) => setTimeout(next, ms));

function desk() {
  const told: (Progress | null)[] = [];
  let pools = 0;
  const pool = { solve: () => Promise.resolve([]), run: () => Promise.reject(new Error('no task')), cancel: () => void pools++ };
  return { works: new Works((progress) => told.push(progress), pool, new MeshIds()), told, poolsCancelled: () => pools };
}

describe('work under way', () => {
  it('short work shows nothing', async () => {
    const { works, told } = desk();
    await works.run(() => wait(20));
    expect(told).toEqual([]);
  });

  it('one that begins and ends beside another leaves its progress and its cancel alone', async () => {
    const { works, told } = desk();
    let cancelled = false;
    const long = works.run(async (context) => {
      context.progress(0.3, 'Packing');
      for (let k = 0; k < 40; k++) {
        await wait(10);
        context.throwIfCancelled();
      }
    });
    await wait(180);
    expect(told.at(-1)).toMatchObject({ share: 0.3, text: 'Packing' });
    // opening, delivering: short and beside it
    await works.run(() => wait(5));
    expect(told.at(-1)).not.toBeNull();
    works.cancel();
    await long.catch((error: unknown) => (cancelled = error instanceof JigError && error.code === 'cancelled'));
    expect(cancelled).toBe(true);
    expect(told.at(-1)).toBeNull();
  });

  it('cancel stops what is shown, and the pool only where that uses it', async () => {
    const { works, poolsCancelled } = desk();
    const work = works.run(async (context) => {
      await wait(200);
      context.throwIfCancelled();
    });
    works.cancel();
    await expect(work).rejects.toThrow(/Cancelled/);
    expect(poolsCancelled()).toBe(0);
    const solving = works.run(async (context) => {
      await context.pool!.solve!([], context);
      await wait(50);
    });
    await wait(5);
    works.cancel();
    await solving;
    expect(poolsCancelled()).toBe(1);
  });
});
