import clipper from 'clipper-lib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import { seededRandom } from '../numeric/random.ts';
import { islandsOf } from '../uv/islands.ts';
import { uvSetFrom, type UvSet } from '../uv/uvSet.ts';
import { leastDistance } from './clearance.ts';
import { doubleArea, offsetEdges, outlinesOf, simplifiedOutline, simplifiedOutward } from './outline.ts';
import { packBest } from './packBest.ts';
import { packLayout, Unfinished } from './pack.ts';
import type { PackOptions } from './packing.ts';
import { bestFit, solidity, uprightTurn } from './upright.ts';

type Polygon = [number, number][];

/** Each list of faces is an island: polygons that share their corners where these are the same. */
function islandsFrom(list: Polygon[][]): { mesh: Mesh; set: UvSet } {
  const points: number[] = [];
  const faces: number[][] = [];
  for (const polygons of list) {
    const seen = new Map<string, number>();
    for (const polygon of polygons) {
      faces.push(
        polygon.map(([x, y]) => {
          const key = `${x},${y}`;
          if (!seen.has(key)) {
            seen.set(key, points.length / 3);
            points.push(x, y, 0);
          }
          return seen.get(key)!;
        }),
      );
    }
  }
  const mesh = meshFromFaces(points, faces);
  const uv = new Float64Array((points.length / 3) * 2);
  for (let p = 0; p < uv.length / 2; p++) uv.set([points[p * 3]!, points[p * 3 + 1]!], p * 2);
  return { mesh, set: uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), uv) };
}

const square = (x: number, y: number, side: number): Polygon => [
  [x, y],
  [x + side, y],
  [x + side, y + side],
  [x, y + side],
];

/** Faces of each island on the sheet, px. */
const facesPx = ({ mesh }: { mesh: Mesh }, set: UvSet, width: number, height: number): Polygon[][] => {
  const islands = islandsOf(mesh, set);
  return Array.from({ length: islands.count }, (_, i) =>
    [...islands.faces.subarray(islands.start[i], islands.start[i + 1])].map((f) => {
      const polygon: Polygon = [];
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++)
        polygon.push([set.uv[set.cornerUv[c]! * 2]! * width, set.uv[set.cornerUv[c]! * 2 + 1]! * height]);
      return polygon;
    }),
  );
};

const toSegment = (p: [number, number], a: [number, number], b: [number, number]) => {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const t = Math.max(0, Math.min(1, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / (dx * dx + dy * dy || 1)));
  return Math.hypot(p[0] - a[0] - t * dx, p[1] - a[1] - t * dy);
};

/** Overlap area of two islands by clipper-lib (whole numbers of 1e-4 px), and their least distance by every point against every edge. */
function between(a: Polygon[], b: Polygon[]): { overlap: number; distance: number } {
  const scale = 1e4;
  const paths = (polygons: Polygon[]) =>
    polygons
      .map((polygon) => polygon.map(([x, y]) => ({ X: Math.round(x * scale), Y: Math.round(y * scale) })))
      .map((path) => (clipper.Clipper.Orientation(path) ? path : path.toReversed()));
  const engine = new clipper.Clipper();
  engine.AddPaths(paths(a), clipper.PolyType.ptSubject, true);
  engine.AddPaths(paths(b), clipper.PolyType.ptClip, true);
  const solution: { X: number; Y: number }[][] = [];
  engine.Execute(clipper.ClipType.ctIntersection, solution, clipper.PolyFillType.pftNonZero, clipper.PolyFillType.pftNonZero);
  const overlap = solution.reduce((sum, path) => sum + Math.abs(clipper.Clipper.Area(path)), 0) / scale ** 2;
  let distance = Infinity;
  for (const [one, other] of [
    [a, b],
    [b, a],
  ] as const)
    for (const polygon of one)
      for (const p of polygon)
        for (const q of other) for (let k = 0; k < q.length; k++) distance = Math.min(distance, toSegment(p, q[k]!, q[(k + 1) % q.length]!));
  return { overlap, distance };
}

