import { describe, expect, it } from 'vitest';
import { box, cylinder, heightField, sphere } from '../mesh/starterForms.ts';
import { meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import { emptyUvSet, uvSetFrom, type UvSet } from '../uv/uvSet.ts';
import { facesWith, problemKinds, unwindStrips, uvState, type ProblemKind } from './uvState.ts';

const limits = { width: 1024, height: 1024, stretch: 1.5, gapPx: 8, angle: 45 };
const grid = (n: number) => heightField(n, n, (u, v) => [u, v, 0]);
const flat = (mesh: Mesh, at: (x: number, y: number) => [number, number] = (x, y) => [x, y]): UvSet =>
  uvSetFrom(
    mesh,
    'UV set 1',
    mesh.corners.slice(),
    Float64Array.from({ length: (mesh.points.length / 3) * 2 }, (_, k) => at(mesh.points[(k >> 1) * 3]!, mesh.points[(k >> 1) * 3 + 1]!)[k % 2]!),
  );
const count = (kind: ProblemKind, mesh: Mesh, set: UvSet) => facesWith(kind, mesh, set, limits).reduce((sum, x) => sum + x, 0);
/** Every corner with a UV point of its own. */
const perCorner = (mesh: Mesh, at: (corner: number, within: number) => [number, number]): UvSet => {
  const uv = new Float64Array(mesh.corners.length * 2);
  for (let f = 0; f + 1 < mesh.faceStart.length; f++)
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) uv.set(at(c, c - mesh.faceStart[f]!), c * 2);
  return uvSetFrom(
    mesh,
    'UV set 1',
    Uint32Array.from(mesh.corners, (_, c) => c),
    uv,
  );
};

/** A tube with one UV point a mesh point: the wrap closes over one backward strip (checks.md, facts of texture coordinates). */
function wrappedTube(segments = 16, rows = 3) {
  const mesh = cylinder(1, 2, segments, rows, false);
  const set = flat(mesh);
  const uv = Float64Array.from({ length: set.uv.length }, (_, k) => {
    const p = (k >> 1) * 3;
    const turn = Math.atan2(mesh.points[p]!, mesh.points[p + 2]!) / (2 * Math.PI);
    return k % 2 === 0 ? (turn + 1 + 1e-9) % 1 : (mesh.points[p + 1]! + 1) / 2;
  });
  return { mesh, set: { ...set, uv } };
}

describe('a wrapped tube', () => {
  it('with one UV per point has exactly one backward strip, over the whole image; per corner it has none', () => {
    const { mesh, set } = wrappedTube();
    expect(count('strip', mesh, set)).toBe(3);
    const { set: right, faces } = unwindStrips(mesh, set);
    expect(faces).toBe(3);
    expect(count('strip', mesh, right)).toBe(0);
    expect(count('flipped', mesh, right)).toBe(0);
    expect(count('outside', mesh, right)).toBe(0);
    // the image goes round exactly once
    const us = [...right.uv].filter((_, k) => k % 2 === 0);
    expect(Math.max(...us) - Math.min(...us)).toBeCloseTo(1, 6);
  });

  it('putting it right leaves all other faces bit for bit, and a sound layout alone', () => {
    const { mesh, set } = wrappedTube(12, 2);
    const strip = facesWith('strip', mesh, set, limits);
    const { set: right } = unwindStrips(mesh, set);
    for (let f = 0; f < strip.length; f++) {
      if (strip[f]) continue;
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        expect(right.uv[right.cornerUv[c]! * 2]).toBe(set.uv[set.cornerUv[c]! * 2]);
        expect(right.uv[right.cornerUv[c]! * 2 + 1]).toBe(set.uv[set.cornerUv[c]! * 2 + 1]);
      }
    }
    expect(unwindStrips(mesh, right).set).toBe(right);
  });
});

