import { describe, expect, it } from 'vitest';
import { bandOf, bandOfLook, bandSegments } from './jumpBand.ts';

const jump = (more: object) => ({ edges: [0], islands: [0, 1] as const, length: 1, offset: 0, turn: 0, scale: 1, isMirrored: false, ...more });

describe('bands along seams where the picture jumps', () => {
  it('go by how far it is off; what is turned, sized otherwise or mirrored is no small jump', () => {
    expect([0.4, 1, 3.9, 4, 15, 16, 900].map((offset) => bandOf(jump({ offset })))).toEqual([0, 1, 1, 2, 2, 3, 3]);
    expect([{ turn: 90 }, { scale: 1.2 }, { isMirrored: true }].map((more) => bandOf(jump(more)))).toEqual([2, 2, 2]);
    expect(bandOf(jump({ turn: 90, offset: 40 }))).toBe(3);
    expect(bandOf(jump({ turn: 0.1, scale: 1.001 }))).toBe(0);
  });

  it('go by how far what is seen differs; relief alone is no small difference', () => {
    expect([0.5, 3.9, 4, 16, 48, 255].map((colour) => bandOfLook({ colour, relief: 0 }))).toEqual([0, 0, 1, 2, 3, 3]);
    expect(bandOfLook({ colour: 0, relief: 0.01 })).toBe(1);
  });

  it('run along the seams’ own edges in space', () => {
    const edgePoints = Uint32Array.of(0, 1, 1, 2, 2, 0);
    const points = Float32Array.of(0, 0, 0, 1, 0, 0, 1, 1, 0);
    const [least, , , most] = bandSegments({ edgePoints, points }, [
      { edges: [1, 2], band: 0 },
      { edges: [0], band: 3 },
    ]);
    expect([...least!]).toEqual([1, 0, 0, 1, 1, 0, 1, 1, 0, 0, 0, 0]);
    expect([...most!]).toEqual([0, 0, 0, 1, 0, 0]);
  });
});
