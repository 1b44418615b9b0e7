import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { axesOf, jigKinds, makeJig, type Jig, type Vector } from '@jig-peel/core';
import { alongAxis, dragHandle, handlesOf, jigShape, onPlane, onRing, roundStep, turnedAbout, type Ray } from './jigShape.ts';

const free = { angle: 0, step: 0, point: null };
/** A line of sight from a far eye on the z axis through a place. */
const through = (x: number, y: number, z = 0): Ray => ({ from: [0, 0, 10], along: [x, y, z - 10] });
/** A parallel line of sight along −z. */
const straight = (x: number, y: number): Ray => ({ from: [x, y, 10], along: [0, 0, -1] });
const handle = (jig: Jig, id: string) => handlesOf(jig).find((one) => one.id === id)!;
const flat = makeJig({ kind: 'planar', size: [2, 1, 1] });

describe('frames', () => {
  it('every kind but the whole image on each face has a frame, an image and handles, all numbers', () => {
    for (const kind of jigKinds) {
      const shape = jigShape(makeJig({ kind, size: [2, 3, 4] }));
      const empty = kind === 'each-face';
      expect(shape.lines.length > 0).toBe(!empty);
      expect(shape.places.length / 3).toBe(shape.uvs.length / 2);
      expect(shape.start.length > 0).toBe(kind === 'cylindrical' || kind === 'spherical');
      expect(handlesOf(makeJig({ kind })).length > 0).toBe(!empty);
      expect([...shape.lines, ...shape.start, ...shape.places, ...shape.uvs].every(Number.isFinite)).toBe(true);
    }
  });

  it('a tube’s start line is at the back and turns to the right with its number', () => {
    const at = (start: number) => jigShape(makeJig({ kind: 'cylindrical', size: [2, 1, 2], start })).start.slice(0, 3);
    expect(at(0)[2]).toBeCloseTo(-1, 12);
    expect(at(90)[0]).toBeCloseTo(-1, 12);
    expect(at(-90)[0]).toBeCloseTo(1, 12);
  });
});

