import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { heightField } from '../mesh/starterForms.ts';
import { box, cubeSphere, cylinder, sphere, torus } from '../mesh/starterForms.ts';
import { meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf } from '../uv/islands.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { borderOfFaces, convertSelection, elementCount, elementKinds, growSelection, invertSelection, shrinkSelection } from './convert.ts';
import { connectedFaces, edgeRing, facePath, flatRegion, mirrorPoints, pointPath, sameFacing } from './flood.ts';
import { edgeLoop } from './loop.ts';
import { smoothRun } from './run.ts';

const grid = (n: number) => heightField(n, n, (u, v) => [u, v, 0]);
/** Three pages on one spine: its edge has three faces. */
const book = () =>
  meshFromFaces(
    [0, 0, 0, 0, 1, 0, 1, 0, 0, 1, 1, 0, -1, 0, 0, -1, 1, 0, 0, 0, 1, 0, 1, 1],
    [
      [0, 2, 3, 1],
      [0, 4, 5, 1],
      [0, 6, 7, 1],
    ],
  );
const islands = (mesh: Mesh) => islandsOf(mesh, emptyUvSet(mesh));
const edgeBetween = (mesh: Mesh, a: number, b: number) => {
  const { edgePoints, edgeCount } = topologyOf(mesh);
  for (let e = 0; e < edgeCount; e++) if (edgePoints[e * 2] === Math.min(a, b) && edgePoints[e * 2 + 1] === Math.max(a, b)) return e;
  throw new Error('no such edge');
};
const meshes: [string, Mesh][] = [
  ['grid', grid(6)],
  ['ball with poles', sphere(1, 10, 6)],
  ['cube ball', cubeSphere(1, 4)],
  ['ring', torus(1, 0.3, 12, 8)],
  ['book', book()],
];

describe('converting between kinds', () => {
  it('one face of a grid: 4 edges, 4 points; back within gives the face, touching its 8 neighbours too', () => {
    const mesh = grid(5);
    const face = 12; // the middle of 5 × 5
    const set = islands(mesh);
    const edges = convertSelection(mesh, set, 'faces', [face], 'edges');
    const points = convertSelection(mesh, set, 'faces', [face], 'points');
    expect([edges.length, points.length]).toEqual([4, 4]);
    expect([...convertSelection(mesh, set, 'edges', edges, 'faces')]).toEqual([face]);
    expect([...convertSelection(mesh, set, 'points', points, 'faces')]).toEqual([face]);
    expect(convertSelection(mesh, set, 'points', points, 'faces', 'touching').length).toBe(9);
    expect(convertSelection(mesh, set, 'edges', edges, 'faces', 'touching').length).toBe(5);
    expect(convertSelection(mesh, set, 'points', points, 'edges', 'touching').length).toBe(12);
    expect([...convertSelection(mesh, set, 'edges', edges, 'islands')]).toEqual([0]);
    expect(convertSelection(mesh, set, 'islands', [0], 'faces').length).toBe(25);
  });

  it('the spine of a book touches all three pages', () => {
    const mesh = book();
    expect(convertSelection(mesh, islands(mesh), 'edges', [edgeBetween(mesh, 0, 1)], 'faces', 'touching').length).toBe(3);
  });

  it.each(meshes)('%s: down and up again within never loses and touching never gives less (property)', (_name, mesh) => {
    const set = islands(mesh);
    fc.assert(
      fc.property(fc.constantFrom(...elementKinds), fc.constantFrom(...elementKinds), fc.array(fc.nat(), { maxLength: 30 }), (from, to, raw) => {
        const ids = [...new Set(raw.map((k) => k % elementCount(mesh, set, from)))].sort((a, b) => a - b);
        const within = convertSelection(mesh, set, from, ids, to, 'within');
        const touching = convertSelection(mesh, set, from, ids, to, 'touching');
        const wide = new Set(touching);
        for (const id of within) expect(wide.has(id)).toBe(true);
        if (elementKinds.indexOf(to) < elementKinds.indexOf(from)) {
          const back = new Set(convertSelection(mesh, set, to, within, from, 'within'));
          for (const id of ids) expect(back.has(id)).toBe(true);
        }
      }),
      { numRuns: 60 },
    );
  });
});

