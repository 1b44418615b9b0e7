import Clipper from 'clipper-lib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import { seededRandom } from '../numeric/random.ts';
import { box, plane, sphere } from '../mesh/starterForms.ts';
import { creaseEdges } from '../seams/crease.ts';
import { cut } from '../seams/cut.ts';
import { topologyOf } from '../mesh/topology.ts';
import { emptyUvSet, uvSetFrom } from '../uv/uvSet.ts';
import { checkLayout } from './check.ts';
import { overlapFigures } from './overlap.ts';
import { visibleShare } from './visibility.ts';

/** Loose triangles: each its own island, at the given UVs (6 numbers a triangle). */
function looseTriangles(uv: number[]) {
  const count = uv.length / 6;
  const points: number[] = [];
  for (let k = 0; k < count * 3; k++) points.push(uv[k * 2]!, uv[k * 2 + 1]!, 0);
  const mesh = meshFromFaces(
    points,
    Array.from({ length: count }, (_, t) => [t * 3, t * 3 + 1, t * 3 + 2]),
  );
  return { mesh, set: uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), Float64Array.from(uv)) };
}

/** A plane with UVs = its x and y, moved and scaled. */
function planar(mesh: Mesh, scaleU = 1, scaleV = scaleU, u = 0.5, v = 0.5) {
  const uv = new Float64Array((mesh.points.length / 3) * 2);
  for (let p = 0; p < uv.length / 2; p++) {
    uv[p * 2] = mesh.points[p * 3]! * scaleU + u;
    uv[p * 2 + 1] = mesh.points[p * 3 + 1]! * scaleV + v;
  }
  return uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), uv);
}

describe('overlap against clipper-lib', () => {
  // whole numbers, 1e10 to the sheet: the reference rounds once and then computes exactly, so that it always ends
  const GRID = 1e10;
  type Path = { X: number; Y: number }[];
  const ring = (uv: number[], t: number): Path =>
    [0, 1, 2].map((k) => ({ X: Math.round(uv[t * 6 + k * 2]! * GRID), Y: Math.round(uv[t * 6 + k * 2 + 1]! * GRID) }));
  const combine = (type: number, subject: Path[], clip: Path[]): Path[] => {
    const clipper = new Clipper.Clipper();
    clipper.AddPaths(subject, Clipper.PolyType.ptSubject, true);
    clipper.AddPaths(clip, Clipper.PolyType.ptClip, true);
    const out: Path[] = [];
    clipper.Execute(type, out, Clipper.PolyFillType.pftNonZero, Clipper.PolyFillType.pftNonZero);
    return out;
  };
  const upright = (path: Path): Path => (Clipper.Clipper.Orientation(path) ? path : path.slice().reverse());
  const areaOf = (paths: Path[]) => paths.reduce((sum, path) => sum + Clipper.Clipper.Area(path), 0) / GRID ** 2;

  it('area covered at all and covered more than once agree on random triangles', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 7 }), fc.nat(), (count, seed) => {
        const random = seededRandom(seed);
        const uv = Array.from({ length: count * 6 }, () => random());
        const { mesh, set } = looseTriangles(uv);
        const ours = overlapFigures(mesh, set);
        const rings = Array.from({ length: count }, (_, t) => upright(ring(uv, t)));
        const pairs: Path[] = [];
        for (let a = 0; a < count; a++) for (let b = a + 1; b < count; b++) pairs.push(...combine(Clipper.ClipType.ctIntersection, [rings[a]!], [rings[b]!]));
        expect(ours.coveredArea).toBeCloseTo(areaOf(combine(Clipper.ClipType.ctUnion, rings, [])), 7);
        expect(ours.overlapArea).toBeCloseTo(areaOf(combine(Clipper.ClipType.ctUnion, pairs, [])), 7);
      }),
      { numRuns: 300 },
    );
  });

  it('three triangles on one place cover it more than once just once', () => {
    const t = [0.1, 0.1, 0.5, 0.1, 0.1, 0.5];
    const { mesh, set } = looseTriangles([...t, ...t, ...t]);
    expect(overlapFigures(mesh, set).overlapArea).toBeCloseTo(0.08, 12);
  });

  it('a layout without overlap measures exactly none', () => {
    const mesh = plane(1, 1, 30, 30);
    expect(overlapFigures(mesh, planar(mesh, 0.93)).overlapArea).toBe(0);
  });

  it('a fold inside one island counts', () => {
    const mesh = meshFromFaces(
      [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0],
      [
        [0, 1, 2],
        [0, 2, 3],
      ],
    );
    const set = uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), Float64Array.from([0, 0, 1, 0, 1, 1, 0.9, 0.1]));
    const { report } = checkLayout(mesh, set, 1024, 1024);
    expect(report.overlapArea).toBeGreaterThan(0);
    expect(report.flippedTriangles).toBe(1);
  });
});

