import { describe, expect, it } from 'vitest';
import { evaluate } from './arithmetic.ts';

describe('arithmetic in number fields', () => {
  it.each([
    ['1024/2', 512],
    ['8 + 4 * 2', 16],
    ['(8+4)*2', 24],
    ['2^11', 2048],
    ['-3', -3],
    ['0,5', 0.5],
    ['.25', 0.25],
    ['3 × 4', 12],
    ['10 − 2 − 3', 5],
    ['1e3', 1000],
    ['2^3^2', 512],
  ])('%s is %d', (text, value) => expect(evaluate(text)).toBe(value));

  it.each(['', 'abc', '1//2', '(1', '1/0', '2 3 +', '1+', 'x'.repeat(300), '1;2'])('“%s” is not a number', (text) => expect(evaluate(text)).toBeNull());
});