describe('grow, shrink, invert', () => {
  it('a face in a grid grows to 9, 25 and shrinks back', () => {
    const mesh = grid(7);
    const set = islands(mesh);
    const once = growSelection(mesh, set, 'faces', [24]);
    const twice = growSelection(mesh, set, 'faces', once);
    expect([once.length, twice.length]).toEqual([9, 25]);
    expect([...shrinkSelection(mesh, set, 'faces', twice)]).toEqual([...once]);
    expect([...shrinkSelection(mesh, set, 'faces', once)]).toEqual([24]);
    expect(growSelection(mesh, set, 'points', [0]).length).toBe(3);
  });

  it.each(meshes)('%s: growing is monotone and by shared points, by its definition (property)', (_name, mesh) => {
    const set = islands(mesh);
    fc.assert(
      fc.property(fc.constantFrom('edges' as const, 'faces' as const), fc.array(fc.nat(), { minLength: 1, maxLength: 8 }), (kind, raw) => {
        const ids = [...new Set(raw.map((k) => k % elementCount(mesh, set, kind)))];
        const grown = new Set(growSelection(mesh, set, kind, ids));
        const pointsOf = (id: number) => [...convertSelection(mesh, set, kind, [id], 'points')];
        const touched = new Set(ids.flatMap(pointsOf));
        for (let id = 0; id < elementCount(mesh, set, kind); id++) expect(grown.has(id)).toBe(pointsOf(id).some((p) => touched.has(p)));
      }),
      { numRuns: 15 },
    );
  });

  it.each(meshes)('%s: inverting twice is nothing', (_name, mesh) => {
    const set = islands(mesh);
    for (const kind of elementKinds) {
      const some = Uint32Array.from({ length: elementCount(mesh, set, kind) }, (_, k) => k).filter((k) => k % 3 === 0);
      const other = invertSelection(mesh, set, kind, some);
      expect(other.length + some.length).toBe(elementCount(mesh, set, kind));
      expect([...invertSelection(mesh, set, kind, other)]).toEqual([...some]);
    }
  });
});

