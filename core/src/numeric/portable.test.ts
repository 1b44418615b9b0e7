import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { acos, atan2, cos, exp, log, log2, pow, sin, tan } from './portable.ts';

const bits = new Float64Array(1);
const word = new BigInt64Array(bits.buffer);
/** Numbers in the order of their bits. */
const rank = (x: number) => {
  bits[0] = x;
  return word[0]! < 0n ? -(word[0]! & 0x7fffffffffffffffn) : word[0]!;
};
/** How many doubles lie between two of them. */
const apart = (a: number, b: number) => Number(rank(a) > rank(b) ? rank(a) - rank(b) : rank(b) - rank(a));

/** Beside the engine's own, which are good to about one unit in the last place. */
describe('functions of the same bits everywhere agree with the engine’s', () => {
  const angle = fc.double({ min: -1e5, max: 1e5, noNaN: true });
  const near = fc.double({ min: -7, max: 7, noNaN: true });
  const any = fc.double({ noNaN: true, noDefaultInfinity: true });
  const runs = { numRuns: 20_000 };

  it('sine, cosine, tangent within two units', () => {
    fc.assert(
      fc.property(fc.oneof(angle, near), (x) => {
        expect(apart(sin(x), Math.sin(x))).toBeLessThanOrEqual(2);
        expect(apart(cos(x), Math.cos(x))).toBeLessThanOrEqual(2);
        expect(apart(tan(x), Math.tan(x))).toBeLessThanOrEqual(4);
      }),
      runs,
    );
  });

  it('arc functions within two units', () => {
    fc.assert(
      fc.property(near, any, (y, x) => {
        expect(apart(atan2(y, x), Math.atan2(y, x))).toBeLessThanOrEqual(2);
        expect(apart(atan2(x, y), Math.atan2(x, y))).toBeLessThanOrEqual(2);
      }),
      runs,
    );
    fc.assert(
      fc.property(fc.double({ min: -1, max: 1, noNaN: true }), (x) => {
        expect(Math.abs(acos(x) - Math.acos(x))).toBeLessThanOrEqual(4 * Number.EPSILON * Math.max(Math.acos(x), 1e-300));
      }),
      runs,
    );
  });

  it('exponential and logarithms within two units', () => {
    fc.assert(
      fc.property(fc.double({ min: -700, max: 700, noNaN: true }), (x) => {
        expect(apart(exp(x), Math.exp(x))).toBeLessThanOrEqual(2);
      }),
      runs,
    );
    fc.assert(
      fc.property(fc.double({ min: 5e-324, noNaN: true, noDefaultInfinity: true }), fc.double({ min: 0.3, max: 3, noNaN: true }), (x, y) => {
        for (const value of [x, y]) {
          expect(apart(log(value), Math.log(value))).toBeLessThanOrEqual(2);
          expect(Math.abs(log2(value) - Math.log2(value))).toBeLessThanOrEqual(4 * Number.EPSILON * Math.abs(Math.log2(value)));
        }
      }),
      runs,
    );
    fc.assert(
      fc.property(fc.double({ min: 1e-9, max: 1, noNaN: true }), fc.double({ min: 0.1, max: 4, noNaN: true }), (x, y) => {
        expect(Math.abs(pow(x, y) / x ** y - 1)).toBeLessThan(1e-13);
      }),
      runs,
    );
  });

  it('at the ends and where the engine says so exactly', () => {
    const ends = [0, -0, 1, -1, Infinity, -Infinity, NaN, 5e-324, -5e-324, 1e308, Math.PI, -Math.PI, Math.PI / 2, Math.PI / 4];
    for (const y of ends)
      for (const x of ends) expect([y, x, apart(atan2(y, x), Math.atan2(y, x)) <= 1 || Object.is(atan2(y, x), Math.atan2(y, x))]).toEqual([y, x, true]);
    for (const x of ends) {
      if (Math.abs(x) < 1e9 || !Number.isFinite(x)) {
        expect(Object.is(sin(x), Math.sin(x)) || apart(sin(x), Math.sin(x)) <= 1, `sin ${x}`).toBe(true);
        expect(Object.is(cos(x), Math.cos(x)) || apart(cos(x), Math.cos(x)) <= 1, `cos ${x}`).toBe(true);
      }
      expect(Object.is(acos(x), Math.acos(x)) || apart(acos(x), Math.acos(x)) <= 1, `acos ${x}`).toBe(true);
      expect(Object.is(exp(x), Math.exp(x)) || apart(exp(x), Math.exp(x)) <= 1, `exp ${x}`).toBe(true);
      expect(Object.is(log(x), Math.log(x)) || apart(log(x), Math.log(x)) <= 1, `log ${x}`).toBe(true);
    }
    expect([cos(0), sin(0), exp(0), log(1), atan2(0, 1), acos(1)]).toEqual([1, 0, 1, 0, 0, 0]);
    expect([sin(Math.PI), cos(Math.PI / 2), cos(Math.PI), sin(Math.PI / 2), atan2(1, 1)]).toEqual([
      1.2246467991473532e-16,
      6.123233995736766e-17,
      -1,
      1,
      Math.PI / 4,
    ]);
    for (let k = -1074; k < 1024; k++) expect(log2(2 ** k)).toBe(k);
    for (let k = -20; k <= 20; k++) expect(exp(k * Math.LN2)).toBeCloseTo(2 ** k, 9);
  });
});
