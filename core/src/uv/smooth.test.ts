import { describe, expect, it } from 'vitest';
import { bounds, faceCount, meshFromFaces, pointCount } from '../mesh/mesh.ts';
import { box, plane, torus } from '../mesh/starterForms.ts';
import { topologyOf } from '../mesh/topology.ts';
import { cut } from '../seams/cut.ts';
import { islandFacts, islandsOf } from './islands.ts';
import { smoothed, spreadValues } from './smooth.ts';
import { emptyUvSet, uvSetFrom } from './uvSet.ts';

const cube = box(2, 2, 2);
const at = (points: ArrayLike<number>, p: number) => [0, 1, 2].map((d) => points[p * 3 + d]!);

/** Catmull and Clark 1978; the values for a cube follow from the rules by hand. */
describe('a smoothed cube', () => {
  it('after one step: corners at 5/9, edges at 3/4, faces at 1', () => {
    const { mesh } = smoothed(cube, emptyUvSet(cube), { levels: 1, borders: 'smoothed' });
    expect([pointCount(mesh), faceCount(mesh)]).toEqual([26, 24]);
    const sizes = Array.from({ length: 26 }, (_, p) =>
      at(mesh.points, p)
        .map(Math.abs)
        .sort((a, b) => a - b),
    );
    for (const p of sizes.slice(0, 8)) p.forEach((x) => expect(x).toBeCloseTo(5 / 9, 12));
    for (const p of sizes.slice(8, 20)) p.forEach((x, d) => expect(x).toBeCloseTo([0, 3 / 4, 3 / 4][d]!, 12));
    for (const p of sizes.slice(20)) p.forEach((x, d) => expect(x).toBeCloseTo([0, 0, 1][d]!, 12));
  });

  it('corners go to 1/2: (n²P + 4 Σ edges + Σ faces) / n(n + 5), M. Halstead, M. Kass, T. DeRose, SIGGRAPH 1993 (from memory)', () => {
    const { mesh } = smoothed(cube, emptyUvSet(cube), { levels: 6, borders: 'smoothed' });
    for (let p = 0; p < 8; p++) for (const x of at(mesh.points, p)) expect(Math.abs(x)).toBeCloseTo(0.5, 3);
    expect(topologyOf(mesh).borderEdges).toBe(0);
  });
});