describe('loops, rings, runs, paths', () => {
  it('a ring about a torus has as many edges as the tube has sides, or as the ring has segments', () => {
    const mesh = torus(1, 0.3, 12, 8);
    const lengths = new Set(Array.from({ length: topologyOf(mesh).edgeCount }, (_, e) => edgeRing(mesh, e).length));
    expect([...lengths].sort((a, b) => a - b)).toEqual([8, 12]);
    const ring = edgeRing(mesh, 0);
    expect(new Set(ring).size).toBe(ring.length);
    // a ring crosses faces, a loop runs along edges: together they see each kind of edge
    expect(edgeLoop(mesh, 0).length === 8 || edgeLoop(mesh, 0).length === 12).toBe(true);
    expect(ring.length).not.toBe(edgeLoop(mesh, 0).length);
  });

  it('across a grid a ring has one edge more than faces; it stops at triangles', () => {
    const mesh = grid(6);
    const inner = edgeBetween(mesh, 7 * 2 + 3, 7 * 3 + 3);
    expect(edgeRing(mesh, inner).length).toBe(7);
    const ball = sphere(1, 10, 6);
    const { edgePoints, edgeCount } = topologyOf(ball);
    const y = (p: number) => ball.points[p * 3 + 1]!;
    // an edge that runs round the ball: its ring goes from pole to pole and stops at the triangles there
    const level = Array.from({ length: edgeCount }, (_, e) => e).find(
      (e) => Math.abs(y(edgePoints[e * 2]!)) < 1e-9 && Math.abs(y(edgePoints[e * 2 + 1]!)) < 1e-9,
    )!;
    expect(edgeRing(ball, level).length).toBe(5);
    const upright = Array.from({ length: edgeCount }, (_, e) => e).find((e) => {
      const ys = [y(edgePoints[e * 2]!), y(edgePoints[e * 2 + 1]!)];
      return Math.abs(ys[0]! - ys[1]!) > 0.1 && Math.abs(ys[0]!) < 1e-9;
    })!;
    expect(edgeRing(ball, upright).length).toBe(10);
  });

  it('a smooth run follows the rim of a cylinder only if it may turn enough', () => {
    const mesh = cylinder(1, 2, 24, 1, true);
    const { edgePoints, edgeCount } = topologyOf(mesh);
    const rim = Array.from({ length: edgeCount }, (_, e) => e).find(
      (e) => mesh.points[edgePoints[e * 2]! * 3 + 1] === mesh.points[edgePoints[e * 2 + 1]! * 3 + 1],
    )!;
    expect(smoothRun(mesh, rim, 16).length).toBe(24);
    expect(smoothRun(mesh, rim, 14).length).toBe(1);
  });

  it('the way between two points of a grid is as long as their distance along the axes', () => {
    const mesh = grid(6);
    expect(pointPath(mesh, 0, 7 * 3 + 4).length).toBe(7);
    expect(pointPath(mesh, 5, 5)).toEqual([]);
  });

  it('the way between two faces of a grid crosses as many edges; between two pieces there is none', () => {
    const mesh = grid(6);
    expect(facePath(mesh, 0, 6 * 2 + 3).length).toBe(6);
    const two = meshFromFaces(
      [0, 0, 0, 1, 0, 0, 0, 1, 0, 5, 0, 0, 6, 0, 0, 5, 1, 0],
      [
        [0, 1, 2],
        [3, 4, 5],
      ],
    );
    expect(facePath(two, 0, 1)).toEqual([]);
    expect(pointPath(two, 0, 4)).toEqual([]);
  });
});

describe('regions', () => {
  it('a side of a box is flat; past the edge angle the whole box is', () => {
    const mesh = box(1, 2, 3);
    const per = (mesh.faceStart.length - 1) / 6;
    expect(flatRegion(mesh, [0], 45).length).toBe(per);
    expect(flatRegion(mesh, [0], 91).length).toBe(per * 6);
    expect(sameFacing(mesh, [0], 1).length).toBe(per);
    expect(sameFacing(mesh, [0], 90).length).toBe(per * 5);
    expect(borderOfFaces(mesh, flatRegion(mesh, [0], 45)).length).toBe(4);
  });

  it('connected stays in one piece and crosses a non-manifold spine', () => {
    expect(connectedFaces(book(), [0]).length).toBe(3);
    const ball = cubeSphere(1, 3);
    const pair = meshFromFaces(
      [...ball.points, ...ball.points.map((x) => x + 10)],
      [0, 1].flatMap((copy) =>
        Array.from({ length: ball.faceStart.length - 1 }, (_, f) =>
          Array.from(ball.corners.subarray(ball.faceStart[f], ball.faceStart[f + 1]), (p) => p + copy * (ball.points.length / 3)),
        ),
      ),
    );
    expect(connectedFaces(pair, [3]).length).toBe(54);
  });
});

describe('mirror', () => {
  it('finds the point across the plane, itself on it, and nothing where one is missing', () => {
    const mesh = cubeSphere(1, 4);
    const across = mirrorPoints(mesh, 0, 0, 1e-6);
    for (let p = 0; p < across.length; p++) {
      expect(across[across[p]!]).toBe(p);
      expect(mesh.points[across[p]! * 3]).toBeCloseTo(-mesh.points[p * 3]!, 9);
    }
    const lopsided = { ...mesh, points: mesh.points.map((x, k) => (k === 0 ? x + 0.1 : x)) };
    expect(mirrorPoints(lopsided, 0, 0, 1e-3)[0]).toBe(-1);
  });
});
