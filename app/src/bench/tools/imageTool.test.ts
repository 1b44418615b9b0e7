import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { placementMatrix, placementSchema, placedAt } from '@jig-peel/core';
import { dragged } from './imageTool.ts';

const inSquare = fc.tuple(fc.double({ min: 0, max: 1, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true }));

describe('dragging an image over the model', () => {
  it('slide: what was taken hold of stays under the pointer, whatever the turn, size and mirroring (property)', () => {
    fc.assert(
      fc.property(inSquare, inSquare, fc.double({ min: -180, max: 180, noNaN: true }), fc.boolean(), (from, to, turn, mirrorU) => {
        const before = placementSchema.parse({ turn, mirrorU, repeats: [2, 3], offset: [0.3, 0.1] });
        const after = dragged(before, 'slide', from, to, 0);
        const [was, is] = [placedAt(placementMatrix(before), ...from), placedAt(placementMatrix(after), ...to)];
        expect(is[0]).toBeCloseTo(was[0], 9);
        expect(is[1]).toBeCloseTo(was[1], 9);
      }),
    );
  });

  it('turn and size: about the pivot, what was taken hold of goes with the pointer', () => {
    const before = placementSchema.parse({});
    const turned = dragged(before, 'turn', [1, 0.5], [0.5, 1], 0);
    expect(turned.turn).toBeCloseTo(90, 9);
    expect(dragged(before, 'turn', [1, 0.5], [0.5, 0.97], 15).turn % 15).toBe(0);
    const sized = dragged(before, 'size', [0.75, 0.5], [1, 0.5], 0);
    expect(sized.repeats).toEqual([0.5, 0.5]);
    expect(placedAt(placementMatrix(sized), 1, 0.5)[0]).toBeCloseTo(0.75, 9);
    // over the pivot nothing leaps to nothing or everything
    expect(Number.isFinite(dragged(before, 'size', [0.5, 0.5], [0.5, 0.5], 0).repeats[0])).toBe(true);
  });
});
