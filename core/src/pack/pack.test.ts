import fc from 'fast-check';
import { MaxRectsPacker } from 'maxrects-packer/dist/maxrects-packer.mjs';
import { describe, expect, it } from 'vitest';
import { checkLayout } from '../measure/check.ts';
import { meshFromFaces } from '../mesh/mesh.ts';
import { seededRandom } from '../numeric/random.ts';
import { islandsOf } from '../uv/islands.ts';
import { uvSetFrom } from '../uv/uvSet.ts';
import { evenDensity, islandDensities } from './density.ts';
import { packLayout } from './pack.ts';
import type { PackOptions } from './packing.ts';
import { BitRows } from './bitRows.ts';
import { cellsOf } from './fastCells.ts';
import { doubleArea } from './outline.ts';
import { grow, rasterise, rasteriseOutline, shapeFrom, turnRaster } from './shape.ts';
import { TakenCells } from './takenCells.ts';

/** Flat polygons as separate islands, UVs = their own coordinates. */
function polygons(list: number[][]) {
  const points: number[] = [];
  const faces: number[][] = [];
  for (const polygon of list) {
    faces.push(Array.from({ length: polygon.length / 2 }, (_, k) => points.length / 3 + k));
    for (let k = 0; k < polygon.length; k += 2) points.push(polygon[k]!, polygon[k + 1]!, 0);
  }
  const mesh = meshFromFaces(points, faces);
  const uv = new Float64Array((points.length / 3) * 2);
  for (let p = 0; p < uv.length / 2; p++) uv.set([points[p * 3]!, points[p * 3 + 1]!], p * 2);
  return { mesh, set: uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), uv) };
}

const options: PackOptions = { width: 1024, height: 1024, gap: 4, borderGap: 4, turn: 'quarter', keepScale: false };

/** Star-shaped polygons with bays, `count` of them, of mixed size. */
function blobs(count: number, seed: number): number[][] {
  const random = seededRandom(seed);
  return Array.from({ length: count }, () => {
    const sides = 5 + Math.floor(random() * 8);
    const size = 0.02 + 0.1 * random() ** 2;
    return Array.from({ length: sides }, (_, k) => {
      const angle = (2 * Math.PI * k) / sides;
      const radius = size * (0.35 + 0.65 * random());
      return [radius * Math.cos(angle) * (1 + random()), radius * Math.sin(angle)];
    }).flat();
  });
}

