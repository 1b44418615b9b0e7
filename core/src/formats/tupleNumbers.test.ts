import fc from 'fast-check';
import { expect, it } from 'vitest';
import { TupleNumbers } from './tupleNumbers.ts';

it('numbers tuples like a map from their words, however many there are', () => {
  const number = fc.oneof(fc.integer({ min: -3, max: 3 }), fc.constantFrom(-0, 1e-300, Infinity, -Infinity, 0.1, 2 ** 40));
  fc.assert(
    fc.property(fc.array(fc.tuple(number, number, number), { maxLength: 400 }), (tuples) => {
      const numbers = new TupleNumbers(3, 1);
      const words = new Map<string, number>();
      for (const tuple of tuples) {
        const key = tuple.map((x) => x + 0).join();
        if (!words.has(key)) words.set(key, words.size);
        expect(numbers.of(tuple)).toBe(words.get(key));
      }
      expect(numbers.count).toBe(words.size);
    }),
  );
});
