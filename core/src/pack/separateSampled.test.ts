import clipper from 'clipper-lib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { seededRandom } from '../numeric/random.ts';
import { inscribedCircles, SampledSeparator, type SampledShape } from './separateSampled.ts';
import type { Stand } from './separateNear.ts';

type Point = [number, number];
type Ring = Point[];

/** Edges of rings; the first runs round the solid, others round holes. */
const edgesOf = (rings: Ring[]): Float64Array =>
  Float64Array.from(rings.flatMap((ring) => ring.flatMap(([x, y], k) => [x, y, ring[(k + 1) % ring.length]![0], ring[(k + 1) % ring.length]![1]])));

const box = (half: number): Ring => [
  [-half, -half],
  [half, -half],
  [half, half],
  [-half, half],
];
const frame = (outer: number, inner: number): Ring[] => [box(outer), box(inner).toReversed()];

/** A star-shaped ring with a random radius at each corner. */
function star(seed: number, corners: number, radius: number): Ring {
  const random = seededRandom(seed);
  return Array.from({ length: corners }, (_, k) => {
    const angle = ((k + 0.8 * random()) / corners) * 2 * Math.PI;
    const away = radius * (0.3 + 0.7 * random());
    return [away * Math.cos(angle), away * Math.sin(angle)];
  });
}

const stood = (rings: Ring[], x: number, y: number, angle: number): Ring[] =>
  rings.map((ring) => ring.map(([a, b]) => [x + a * Math.cos(angle) - b * Math.sin(angle), y + a * Math.sin(angle) + b * Math.cos(angle)]));

/** Overlap area of two regions, by clipper-lib. */
function overlap(a: Ring[], b: Ring[]): number {
  const scale = 1e5;
  const paths = (rings: Ring[]) => rings.map((ring) => ring.map(([x, y]) => ({ X: Math.round(x * scale), Y: Math.round(y * scale) })));
  const engine = new clipper.Clipper();
  engine.AddPaths(paths(a), clipper.PolyType.ptSubject, true);
  engine.AddPaths(paths(b), clipper.PolyType.ptClip, true);
  const solution: { X: number; Y: number }[][] = [];
  engine.Execute(clipper.ClipType.ctIntersection, solution, clipper.PolyFillType.pftNonZero, clipper.PolyFillType.pftNonZero);
  return Math.abs(solution.reduce((sum, path) => sum + clipper.Clipper.Area(path), 0)) / scale ** 2;
}

const standOf = (...places: [number, number, number][]): Stand => ({
  x: Float64Array.from(places, ([x]) => x),
  y: Float64Array.from(places, ([, y]) => y),
  angle: Float64Array.from(places, ([, , angle]) => angle),
});

const shape = (rings: Ring[], turns: SampledShape['turns'] = 1, isFixed = false): SampledShape => ({ edges: edgesOf(rings), turns, isFixed });
const never = () => false;

/** What the overlaps of two pieces cost as they stand. */
const costOf = (a: Ring[], b: Ring[], stand: Stand): number => new SampledSeparator([shape(a), shape(b)], 1).run(stand, 1000, 1000, 1, 0, never);

describe('inscribed circles', () => {
  it('are within the region, the largest first, none about a place in another (property)', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 3, max: 24 }), (seed, corners) => {
        const ring = star(seed, corners, 100);
        const circles = inscribedCircles(edgesOf([ring]));
        expect(circles.length).toBeGreaterThan(0);
        for (let k = 0; k < circles.length; k += 3) {
          const [x, y, radius] = [circles[k]!, circles[k + 1]!, circles[k + 2]!];
          expect(radius).toBeLessThanOrEqual(circles[2]! * 1.0001);
          const inscribed: Ring = Array.from({ length: 16 }, (_, s) => [x + radius * Math.cos((s * Math.PI) / 8), y + radius * Math.sin((s * Math.PI) / 8)]);
          const whole = overlap([inscribed], [inscribed]);
          expect(overlap([inscribed], [ring])).toBeGreaterThan(whole * (1 - 1e-6) - 1e-4);
          for (let j = 0; j < k; j += 3) expect(Math.hypot(circles[j]! - x, circles[j + 1]! - y)).toBeGreaterThanOrEqual(circles[j + 2]!);
        }
      }),
      { numRuns: 60 },
    );
  });

  it('of a square and of a frame are as large as they can be', () => {
    expect(inscribedCircles(edgesOf([box(10)]))[2]).toBeGreaterThan(9.9);
    const [x, y, radius] = inscribedCircles(edgesOf(frame(10, 6)));
    expect(radius!).toBeGreaterThan(1.8);
    expect(Math.max(Math.abs(x!), Math.abs(y!))).toBeGreaterThan(6);
  });
});