describe('packing', () => {
  it('never overlaps, never comes nearer than the gap, never leaves the sheet (property)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 25 }),
        fc.nat(1000),
        fc.constantFrom(0, 1, 3, 8),
        fc.constantFrom('none' as const, 'quarter' as const),
        fc.constantFrom([512, 512], [1024, 512], [300, 700]),
        (count, seed, gap, turn, size) => {
          const { mesh, set } = polygons(blobs(count, seed));
          const [width, height] = size as [number, number];
          const packed = packLayout(mesh, set, { width, height, gap, borderGap: gap, turn, keepScale: false, resolution: 256 });
          const { report } = checkLayout(mesh, packed.set, width, height);
          expect(report.overlapArea).toBeLessThan(1e-12);
          expect(report.outsideArea).toBeLessThan(1e-12);
          expect(report.smallestBorderGapPx!).toBeGreaterThanOrEqual(gap - 1e-6);
          if (report.smallestGapPx !== null) expect(report.smallestGapPx).toBeGreaterThanOrEqual(gap - 1e-6);
        },
      ),
      { numRuns: 25 },
    );
  });

  it('keeps every island’s shape and relative size (property of the common scale)', () => {
    const { mesh, set } = polygons(blobs(12, 5));
    const packed = packLayout(mesh, set, options);
    const islands = islandsOf(mesh, set);
    expect(islands.count).toBe(12);
    for (let c = 0; c < mesh.corners.length; c++) {
      const d = (c + 1) % mesh.corners.length;
      const a = mesh.corners[c]!;
      const b = mesh.corners[d]!;
      const faceOf = (p: number) => [...mesh.faceStart].filter((s) => s <= p).length;
      if (faceOf(c) !== faceOf(d)) continue;
      const before = Math.hypot(set.uv[a * 2]! - set.uv[b * 2]!, set.uv[a * 2 + 1]! - set.uv[b * 2 + 1]!);
      const after = Math.hypot(packed.set.uv[a * 2]! - packed.set.uv[b * 2]!, packed.set.uv[a * 2 + 1]! - packed.set.uv[b * 2 + 1]!);
      expect(after).toBeCloseTo(before * packed.report.scale, 10);
    }
  });

  it('holes are used: a small square goes inside a frame', () => {
    const bar = (x: number, y: number, w: number, h: number) => [x, y, x + w, y, x + w, y + h, x, y + h];
    // a frame of four bars that share corners is one island; the square has room only inside it
    const points = [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 0.1, 0.1, 0, 0.9, 0.1, 0, 0.9, 0.9, 0, 0.1, 0.9, 0];
    const square = bar(2, 0, 0.6, 0.6);
    for (let k = 0; k < 8; k += 2) points.push(square[k]!, square[k + 1]!, 0);
    const mesh = meshFromFaces(points, [
      [0, 1, 5, 4],
      [1, 2, 6, 5],
      [2, 3, 7, 6],
      [3, 0, 4, 7],
      [8, 9, 10, 11],
    ]);
    const uv = new Float64Array(24);
    for (let p = 0; p < 12; p++) uv.set([points[p * 3]!, points[p * 3 + 1]!], p * 2);
    const set = uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), uv);
    const packed = packLayout(mesh, set, { ...options, gap: 2, borderGap: 2 });
    expect(packed.report.scale).toBeGreaterThan(0.97);
  });

  it.each([1, 2, 3])('covers more than rectangles do (maxrects-packer on bounding boxes, set %i)', (seed) => {
    const list = blobs(40, seed);
    const { mesh, set } = polygons(list);
    const packed = packLayout(mesh, set, options);
    // the same islands' boxes, at the scale we reached, do not fit by rectangles
    const packer = new MaxRectsPacker(1024 - 4, 1024 - 4, 4, { smart: false, pot: false, square: false, allowRotation: true, border: 4 });
    packer.addArray(
      list.map((polygon) => {
        const xs = polygon.filter((_, k) => k % 2 === 0);
        const ys = polygon.filter((_, k) => k % 2 === 1);
        const s = packed.report.scale * 1024;
        return { width: (Math.max(...xs) - Math.min(...xs)) * s, height: (Math.max(...ys) - Math.min(...ys)) * s, x: 0, y: 0, rot: false } as never;
      }),
    );
    expect(packer.bins.length).toBeGreaterThan(1);
  });

  it('islands that are not chosen stay where they are and are packed around', () => {
    const { mesh, set } = polygons([
      [0.3, 0.3, 0.7, 0.3, 0.7, 0.7, 0.3, 0.7],
      [2, 0, 2.2, 0, 2.2, 0.2, 2, 0.2],
      [3, 0, 3.1, 0, 3.1, 0.3, 3, 0.3],
    ]);
    const packed = packLayout(mesh, set, { ...options, islands: [1, 2], keepScale: true });
    expect([...packed.set.uv.slice(0, 8)]).toEqual([...set.uv.slice(0, 8)]);
    const { report } = checkLayout(mesh, packed.set, 1024, 1024);
    expect([report.overlapArea, report.outsideArea]).toEqual([0, 0]);
    expect(report.smallestGapPx!).toBeGreaterThanOrEqual(4);
  });

  it('without turns every island keeps its heading', () => {
    const { mesh, set } = polygons([
      [0, 0, 0.5, 0, 0.5, 0.1, 0, 0.1],
      [0, 0, 0.1, 0, 0.1, 0.6, 0, 0.6],
    ]);
    const packed = packLayout(mesh, set, { ...options, turn: 'none' });
    for (const k of [0, 8]) {
      expect(packed.set.uv[k + 1]).toBeCloseTo(packed.set.uv[k + 3]!, 12);
      expect(packed.set.uv[k + 2]! - packed.set.uv[k]!).toBeGreaterThan(0);
    }
  });

  it('says so when the size has to stay and there is no room, or the margin eats the sheet', () => {
    const { mesh, set } = polygons([[0, 0, 2, 0, 2, 2, 0, 2]]);
    expect(() => packLayout(mesh, set, { ...options, keepScale: true })).toThrow(/do not fit/);
    expect(() => packLayout(mesh, set, { ...options, borderGap: 600 })).toThrow(/leaves no room/);
  });
});

