import { describe, expect, it } from 'vitest';
import type { Fade } from '@jig-peel/core';
import { draggedFade, fadePlaces, gripsOfFade, inShape, nudgedFade, sidesOf } from './fadeGrips.ts';

const view: [number, number, number] = [0, 0, -1];
/** A line of sight straight from the front. */
const at = (x: number, y: number) => ({ from: [x, y, 10] as const, along: view }) as never;
const linear: Fade = { shape: 'linear', from: [0, 2, 1], to: [0, 0, 1] };
const radial: Fade = { shape: 'radial', centre: [1, 1, 0], inner: 1, outer: 3 };
const rounded = (list: readonly number[]) => list.map((x) => Number(x.toFixed(9)) + 0);

describe('grips of a fade', () => {
  it('right and up are as the viewer sees them, also from straight above', () => {
    expect(sidesOf(view).map(rounded)).toEqual([
      [1, 0, 0],
      [0, 1, 0],
    ]);
    expect(sidesOf([0, -1, 0]).map(rounded)).toEqual([
      [1, 0, 0],
      [0, 0, -1],
    ]);
  });

  it('a straight one has its ends and its middle; each end goes where the pointer is, in the depth that it has', () => {
    expect(gripsOfFade(linear).map(({ id }) => id)).toEqual(['move', 'from', 'to']);
    expect(fadePlaces(linear, view).grips).toMatchObject({ move: [0, 1, 1], from: [0, 2, 1], to: [0, 0, 1] });
    expect(inShape(linear, 'radial')).toEqual({ shape: 'radial', centre: [0, 1, 1], inner: 0.5, outer: 2 });
    expect(inShape(radial, 'linear')).toEqual({ shape: 'linear', from: [1, 2.5, 0], to: [1, -0.5, 0] });
    expect(inShape(radial, 'radial')).toBe(radial);
    expect(draggedFade(linear, 'to', at(3, -1), null)).toEqual({ shape: 'linear', from: [0, 2, 1], to: [3, -1, 1] });
    expect(draggedFade(linear, 'move', at(3, 1), null)).toEqual({ shape: 'linear', from: [3, 2, 1], to: [3, 0, 1] });
    // onto the surface where that is asked for
    expect(draggedFade(linear, 'from', at(3, 1), [3, 1, -4])).toEqual({ shape: 'linear', from: [3, 1, -4], to: [0, 0, 1] });
    // both ends in one place would be no direction
    expect(draggedFade(linear, 'to', at(0, 2), null)).toBeNull();
    // a line of sight along the plane says nothing
    expect(draggedFade(linear, 'to', { from: [0, 0, 10], along: [0, 0, 0] } as never, null)).toBeNull();
  });

  it('a round one is sized by its circles, the inner never beyond the outer', () => {
    expect(gripsOfFade(radial).map(({ id }) => id)).toEqual(['move', 'inner', 'outer']);
    expect(fadePlaces(radial, view).grips).toMatchObject({ move: [1, 1, 0], inner: [1, 2, 0], outer: [4, 1, 0] });
    expect(draggedFade(radial, 'outer', at(1, 6), null)).toEqual({ ...radial, outer: 5 });
    expect(draggedFade(radial, 'inner', at(1, 9), null)).toMatchObject({ inner: 3 - 1e-6, outer: 3 });
    expect(draggedFade(radial, 'outer', at(1, 1), null)).toMatchObject({ inner: 1, outer: 1 + 1e-6 });
    expect(draggedFade(radial, 'move', at(0, 0), null)).toEqual({ ...radial, centre: [0, 0, 0] });
    // the circles drawn are as far out as they say
    const [inner, outer] = fadePlaces(radial, view).lines;
    for (const [x, y, z] of inner!) expect(Math.hypot(x - 1, y - 1, z)).toBeCloseTo(1, 9);
    for (const [x, y, z] of outer!) expect(Math.hypot(x - 1, y - 1, z)).toBeCloseTo(3, 9);
  });

  it('arrow keys move by shares of its size, as the viewer sees it', () => {
    expect(nudgedFade(linear, 'to', 1, 0, 0.05, view)).toMatchObject({ from: [0, 2, 1], to: [0.1, 0, 1] });
    const moved = nudgedFade(linear, 'move', 0, 1, 0.05, view);
    expect(moved.shape === 'linear' && [moved.from, moved.to].map(rounded)).toEqual([
      [0, 2.1, 1],
      [0, 0.1, 1],
    ]);
    expect(nudgedFade(radial, 'outer', 1, 0, 0.1, view)).toMatchObject({ outer: 3.3 });
    expect(nudgedFade(radial, 'inner', 0, -1, 1, view)).toMatchObject({ inner: 0 });
  });
});
