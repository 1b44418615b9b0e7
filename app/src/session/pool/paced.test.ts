import { expect, it } from 'vitest';
import { paced } from './paced.ts';

it('progress goes to another thread some 25 times a second; what was found, and another text, at once', () => {
  let at = 0;
  const told: [ms: number, text: string, found: boolean][] = [];
  const progress = paced(
    (_share, text, found) => told.push([at, text, found !== undefined]),
    () => at,
  );
  const found = { uv: new Float64Array(2), coverage: 0.5, scale: 1 };
  for (; at < 1000; at++) progress(at / 1000, at < 707 ? 'Reading' : 'Measuring', at === 501 ? found : undefined);
  expect(told.length).toBeLessThanOrEqual(28);
  expect(told.length).toBeGreaterThan(20);
  expect(told[0]).toEqual([0, 'Reading', false]);
  expect(told).toContainEqual([501, 'Reading', true]);
  expect(told).toContainEqual([707, 'Measuring', false]);
});
