import Clipper from 'clipper-lib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { meshFromFaces } from '../mesh/mesh.ts';
import { seededRandom } from '../numeric/random.ts';
import { islandsOf } from '../uv/islands.ts';
import { uvSetFrom } from '../uv/uvSet.ts';
import { clearIslands } from './clearIslands.ts';

type Place = [number, number];

/** A layout of pieces, each with points of its own and faces as lists of these. */
function layoutOf(pieces: { places: Place[]; faces: number[][] }[]) {
  const places = pieces.flatMap((piece) => piece.places);
  const starts = pieces.map((_, k) => pieces.slice(0, k).reduce((sum, piece) => sum + piece.places.length, 0));
  const faces = pieces.flatMap((piece, k) => piece.faces.map((face) => face.map((p) => p + starts[k]!)));
  // the form does not matter: only that each piece is one
  const mesh = meshFromFaces(
    places.flatMap(([x, y], k) => [x, y, k * 1e-3]),
    faces,
  );
  return { mesh, set: uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), Float64Array.from(places.flat())) };
}
const clearOf = (pieces: Parameters<typeof layoutOf>[0]) => {
  const { mesh, set } = layoutOf(pieces);
  return [...clearIslands(mesh, set)];
};
const square = (x: number, y: number, size: number, turned = false) => ({
  places: [
    [x, y],
    [x + size, y],
    [x + size, y + size],
    [x, y + size],
  ] as Place[],
  faces: turned
    ? [
        [2, 1, 0],
        [3, 2, 0],
      ]
    : [
        [0, 1, 2],
        [0, 2, 3],
      ],
});
/** A ring of quads between two radii, over so many full turns. */
const ring = (x: number, y: number, inner: number, outer: number, turns: number, isClosed: boolean) => {
  const n = 24 * turns;
  const at = (k: number, r: number): Place => [x + r * Math.cos((2 * Math.PI * k) / 24), y + r * Math.sin((2 * Math.PI * k) / 24)];
  const places: Place[] = [];
  for (let k = 0; k < (isClosed ? n : n + 1); k++) places.push(at(k, inner), at(k, outer));
  const faces: number[][] = [];
  for (let k = 0; k < n; k++) {
    const [a, b] = [k * 2, ((k + 1) * 2) % places.length];
    faces.push([a, a + 1, b + 1], [a, b + 1, b]);
  }
  return { places, faces };
};

describe('islands that surely overlap nothing', () => {
  it('are those apart, whichever way they turn', () => expect(clearOf([square(0, 0, 0.4), square(0.5, 0, 0.4, true)])).toEqual([1, 1]));
  it('are those in the hole of another', () => expect(clearOf([ring(0.5, 0.5, 0.3, 0.4, 1, true), square(0.45, 0.45, 0.1)])).toEqual([1, 1]));
  it('are not those within another, nor that one', () => expect(clearOf([square(0, 0, 1), square(0.45, 0.45, 0.1), square(2, 0, 1)])).toEqual([0, 0, 1]));
  it('are not those that cross, nor what they might reach', () =>
    expect(clearOf([square(0, 0, 0.5), square(0.3, 0.3, 0.5), square(0.7, 0.1, 0.05)])).toEqual([0, 0, 1]));
  it('are not two on one place', () => expect(clearOf([square(0, 0, 0.5), square(0, 0, 0.5)])).toEqual([0, 0]));
  it('are not one that goes round twice, though no triangle of it is turned over', () => {
    expect(clearOf([ring(0.5, 0.5, 0.3, 0.4, 2, false)])).toEqual([0]);
    expect(clearOf([ring(0.5, 0.5, 0.3, 0.4, 2, true)])).toEqual([0]);
  });
  it('are not those with a triangle turned over or without area', () => {
    const folded = { places: [...square(0, 0, 1).places.slice(0, 3), [0.9, 0.1]] as Place[], faces: square(0, 0, 1).faces };
    const flat = { places: [...square(0, 0, 1).places.slice(0, 3), [0.5, 0.5]] as Place[], faces: square(0, 0, 1).faces };
    expect(clearOf([folded])).toEqual([0]);
    expect(clearOf([flat])).toEqual([0]);
  });
  it('are those side by side that share a whole edge', () => expect(clearOf([square(0, 0, 0.5), square(0.5, 0, 0.5)])).toEqual([1, 1]));

  it('never overlap by clipper-lib’s count, and most that do not are found', () => {
    let [clear, free] = [0, 0];
    fc.assert(
      fc.property(fc.nat(), fc.integer({ min: 2, max: 9 }), (seed, count) => {
        const random = seededRandom(seed);
        const pieces = Array.from({ length: count }, () =>
          random() < 0.3
            ? ring(random(), random(), 0.05 + 0.2 * random(), 0.3 + 0.2 * random(), 1, true)
            : square(random(), random(), 0.05 + 0.3 * random(), random() < 0.5),
        );
        const { mesh, set } = layoutOf(pieces);
        const { count: islands } = islandsOf(mesh, set);
        expect(islands).toBe(count);
        const found = clearIslands(mesh, set);
        const grid = 1e9;
        const paths = pieces.map(({ places, faces }) =>
          faces.map((face) => {
            const path = face.map((p) => ({ X: Math.round(places[p]![0] * grid), Y: Math.round(places[p]![1] * grid) }));
            return Clipper.Clipper.Orientation(path) ? path : path.reverse();
          }),
        );
        const overlaps = (a: number, b: number) => {
          const clipper = new Clipper.Clipper();
          clipper.AddPaths(paths[a]!, Clipper.PolyType.ptSubject, true);
          clipper.AddPaths(paths[b]!, Clipper.PolyType.ptClip, true);
          const out: { X: number; Y: number }[][] = [];
          clipper.Execute(Clipper.ClipType.ctIntersection, out, Clipper.PolyFillType.pftNonZero, Clipper.PolyFillType.pftNonZero);
          return out.reduce((sum, path) => sum + Math.abs(Clipper.Clipper.Area(path)), 0) / grid ** 2 > 1e-12;
        };
        for (let a = 0; a < count; a++) {
          const isFree = !pieces.some((_, b) => b !== a && overlaps(a, b));
          if (isFree) free++;
          if (found[a]) clear++;
          if (found[a]) expect(isFree, `piece ${a} of seed ${seed}`).toBe(true);
        }
      }),
      { numRuns: 150 },
    );
    expect(clear).toBeGreaterThan(free * 0.5);
  });
});
