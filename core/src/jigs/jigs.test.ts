import fc from 'fast-check';
import { geoEquirectangular } from 'd3-geo';
import { describe, expect, it } from 'vitest';
import { SphereGeometry } from 'three';
import { box, cone, cubeSphere, cylinder, plane, sphere, torus } from '../mesh/starterForms.ts';
import { faceCount, meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import { triangleStretch, stretchFigures } from '../measure/distortion.ts';
import { emptyUvSet, uvSetFrom, type UvSet } from '../uv/uvSet.ts';
import { islandsOf } from '../uv/islands.ts';
import { applyJig, partedLength } from './apply.ts';
import { axesOf, makeJig, repeatsOf, type Jig, type JigKind, type Vector } from './jig.ts';
import { principalAxes } from '../numeric/principalAxes.ts';
import { placeJig } from './place.ts';
import { project } from './project.ts';

const all = (mesh: Mesh) => Array.from({ length: faceCount(mesh) }, (_, f) => f);
const spans = (mesh: Mesh, jig: Jig) => {
  const { start, uv } = project(mesh, all(mesh), jig);
  return Array.from({ length: start.length - 1 }, (_, f) => {
    const us = Array.from({ length: start[f + 1]! - start[f]! }, (_, k) => uv[(start[f]! + k) * 2]!);
    return Math.max(...us) - Math.min(...us);
  });
};
const turned = (mesh: Mesh, angle: number, axis: Vector, shift: Vector): Mesh => {
  const [x, y, z] = axis;
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const m = [
    [c + x * x * (1 - c), x * y * (1 - c) - z * s, x * z * (1 - c) + y * s],
    [y * x * (1 - c) + z * s, c + y * y * (1 - c), y * z * (1 - c) - x * s],
    [z * x * (1 - c) - y * s, z * y * (1 - c) + x * s, c + z * z * (1 - c)],
  ];
  const points = mesh.points.slice();
  for (let p = 0; p < points.length; p += 3) {
    const v = [points[p]!, points[p + 1]!, points[p + 2]!];
    for (let d = 0; d < 3; d++) points[p + d] = m[d]![0]! * v[0]! + m[d]![1]! * v[1]! + m[d]![2]! * v[2]! + shift[d]!;
  }
  return { ...mesh, points };
};
const stretch = (mesh: Mesh, set: UvSet, width = 1000, height = 1000) => stretchFigures(triangleStretch(mesh, set, width, height));

describe('the ball: equidistant cylindrical (Snyder, USGS Professional Paper 1395, 1987, ch. 12)', () => {
  const jig = makeJig({ kind: 'spherical', size: [2, 2, 2] });

  it('agrees with d3-geo’s equirectangular projection everywhere', () => {
    const mesh = sphere(1, 32, 16);
    const reference = geoEquirectangular()
      .scale(1 / (2 * Math.PI))
      .translate([0.5, 0.5])
      .precision(0);
    const { corners, uv, start } = project(mesh, all(mesh), jig);
    let compared = 0;
    for (let f = 0; f + 1 < start.length; f++) {
      for (let k = start[f]!; k < start[f + 1]!; k++) {
        const p = mesh.corners[corners[k]!]! * 3;
        const [x, y, z] = [mesh.points[p]!, mesh.points[p + 1]!, mesh.points[p + 2]!];
        if (Math.hypot(x, z) < 1e-9) continue;
        const [u, v] = reference([(Math.atan2(x, z) * 180) / Math.PI, (Math.asin(y) * 180) / Math.PI])!;
        // d3 counts downwards, half as high as wide
        const want = [u!, (0.5 - v!) * 2 + 0.5];
        const apart = uv[k * 2]! - want[0]!;
        expect(Math.abs(apart - Math.round(apart))).toBeLessThan(1e-9);
        expect(uv[k * 2 + 1]).toBeCloseTo(want[1]!, 9);
        compared++;
      }
    }
    expect(compared).toBeGreaterThan(1500);
  });

  it('at 60° the picture is twice as wide: k = sec φ = 2, h = 1, angles off by ω = 38.94°', () => {
    // a fine patch at latitude 60°, half way over the sheet in its true proportions 2 : 1
    const step = 1e-5;
    const at = (lon: number, lat: number) => [Math.sin(lon) * Math.cos(lat), Math.sin(lat), Math.cos(lon) * Math.cos(lat)];
    const lat = Math.PI / 3;
    const mesh = meshFromFaces([...at(0, lat - step), ...at(2 * step, lat - step), ...at(2 * step, lat + step), ...at(0, lat + step)], [[0, 1, 2, 3]]);
    const set = applyJig(mesh, emptyUvSet(mesh), [0], jig);
    const across = (set.uv[2]! - set.uv[0]!) * 2 * Math.PI;
    const along = (set.uv[7]! - set.uv[1]!) * Math.PI;
    const k = across / (2 * step * Math.cos(lat - step));
    const h = along / (2 * step);
    expect(h).toBeCloseTo(1, 5);
    expect(k).toBeCloseTo(1 / Math.cos(lat - step), 5);
    expect((2 * Math.asin((k - h) / (k + h)) * 180) / Math.PI).toBeCloseTo(38.94, 1);
    // our own measure says the same: one direction twice the other
    expect(stretch(mesh, set, 2000, 1000).conformalMean).toBeCloseTo((2 + 1 / 2) / 2, 2);
  });

  it('has three’s own sphere coordinates for the same orientation, but for its seam and poles', () => {
    const other = new SphereGeometry(1, 24, 12);
    const position = other.getAttribute('position');
    const coordinates = other.getAttribute('uv');
    const index = other.getIndex()!;
    const mesh = meshFromFaces(
      Array.from(position.array),
      Array.from({ length: index.count / 3 }, (_, t) => [0, 1, 2].map((c) => index.getX(t * 3 + c))),
    );
    const { corners, uv } = project(mesh, all(mesh), jig);
    // three begins at −x and runs towards +z, ours at the back (−z)
    const shift = 0.25;
    let compared = 0;
    for (let k = 0; k < corners.length; k++) {
      const v = mesh.corners[corners[k]!]!;
      if (Math.abs(position.getY(v)) > 0.999) continue;
      const apart = uv[k * 2]! - coordinates.getX(v) - shift;
      // whole turns apart
      expect(Math.abs(apart - Math.round(apart))).toBeLessThan(1e-6);
      expect(uv[k * 2 + 1]).toBeCloseTo(coordinates.getY(v), 6);
      compared++;
    }
    expect(compared).toBeGreaterThan(1000);
  });

  it('poles: every triangle at a pole gets a u of its own, between its neighbours’', () => {
    const mesh = sphere(1, 16, 8);
    const { start, corners, uv } = project(mesh, all(mesh), jig);
    const atPole = new Set<number>();
    for (let f = 0; f + 1 < start.length; f++)
      for (let k = start[f]!; k < start[f + 1]!; k++) {
        const p = mesh.corners[corners[k]!]! * 3;
        if (mesh.points[p + 1]! < 0.999) continue;
        const others = [start[f]!, start[f]! + 1, start[f]! + 2].filter((i) => i !== k).map((i) => uv[i * 2]!);
        expect(uv[k * 2]).toBeCloseTo((others[0]! + others[1]!) / 2, 9);
        atPole.add(Math.round(uv[k * 2]! * 1e6));
      }
    expect(atPole.size).toBe(16);
  });
});

describe('the tube', () => {
  it('a pattern once round a cylinder of radius r at width 2πr has no stretch (mensuration: 2πr × h)', () => {
    const r = 1.5;
    const mesh = cylinder(r, 3, 256, 4, false);
    const jig = { ...placeJig(mesh, all(mesh), 'cylindrical', 'y'), imageWidth: 2 * Math.PI * r };
    const set = applyJig(mesh, emptyUvSet(mesh), all(mesh), jig);
    expect(repeatsOf(jig)[0]).toBeCloseTo(1, 12);
    expect(stretch(mesh, set).stretchL2!).toBeLessThan(1.0002);
    // and w wide it goes round 2πr / w times
    expect(repeatsOf({ ...jig, imageWidth: 0.5 })[0]).toBeCloseTo((2 * Math.PI * r) / 0.5, 9);
  });

  it('no strip runs backwards where it closes; the start line can be turned', () => {
    const mesh = cylinder(1, 2, 24, 1, false);
    for (const start of [0, 33, -120, 180]) {
      const jig = { ...placeJig(mesh, all(mesh), 'cylindrical', 'y'), start };
      expect(Math.max(...spans(mesh, jig))).toBeLessThan(1 / 24 + 1e-9);
      const set = applyJig(mesh, emptyUvSet(mesh), all(mesh), jig);
      expect(triangleStretch(mesh, set, 100, 100).pxArea.filter((a) => a < 0).length).toBe(0);
    }
    const front = (start: number) => {
      const { corners, uv } = project(mesh, all(mesh), { ...placeJig(mesh, all(mesh), 'cylindrical', 'y'), start });
      const k = [...corners.keys()].find((i) => mesh.points[mesh.corners[corners[i]!]! * 3 + 2]! > 0.999)!;
      return uv[k * 2]!;
    };
    expect(front(0) % 1).toBeCloseTo(0.5, 9);
    expect((front(0) - front(90)) % 1).toBeCloseTo(0.25, 9);
  });

  it('lids are flat, the right way round from outside, at the side’s density', () => {
    const mesh = cylinder(1, 2, 64, 2, true);
    const jig = { ...placeJig(mesh, all(mesh), 'cylindrical', 'y'), imageWidth: 2 };
    const set = applyJig(mesh, emptyUvSet(mesh), all(mesh), jig);
    expect(islandsOf(mesh, set).count).toBe(3);
    const { pxArea, area } = triangleStretch(mesh, set, 1000, 1000);
    expect(pxArea.filter((a) => a < 0).length).toBe(0);
    const density = Array.from(pxArea, (a, t) => Math.sqrt(a / area[t]!));
    // facets are chords: a side facet is a little wider on the sheet than in space
    expect(Math.max(...density) / Math.min(...density)).toBeLessThan(1.001);
  });

  it('the axis found is the tube’s own, wherever it points (property)', () => {
    const tube = cylinder(0.5, 3, 32, 6, true);
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 3, noNaN: true }),
        fc.double({ min: -1, max: 1, noNaN: true }),
        fc.double({ min: -1, max: 1, noNaN: true }),
        (angle, a, b) => {
          const length = Math.hypot(a, b, 1);
          const axis: Vector = [a / length, b / length, 1 / length];
          const mesh = turned(tube, angle, axis, [3, -2, 5]);
          const jig = placeJig(mesh, all(mesh), 'cylindrical');
          const was = turned({ ...tube, points: Float64Array.of(0, 1, 0) }, angle, axis, [0, 0, 0]).points;
          expect(Math.abs(jig.up[0] * was[0]! + jig.up[1] * was[1]! + jig.up[2] * was[2]!)).toBeGreaterThan(0.9999);
          expect(jig.size[1]).toBeCloseTo(3, 3);
        },
      ),
      { numRuns: 40 },
    );
  });

  it('a cube: at the middle of a face one turn covers π face widths, at the upright edges twice as much', () => {
    const n = 200;
    const fine = meshFromFaces(
      Array.from({ length: (n + 1) * 2 }, (_, k) => [(k >> 1) / n - 0.5, k & 1, 0.5]).flat(),
      Array.from({ length: n }, (_, k) => [k * 2, k * 2 + 2, k * 2 + 3, k * 2 + 1]),
    );
    const jig = makeJig({ kind: 'cylindrical', origin: [0, 0.5, 0], size: [1, 1, 1] });
    const widths = spans(fine, jig);
    const turnAt = (k: number) => 1 / n / widths[k]!;
    expect(turnAt(n / 2)).toBeCloseTo(Math.PI, 2);
    expect(turnAt(0) / turnAt(n / 2)).toBeCloseTo(2, 1);
  });
});