describe('each problem is found, and only there', () => {
  const mesh = grid(4);
  const sound = flat(mesh);

  it('a sound layout has none', () => {
    for (const kind of problemKinds) expect([kind, count(kind, mesh, sound)]).toEqual([kind, 0]);
    expect(uvState(mesh, sound, limits).map((line) => line.kind)).toEqual(['fine']);
  });

  it('no UVs', () => {
    expect(count('noUv', mesh, emptyUvSet(mesh))).toBe(16);
    const some = { ...sound, unplaced: sound.unplaced.map((_, f) => (f < 3 ? 1 : 0)) };
    expect(count('noUv', mesh, some)).toBe(3);
    expect(uvState(mesh, some, limits)[0]!.sentence).toBe('3 faces of 16 have no UVs.');
  });

  it('one copy per face', () => {
    const copies = perCorner(mesh, (_, k) => [k === 1 || k === 2 ? 1 : 0, k > 1 ? 1 : 0]);
    expect(count('copies', mesh, copies)).toBe(16);
    const [line] = uvState(mesh, copies, limits);
    expect([line!.kind, line!.step]).toEqual(['copies', 'firstLayout']);
    expect(uvState(mesh, copies, limits).some((l) => l.kind === 'overlapping')).toBe(false);
  });

  it('shrunk to a point: one face', () => {
    const shrunk = perCorner(mesh, (c) => (c < 4 ? [0.5, 0.5] : [mesh.points[mesh.corners[c]! * 3]!, mesh.points[mesh.corners[c]! * 3 + 1]!]));
    expect([...facesWith('shrunk', mesh, shrunk, limits)].map((x, f) => (x ? f : -1)).filter((f) => f >= 0)).toEqual([0]);
  });

  it('mirrored: the whole island, not flipped', () => {
    const mirrored = flat(mesh, (x, y) => [1 - x, y]);
    expect([count('mirrored', mesh, mirrored), count('flipped', mesh, mirrored)]).toEqual([16, 0]);
  });

  it('flipped: a point pulled across its neighbours', () => {
    const flipped = { ...sound, uv: sound.uv.slice() };
    const middle = 12; // of 5 × 5 points
    flipped.uv[middle * 2] = 0.95;
    expect(count('flipped', mesh, flipped)).toBeGreaterThan(0);
    expect(count('mirrored', mesh, flipped)).toBe(0);
  });

  it('upside down and turned by more than the limit, but not by less', () => {
    const turnedBy = (degrees: number) => {
      const [s, c] = [Math.sin((degrees * Math.PI) / 180), Math.cos((degrees * Math.PI) / 180)];
      return flat(mesh, (x, y) => [0.5 + 0.4 * ((x - 0.5) * c - (y - 0.5) * s), 0.5 + 0.4 * ((x - 0.5) * s + (y - 0.5) * c)]);
    };
    expect(count('turned', mesh, turnedBy(180))).toBe(16);
    expect(count('turned', mesh, turnedBy(50))).toBe(16);
    expect(count('turned', mesh, turnedBy(40))).toBe(0);
    // a form that lies level has no up of its own
    const level = heightField(4, 4, (u, v) => [u, 0, v]);
    const set = uvSetFrom(level, 'a', level.corners.slice(), flat(mesh).uv);
    expect(count('turned', level, set)).toBe(0);
  });

  it('outside the sheet: the column that sticks out', () => {
    expect(
      count(
        'outside',
        mesh,
        flat(mesh, (x, y) => [x + 0.1, y]),
      ),
    ).toBe(4);
  });

  it('stretched beyond the limit: a sheet drawn out in one half', () => {
    const uneven = flat(mesh, (x, y) => [x < 0.5 ? x * 0.4 : 0.2 + (x - 0.5) * 1.6, y]);
    expect(count('stretched', mesh, uneven)).toBeGreaterThan(0);
    expect(facesWith('stretched', mesh, uneven, { ...limits, stretch: 10 }).some((x) => x === 1)).toBe(false);
  });

  it('too close: two squares 4 px apart, by the gap asked for', () => {
    const two = meshFromFaces(
      [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 3, 0, 0, 4, 0, 0, 4, 1, 0, 3, 1, 0],
      [
        [0, 1, 2, 3],
        [4, 5, 6, 7],
      ],
    );
    const gap = 4 / 1024;
    const set = flat(two, (x, y) => [x < 2 ? x * 0.25 : 0.25 + gap + (x - 3) * 0.25, y * 0.25]);
    const close = (px: number) => facesWith('close', two, set, { ...limits, gapPx: px }).reduce((sum, x) => sum + x, 0);
    expect([close(3.9), close(4.1)]).toEqual([0, 2]);
  });

  it('overlapping: six sides of a box on one square', () => {
    const cube = box();
    const stacked = perCorner(cube, (c, k) => [0.1 + (k === 1 || k === 2 ? 0.5 : 0) + c * 1e-4, 0.1 + (k > 1 ? 0.5 : 0)]);
    expect(count('overlapping', cube, stacked)).toBe(6);
    expect(count('copies', cube, stacked)).toBe(0);
    expect(uvState(cube, stacked, limits).find((l) => l.kind === 'overlapping')!.step).toBe('pack');
    const folded = flat(mesh, (x, y) => [x < 0.5 ? x : 1 - x, y]);
    expect(uvState(mesh, folded, limits).find((l) => l.kind === 'overlapping')!.step).toBe('seams');
  });

  it('a closed form says so and offers to open it', () => {
    const ball = sphere(1, 8, 4);
    const lines = uvState(ball, emptyUvSet(ball), limits);
    expect(lines.map((line) => line.step)).toEqual(['firstLayout', 'open']);
    expect(lines[1]!.sentence).toMatch(/closed all round/);
  });
});

describe('an image that repeats', () => {
  it('islands beyond the sheet and over one another are told as a use, not as faults', () => {
    const mesh = meshFromFaces(
      [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 2, 0, 0, 3, 0, 0, 3, 1, 0, 2, 1, 0],
      [
        [0, 1, 2, 3],
        [4, 5, 6, 7],
      ],
    );
    const set = uvSetFrom(
      mesh,
      'UV set 1',
      mesh.corners.slice(),
      Float64Array.of(0.2, 0.2, 2.2, 0.2, 2.2, 0.9, 0.2, 0.9, 0.3, 0.2, 2.3, 0.2, 2.3, 0.9, 0.3, 0.9),
    );
    const kinds = (meant: Uint8Array | null) => uvState(mesh, set, limits, {}, meant).map(({ kind, step }) => `${kind} ${step}`);
    expect(kinds(null)).toEqual(expect.arrayContaining(['overlapping pack', 'outside pack']));
    expect(kinds(Uint8Array.of(1, 1))).toEqual(['outside null']);
    expect(uvState(mesh, set, limits, {}, Uint8Array.of(1, 1))[0]!.sentence).toMatch(/the image repeats: meant so/);
  });
});
