import { expect, it } from 'vitest';
import { lengthWords } from './lengthWords.ts';

it('lengths have three digits, large ones are written out', () => {
  expect(lengthWords(0.01234, 'm')).toBe('0.0123 m');
  expect(lengthWords(12, 'cm')).toBe('12 cm');
  expect(lengthWords(1143.7, 'unit')).toBe('1144 units');
});
