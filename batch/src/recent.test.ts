import { expect, it } from 'vitest';
import { Recent } from './recent.ts';

it('what was used longest ago goes first, and nothing that is in use', () => {
  const recent = new Recent(2);
  for (const key of ['a', 'b', 'c']) recent.begin(key);
  expect([recent.end('a'), recent.end('b')]).toEqual([[], []]);
  recent.begin('a');
  expect(recent.end('c')).toEqual([]);
  expect(recent.end('a')).toEqual(['b']);
  recent.begin('d');
  recent.begin('d');
  expect(recent.end('d')).toEqual([]);
  expect(recent.end('d')).toEqual(['c']);
});
