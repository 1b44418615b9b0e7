import { describe, expect, it } from 'vitest';
import { defaultKeys, keysOf } from '../../keys/keyTable.ts';
import { commands } from './index.ts';

describe('commands', () => {
  it('have ids of their own: each is found by its id', () => {
    const ids = commands.map(({ id }) => id);
    expect(ids.filter((id, k) => ids.indexOf(id) !== k)).toEqual([]);
  });

  it('have keys of their own', () => {
    const keys = commands.flatMap(({ id }) => keysOf(id));
    expect(keys.filter((key, k) => keys.indexOf(key) !== k)).toEqual([]);
    const ids = new Set(commands.map(({ id }) => id));
    for (const id of Object.keys(defaultKeys)) expect(ids).toContain(id);
  });

  it('say different things', () => {
    const labels = commands.map(({ label }) => label);
    expect(labels.filter((label, k) => labels.indexOf(label) !== k)).toEqual([]);
  });
});
