import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { gathered } from './gathered.ts';

describe('what comes a few at a time', () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());

  it('is shown once, as it is at the end; what is shown at once meanwhile is not shown again', () => {
    let state = 0;
    const shown: number[] = [];
    const { now, soon } = gathered(
      () => state,
      (s) => shown.push(s),
    );
    for (state = 1; state <= 25; state++) soon();
    expect(shown).toEqual([]);
    state = 25;
    vi.runAllTimers();
    expect(shown).toEqual([25]);
    state = 26;
    soon();
    now(27);
    vi.runAllTimers();
    expect(shown).toEqual([25, 27]);
    // and goes on after that
    state = 28;
    soon();
    vi.runAllTimers();
    expect(shown).toEqual([25, 27, 28]);
  });

  it('is not shown once it was stopped', () => {
    const shown: number[] = [];
    const { soon, stop } = gathered(
      () => 1,
      (s) => shown.push(s),
    );
    soon();
    stop();
    vi.runAllTimers();
    expect(shown).toEqual([]);
  });
});
