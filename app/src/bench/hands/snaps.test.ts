import { describe, expect, it } from 'vitest';
import type { Box } from '@jig-peel/core';
import { frameRect, handlesOf, holdAt } from './frame.ts';
import { noSnaps } from './handsState.ts';
import { snapMove, snapPlace, targetsOf } from './snaps.ts';

const sheet = { width: 1000, height: 1000, margin: 10, border: 10, tiles: 2 };
const none = new Float32Array(0);
const box: Box = [0.1, 0.1, 0.2, 0.3];
const reach: [number, number] = [0.01, 0.01];

describe('what a hand catches at', () => {
  it('with everything off nothing moves but as it is drawn', () => {
    const caught = snapMove([0.123456, -0.2], box, [0.1, 0.1], targetsOf(noSnaps, sheet, [[0.22, 0.1, 0.4, 0.3]], none), noSnaps, sheet, reach);
    expect(caught).toEqual({ move: [0.123456, -0.2], guides: [] });
  });

  it('borders of other islands and the margin beside them, each by its switch', () => {
    const other: Box = [0.5, 0.6, 0.7, 0.8];
    const at = (snaps: typeof noSnaps, move: [number, number]) => snapMove(move, box, null, targetsOf(snaps, sheet, [other], none), snaps, sheet, reach);
    // its left to the other's left
    expect(at({ ...noSnaps, islands: true }, [0.405, 0]).move[0]).toBeCloseTo(0.4, 12);
    // its right 10 px left of the other: 0.5 − 0.01 − 0.2
    expect(at({ ...noSnaps, gap: true }, [0.294, 0]).move[0]).toBeCloseTo(0.29, 12);
    expect(at({ ...noSnaps, islands: true }, [0.25, 0]).move[0]).toBe(0.25);
  });

  it('the sheet and its tiles, a grid, whole px, points', () => {
    const on = (snaps: typeof noSnaps, move: [number, number], points = none) =>
      snapMove(move, box, [0.2, 0.3], targetsOf(snaps, sheet, [], points), snaps, sheet, reach);
    expect(on({ ...noSnaps, sheet: true }, [1.795, 0]).move[0]).toBeCloseTo(1.8, 12);
    expect(on({ ...noSnaps, grid: 4 }, [0.149, 0]).move[0]).toBeCloseTo(0.15, 12);
    expect(on({ ...noSnaps, px: true }, [0.12345, 0.5]).move.map((x, k) => Math.round((x + box[k]!) * 1e6) / 1e3)).toEqual([223, 600]);
    expect(on({ ...noSnaps, points: true }, [0.3, 0.2], Float32Array.of(0.503, 0.496)).move[0]).toBeCloseTo(0.303, 6);
    expect(snapPlace(0.996, 'u', targetsOf({ ...noSnaps, sheet: true }, sheet, [], none), noSnaps, 1000, 0.01)).toMatchObject({ at: 1, guide: { axis: 'u' } });
  });
});

describe('the outline of the picture', () => {
  it('takes the point in hand where it is near; points of islands go first; off, or far, nothing catches', () => {
    const outline = Float32Array.of(0.3, 0.3, 0.31, 0.31);
    const at = (on: boolean, move: [number, number], points = none) => {
      const snaps = { ...noSnaps, outline: on, points: true };
      return snapMove(move, box, [0.2, 0.3], targetsOf(snaps, sheet, [], points, outline), snaps, sheet, reach);
    };
    expect(at(true, [0.104, 0.003]).move.map((x) => Math.round(x * 1e6) / 1e6)).toEqual([0.1, 0]);
    expect(at(true, [0.104, 0.003]).guides.map(({ words }) => words)).toEqual(['outline', 'outline']);
    expect(at(true, [0.104, 0.003], Float32Array.of(0.303, 0.303)).guides[0]!.words).toBe('point');
    expect(at(false, [0.104, 0.003]).guides).toEqual([]);
    expect(at(true, [0.2, 0.2]).guides).toEqual([]);
  });
});

describe('the frame', () => {
  const toPx = (u: number, v: number): [number, number] => [u * 1000, 1000 - v * 1000];

  it('each handle is held where it is drawn; inside moves; a thin frame can still be held', () => {
    const rect = frameRect(box, toPx);
    expect(rect).toEqual([100, 700, 200, 900]);
    for (const { hold, at } of handlesOf(rect)) expect(holdAt(rect, [-99, -99], ...at)).toEqual(hold);
    expect(holdAt(rect, [150, 800], 150, 800)).toEqual({ kind: 'pivot' });
    expect(holdAt(rect, [0, 0], 150, 780)).toEqual({ kind: 'inside' });
    expect(holdAt(rect, [0, 0], 500, 500)).toBeNull();
    // a single point is moved, not its pivot, which is at the same place; one that was put elsewhere is still there
    const point = frameRect([0.1, 0.1, 0.1, 0.1], toPx);
    expect(holdAt(point, [100, 900], 100, 900)).toEqual({ kind: 'inside' });
    expect(holdAt(point, [100, 900], 111, 911)).toEqual({ kind: 'inside' });
    expect(holdAt(point, [300, 700], 301, 702)).toEqual({ kind: 'pivot' });
    expect(holdAt(point, [300, 700], 130, 900)).toBeNull();
    const thin = frameRect([0.1, 0.1, 0.1, 0.3], toPx);
    expect(thin[2] - thin[0]).toBeGreaterThan(20);
  });
});