/** What is wrong with a layout, by means that packing does not use. */
function judged(form: { mesh: Mesh; set: UvSet }, set: UvSet, { width, height }: { width: number; height: number }) {
  const islands = facesPx(form, set, width, height);
  let [overlap, distance, border] = [0, Infinity, Infinity];
  for (let i = 0; i < islands.length; i++) {
    for (const polygon of islands[i]!) for (const [x, y] of polygon) border = Math.min(border, x, y, width - x, height - y);
    for (let j = 0; j < i; j++) {
      const pair = between(islands[i]!, islands[j]!);
      overlap += pair.overlap;
      distance = Math.min(distance, pair.distance);
    }
  }
  return { overlap, distance, border };
}

/** Lengths of all edges of the faces, and the sign of their area: what a rigid motion and one scale keep. */
const lengths = (mesh: Mesh, set: UvSet) => {
  const out: number[] = [];
  for (let f = 0; f + 1 < mesh.faceStart.length; f++)
    for (let c = mesh.faceStart[f]! + 1; c < mesh.faceStart[f + 1]!; c++) {
      const [a, b] = [set.cornerUv[c - 1]! * 2, set.cornerUv[c]! * 2];
      out.push(Math.hypot(set.uv[a]! - set.uv[b]!, set.uv[a + 1]! - set.uv[b + 1]!));
    }
  return out;
};

/** Shapes of many kinds: stars with bays, slivers, single triangles, frames with a hole. */
function anyShape(random: () => number): Polygon[] {
  const size = 0.03 + 0.1 * random();
  const kind = Math.floor(random() * 4);
  if (kind === 0)
    return [
      [
        [0, 0],
        [size * 4, size * 0.02],
        [size * 4, size * 0.03 + 0.001],
      ],
    ];
  if (kind === 1)
    return [
      [
        [0, 0],
        [size, 0],
        [size * random(), size],
      ],
    ];
  if (kind === 2) {
    // a frame of four trapezoids
    const [a, b] = [size, size * 2];
    const outer = square(-b, -b, 2 * b);
    const inner = square(-a, -a, 2 * a);
    return [0, 1, 2, 3].map((k): Polygon => [outer[k]!, outer[(k + 1) % 4]!, inner[(k + 1) % 4]!, inner[k]!]);
  }
  const sides = 5 + Math.floor(random() * 6);
  return [
    Array.from({ length: sides }, (_, k): [number, number] => {
      const radius = size * (0.35 + 0.65 * random());
      return [radius * Math.cos((2 * Math.PI * k) / sides), radius * Math.sin((2 * Math.PI * k) / sides)];
    }),
  ];
}

/** Stars of like size: no single one of them sets the scale. */
const stars = (random: () => number, count: number): Polygon[][] =>
  Array.from({ length: count }, () => {
    const sides = 5 + Math.floor(random() * 6);
    const corner = (k: number): [number, number] => {
      const radius = 0.1 * (0.35 + 0.65 * random());
      return [radius * Math.cos((2 * Math.PI * k) / sides), radius * Math.sin((2 * Math.PI * k) / sides)];
    };
    return [Array.from({ length: sides }, (_, k) => corner(k))];
  });

const base: PackOptions = { width: 512, height: 512, gap: 0, borderGap: 0, turn: 'quarter', keepScale: false, effort: 1 };