describe('pieces that are separated by trying places', () => {
  it('overlap exactly where clipper-lib says so, at any angle (property)', () => {
    let both = 0;
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.integer({ min: 3, max: 20 }),
        fc.integer({ min: 3, max: 20 }),
        fc.tuple(fc.double({ min: -1, max: 1, noNaN: true }), fc.double({ min: -1, max: 1, noNaN: true })),
        fc.tuple(fc.double({ min: 0, max: 6, noNaN: true }), fc.double({ min: 0, max: 6, noNaN: true })),
        (seed, m, n, [dx, dy], [first, second]) => {
          const [a, b] = [star(seed, m, 100), star(seed + 1, n, 80)];
          const area = overlap(stood([a], 500, 500, first), stood([b], 500 + dx * 150, 500 + dy * 150, second));
          const cost = costOf([a], [b], standOf([500, 500, first], [500 + dx * 150, 500 + dy * 150, second]));
          // single precision tells no less than this
          if (area > 1e-2) expect(cost).toBeGreaterThan(0);
          if (area === 0) expect(cost).toBe(0);
          both += area > 1e-2 ? 1 : 0;
        },
      ),
      { numRuns: 400 },
    );
    expect(both).toBeGreaterThan(50);
  });

  it('lie free in a hole, and not over one, nor within one another', () => {
    const at = (x: number) => standOf([500, 500, 0], [500 + x, 500, 0]);
    expect(costOf(frame(100, 60), [box(50)], at(0))).toBe(0);
    expect(costOf(frame(100, 60), [box(50)], at(15))).toBeGreaterThan(0);
    expect(costOf(frame(100, 60), [box(80)], at(0))).toBeGreaterThan(0);
    expect(costOf([box(100)], [box(10)], at(50))).toBeGreaterThan(0);
    expect(costOf([box(10)], [box(100)], at(50))).toBeGreaterThan(0);
    // a frame in the solid of a wide one, round its hole: no borders cross, nor is either's middle in the other
    expect(costOf(frame(100, 20), frame(60, 40), at(0))).toBeGreaterThan(0);
    expect(costOf(frame(60, 40), frame(100, 20), at(0))).toBeGreaterThan(0);
    expect(costOf(frame(100, 60), frame(50, 40), at(0))).toBe(0);
  });

  it('come apart within the sheet, turned only as they may be; fixed ones stay; the same seed gives the same', () => {
    const rings = [1, 2, 3, 4, 5, 6].map((seed) => [star(seed, 9, 60)]);
    const turns: SampledShape['turns'][] = [0, 4, 1, 2, 0, 1];
    const begin = () => standOf(...rings.map((_, i): [number, number, number] => [150 + i, 150 - i, i === 1 ? Math.PI / 2 : 0]));
    const apart = (seed: number) => {
      const stand = begin();
      const separator = new SampledSeparator(
        rings.map((own, i) => shape(own, turns[i], i === 5)),
        seed,
      );
      expect(separator.run(stand, 300, 300, 1.1, 200, never)).toBe(0);
      return stand;
    };
    const stand = apart(7);
    const placed = rings.map((own, i) =>
      stood(
        own.map((ring) => ring.map(([x, y]): Point => [x * (i === 5 ? 1 : 1.1), y * (i === 5 ? 1 : 1.1)])),
        stand.x[i]!,
        stand.y[i]!,
        stand.angle[i]!,
      ),
    );
    placed.forEach((own, i) => {
      for (let j = 0; j < i; j++) expect(overlap(own, placed[j]!)).toBeLessThan(1e-2);
      for (const [x, y] of own[0]!) {
        expect(Math.min(x, y)).toBeGreaterThan(-1e-3);
        expect(Math.max(x, y)).toBeLessThan(300.001);
      }
    });
    expect([stand.x[5], stand.y[5], stand.angle[5]]).toEqual([155, 145, 0]);
    expect(stand.angle[2]).toBe(0);
    expect((stand.angle[1]! / (Math.PI / 2)) % 1).toBe(0);
    expect((stand.angle[3]! / Math.PI) % 1).toBe(0);
    expect(apart(7)).toEqual(stand);
    expect(apart(8)).not.toEqual(stand);
  });

  it('larger than the sheet are told; what cannot come apart leaves its cost', () => {
    expect(new SampledSeparator([shape([box(100)], 4)], 1).run(standOf([50, 50, 0]), 150, 150, 1, 10, never)).toBe(Infinity);
    const two = new SampledSeparator([shape([box(60)], 0), shape([box(60)], 0)], 1);
    const left = two.run(standOf([75, 75, 0], [75, 75, 0]), 150, 150, 1, 10, never);
    expect(left).toBeGreaterThan(0);
    expect(left).toBeLessThan(Infinity);
  });
});