describe('a smoothed layout', () => {
  const sheet = plane(3, 2, 3, 2);
  const flat = uvSetFrom(
    sheet,
    'UV set 1',
    sheet.corners.slice(),
    Float64Array.from({ length: pointCount(sheet) * 2 }, (_, k) =>
      k % 2 === 0 ? sheet.points[(k >> 1) * 3]! / 4 + 0.5 : -sheet.points[(k >> 1) * 3 + 2]! / 4 + 0.5,
    ),
  );

  it('of a flat sheet goes with the sheet: the same map, no stretch; with kept borders the border stays', () => {
    const { mesh, set, faceFrom } = smoothed(sheet, flat, { levels: 2, borders: 'smoothed' });
    for (let c = 0; c < mesh.corners.length; c++) {
      const p = mesh.corners[c]! * 3;
      expect(set.uv[set.cornerUv[c]! * 2]!).toBeCloseTo(mesh.points[p]! / 4 + 0.5, 12);
      expect(set.uv[set.cornerUv[c]! * 2 + 1]!).toBeCloseTo(-mesh.points[p + 2]! / 4 + 0.5, 12);
    }
    expect([...new Set(faceFrom)]).toEqual([0, 1, 2, 3, 4, 5]);
    // the four corners of one face each stay
    expect(bounds(mesh)).toEqual(bounds(sheet));
    const kept = smoothed(sheet, flat, { levels: 2, borders: 'kept' }).set;
    expect([Math.min(...kept.uv), Math.max(...kept.uv)]).toEqual([Math.min(...flat.uv), Math.max(...flat.uv)]);
  });

  it('has the islands of the cage, cut at the same edges, and their number of borders', () => {
    const ring = torus(1, 0.4, 12, 8);
    const { edgeCount } = topologyOf(ring);
    const cuts = Array.from({ length: edgeCount }, (_, e) => e).filter((e) => e % 3 === 0);
    const { set } = cut(ring, emptyUvSet(ring), cuts);
    const fine = smoothed(ring, set, { levels: 1, borders: 'smoothed' });
    expect(islandsOf(fine.mesh, fine.set).count).toBe(islandsOf(ring, set).count);
    const shapes = (facts: ReturnType<typeof islandFacts>) => facts.map(({ shape, loops }) => `${shape} ${loops}`).sort();
    expect(shapes(islandFacts(fine.mesh, fine.set))).toEqual(shapes(islandFacts(ring, set)));
  });

  it('open edges and island borders are cubic B-splines: (1, 6, 1)/8; those of an island are not, where they are kept', () => {
    // two quads beside each other, the border's middle point out of line in space and on the sheet
    const bent = meshFromFaces(
      [0, 0, 0, 1, 0.8, 0, 2, 0, 0, 0, -1, 0, 1, -1, 0, 2, -1, 0],
      [
        [3, 4, 1, 0],
        [4, 5, 2, 1],
      ],
    );
    const laid = uvSetFrom(bent, 'UV set 1', bent.corners.slice(), Float64Array.of(0, 0.5, 0.25, 0.7, 0.5, 0.5, 0, 0.25, 0.25, 0.25, 0.5, 0.25));
    const { mesh, set } = smoothed(bent, laid, { levels: 1, borders: 'smoothed' });
    expect(at(mesh.points, 1)[1]).toBeCloseTo((6 * 0.8 + 0 + 0) / 8, 12);
    expect(set.uv[3]).toBeCloseTo((6 * 0.7 + 0.5 + 0.5) / 8, 12);
    expect(smoothed(bent, laid, { levels: 1, borders: 'kept' }).set.uv[3]).toBe(0.7);
  });

  it('edges of the cage are followed from end to end', () => {
    const { mesh, alongEdge } = smoothed(cube, emptyUvSet(cube), { levels: 3, borders: 'smoothed' });
    const { cornerFace } = topologyOf(mesh);
    const { edgePoints } = topologyOf(cube);
    for (let e = 0; e < 12; e++) {
      const chain = alongEdge.subarray(e * 8, e * 8 + 8);
      const ends = [...chain].map((c) => [mesh.corners[c]!, mesh.corners[cornerFace[c]! * 4 + ((c + 1) % 4)]!]);
      for (let k = 1; k < 8; k++) expect(ends[k]![0]).toBe(ends[k - 1]![1]);
      expect([ends[0]![0], ends[7]![1]].sort()).toEqual([...edgePoints.subarray(e * 2, e * 2 + 2)].sort());
    }
  });

  it('polygons of any number of corners, open and non-manifold meshes come through', () => {
    const fan = meshFromFaces(
      [0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0, -1, 0, 2, 2, 0, 1, 3, 0],
      [
        [0, 1, 2],
        [0, 1, 3],
        [1, 0, 4],
        [1, 5, 6, 2],
      ],
    );
    const { mesh } = smoothed(fan, emptyUvSet(fan), { levels: 2, borders: 'smoothed' });
    expect(mesh.points.every(Number.isFinite)).toBe(true);
    expect(faceCount(mesh)).toBe((3 + 3 + 3 + 4) * 4);
  });
});

it('values spread over faces are means of the corners', () => {
  expect([...spreadValues([0, 4, 8, 4], 1, Uint32Array.of(0, 4), 1)]).toEqual([0, 2, 4, 2, 4, 6, 4, 2, 8, 6, 4, 6, 4, 2, 4, 6]);
  const { mesh } = smoothed(cube, emptyUvSet(cube), { levels: 2, borders: 'smoothed' });
  expect(spreadValues(new Float32Array(24), 1, cube.faceStart, 2).length).toBe(mesh.corners.length);
});