describe('the search for a tight layout', () => {
  it('never overlaps, never breaks a gap, never leaves the sheet, keeps every shape (property; clipper-lib, and distances by brute force)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 14 }),
        fc.nat(10_000),
        fc.constantFrom(0, 2, 6),
        fc.constantFrom(0, 3, 8),
        fc.constantFrom('none' as const, 'half' as const, 'quarter' as const, 'free' as const),
        fc.constantFrom([512, 512], [800, 400]),
        (count, seed, gap, borderGap, turn, size) => {
          const random = seededRandom(seed);
          const form = islandsFrom(Array.from({ length: count }, () => anyShape(random)));
          const [width, height] = size as [number, number];
          const { set, report } = packBest(form.mesh, form.set, { ...base, width, height, gap, borderGap, turn, seed, effort: 0, seconds: 0.3 });
          const { overlap, distance, border } = judged(form, set, { width, height });
          expect(overlap).toBeLessThan(1e-3);
          expect(distance).toBeGreaterThanOrEqual(gap - 1e-5);
          expect(border).toBeGreaterThanOrEqual(borderGap - 1e-5);
          const [before, after] = [
            lengths(form.mesh, { ...form.set, uv: form.set.uv.map((v, k) => v * (k % 2 ? height : width)) }),
            lengths(form.mesh, { ...set, uv: set.uv.map((v, k) => v * (k % 2 ? height : width)) }),
          ];
          after.forEach((length, k) => expect(length).toBeCloseTo(before[k]! * report.scale, 6));
        },
      ),
      { numRuns: 25 },
    );
  }, 120_000);

  it('packs five and ten unit squares with free turns within 3 % of the best known squares (E. Friedman, Packing Unit Squares in Squares, Electronic Journal of Combinatorics)', () => {
    for (const [count, best, effort] of [
      [5, 2 + Math.SQRT1_2, 1],
      [10, 3 + Math.SQRT1_2, 2],
    ] as const) {
      const form = islandsFrom(Array.from({ length: count }, (_, k) => [square(k * 2, 0, 1)]));
      // one unit is 100 px
      const { report } = packBest(form.mesh, { ...form.set, uv: form.set.uv.map((v) => v / 10) }, { ...base, width: 1000, height: 1000, turn: 'free', effort });
      const side = 1000 / (100 * report.scale);
      expect(side, `${count} squares`).toBeLessThan(best * 1.03);
      expect(side, `${count} squares`).toBeGreaterThan(best - 1e-6);
    }
  }, 120_000);

  it('lays identical shapes as a person would: sixteen squares fill the sheet', () => {
    const form = islandsFrom(Array.from({ length: 16 }, (_, k) => [square(k * 2, 0, 1)]));
    const { report } = packBest(form.mesh, form.set, { ...base });
    expect(report.coverage).toBeGreaterThan(0.99);
  }, 60_000);

  it('gives the same layout for the same seed, is never worse for more effort, nor for free turns', () => {
    const random = seededRandom(3);
    const form = islandsFrom(Array.from({ length: 8 }, () => anyShape(random)));
    const one = packBest(form.mesh, form.set, { ...base, seed: 4 });
    const again = packBest(form.mesh, form.set, { ...base, seed: 4 });
    expect(again.set.uv).toEqual(one.set.uv);
    const more = packBest(form.mesh, form.set, { ...base, seed: 4, effort: 2 });
    expect(more.report.coverage).toBeGreaterThanOrEqual(one.report.coverage);
    const free = packBest(form.mesh, form.set, { ...base, seed: 4, turn: 'free' });
    expect(free.report.coverage).toBeGreaterThanOrEqual(one.report.coverage);
    expect(one.report.coverage).toBeGreaterThan(packLayout(form.mesh, form.set, { ...base, resolution: 512 }).report.coverage);
  }, 120_000);

  it('turns each island only as it may be turned itself, whatever the others may; eighths are exact', () => {
    const form = islandsFrom(stars(seededRandom(11), 12));
    const turnOf = { 0: 'none', 1: 'none', 2: 'quarter', 3: 'quarter', 4: 'half', 5: 'eighth', 6: 'eighth', 7: 'eighth' } as const;
    const parts = { none: 1, half: 2, quarter: 4, eighth: 8 } as const;
    const { set } = packBest(form.mesh, form.set, { ...base, turn: 'free', turnOf });
    const islands = islandsOf(form.mesh, form.set);
    const { cornerUv } = form.set;
    const turn = (i: number) => {
      const c = form.mesh.faceStart[islands.faces[islands.start[i]!]!]!;
      const heading = (uv: Float64Array) =>
        Math.atan2(uv[cornerUv[c + 1]! * 2 + 1]! - uv[cornerUv[c]! * 2 + 1]!, uv[cornerUv[c + 1]! * 2]! - uv[cornerUv[c]! * 2]!);
      return (heading(set.uv) - heading(form.set.uv)) / (2 * Math.PI);
    };
    for (const [i, kind] of Object.entries(turnOf)) {
      const turns = turn(Number(i)) * parts[kind];
      expect(Math.abs(turns - Math.round(turns))).toBeLessThan(1e-6);
    }
    // the others make use of it
    expect([8, 9, 10, 11].some((i) => Math.abs(turn(i) * 8 - Math.round(turn(i) * 8)) > 1e-3)).toBe(true);
  }, 60_000);

  it('packs round islands that stay, with the gap to them, and leaves them as they are', () => {
    const random = seededRandom(8);
    const list = [[square(0.3, 0.3, 0.4)], ...Array.from({ length: 8 }, () => anyShape(random))];
    const form = islandsFrom(list);
    const { set } = packBest(form.mesh, form.set, { ...base, gap: 4, borderGap: 4, islands: [1, 2, 3, 4, 5, 6, 7, 8] });
    expect([...set.uv.subarray(0, 8)]).toEqual([...form.set.uv.subarray(0, 8)]);
    const { overlap, distance, border } = judged(form, set, base);
    expect(overlap).toBe(0);
    expect(distance).toBeGreaterThanOrEqual(4 - 1e-5);
    expect(border).toBeGreaterThanOrEqual(4 - 1e-5);
  }, 60_000);

  it('goes over the whole sheet where islands stay in the way, too', () => {
    const form = islandsFrom([[square(0.3, 0.6, 0.3)], ...stars(seededRandom(8), 14)]);
    const options = { ...base, gap: 4, borderGap: 4, islands: Array.from({ length: 14 }, (_, i) => i + 1) };
    const [first, some, far] = [0, 1, 2].map((effort) => packBest(form.mesh, form.set, { ...options, effort }));
    // near by alone it grows by 7 %
    expect(some!.report.scale).toBeGreaterThan(first!.report.scale * 1.085);
    expect(far!.report.scale).toBeGreaterThanOrEqual(some!.report.scale);
    expect([...far!.set.uv.subarray(0, 8)]).toEqual([...form.set.uv.subarray(0, 8)]);
    const { overlap, distance, border } = judged(form, far!.set, base);
    expect(overlap).toBe(0);
    expect(Math.min(distance, border)).toBeGreaterThanOrEqual(4 - 1e-5);
  }, 60_000);

  it('tells of better layouts as it goes, takes the best so far when stopped, and is cancelled with nothing done', () => {
    const random = seededRandom(5);
    const form = islandsFrom(Array.from({ length: 20 }, () => anyShape(random)));
    const found: number[] = [];
    const { report } = packBest(form.mesh, form.set, { ...base, effort: 5 }, undefined, {
      better: ({ coverage }) => found.push(coverage),
      isStopped: () => found.length >= 4,
    });
    expect(found.length).toBeGreaterThanOrEqual(4);
    expect(found).toEqual([...found].sort((a, b) => a - b));
    expect(report.coverage).toBe(found.at(-1));
    const cancelled = {
      progress: () => {},
      throwIfCancelled: () => {
        throw new Error('cancelled');
      },
    };
    expect(() => packBest(form.mesh, form.set, { ...base, effort: 5 }, cancelled)).toThrow('cancelled');
  }, 60_000);

  it('of many islands tells of rows of boxes before the raster is through; stopped there, or where the raster takes too long, it is these that are had', () => {
    const random = seededRandom(11);
    const sliver = (k: number): Polygon[] => {
      const [along, wide, angle] = [0.4 + 0.5 * random(), 0.004 + 0.01 * random(), random() * Math.PI];
      return [
        [
          [0, 0],
          [along, 0],
          [along, wide],
          [0, wide],
        ].map(([x, y]): [number, number] => [k + x! * Math.cos(angle) - y! * Math.sin(angle), x! * Math.sin(angle) + y! * Math.cos(angle)]),
      ];
    };
    const form = islandsFrom(Array.from({ length: 90 }, (_, k) => sliver(k)));
    const found: number[] = [];
    const asked = { ...base, gap: 2, borderGap: 2, turn: 'none' as const, effort: 1 };
    const { set, report } = packBest(form.mesh, form.set, asked, undefined, {
      better: ({ coverage }) => found.push(coverage),
      isStopped: () => found.length > 0,
    });
    expect(found).toHaveLength(1);
    expect(report.coverage).toBe(found[0]);
    expect(leastDistance(outlinesOf(form.mesh, set, base.width, base.height), 3)).toBeGreaterThanOrEqual(2 - 1e-6);
    // a raster that may do no work is given up; one that may do some ends with the best that it has found
    expect(() => packLayout(form.mesh, form.set, { ...asked, mostWork: 10 })).toThrow(Unfinished);
    const whole = packLayout(form.mesh, form.set, { ...asked, mostWork: 1e9 });
    expect(whole.report.coverage).toBeGreaterThan(report.coverage);
    const scales: number[] = [];
    const some = packLayout(form.mesh, form.set, { ...asked, mostWork: 1e6 }, undefined, (scale) => scales.push(scale));
    expect(some.report.scale).toBe(scales.at(-1));
    expect(some.report.coverage).toBeGreaterThan(report.coverage);
    expect(some.report.coverage).toBeLessThan(whole.report.coverage);
    expect(leastDistance(outlinesOf(form.mesh, some.set, base.width, base.height), 3)).toBeGreaterThanOrEqual(2 - 1e-6);
  });

  it('round an island that stays tells of what the raster has found so far, each better than the one before; stopped there, it is that which is had', () => {
    const random = seededRandom(5);
    const box = (x: number, y: number, w: number, h: number): Polygon[] => [
      [
        [x, y],
        [x + w, y],
        [x + w, y + h],
        [x, y + h],
      ],
    ];
    const form = islandsFrom([...Array.from({ length: 80 }, (_, k) => box(k + 1, 0, 0.05 + 0.3 * random(), 0.05 + 0.1 * random())), box(0.4, 0.3, 0.2, 0.3)]);
    const islands = Array.from({ length: 80 }, (_, i) => i);
    const asked = { ...base, gap: 2, borderGap: 2, turn: 'quarter' as const, effort: 1, islands };
    const run = (most: number) => {
      const found: { scale: number; uv: Float64Array }[] = [];
      const { set, report } = packBest(form.mesh, form.set, asked, undefined, {
        better: ({ scale, uv }) => found.push({ scale, uv: uv() }),
        isStopped: () => found.length >= most,
      });
      return { found, set, report };
    };
    const { found, set, report } = run(1);
    expect(report.scale).toBe(found[0]!.scale);
    expect(set.uv).toEqual(found[0]!.uv);
    const all = run(Infinity);
    const scales = all.found.map(({ scale }) => scale);
    expect(scales.length).toBeGreaterThan(2);
    expect(scales).toEqual([...scales].sort((a, b) => a - b));
    for (const { uv } of all.found)
      expect(leastDistance(outlinesOf(form.mesh, { ...form.set, uv }, base.width, base.height), 3)).toBeGreaterThanOrEqual(2 - 1e-5);
    expect(all.report.scale).toBe(scales.at(-1));
  });

  it('keeps the heading of islands that are to keep it, and lays others upright', () => {
    // a rectangle askew, and one that is to stay so
    const askew = (x: number, angle: number): Polygon =>
      [
        [0, 0],
        [0.3, 0],
        [0.3, 0.1],
        [0, 0.1],
      ].map(([u, v]): [number, number] => [x + u! * Math.cos(angle) - v! * Math.sin(angle), u! * Math.sin(angle) + v! * Math.cos(angle)]);
    const form = islandsFrom([[askew(0, 0.5)], [askew(0.5, 0.5)]]);
    const { set, report } = packBest(form.mesh, form.set, { ...base, upright: [0], turnOf: { 1: 'none' } });
    const heading = (island: number) => Math.atan2(set.uv[island * 8 + 3]! - set.uv[island * 8 + 1]!, set.uv[island * 8 + 2]! - set.uv[island * 8]!);
    expect(report.turned).toBe(1);
    expect(Math.abs(Math.sin(2 * heading(0)))).toBeLessThan(1e-9);
    expect(heading(1)).toBeCloseTo(0.5, 9);
  }, 60_000);
});

