import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cylinder } from '../mesh/starterForms.ts';
import { meshFromFaces } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { emptyUvSet, uvSetFrom } from '../uv/uvSet.ts';
import { cut } from '../seams/cut.ts';
import { selectionFigures } from './selectionFigures.ts';

/** A 3 × 2 rectangle of 6 unit squares in space, lying on the sheet at `scale`, turned by `angle`. */
function rectangle(scale = 0.1, angle = 0) {
  const points: number[] = [];
  for (let y = 0; y <= 2; y++) for (let x = 0; x <= 3; x++) points.push(x, y, 0);
  const faces: number[][] = [];
  for (let y = 0; y < 2; y++) for (let x = 0; x < 3; x++) faces.push([y * 4 + x, y * 4 + x + 1, (y + 1) * 4 + x + 1, (y + 1) * 4 + x]);
  const mesh = meshFromFaces(points, faces);
  const uv = new Float64Array(24);
  for (let p = 0; p < 12; p++) {
    const [x, y] = [points[p * 3]! * scale, points[p * 3 + 1]! * scale];
    uv[p * 2] = 0.4 + x * Math.cos(angle) - y * Math.sin(angle);
    uv[p * 2 + 1] = 0.4 + x * Math.sin(angle) + y * Math.cos(angle);
  }
  return { mesh, set: uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), uv) };
}

const edgeBetween = (mesh: Parameters<typeof topologyOf>[0], a: number, b: number) => {
  const { edgePoints } = topologyOf(mesh);
  for (let e = 0; e * 2 < edgePoints.length; e++) if ([edgePoints[e * 2], edgePoints[e * 2 + 1]].sort().join() === [a, b].sort().join()) return e;
  throw new Error('no such edge');
};

describe('figures of a selection', () => {
  it('faces: area and outline on model and sheet, px per unit', () => {
    const { mesh, set } = rectangle();
    const all = selectionFigures(mesh, set, 'faces', [0, 1, 2, 3, 4, 5], 1000, 1000);
    expect(all.area).toBeCloseTo(6, 12);
    expect(all.areaPx).toBeCloseTo(60_000, 6);
    expect(all.length).toBeCloseTo(10, 12);
    expect(all.lengthPx).toBeCloseTo(1000, 9);
    expect(all.ratio).toBeCloseTo(100, 9);
    expect(all.heading).toBeCloseTo(0, 9);
    expect(all.size).toEqual([3, 2, 0]);
  });

  it('the heading follows a turn of the island, modulo half a turn (property)', () => {
    fc.assert(
      fc.property(fc.double({ min: -6, max: 6, noNaN: true }), (angle) => {
        const { mesh, set } = rectangle(0.05, angle);
        const want = ((((angle * 180) / Math.PI) % 180) + 180) % 180;
        const apart = (x: number | null) => Math.min(Math.abs(x! - want), 180 - Math.abs(x! - want));
        expect(apart(selectionFigures(mesh, set, 'faces', [0, 1, 2, 3, 4, 5], 512, 512).heading)).toBeLessThan(1e-6);
        expect(apart(selectionFigures(mesh, set, 'edges', [edgeBetween(mesh, 0, 1), edgeBetween(mesh, 1, 2)], 512, 512).heading)).toBeLessThan(1e-6);
      }),
    );
  });

  it('a sheet twice as wide counts u twice', () => {
    const { mesh, set } = rectangle();
    const level = selectionFigures(mesh, set, 'edges', [edgeBetween(mesh, 0, 1)], 2000, 1000);
    const upright = selectionFigures(mesh, set, 'edges', [edgeBetween(mesh, 0, 4)], 2000, 1000);
    expect([level.lengthPx, upright.lengthPx, level.heading, upright.heading].map((x) => Math.round(x! * 1e6) / 1e6)).toEqual([200, 100, 0, 90]);
  });

  it('edges crossing evenly have no heading, and say so', () => {
    const { mesh, set } = rectangle();
    const cross = selectionFigures(mesh, set, 'edges', [edgeBetween(mesh, 0, 1), edgeBetween(mesh, 0, 4)], 1000, 1000);
    expect(cross.heading).toBeNull();
    expect(cross.headingSpread).toBeCloseTo(1, 9);
  });

  it('a seam counts each side by half', () => {
    const { mesh, set: before } = rectangle();
    const e = edgeBetween(mesh, 1, 5);
    const f = edgeBetween(mesh, 5, 9);
    const set = cut(mesh, before, [e, f]).set;
    const uv = set.uv.slice();
    // the left piece (faces 0 and 3) twice as tall
    const { faceStart } = mesh;
    const left = new Set(
      [0, 3].flatMap((face) => Array.from({ length: faceStart[face + 1]! - faceStart[face]! }, (_, k) => set.cornerUv[faceStart[face]! + k]!)),
    );
    for (const p of left) uv[p * 2 + 1] = (uv[p * 2 + 1]! - 0.4) * 2 + 0.4;
    const figures = selectionFigures(mesh, { ...set, uv }, 'edges', [e], 1000, 1000);
    expect(figures.lengthPx).toBeCloseTo((100 + 200) / 2, 9);
    expect(figures.length).toBeCloseTo(1, 12);
  });

  it('what has no place on the sheet has lengths and areas on the model alone', () => {
    const { mesh } = rectangle();
    const figures = selectionFigures(mesh, emptyUvSet(mesh), 'faces', [0, 1], 1000, 1000);
    expect(figures).toMatchObject({ area: 2, areaPx: null, lengthPx: null, ratio: null, heading: null, unplaced: 2 });
    expect(selectionFigures(mesh, emptyUvSet(mesh), 'points', [0, 5], 1000, 1000)).toMatchObject({ count: 2, area: null, length: null, size: [1, 1, 0] });
    expect(selectionFigures(mesh, emptyUvSet(mesh), 'edges', [], 1000, 1000)).toMatchObject({ count: 0, size: [0, 0, 0] });
  });

  it('the side of a cylinder of n facets has the area of its facets (mensuration: perimeter of the polygon × height)', () => {
    const mesh = cylinder(1.5, 2, 24, 1, false);
    const set = emptyUvSet(mesh);
    const faces = Array.from({ length: mesh.faceStart.length - 1 }, (_, f) => f);
    const side = 24 * 2 * 1.5 * Math.sin(Math.PI / 24) * 2;
    expect(selectionFigures(mesh, set, 'faces', faces, 1, 1).area).toBeCloseTo(side, 9);
  });
});