describe('stretch', () => {
  it('an isometry measures 1, 1, 4, 1, 1 whatever its size', () => {
    const mesh = plane(2, 2, 5, 5);
    const { report } = checkLayout(mesh, planar(mesh, 0.37), 2048, 2048);
    expect(report.stretchL2).toBeCloseTo(1, 12);
    expect(report.stretchLinf).toBeCloseTo(1, 12);
    expect(report.symmetricDirichlet).toBeCloseTo(4, 12);
    expect(report.conformalMean).toBeCloseTo(1, 12);
    expect(report.areaDistortionP99).toBeCloseTo(1, 12);
  });

  it('twice as wide as high: L∞ √2, L² √(5/4), energy 5, conformal 5/4 (by hand)', () => {
    const mesh = plane(1, 1, 3, 3);
    const { report } = checkLayout(mesh, planar(mesh, 0.8, 0.4), 1024, 1024);
    // at the common scale the singular values are √2 and 1/√2
    expect(report.stretchLinf).toBeCloseTo(Math.SQRT2, 10);
    expect(report.stretchL2).toBeCloseTo(Math.sqrt(5) / 2, 10);
    expect(report.symmetricDirichlet).toBeCloseTo(5, 10);
    expect(report.conformalMean).toBeCloseTo(1.25, 10);
  });

  it('the sheet’s own proportions count: a square UV layout on a 2:1 sheet is stretched', () => {
    const mesh = plane(1, 1, 2, 2);
    expect(checkLayout(mesh, planar(mesh, 0.5), 2048, 1024).report.conformalMean).toBeCloseTo(1.25, 10);
    expect(checkLayout(mesh, planar(mesh, 0.5, 1), 2048, 1024).report.conformalMean).toBeCloseTo(1, 10);
  });

  it('two islands of one shape and different density: spread, extremes and area distortion show it', () => {
    const { mesh, set } = looseTriangles([0, 0, 0.2, 0, 0, 0.2, 0.5, 0.5, 0.9, 0.5, 0.5, 0.9]);
    const flat = { ...set, uv: set.uv.map((x, k) => (k < 6 ? x : 0.5 + (x - 0.5) / 2)) };
    const { report } = checkLayout(mesh, flat, 1000, 1000);
    expect(report.densityMin).toBeCloseTo(500, 8);
    expect(report.densityMax).toBeCloseTo(1000, 8);
    expect(report.densityCV).toBeGreaterThan(0.2);
  });
});

describe('sheet figures', () => {
  it('coverage, outside area and border gap of a square', () => {
    const mesh = plane(0.5, 0.5, 4, 4);
    const inside = checkLayout(mesh, planar(mesh), 1000, 1000).report;
    expect([inside.coverage, inside.outsideArea, inside.smallestBorderGapPx]).toEqual([expect.closeTo(0.25, 12), 0, expect.closeTo(250, 9)]);
    const half = checkLayout(mesh, planar(mesh, 1, 1, 1, 0.5), 1000, 1000).report;
    expect(half.outsideArea).toBeCloseTo(0.125, 12);
    expect(half.coverage).toBeCloseTo(0.125, 12);
    expect(half.smallestBorderGapPx).toBe(0);
  });

  it('the smallest gap between two islands is measured point to edge in px', () => {
    const { mesh, set } = looseTriangles([0, 0, 0.4, 0, 0, 0.4, 0.5, 0.1, 0.9, 0.3, 0.9, 0.9]);
    const expected = ((0.5 + 0.1 - 0.4) / Math.SQRT2) * 2048;
    expect(checkLayout(mesh, set, 2048, 2048).report.smallestGapPx).toBeCloseTo(expected, 8);
  });

  it('a mirrored island is told from a flipped triangle', () => {
    const mesh = plane(1, 1, 3, 3);
    const { report } = checkLayout(mesh, planar(mesh, -0.8, 0.8), 512, 512);
    expect([report.mirroredIslands, report.flippedTriangles]).toEqual([1, 0]);
  });

  it('faces without UVs are counted and measured nowhere', () => {
    const mesh = box();
    const { report } = checkLayout(mesh, emptyUvSet(mesh), 512, 512);
    expect(report.facesWithoutUv).toBe(6);
    expect([report.coverage, report.stretchL2, report.smallestGapPx]).toEqual([0, null, null]);
  });

  it('seam length of a box cut at all edges is the sum of its edges', () => {
    const mesh = box(1, 2, 3);
    const { report } = checkLayout(mesh, cut(mesh, emptyUvSet(mesh), creaseEdges(mesh)).set, 512, 512);
    expect(report.seamLength).toBeCloseTo(4 * 6, 10);
    expect(report.hiddenSeamShare).toBeLessThan(0.35);
  });
});

