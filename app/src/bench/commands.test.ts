import { describe, expect, it } from 'vitest';
import { commands } from './commands.ts';

describe('commands', () => {
  it('have ids of their own: each is found by its id', () => {
    const ids = commands.map(({ id }) => id);
    expect(ids.filter((id, k) => ids.indexOf(id) !== k)).toEqual([]);
  });

  it('have keys of their own', () => {
    const keys = commands.flatMap((command) => command.keys ?? []);
    expect(keys.filter((key, k) => keys.indexOf(key) !== k)).toEqual([]);
  });

  it('say different things', () => {
    const labels = commands.map(({ label }) => label);
    expect(labels.filter((label, k) => labels.indexOf(label) !== k)).toEqual([]);
  });
});