describe('flat ones and boxes', () => {
  it('a flat projection along x, y, z reads the right way up from that side', () => {
    const mesh = box(1, 1, 1);
    for (const [axis, right, up] of [
      ['z', [1, 0, 0], [0, 1, 0]],
      ['x', [0, 0, -1], [0, 1, 0]],
      ['y', [1, 0, 0], [0, 0, -1]],
    ] as const) {
      const jig = placeJig(mesh, all(mesh), 'planar', axis);
      expect(axesOf(jig)[0].map((x) => x + 0)).toEqual(right.map((x) => expect.closeTo(x, 9) as number));
      expect(axesOf(jig)[1].map((x) => x + 0)).toEqual(up.map((x) => expect.closeTo(x, 9) as number));
    }
  });

  it('keeps a flat piece congruent, whatever its proportions and place', () => {
    const mesh = turned(plane(3, 1, 6, 2), 0.7, [0.6, 0.8, 0], [1, 2, 3]);
    const set = applyJig(mesh, emptyUvSet(mesh), all(mesh), placeJig(mesh, all(mesh), 'planar'));
    expect(stretch(mesh, set).symmetricDirichlet).toBeCloseTo(4, 9);
    expect(Math.min(...set.uv)).toBeGreaterThanOrEqual(-1e-9);
    expect(Math.max(...set.uv)).toBeLessThanOrEqual(1 + 1e-9);
  });

  it('a cube’s box gives six whole images, none mirrored, each side an island', () => {
    const mesh = box(2, 2, 2);
    const set = applyJig(mesh, emptyUvSet(mesh), all(mesh), placeJig(mesh, all(mesh), 'box'));
    expect(islandsOf(mesh, set).count).toBe(6);
    const { pxArea } = triangleStretch(mesh, set, 100, 100);
    expect(Array.from(pxArea, Math.round)).toEqual(Array(12).fill(5000));
    expect(partedLength(mesh, set, all(mesh))).toBeCloseTo(24, 9);
  });

  it('an image of a given width repeats size / width times on every side of any box', () => {
    const mesh = box(3, 2, 1);
    const jig = { ...placeJig(mesh, all(mesh), 'box'), imageWidth: 0.5 };
    const set = applyJig(mesh, emptyUvSet(mesh), all(mesh), jig);
    const { pxArea, area } = triangleStretch(mesh, set, 1, 1);
    for (let t = 0; t < area.length; t++) expect(pxArea[t]! / area[t]!).toBeCloseTo(4, 9);
    expect(stretch(mesh, set).symmetricDirichlet).toBeCloseTo(4, 9);
  });

  it('small patches go with their neighbours where asked for', () => {
    // a wall of 5 × 5 with one quad in it that leans to the side
    const mesh = plane(5, 5, 5, 5);
    const points = mesh.points.slice();
    const middle = 2 * 5 + 2;
    const [from, to] = [mesh.faceStart[middle]!, mesh.faceStart[middle + 1]!];
    for (let c = from; c < to; c++) if (points[mesh.corners[c]! * 3]! > 0) points[mesh.corners[c]! * 3 + 2]! += 3;
    const bent = { ...mesh, points };
    const jig = placeJig(bent, all(bent), 'box');
    const count = (group: number) => new Set(project(bent, all(bent), { ...jig, group }).patch).size;
    expect(count(0)).toBeGreaterThan(1);
    expect(count(0.3)).toBe(1);
  });

  it('each face: every quad holds the whole image the right way up; n-gons lie within it', () => {
    const mesh = cylinder(1, 1, 6, 2, true);
    const { start, uv, corners } = project(mesh, all(mesh), makeJig({ kind: 'each-face' }));
    for (let f = 0; f + 1 < start.length; f++) {
      const list = Array.from({ length: start[f + 1]! - start[f]! }, (_, k) => start[f]! + k);
      if (list.length === 4) {
        expect(list.map((k) => `${uv[k * 2]},${uv[k * 2 + 1]}`).sort()).toEqual(['0,0', '0,1', '1,0', '1,1']);
        for (const k of list) {
          const y = mesh.points[mesh.corners[corners[k]!]! * 3 + 1]!;
          for (const m of list) if (mesh.points[mesh.corners[corners[m]!]! * 3 + 1]! > y + 0.1) expect(uv[m * 2 + 1]!).toBeGreaterThan(uv[k * 2 + 1]!);
        }
      } else for (const k of list) for (const x of [uv[k * 2]!, uv[k * 2 + 1]!]) expect(x >= -1e-9 && x <= 1 + 1e-9).toBe(true);
    }
  });

  it('flat regions: every region at true size, none mirrored, islands end where the form bends', () => {
    const mesh = turned(box(3, 2, 1), 0.4, [0, 1, 0], [5, 0, 0]);
    const jig = { ...placeJig(mesh, all(mesh), 'flat-regions'), imageWidth: 0.25 };
    const set = applyJig(mesh, emptyUvSet(mesh), all(mesh), jig);
    expect(islandsOf(mesh, set).count).toBe(6);
    const { pxArea, area } = triangleStretch(mesh, set, 1, 1);
    for (let t = 0; t < area.length; t++) expect(pxArea[t]! / area[t]!).toBeCloseTo(16, 6);
    expect(stretch(mesh, set).symmetricDirichlet).toBeCloseTo(4, 9);
  });

  it('a view with perspective: what the eye sees in one place gets one place in the image', () => {
    // two quads, the far one twice as large and twice as far from the eye
    const near = [-1, -1, 0, 1, -1, 0, 1, 1, 0, -1, 1, 0];
    const mesh = meshFromFaces(
      [...near, ...near.map((x, k) => (k % 3 === 2 ? -4 : x * 2))],
      [
        [0, 1, 2, 3],
        [4, 5, 6, 7],
      ],
    );
    const { uv } = project(mesh, [0, 1], makeJig({ kind: 'view', size: [4, 4, 4], eye: 4 }));
    expect(Array.from(uv.subarray(8)).map((x, k) => x - uv[k]!)).toEqual(Array(8).fill(expect.closeTo(0, 12)));
    const parallel = project(mesh, [0, 1], makeJig({ kind: 'view', size: [4, 4, 4] })).uv;
    expect(parallel[8]! - 0.5).toBeCloseTo(2 * (parallel[0]! - 0.5), 12);
  });
});

