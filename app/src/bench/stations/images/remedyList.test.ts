import { expect, it, vi } from 'vitest';
import type { SeamRemedies } from '@jig-peel/core/ops/seamRemediesWork';
import { remediesOf } from './remedyList.ts';

const found: SeamRemedies = {
  jumping: 3,
  goOn: [
    { island: 1, from: 0, left: 12, jumping: 3 },
    { island: 0, from: 1, left: 0, jumping: 1 },
  ],
  join: { why: 'It would not lie flat.' },
  move: { before: 2, after: 2, energy: 4.1 },
  cover: [
    { how: 'along', before: 40, after: 4, allBefore: 20, allAfter: 12, share: 0.1 },
    { how: 'whole', before: 40, after: 39.8, allBefore: 20, allAfter: 20, share: 0.9 },
  ],
};

it('what helps stands first, what makes nothing better is told and can still be taken, what cannot be had is last with why', () => {
  const run = vi.fn();
  const list = remediesOf(found, { edges: [7], letters: 'A and B', way: 'size', length: (x) => `${x} m`, run });
  expect(list.map(({ label, use }) => [label, use])).toEqual([
    ['A goes on from B', 'helps'],
    ['Fade over it, from three sides', 'helps'],
    ['B goes on from A', 'idle'],
    ['Move it out of sight', 'idle'],
    ['A and B from three sides', 'idle'],
    ['Join A and B', 'none'],
  ]);
  expect(list[3]!.brings).toBe('makes nothing better here: seams in plain sight: 2 m → 2 m; energy 4.10');
  expect(list[5]!.brings).toBe('It would not lie flat.');
  for (const one of list) one.take();
  expect(run.mock.calls).toEqual([
    ['goOn', { island: 0, from: 1, way: 'size' }],
    ['coverSeam', { edges: [7], how: 'along' }, true],
    ['goOn', { island: 1, from: 0, way: 'size' }],
    ['moveSeam', { edges: [7] }, true],
    ['coverSeam', { edges: [7], how: 'whole' }, true],
    ['uncut', { edges: [7] }, true],
  ]);
});
