import { describe, expect, it } from 'vitest';
import type { DecalFrame } from '@jig-peel/core';
import { draggedDecal, gripPlaces, type DecalGrip } from './decalGrips.ts';
import { turnOf } from './decalTool.ts';

/** Upright on a wall that faces +z, 4 wide and 2 tall. */
const frame: DecalFrame = { kind: 'decal', centre: [1, 2, 3], right: [1, 0, 0], up: [0, 1, 0], size: [4, 2], depth: 1, facing: 80, bend: 0 };
/** A line of sight straight at the wall. */
const at = (x: number, y: number) => ({ from: [x, y, 10] as const, along: [0, 0, -1] as const });
const drag = (grip: Exclude<DecalGrip, 'move'>, x: number, y: number, step = 0) => draggedDecal(frame, grip, at(x, y) as never, step)!;

describe('grips of a decal', () => {
  it('stand at its sides, its corner, its middle, and above it', () => {
    expect(gripPlaces(frame)).toMatchObject({ move: [1, 2, 3], width: [3, 2, 3], height: [1, 3, 3], even: [3, 3, 3] });
    expect(gripPlaces(frame).turn[1]).toBeGreaterThan(3.5);
  });

  it('a side goes where the pointer is, the other stays; the corner sizes evenly', () => {
    expect(drag('width', 4, 2).size).toEqual([6, 2]);
    expect(drag('height', 1, 2.5).size).toEqual([4, 1]);
    const even = drag('even', 1 + 4, 2 + 2);
    expect(even.size.map((x) => Number(x.toFixed(9)))).toEqual([8, 4]);
    expect(even.centre).toEqual(frame.centre);
    // never to nothing
    expect(drag('width', 1, 2).size[0]).toBeCloseTo(0.08, 9);
  });

  it('its top is turned towards the pointer, in steps where asked', () => {
    const left = drag('turn', 1 - 5, 2);
    expect(turnOf(left)).toBeCloseTo(90, 6);
    expect(left.up.map((x) => Number(x.toFixed(9)) + 0)).toEqual([-1, 0, 0]);
    expect(turnOf(drag('turn', 1 + 1, 2 + 3, 15))).toBeCloseTo(-15, 6);
    // turned already: it goes on from there
    const again = draggedDecal(left, 'turn', at(1, 2 - 5) as never, 0)!;
    expect(Math.abs(turnOf(again))).toBeCloseTo(180, 6);
  });

  it('a line of sight along its plane does nothing', () => {
    expect(draggedDecal(frame, 'even', { from: [0, 0, 3], along: [1, 0, 0] } as never, 0)).toBeNull();
  });
});
