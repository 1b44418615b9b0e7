import type { HistoryEntry } from '@jig-peel/core';
import { describe, expect, it, vi } from 'vitest';
import { TakenOverError } from '../keep/db.ts';
import { Keeping, type KeepingEvent } from './keeping.ts';

const state = (n: number) => Array.from({ length: n }, (_, k) => ({ sentence: String(k) }) as unknown as HistoryEntry);
const full = () => new DOMException('full', 'QuotaExceededError');

function desk(fail: (n: number) => unknown = () => null, options = { firstWait: 5, longestWait: 20 }) {
  const saved: number[] = [];
  const told: KeepingEvent[] = [];
  let tries = 0;
  const store = {
    save: async (entries: readonly HistoryEntry[]) => {
      await Promise.resolve();
      const error = fail(tries++);
      if (error) throw error as Error;
      saved.push(entries.length);
    },
  };
  const keeping = new Keeping(store, (event) => told.push(event), options);
  return { keeping, saved, told, tries: () => tries };
}

describe('keeping a history', () => {
  it('saves one after the other and only the newest of what came meanwhile', async () => {
    const { keeping, saved, told } = desk();
    for (let n = 1; n <= 5; n++) keeping.keep(state(n), n - 1);
    expect(await keeping.settle()).toBe(true);
    expect(saved).toEqual([1, 5]);
    expect(told.map(({ kind }) => kind)).toEqual(['saved']);
  });

  it('one that fails is told, never called saved, and tried again until it is kept', async () => {
    const { keeping, saved, told, tries } = desk((n) => (n < 3 ? full() : null));
    keeping.keep(state(2), 1);
    expect(await keeping.settle()).toBe(false);
    await vi.waitFor(() => expect(saved).toEqual([2]));
    expect(tries()).toBe(4);
    expect(told.map(({ kind }) => kind)).toEqual(['unsaved', 'unsaved', 'unsaved', 'saved']);
    const [first, second] = told as Extract<KeepingEvent, { kind: 'unsaved' }>[];
    expect(first!.sentence).toMatch(/no room left/);
    expect(second!.since).toBe(first!.since);
    expect(await keeping.settle()).toBe(true);
  });

  it('a further step tries at once, with all that is not kept', async () => {
    const { keeping, saved } = desk((n) => (n === 0 ? full() : null), { firstWait: 60_000, longestWait: 60_000 });
    keeping.keep(state(1), 0);
    await keeping.settle();
    keeping.keep(state(2), 1);
    expect(await keeping.settle()).toBe(true);
    expect(saved).toEqual([2]);
  });

  it('once another session writes, nothing is written any more', async () => {
    const { keeping, told, tries } = desk(() => new TakenOverError());
    keeping.keep(state(1), 0);
    await keeping.settle();
    keeping.keep(state(2), 1);
    await keeping.settle();
    expect(tries()).toBe(1);
    expect(told.map(({ kind }) => kind)).toEqual(['takenOver']);
  });

  it('says that the room is nearly used up before it is', async () => {
    const told: KeepingEvent[] = [];
    const keeping = new Keeping({ save: () => Promise.resolve() }, (event) => told.push(event), { estimate: () => Promise.resolve({ usage: 95, quota: 100 }) });
    keeping.keep(state(1), 0);
    await vi.waitFor(() => expect(told).toContainEqual({ kind: 'room', used: 95, quota: 100 }));
  });
});
