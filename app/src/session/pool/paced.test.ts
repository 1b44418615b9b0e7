import { expect, it } from 'vitest';
import { paced } from './paced.ts';

it('progress goes to another thread some 25 times a second, and whatever was found at once', () => {
  let at = 0;
  const told: string[] = [];
  const progress = paced(
    (_share, text) => told.push(text),
    () => at,
  );
  const found = { uv: new Float64Array(2), coverage: 0.5, scale: 1 };
  for (; at < 1000; at++) progress(at / 1000, String(at), at === 501 ? found : undefined);
  expect(told.length).toBeLessThanOrEqual(27);
  expect(told.length).toBeGreaterThan(20);
  expect(told[0]).toBe('0');
  expect(told).toContain('501');
});