describe('handles', () => {
  it('move: the middle follows the pointer in the plane that faces the eye', () => {
    const { jig } = dragHandle(flat, handle(flat, 'move'), through(0, 0), through(0.3, -0.2), free);
    expect(jig.origin.map((x) => x.toFixed(6))).toEqual(['0.300000', '-0.200000', '0.000000']);
    const along = dragHandle(flat, handle(flat, 'move'), through(0, 0), through(0.3, -0.2), free, true);
    expect(along.jig.origin.map((x) => Math.round(x * 1e6) / 1e6)).toEqual([0.3, 0, 0]);
    const steps = dragHandle(flat, handle(flat, 'move'), through(0, 0), through(0.33, -0.2), { ...free, step: 0.25 });
    expect(steps.jig.origin.map((x) => Math.round(x * 1e6) / 1e6)).toEqual([0.25, -0.25, 0]);
    expect(dragHandle(flat, handle(flat, 'move'), through(0, 0), through(1, 1), { ...free, point: [5, 6, 7] }).jig.origin).toEqual([5, 6, 7]);
  });

  it('a side follows the pointer, the other side stays', () => {
    for (const sign of [1, -1]) {
      const { jig, says } = dragHandle(flat, handle(flat, `side-0-${sign}`), straight(sign, 0), straight(sign * 1.5, 0.4), free);
      expect(jig.size[0]).toBeCloseTo(2.5, 9);
      expect(jig.origin[0] - (sign * jig.size[0]) / 2).toBeCloseTo(-sign, 9);
      expect(jig.size[1]).toBe(1);
      expect(says.value).toBeCloseTo(2.5, 9);
    }
    // never through the other side
    expect(dragHandle(flat, handle(flat, 'side-0-1'), through(1, 0), through(-3, 0), free).jig.size[0]).toBeGreaterThan(0);
  });

  it('even size keeps the proportions and the middle', () => {
    const { jig } = dragHandle(flat, handle(flat, 'even'), straight(1, 0.5), straight(2, 1), free);
    expect(jig.size.map((x) => x / 2)).toEqual(flat.size.map((x) => expect.closeTo(x, 9)));
    expect(jig.origin).toEqual(flat.origin);
  });

  it('turn: by the angle that the pointer goes round the middle, in steps where asked; axes stay square (property)', () => {
    fc.assert(
      fc.property(fc.double({ min: -3, max: 3, noNaN: true }), fc.constantFrom(0, 15), (angle, step) => {
        const { jig, says } = dragHandle(flat, handle(flat, 'turn-2'), through(1, 0), through(Math.cos(angle), Math.sin(angle)), { ...free, angle: step });
        const degrees = (angle * 180) / Math.PI;
        expect(says.value).toBeCloseTo(step > 0 ? Math.round(degrees / step) * step : degrees, 6);
        const [right, up, out] = axesOf(jig);
        expect(right[0]).toBeCloseTo(Math.cos((says.value * Math.PI) / 180), 9);
        expect(out[2]).toBeCloseTo(1, 9);
        expect(up[0] * right[0] + up[1] * right[1] + up[2] * right[2]).toBeCloseTo(0, 9);
      }),
    );
  });

  it('seen edge on a turn goes with the view’s own plane instead of leaping', () => {
    // the upright’s plane is edge on for an eye on the z axis
    const { says } = dragHandle(flat, handle(flat, 'turn-1'), through(1, 0), through(0, 1), free);
    expect(Math.abs(says.value)).toBeCloseTo(90, 6);
  });

  it('the start line goes round with the pointer and stays within half a turn', () => {
    const tube = makeJig({ kind: 'cylindrical', start: 170 });
    const above = (x: number, z: number): Ray => ({ from: [0, 10, 0], along: [x, -10, z] });
    const { jig } = dragHandle(tube, handle(tube, 'start'), above(0, 1), above(1, 0), free);
    expect(jig.start).toBeCloseTo(-100, 6);
  });
});

describe('lines of sight', () => {
  it('meet a plane, come nearest to an axis, turn about it', () => {
    expect(onPlane(through(1, 1), [0, 0, 5], [0, 0, 1])).toEqual([0.5, 0.5, 5]);
    expect(onPlane({ from: [0, 0, 1], along: [1, 0, 0] }, [0, 0, 0], [0, 0, 1])).toBeNull();
    expect(alongAxis(straight(0.7, 3), [0, 0, 0], [1, 0, 0])).toBeCloseTo(0.7, 12);
    const turned = turnedAbout([1, 0, 0], [0, 0, 1], Math.PI / 2) as Vector;
    expect(turned.map((x) => Math.round(x * 1e9) / 1e9 + 0)).toEqual([0, 1, 0]);
  });

  it('steps are round', () => {
    expect([40, 4, 0.9, 7, 13].map(roundStep)).toEqual([1, 0.1, 0.02, 0.2, 0.2].map((x) => expect.closeTo(x, 9) as number));
  });
});

describe('rings that turn a jig', () => {
  it('are as large as it, square to their axes, and carry their handles', () => {
    const jig = { ...flat, size: [3, 1, 0.5] as Jig['size'] };
    const axes = axesOf(jig);
    for (const axis of [0, 1, 2] as const) {
      for (const turns of [0, 0.2, 0.7]) {
        const by = onRing(jig, axis, turns).map((x, d) => x - jig.origin[d]!);
        expect(Math.hypot(...by)).toBeCloseTo(1.22 * 1.5, 9);
        expect(by.reduce((sum, x, d) => sum + x * axes[axis][d]!, 0)).toBeCloseTo(0, 9);
      }
      const place = handle(jig, `turn-${axis}`).place.map((x, d) => x - jig.origin[d]!);
      expect(Math.hypot(...place)).toBeCloseTo(1.22 * 1.5, 9);
      expect(place.reduce((sum, x, d) => sum + x * axes[axis][d]!, 0)).toBeCloseTo(0, 9);
    }
  });
});