const kinds: JigKind[] = ['planar', 'cylindrical', 'spherical', 'box', 'view', 'each-face', 'flat-regions'];

describe('every kind', () => {
  it.each(kinds)('%s: faces that were not chosen keep their UVs bit for bit (property)', (kind) => {
    const mesh = torus(1, 0.4, 12, 8);
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 0, max: faceCount(mesh) - 1 }), { minLength: 1, maxLength: 60 }), (faces) => {
        const before = uvSetFrom(
          mesh,
          's',
          mesh.corners.slice(),
          Float64Array.from({ length: (mesh.points.length / 3) * 2 }, (_, k) => Math.sin(k * 1.7)),
        );
        const after = applyJig(mesh, before, faces, placeJig(mesh, faces, kind));
        const chosen = new Set(faces);
        for (let f = 0; f < faceCount(mesh); f++) {
          for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
            if (chosen.has(f)) continue;
            for (const d of [0, 1]) if (before.uv[before.cornerUv[c]! * 2 + d] !== after.uv[after.cornerUv[c]! * 2 + d]) throw new Error(`corner ${c} moved`);
          }
        }
        for (const x of after.uv) if (!Number.isFinite(x)) throw new Error('not a number');
      }),
      { numRuns: 30 },
    );
  });

  it.each(kinds)('%s: moving jig and model together changes nothing (property)', (kind) => {
    const mesh = cubeSphere(1, 6);
    const still = placeJig(mesh, all(mesh), kind);
    const want = project(mesh, all(mesh), still).uv;
    fc.assert(
      fc.property(fc.double({ min: -3, max: 3, noNaN: true }), fc.double({ min: -5, max: 5, noNaN: true }), (angle, shift) => {
        const axis: Vector = [0.36, 0.48, 0.8];
        const moved = turned(mesh, angle, axis, [shift, -shift, 2]);
        const along = (v: readonly number[]) =>
          [...turned({ ...mesh, points: Float64Array.from(v) }, angle, axis, [0, 0, 0]).points] as [number, number, number];
        const origin = [...turned({ ...mesh, points: Float64Array.from(still.origin) }, angle, axis, [shift, -shift, 2]).points] as [number, number, number];
        const { uv } = project(moved, all(moved), { ...still, origin, right: along(still.right), up: along(still.up) });
        for (let k = 0; k < uv.length; k++) {
          const apart = Math.abs(uv[k]! - want[k]!);
          // a place right on the start line may fall to either side of it
          if (apart > 1e-9 && Math.abs(apart - 1) > 1e-9) throw new Error(`${k}: ${uv[k]} instead of ${want[k]}`);
        }
      }),
      { numRuns: 20 },
    );
  });

  it.each(['cylindrical', 'spherical'] as const)('%s: no face spans more than half a turn, on any form (property)', (kind) => {
    fc.assert(
      fc.property(
        fc.integer({ min: 3, max: 9 }),
        fc.double({ min: -2, max: 2, noNaN: true }),
        fc.double({ min: -180, max: 180, noNaN: true }),
        (sides, shift, start) => {
          for (const mesh of [cylinder(1, 1, sides, 1, true), cone(1, 2, sides), box(1, 1, 1)]) {
            const jig = { ...placeJig(mesh, all(mesh), kind, 'y'), start, lids: false };
            const moved = { ...jig, origin: [jig.origin[0] + shift, jig.origin[1], jig.origin[2]] as [number, number, number] };
            for (const span of spans(mesh, moved)) if (!(span <= 0.5 + 1e-9)) throw new Error(`spans ${span}`);
          }
        },
      ),
      { numRuns: 60 },
    );
  });

  it('mirror u then mirror v is a half turn, four quarter turns are none', () => {
    const mesh = plane(1, 1, 2, 2);
    const jig = placeJig(mesh, all(mesh), 'planar');
    const uv = (change: Partial<Jig>) => Array.from(project(mesh, all(mesh), { ...jig, repeats: [2, 3], ...change }).uv);
    const near = (a: number[], b: number[]) => a.forEach((x, k) => expect(x).toBeCloseTo(b[k]!, 12));
    near(uv({ mirrorU: true, mirrorV: true }), uv({ quarter: 2 }));
    // one turn to the left: the image's up points to the jig's left
    const left = project(mesh, all(mesh), { ...jig, quarter: 1 });
    const place = (x: number, y: number) => {
      const k = [...left.corners.keys()].find(
        (i) => mesh.points[mesh.corners[left.corners[i]!]! * 3] === x && mesh.points[mesh.corners[left.corners[i]!]! * 3 + 1] === y,
      )!;
      return [left.uv[k * 2], left.uv[k * 2 + 1]];
    };
    expect(place(-0.5, -0.5)).toEqual([0, 1]);
    expect(place(0.5, -0.5)).toEqual([0, 0]);
  });

  it('principal axes agree with a known matrix', () => {
    const [a, b, c] = principalAxes([2, 0, 0, 0, 3, 4, 0, 4, 9]);
    // eigenvalues 1, 2, 11
    expect(Math.abs(b[0])).toBeCloseTo(1, 12);
    expect(Math.abs(a[1] * 2 + a[2] * -1) / Math.sqrt(5)).toBeCloseTo(1, 12);
    expect(Math.abs(c[1] * 1 + c[2] * 2) / Math.sqrt(5)).toBeCloseTo(1, 12);
  });
});
