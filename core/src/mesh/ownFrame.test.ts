import { describe, expect, it } from 'vitest';
import { meshFromFaces } from './mesh.ts';
import { ownFrame } from './ownFrame.ts';

/** A box's faces, outwards. */
const boxFaces = [[0, 2, 3, 1], [4, 5, 7, 6], [0, 1, 5, 4], [2, 6, 7, 3], [0, 4, 6, 2], [1, 3, 7, 5]]; // prettier-ignore
const box = (a: number, b: number, c: number, place: (x: number, y: number, z: number) => number[]) =>
  meshFromFaces(Array.from({ length: 8 }, (_, k) => place(k & 1 ? a : -a, k & 2 ? b : -b, k & 4 ? c : -c)).flat(), boxFaces);

describe('ownFrame', () => {
  it('a box has the axes of its sides, the shortest first, its middle and half its diagonal', () => {
    const { axes, centre, radius } = ownFrame(box(3, 1, 2, (x, y, z) => [x + 100, y - 7, z + 0.5]));
    for (const [k, d] of [1, 2, 0].entries()) expect(Math.abs(axes[k]![d]!)).toBeCloseTo(1, 12);
    expect(centre[0]).toBeCloseTo(100, 9);
    expect(centre[1]).toBeCloseTo(-7, 9);
    expect(centre[2]).toBeCloseTo(0.5, 9);
    expect(radius).toBeCloseTo(Math.hypot(3, 1, 2), 9);
  });

  it('goes with the mesh as it turns', () => {
    const turn = (x: number, y: number, z: number) => {
      const [u, v] = [Math.cos(0.7) * x - Math.sin(0.7) * y, Math.sin(0.7) * x + Math.cos(0.7) * y];
      return [u, Math.cos(1.9) * v - Math.sin(1.9) * z, Math.sin(1.9) * v + Math.cos(1.9) * z];
    };
    const { axes, radius } = ownFrame(box(3, 1, 2, turn));
    for (const [k, side] of (
      [
        [0, 1, 0],
        [0, 0, 1],
        [1, 0, 0],
      ] as const
    ).entries()) {
      const own = turn(side[0], side[1], side[2]);
      expect(Math.abs(axes[k]!.reduce((sum, x, d) => sum + x * own[d]!, 0))).toBeCloseTo(1, 9);
    }
    expect(radius).toBeCloseTo(Math.hypot(3, 1, 2), 9);
  });

  it('a cube keeps the axes it is drawn by; without area, or without points, there is still a frame', () => {
    const cube = ownFrame(box(1, 1, 1, (x, y, z) => [x + 0.1, y + 1e3, z])).axes;
    expect(cube.map((axis) => axis.map(Math.abs).sort().map((x) => Math.round(x * 1e6) / 1e6))).toEqual([[0, 0, 1], [0, 0, 1], [0, 0, 1]]); // prettier-ignore
    for (const mesh of [meshFromFaces([1, 1, 1, 1, 1, 1, 1, 1, 1], [[0, 1, 2]]), meshFromFaces([], [])]) {
      const { axes, centre, radius } = ownFrame(mesh);
      expect([...axes.flat(), ...centre].every(Number.isFinite)).toBe(true);
      expect(radius).toBe(1);
    }
  });
});
