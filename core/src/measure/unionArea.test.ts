import { describe, expect, it } from 'vitest';
import { seededRandom } from '../numeric/random.ts';
import { polygonArea, unionArea } from './unionArea.ts';

const square = (x: number, y: number, side: number) => Float64Array.of(x, y, x + side, y, x + side, y + side, x, y + side);

/** Share of the unit square's points, of a grid, that at least one polygon holds: by half-planes, not by slabs. */
function byPoints(polygons: Float64Array[], n: number): number {
  let inside = 0;
  for (let i = 0; i < n * n; i++) {
    const [x, y] = [((i % n) + 0.5) / n, (Math.floor(i / n) + 0.5) / n];
    const held = polygons.some((p) => {
      for (let k = 0; k < p.length; k += 2) {
        const m = (k + 2) % p.length;
        if ((p[m]! - p[k]!) * (y - p[k + 1]!) - (p[m + 1]! - p[k + 1]!) * (x - p[k]!) < 0) return false;
      }
      return true;
    });
    if (held) inside++;
  }
  return inside / (n * n);
}

function randomTriangles(count: number, seed: number, steps = 0): Float64Array[] {
  const random = seededRandom(seed);
  const number = () => (steps > 0 ? Math.round(random() * steps) / steps : random());
  const found: Float64Array[] = [];
  while (found.length < count) {
    const [ax, ay, bx, by, cx, cy] = [number(), number(), number(), number(), number(), number()] as const;
    const twice = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    if (twice !== 0) found.push(twice > 0 ? Float64Array.of(ax, ay, bx, by, cx, cy) : Float64Array.of(ax, ay, cx, cy, bx, by));
  }
  return found;
}

describe('area of a union of convex polygons', () => {
  it('none, one, one that is the whole', () => {
    expect(unionArea([], 1)).toBe(0);
    expect(unionArea([square(0, 0, 0.5)], 1)).toBe(0.25);
    expect(unionArea([square(0, 0, 0.5), square(0, 0, 1)], 1)).toBe(1);
  });

  it('a hexagram of two triangles is 4/3 of one of them (elementary geometry)', () => {
    const corner = (k: number) => [Math.cos((Math.PI * k) / 6), Math.sin((Math.PI * k) / 6)];
    const [up, down] = [
      [3, 7, 11],
      [1, 5, 9],
    ].map((ks) => Float64Array.from(ks.flatMap(corner))) as [Float64Array, Float64Array];
    expect(unionArea([up, down], 10)).toBeCloseTo((polygonArea(up) * 4) / 3, 12);
  });

  it('side by side, one in the other, twice the same, one that begins where another ends', () => {
    expect(unionArea([square(0, 0, 1), square(1, 0, 1)], 10)).toBeCloseTo(2, 14);
    expect(unionArea([square(0, 0, 1), square(0, 1, 1)], 10)).toBeCloseTo(2, 14);
    expect(unionArea([square(0, 0, 3), square(1, 1, 1)], 10)).toBeCloseTo(9, 14);
    expect(unionArea([square(0, 0, 1), square(0, 0, 1)], 10)).toBeCloseTo(1, 14);
    expect(unionArea([square(0, 0, 1), square(2, 0, 1), square(0.5, 0.5, 2)], 10)).toBeCloseTo(1 + 1 + 4 - 0.25 - 0.25, 14);
  });

  it.each([
    [2, 0],
    [9, 0],
    [30, 0],
    [64, 0],
    [12, 4],
    [40, 6],
  ])('%i triangles (corners on a grid of %i steps): as the points of a grid say', (count, steps) => {
    const triangles = randomTriangles(count, count + steps, steps);
    expect(unionArea(triangles, 10)).toBeCloseTo(byPoints(triangles, 500), 2);
  });

  it('of more than 64, the largest: never more than the whole', () => {
    const triangles = randomTriangles(200, 5);
    const area = unionArea(triangles, 10);
    expect(area).toBeGreaterThan(0.8);
    expect(area).toBeLessThan(byPoints(triangles, 500) + 2e-3);
  });
});
