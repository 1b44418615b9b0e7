import { expect, it } from 'vitest';
import { meshFromFaces } from './mesh.ts';
import { roundedEdges } from './roundedEdges.ts';

/** Where the inner corners are. */
const inner = (points: number[], radius: number) => {
  const count = points.length / 3;
  const shares = roundedEdges(meshFromFaces(points, [Array.from({ length: count }, (_, k) => k)]), radius);
  const at = (k: number) => points.slice(((k + count) % count) * 3, ((k + count) % count) * 3 + 3);
  const middle = [0, 1, 2].map((d) => points.filter((_, k) => k % 3 === d).reduce((a, b) => a + b, 0) / count);
  return Array.from({ length: count }, (_, k) =>
    at(k).map((x, d) => x + shares[k * 3]! * (at(k + 1)[d]! - x) + shares[k * 3 + 1]! * (at(k - 1)[d]! - x) + shares[k * 3 + 2]! * (middle[d]! - x)),
  );
};
const close = (found: number[][], wanted: number[][]) => found.forEach((p, k) => p.forEach((x, d) => expect(x).toBeCloseTo(wanted[k]![d]!, 6)));

it('the flat part begins as far from each edge as the radius', () => {
  close(inner([0, 0, 0, 10, 0, 0, 10, 4, 0, 0, 4, 0], 1), [
    [1, 1, 0],
    [9, 1, 0],
    [9, 3, 0],
    [1, 3, 0],
  ]);
  // an angle of 45°: the distance to both sides is the radius
  const [first] = inner([0, 0, 0, 10, 0, 0, 10, 10, 0], 1);
  expect(first![1]).toBeCloseTo(1, 6);
  expect((first![0]! - first![1]!) / Math.SQRT2).toBeCloseTo(1, 6);
});

it('of an inward corner on the inner side; of a straight one towards the middle; never more than half', () => {
  const ell = inner([0, 0, 0, 4, 0, 0, 4, 2, 0, 2, 2, 0, 2, 4, 0, 0, 4, 0], 0.5);
  close([ell[3]!], [[1.5, 1.5, 0]]);
  const straight = inner([0, 0, 0, 2, 0, 0, 4, 0, 0, 4, 4, 0, 0, 4, 0], 0.5);
  expect(straight[1]![1]).toBeGreaterThan(0.4);
  close([inner([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0], 50)[0]!], [[0.45, 0.45, 0]]);
});