describe('the least distance', () => {
  it('is that of every point to every edge; crossing and holding are told (against clipper-lib and brute force)', () => {
    const random = seededRandom(2);
    for (let n = 0; n < 300; n++) {
      const [a, b] = [anyShape(random), anyShape(random)];
      const shift: [number, number] = [(random() - 0.5) * 0.8, (random() - 0.5) * 0.8];
      const form = islandsFrom([a, b.map((polygon) => polygon.map(([x, y]): [number, number] => [x + shift[0], y + shift[1]]))]);
      const [one, other] = facesPx(form, form.set, 100, 100);
      const told = leastDistance(outlinesOf(form.mesh, form.set, 100, 100), 1000);
      const { overlap, distance } = between(one!, other!);
      if (overlap > 1e-6) expect(told).toBe(-1);
      else expect(told).toBeCloseTo(distance, 9);
    }
  });
});

describe('outlines', () => {
  it('are those of the faces together, holes included', () => {
    const [a, b] = [1, 2];
    const outer = square(-b, -b, 2 * b);
    const inner = square(-a, -a, 2 * a);
    const form = islandsFrom([[0, 1, 2, 3].map((k): Polygon => [outer[k]!, outer[(k + 1) % 4]!, inner[(k + 1) % 4]!, inner[k]!])]);
    const [loops] = outlinesOf(form.mesh, form.set, 10, 10);
    expect(loops!.map((loop) => doubleArea(loop) / 2).sort((x, y) => x - y)).toEqual([-400, 1600]);
    // mirrored on the sheet: the solid stays on the left
    const [turnedRound] = outlinesOf(form.mesh, { ...form.set, uv: form.set.uv.map((v, k) => (k % 2 ? v : -v)) }, 10, 10);
    expect(turnedRound!.map((loop) => doubleArea(loop) / 2).sort((x, y) => x - y)).toEqual([-400, 1600]);
  });

  it('simplified outward hold all of the shape and stay within the tolerance (property; clipper-lib)', () => {
    fc.assert(
      fc.property(fc.nat(10_000), (seed) => {
        const random = seededRandom(seed);
        const count = 40;
        const loop = new Float64Array(count * 2);
        for (let k = 0; k < count; k++) {
          const radius = 100 * (0.7 + 0.3 * random());
          loop.set([radius * Math.cos((2 * Math.PI * k) / count), radius * Math.sin((2 * Math.PI * k) / count)], k * 2);
        }
        const simple = simplifiedOutward(loop, 5);
        const polygon = (from: Float64Array): Polygon => Array.from({ length: from.length / 2 }, (_, k) => [from[k * 2]!, from[k * 2 + 1]!]);
        // all of the old is in the new: their intersection has the area of the old
        expect(between([polygon(loop)], [polygon(simple)]).overlap).toBeGreaterThan(doubleArea(loop) / 2 - 0.05);
        for (const p of polygon(simple))
          expect(Math.min(...polygon(loop).map((a, k, all) => toSegment(p, a, all[(k + 1) % all.length]!)))).toBeLessThanOrEqual(5 * 2);
        expect(simple.length).toBeLessThan(loop.length);
      }),
      { numRuns: 100 },
    );
  });

  it('of thousands of points become short for a search, and still hold all of the shape', () => {
    const random = seededRandom(2);
    const ring = (teeth: number) => {
      const points = Array.from({ length: 3000 }, (_, k): [number, number] => {
        const angle = (2 * Math.PI * k) / 3000;
        const radius = 100 + 30 * Math.sin(7 * angle) + teeth * random();
        return [radius * Math.cos(angle), radius * Math.sin(angle)];
      });
      return Float64Array.from(points.flat());
    };
    const polygon = (loop: Float64Array): Polygon => Array.from({ length: loop.length / 2 }, (_, k) => [loop[k * 2]!, loop[k * 2 + 1]!]);
    // smooth, finely ragged, and steep teeth all along, which no simplification by little takes away
    for (const [teeth, most] of [
      [0, 400],
      [0.1, 400],
      [8, 800],
    ] as const) {
      const loop = ring(teeth);
      const [simple, ...others] = simplifiedOutline([loop], 1, 0.01);
      expect(others).toEqual([]);
      expect(simple!.length / 2).toBeLessThanOrEqual(most);
      expect(between([polygon(loop)], [polygon(simple!)]).overlap).toBeGreaterThan((doubleArea(loop) / 2) * (1 - 1e-6));
    }
  });

  it('moved outward are nowhere nearer than asked, and hardly further', () => {
    const edges = offsetEdges([Float64Array.from([0, 0, 10, 0, 10, 10, 5, 3, 0, 10])], 2);
    const shape: Polygon = [
      [0, 0],
      [10, 0],
      [10, 10],
      [5, 3],
      [0, 10],
    ];
    for (let k = 0; k < edges.length; k += 2) {
      const away = Math.min(...shape.map((a, j) => toSegment([edges[k]!, edges[k + 1]!], a, shape[(j + 1) % shape.length]!)));
      expect(away).toBeLessThanOrEqual(2 / Math.cos(Math.PI / 10) + 1e-9);
    }
    // right of the rightmost edge
    expect(Math.max(...edges.filter((_, k) => k % 2 === 0))).toBeGreaterThanOrEqual(12 - 1e-9);
  });

  it('moved outward hold all that is nearer than the distance, and little else (property; round offsets of clipper-lib)', () => {
    const unit = 1e4;
    const arcs = Math.PI / 5;
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.integer({ min: 5, max: 40 }),
        fc.double({ min: 0.02, max: 3, noNaN: true }),
        (seed, corners, distance) => {
          const random = seededRandom(seed);
          const points = Array.from({ length: corners }, (_, k): [number, number] => {
            const angle = ((k + 0.8 * random()) / corners) * 2 * Math.PI;
            const radius = 4 + 6 * random() ** 2;
            return [radius * Math.cos(angle), radius * Math.sin(angle)];
          });
          const edges = offsetEdges([Float64Array.from(points.flat())], distance);
          const moved = Array.from({ length: edges.length / 4 }, (_, k) => ({ X: Math.round(edges[k * 4]! * unit), Y: Math.round(edges[k * 4 + 1]! * unit) }));
          const path = points.map(([x, y]) => ({ X: Math.round(x * unit), Y: Math.round(y * unit) }));
          const offset = new clipper.ClipperOffset(2, 1e-4 * unit);
          offset.AddPaths([path], clipper.JoinType.jtRound, clipper.EndType.etClosedPolygon);
          const round: { X: number; Y: number }[][] = [];
          offset.Execute(round, distance * unit);
          const areaOf = (paths: { X: number; Y: number }[][]) => paths.reduce((sum, one) => sum + clipper.Clipper.Area(one), 0) / unit ** 2;
          const both = (type: number) => {
            const cut = new clipper.Clipper();
            cut.AddPaths([moved], clipper.PolyType.ptSubject, true);
            cut.AddPaths(round, clipper.PolyType.ptClip, true);
            const out: { X: number; Y: number }[][] = [];
            cut.Execute(type, out, clipper.PolyFillType.pftNonZero, clipper.PolyFillType.pftNonZero);
            return areaOf(out);
          };
          const shared = both(clipper.ClipType.ctIntersection);
          expect(areaOf(round) - shared).toBeLessThan(2e-3 * areaOf(round));
          // beyond the circle a sector of a step has its two corners, and all corners that stand out turn by so much together
          let turning = 0;
          points.forEach(([x, y], k) => {
            const [px, py] = points.at(k - 1)!;
            const [nx, ny] = points[(k + 1) % corners]!;
            turning += Math.max(0, Math.atan2((x - px) * (ny - y) - (y - py) * (nx - x), (x - px) * (nx - x) + (y - py) * (ny - y)));
          });
          const corner = (turning / 2) * distance ** 2 * (Math.tan(arcs / 2) / (arcs / 2) - 1);
          expect(both(clipper.ClipType.ctUnion) - areaOf(round)).toBeLessThan(corner + 2e-3 * areaOf(round));
        },
      ),
      { numRuns: 60 },
    );
    // an edge each where no corner turns by more than a step: of a regular polygon of twelve, as many
    const twelve = Float64Array.from(Array.from({ length: 12 }, (_, k) => [Math.cos((k * Math.PI) / 6), Math.sin((k * Math.PI) / 6)]).flat());
    expect(offsetEdges([twelve], 0.3).length / 4).toBe(12);
    // and of a bay whose edges are long enough for that, none more
    expect(offsetEdges([Float64Array.from([0, 0, 40, 0, 40, 40, 20, 10, 0, 40])], 0.1, 3).length / 4).toBe(5);
  });

  it('are laid upright by the least box, and say how spidery they are', () => {
    const turned = Float64Array.from(
      [0, 0, 30, 0, 30, 10, 0, 10].map((_, k, all) =>
        k % 2 === 0 ? all[k]! * Math.cos(0.3) - all[k + 1]! * Math.sin(0.3) : all[k - 1]! * Math.sin(0.3) + all[k]! * Math.cos(0.3),
      ),
    );
    expect(uprightTurn([turned])).toBeCloseTo(-0.3, 9);
    expect(uprightTurn([Float64Array.from([0, 0, 1, 0, 1, 1, 0, 1])])).toBe(0);
    expect(solidity([turned])).toBeCloseTo(1, 9);
    // a cross of five squares: 5 of the 7 that its hull holds
    expect(solidity([Float64Array.from([1, 0, 2, 0, 2, 1, 3, 1, 3, 2, 2, 2, 2, 3, 1, 3, 1, 2, 0, 2, 0, 1, 1, 1])])).toBeCloseTo(5 / 7, 9);
  });

  it('as long as the sheet go along its diagonal where any angle is allowed', () => {
    const strip = [Float64Array.from([0, 0, 100, 0, 100, 1, 0, 1])];
    expect(bestFit(strip, 100, 100, 'quarter')).toEqual({ scale: 1, angle: 0 });
    // a box of (100 + 1) / √2 a side
    expect(bestFit(strip, 100, 100, 'free').scale).toBeCloseTo((100 * Math.SQRT2) / 101, 9);
    expect(bestFit(strip, 200, 50, 'none').scale).toBeCloseTo(2, 12);
    expect(bestFit(strip, 50, 200, 'quarter')).toEqual({ scale: 2, angle: Math.PI / 2 });
    const rectangle = (x: number, y: number, wide: number, tall: number): Polygon[] => [
      [
        [x, y],
        [x + wide, y],
        [x + wide, y + tall],
        [x, y + tall],
      ],
    ];
    const form = islandsFrom([
      rectangle(0, 0, 1, 0.015),
      rectangle(0, 0.1, 1, 0.015),
      ...Array.from({ length: 70 }, (_, k) => rectangle(k / 70, 0.5, 0.01, 0.012)),
    ]);
    const options: PackOptions = { width: 1024, height: 1024, gap: 2, borderGap: 2, turn: 'quarter', keepScale: false, effort: 1 };
    const straight = packBest(form.mesh, form.set, options);
    const diagonal = packBest(form.mesh, form.set, { ...options, turn: 'free' });
    expect(diagonal.report.coverage).toBeGreaterThan(straight.report.coverage * 1.7);
    const found = judged(form, diagonal.set, options);
    expect(found.overlap).toBe(0);
    expect(Math.min(found.distance, found.border)).toBeGreaterThan(2 - 1e-4);
    // rigid but for the one scale
    const [before, after] = [lengths(form.mesh, form.set), lengths(form.mesh, diagonal.set)];
    for (const [k, length] of after.entries()) expect(length / before[k]! / diagonal.report.scale).toBeCloseTo(1, 6);
  });
});
