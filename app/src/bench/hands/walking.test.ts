import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { stepFrom, type Place, type WalkWay } from './walking.ts';

const grid = (side: number): Place[] => Array.from({ length: side * side }, (_, id) => ({ id, u: (id % side) / side, v: Math.floor(id / side) / side }));

describe('walking by keys', () => {
  it('goes to the neighbour on a grid, and there and back is where it began', () => {
    const places = grid(5);
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 24 }),
        fc.constantFrom<[WalkWay, WalkWay, number]>(['left', 'right', -1], ['right', 'left', 1], ['up', 'down', 5], ['down', 'up', -5]),
        (from, [way, back, by]) => {
          const k = stepFrom(places, places[from]!, way);
          const isEdge =
            (way === 'left' && from % 5 === 0) || (way === 'right' && from % 5 === 4) || (way === 'up' && from >= 20) || (way === 'down' && from < 5);
          expect(k).toBe(isEdge ? -1 : from + by);
          if (k >= 0) expect(stepFrom(places, places[k]!, back)).toBe(from);
        },
      ),
    );
  });

  it('in order it comes to every one and round again', () => {
    const places = grid(3);
    let at: Place | null = null;
    const seen = Array.from({ length: 9 }, () => (at = places[stepFrom(places, at, 'next')]!).id);
    expect(seen).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8]);
    expect(stepFrom(places, at, 'next')).toBe(0);
    expect(stepFrom(places, null, 'before')).toBe(8);
    expect(stepFrom([], null, 'next')).toBe(-1);
  });

  it('begins in the middle of the sheet; islands of other parts with the same number are others', () => {
    const places: Place[] = [{ id: 0, u: 0.1, v: 0.5 }, { id: 0, u: 0.45, v: 0.5, part: 'b' }, { id: 1, u: 0.9, v: 0.5 }]; // prettier-ignore
    expect(stepFrom(places, null, 'left')).toBe(1);
    expect(stepFrom(places, places[1]!, 'left')).toBe(0);
    expect(stepFrom(places, places[1]!, 'right')).toBe(2);
    // what is far more above than to the right is not to the right
    const aside: Place[] = [{ id: 0, u: 0.5, v: 0.5 }, { id: 1, u: 0.51, v: 0.9 }]; // prettier-ignore
    expect(stepFrom(aside, aside[0]!, 'right')).toBe(-1);
    expect(stepFrom(aside, aside[0]!, 'up')).toBe(1);
  });
});