describe('density', () => {
  it('becomes even, islands stay about their middle', () => {
    const { mesh, set } = polygons([
      [0, 0, 0.2, 0, 0.2, 0.2, 0, 0.2],
      [1, 0, 1.4, 0, 1.4, 0.4, 1, 0.4],
    ]);
    const uneven = { ...set, uv: set.uv.map((x, k) => (k < 8 ? x * 2 : x)) };
    const even = evenDensity(mesh, uneven, 1000, 1000, 512);
    expect(islandDensities(mesh, even.set, 1000, 1000).map((d) => d.density)).toEqual([expect.closeTo(512, 8), expect.closeTo(512, 8)]);
    expect(even.set.uv[8]! + even.set.uv[10]!).toBeCloseTo(uneven.uv[8]! + uneven.uv[10]!, 12);
  });
});

describe('raster', () => {
  it('a triangle takes every cell it touches and no other (against a test of each cell by clipping)', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0.01, max: 15.99, noNaN: true }), { minLength: 6, maxLength: 6 }), (t) => {
        const raster = rasterise(Float64Array.from(t), 17, 17);
        for (let y = 0; y < 17; y++) {
          for (let x = 0; x < 17; x++) {
            // a touch within rounding of a corner may be seen or not
            if (meets(t, x, y, 1e-9)) expect(raster.get(x, y)).toBe(true);
            else if (!meets(t, x, y, -1e-9)) expect(raster.get(x, y)).toBe(false);
          }
        }
      }),
      { numRuns: 60 },
    );
  });

  /** A ring about a hole, its corners at the same angles: its two borders, and its triangles. */
  function ring(random: () => number, corners: number, size: number): { loops: Float64Array[]; triangles: Float64Array } {
    const at = Array.from({ length: corners }, (_, k) => {
      const angle = ((k + 0.8 * random()) / corners) * 2 * Math.PI;
      const outer = size * (0.2 + 0.29 * random());
      const point = (radius: number): [number, number] => [size / 2 + radius * Math.cos(angle), size / 2 + radius * Math.sin(angle)];
      return { outer: point(outer), inner: point(outer * 0.7 * random()) };
    });
    const triangles = at.flatMap(({ outer, inner }, k) => {
      const next = at[(k + 1) % corners]!;
      return [inner, outer, next.outer, inner, next.outer, next.inner].flat();
    });
    const outside = Float64Array.from(at.flatMap(({ outer }) => outer));
    const inside = Float64Array.from(
      at
        .map(({ inner }) => inner)
        .reverse()
        .flat(),
    );
    return { loops: [outside, inside], triangles: Float64Array.from(triangles) };
  }

  it('by the borders of a region is that of its triangles, holes and slivers among them (property)', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 3, max: 30 }), fc.integer({ min: 2, max: 90 }), (seed, corners, size) => {
        const { loops, triangles } = ring(seededRandom(seed), corners, size);
        // few corners make a ring that crosses itself
        const area = (t: number) => doubleArea(triangles.slice(t, t + 6));
        fc.pre(Array.from({ length: triangles.length / 6 }, (_, t) => area(t * 6)).every((one) => one > 0));
        expect(rasteriseOutline(loops, size, size).bits).toEqual(rasterise(triangles, size, size).bits);
      }),
      { numRuns: 100 },
    );
    // one round twice, as a spiral stair seen from above, and one run the other way round
    const square = [1.2, 1.2, 6.5, 1.2, 6.5, 6.5, 1.2, 6.5];
    const once = rasterise(Float64Array.from([...square.slice(0, 6), ...square.slice(0, 2), ...square.slice(4)]), 9, 9).bits;
    expect(rasteriseOutline([Float64Array.from([...square, ...square])], 9, 9).bits).toEqual(once);
    expect(rasteriseOutline([Float64Array.from([1.2, 1.2, 1.2, 6.5, 6.5, 6.5, 6.5, 1.2])], 9, 9).bits).toEqual(once);
  });

  it('finds the same places by the SIMD module as by the plain code (property)', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 20, max: 300 }), fc.integer({ min: 20, max: 200 }), (seed, width, height) => {
        const random = seededRandom(seed);
        const [fast, plain] = [cellsOf(width, height), new TakenCells(width, height)];
        expect(fast).not.toBeInstanceOf(TakenCells);
        for (const border of [3, 0]) {
          for (let k = 0; k < 25; k++) {
            const size = 2 + Math.floor(random() * random() * width);
            const body = rasteriseOutline(ring(random, 3 + Math.floor(random() * 9), size).loops, size, size);
            // a gap larger than the border makes runs reach beyond the sheet
            const { grown, reach } = grow(body, k % 3 === 0 ? 0 : 2.5);
            const shape = shapeFrom(body, grown, reach);
            const place = plain.lowestFit(shape, border, k % 5 === 4 ? height >> 1 : height);
            expect(fast.lowestFit(shape, border, k % 5 === 4 ? height >> 1 : height)).toEqual(place);
            if (!place) continue;
            plain.take(shape, place.x, place.y);
            fast.take(shape, place.x, place.y);
          }
          plain.clear();
          fast.clear();
        }
      }),
      { numRuns: 40 },
    );
  });

  it('growing keeps squares of the gap apart', () => {
    const body = new BitRows(1, 1);
    body.fillRun(0, 0, 0);
    const { grown, reach } = grow(body, 2.5);
    for (let y = -reach; y <= reach; y++) {
      for (let x = -reach; x <= reach; x++) {
        const distance = Math.hypot(Math.max(0, Math.abs(x) - 1), Math.max(0, Math.abs(y) - 1));
        expect(grown.get(x + reach, y + reach)).toBe(distance < 2.5);
      }
    }
  });

  it('four quarter turns come back', () => {
    const raster = rasterise(Float64Array.from([0.2, 0.1, 40.3, 3, 7, 20.8]), 41, 21);
    let turned = raster;
    for (let k = 0; k < 4; k++) turned = turnRaster(turned, 1);
    expect([...turned.bits]).toEqual([...raster.bits]);
    expect(turnRaster(raster, 2).bits).toEqual(turnRaster(turnRaster(raster, 1), 1).bits);
    expect(turnRaster(raster, 3).bits).toEqual(turnRaster(turnRaster(raster, 2), 1).bits);
  });
});

/** Does a triangle meet the closed unit square at (x, y)? By separating axes (closed sets touch). */
function meets(t: number[], x: number, y: number, shrunk = 0): boolean {
  const [a, b, c, d] = [x + shrunk, y + shrunk, x + 1 - shrunk, y + 1 - shrunk];
  const square = [a, b, c, b, c, d, a, d];
  const axes: [number, number][] = [
    [1, 0],
    [0, 1],
  ];
  for (let k = 0; k < 6; k += 2) axes.push([-(t[(k + 3) % 6]! - t[k + 1]!), t[(k + 2) % 6]! - t[k]!]);
  return axes.every(([ax, ay]) => {
    const span = (p: number[]) => {
      const d = Array.from({ length: p.length / 2 }, (_, k) => p[k * 2]! * ax + p[k * 2 + 1]! * ay);
      return [Math.min(...d), Math.max(...d)] as const;
    };
    const [mine, its] = [span(t), span(square)];
    return mine[0] <= its[1] && its[0] <= mine[1];
  });
}