describe('visibility', () => {
  it('the inner one of two nested balls is never seen, the outer from about half of all directions', () => {
    const outer = sphere(1, 32, 16);
    const inner = sphere(0.3, 16, 8);
    const shift = outer.points.length / 3;
    const points = [...outer.points, ...inner.points];
    const faces: number[][] = [];
    for (const [mesh, by] of [
      [outer, 0],
      [inner, shift],
    ] as const) {
      for (let f = 0; f + 1 < mesh.faceStart.length; f++) faces.push(Array.from(mesh.corners.slice(mesh.faceStart[f], mesh.faceStart[f + 1]), (p) => p + by));
    }
    const both = meshFromFaces(points, faces);
    const seen = visibleShare(both, both.points);
    expect(Math.max(...seen.slice(shift))).toBe(0);
    const mean = seen.slice(0, shift).reduce((a, b) => a + b) / shift;
    expect(mean).toBeGreaterThan(0.4);
    expect(mean).toBeLessThan(0.65);
  });

  it('a screen hides what is behind it from its side only', () => {
    // a small place, a wide screen close before it in z
    const screen = meshFromFaces(
      [-50, -50, 0.1, 50, -50, 0.1, 50, 50, 0.1, -50, 50, 0.1, -50, -50, -3, 50, -50, -3, 50, 50, -3],
      [
        [0, 1, 2, 3],
        [4, 5, 6],
      ],
    );
    const place = Float64Array.from([0, 0, -2.9]);
    expect(visibleShare(screen, place, { size: 600, towards: [0, 0, 1] })[0]).toBeLessThan(0.2);
    const behind = Float64Array.from([0, 0, -3]);
    expect(visibleShare(screen, behind, { size: 600, towards: [0, 0, -1] })[0]).toBeGreaterThan(0.9);
    expect(Math.abs(visibleShare(screen, behind, { size: 600 })[0]! - 0.5)).toBeLessThan(0.06);
  });

  it('the same triangles many times over hide what they hide once', () => {
    const points = [0, 0, 0, 5, 0, 0, 5, 5, 0, 0, 5, 1, 1, 1, 3, 2, 1, 3, 1, 2, 3];
    const faces = [
      [0, 1, 2, 3],
      [1, 2, 3],
      [4, 5, 6],
    ];
    const places = Float64Array.from([1, 1, -1, 2, 2, 2, 3, 1, 0.5]);
    const many = Array.from({ length: 60 }, (_, k) => faces.map((f) => [...f.slice(k % f.length), ...f.slice(0, k % f.length)])).flat();
    const [once, often] = [faces, many].map((all) => visibleShare(meshFromFaces(points, all), places));
    expect(Math.max(...once!.map((share, k) => Math.abs(share - often![k]!)))).toBeLessThan(0.03);
  });

  it('places behind slanted triangles are hidden where a straight line to them meets one', () => {
    const random = seededRandom(11);
    const side = () => random() * 10 - 5;
    // seen from above alone: what is hidden is a test of points against triangles in the plane
    const points: number[] = [-6, -6, -9, 6, -6, -9, 6, 6, -9, -6, 6, -9];
    const faces = [[0, 1, 2, 3]];
    for (let t = 0; t < 9; t++) {
      faces.push([0, 1, 2].map((k) => points.length / 3 + k));
      points.push(side(), side(), random() / 20, side(), -side(), random() / 20, side(), side(), random() / 20);
    }
    const mesh = meshFromFaces(points, faces);
    const [places, hidden]: [number[], boolean[]] = [[], []];
    while (places.length < 3000) {
      const [x, y] = [side(), side()];
      const inside = faces.slice(1).map((f) => {
        const cross = [0, 1, 2].map((k) => {
          const [a, b] = [f[k]! * 3, f[(k + 1) % 3]! * 3];
          const [ex, ey] = [points[b]! - points[a]!, points[b + 1]! - points[a + 1]!];
          return (ex * (y - points[a + 1]!) - ey * (x - points[a]!)) / Math.hypot(ex, ey);
        });
        return Math.max(Math.min(...cross), Math.min(...cross.map((c) => -c)));
      });
      // nearer to an edge than a cell is, or than a slanted view shifts it, is not told apart
      if (inside.some((by) => Math.abs(by) < 0.25)) continue;
      places.push(x, y, -0.2);
      hidden.push(inside.some((by) => by > 0));
    }
    const share = visibleShare(mesh, Float64Array.from(places), { size: 600, towards: [0, 0, 1] });
    const straight = hidden.map((is, k) => [is, share[k]!] as const);
    const [most, least] = [Math.max(...straight.filter(([is]) => is).map(([, s]) => s)), Math.min(...straight.filter(([is]) => !is).map(([, s]) => s))];
    expect(hidden.filter(Boolean).length).toBeGreaterThan(40);
    expect(most).toBeLessThan(least);
  });

  it('a place is seen alike however the mesh stands, its faces are numbered or divided', () => {
    // a bent tray with a lid, no two of its axes alike
    const points = [0, 0, 0, 5, 0, 0, 5, 3, 0, 0, 3, 0, 0, 0, 2, 5, 0, 1, 5, 3, 1, 0, 3, 2, 1, 4, 3];
    const faces = [[0, 3, 2, 1], [0, 1, 5, 4], [1, 2, 6, 5], [2, 3, 7, 6], [3, 0, 4, 7], [4, 5, 8]]; // prettier-ignore
    const places = [2, 1, 0.05, 2.5, 1.5, -0.1, 4, 2, 0.9, 0.3, 0.3, 1, 1, 3.9, 2.9];
    const [c, s] = [0.8, 0.6];
    const turns: ((x: number, y: number, z: number) => number[])[] = [
      (x, y, z) => [z, x, y],
      (x, y, z) => [-x, y, -z],
      (x, y, z) => [c * x - s * y, (s * x + c * y) * c - s * z, (s * x + c * y) * s + c * z],
      // mirrored, far off, and seventeen times as large
      (x, y, z) => [900 - 17 * x, 17 * z, 40 + 17 * y],
    ];
    const moved = (list: number[], turn: (typeof turns)[number]) => list.flatMap((_, k) => (k % 3 ? [] : turn(list[k]!, list[k + 1]!, list[k + 2]!)));
    const shares = visibleShare(meshFromFaces(points, faces), Float64Array.from(places));
    expect(new Set(shares).size).toBeGreaterThan(3);
    for (const turn of turns) {
      const own = visibleShare(meshFromFaces(moved(points, turn), faces), Float64Array.from(moved(places, turn)));
      expect(Math.max(...own.map((x, k) => Math.abs(x - shares[k]!)))).toBeLessThan(1 / 48 + 1e-9);
    }
    // each face in fans round its middle, the last first
    const more = [...points];
    const finer = faces.toReversed().flatMap((f) => {
      const middle = more.length / 3;
      for (let d = 0; d < 3; d++) more.push(f.reduce((sum, p) => sum + points[p * 3 + d]!, 0) / f.length);
      return f.map((p, k) => [p, f[(k + 1) % f.length]!, middle]);
    });
    const divided = visibleShare(meshFromFaces(more, finer), Float64Array.from(places));
    expect(Math.max(...divided.map((x, k) => Math.abs(x - shares[k]!)))).toBeLessThan(1 / 48 + 1e-9);
  });

  it('from below counts less for what stands on the ground, a little above and below the horizon in part', () => {
    const plate = meshFromFaces([0, 0, 0, 0, 0, 1, 1, 0, 1, 1, 0, 0], [[0, 1, 2, 3]]);
    const [over, under] = visibleShare(plate, Float64Array.from([0.5, 0.1, 0.5, 0.5, -0.1, 0.5]), { below: 0.2, size: 400 });
    // 1 : 0.2 of all directions, but for the few that pass the plate's rim
    expect(over! + under!).toBeGreaterThan(0.999);
    expect(over! / under!).toBeGreaterThan(2);
    const alike = visibleShare(plate, Float64Array.from([0.5, 0.1, 0.5, 0.5, -0.1, 0.5]), { size: 400 });
    expect(alike[0]).toBeCloseTo(alike[1]!, 9);
  });

  it('a seam inside a fold is more hidden than one on the outside', () => {
    const mesh = meshFromFaces(
      [0, 0, 0, 0, 0, 2, 1, 3, 0, 1, 3, 2, -1, 3, 0, -1, 3, 2],
      [
        [0, 1, 3, 2],
        [0, 4, 5, 1],
      ],
    );
    const { edgePoints } = topologyOf(mesh);
    expect(edgePoints.length).toBeGreaterThan(0);
    const seen = visibleShare(mesh, Float64Array.from([0, 0.15, 1, 1, 3, 1]));
    expect(seen[0]).toBeLessThan(seen[1]!);
  });
});
