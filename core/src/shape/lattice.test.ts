import { describe, expect, it } from 'vitest';
import { meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import { uvSetFrom, type UvSet } from '../uv/uvSet.ts';
import { latticeOf } from './lattice.ts';
import { straightenIsland } from './straightenIsland.ts';

type Place = [number, number, number];
const straight = { keep: 'middle', far: 'straight', spacing: 'lengths' } as const;

/** Cells of a grid, those of `has`, as quads (or two triangles where `split` says so); its layout is the grid as it is counted, a hundredth as large. */
function cells(
  columns: number,
  rows: number,
  at: (i: number, j: number) => Place,
  has: (i: number, j: number) => boolean,
  split: (i: number, j: number) => boolean = () => false,
) {
  const points: Place[] = [];
  const uv: number[] = [];
  const vertex = new Map<string, number>();
  const of = (i: number, j: number) => {
    const key = `${i} ${j}`;
    if (!vertex.has(key)) {
      vertex.set(key, points.length);
      points.push(at(i, j));
      uv.push(i / 100, j / 100);
    }
    return vertex.get(key)!;
  };
  const faces: number[][] = [];
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) {
      if (!has(i, j)) continue;
      const [a, b, c, d] = [of(i, j), of(i + 1, j), of(i + 1, j + 1), of(i, j + 1)];
      if (split(i, j)) faces.push([a, b, c], [a, c, d]);
      else faces.push([a, b, c, d]);
    }
  const mesh: Mesh = meshFromFaces(points.flat(), faces);
  return { mesh, set: uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), Float64Array.from(uv)), vertex, points };
}

/** A bent sheet whose columns widen outwards: a ring sector in space. */
const bent = (i: number, j: number): Place => [(2 + 0.2 * j) * Math.cos(0.1 * i), (2 + 0.2 * j) * Math.sin(0.1 * i), 0.05 * i];
const gap = (a: Place, b: Place) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
const places = (set: UvSet, scale: number, v: number) => [set.uv[v * 2]! / scale, set.uv[v * 2 + 1]! / scale] as const;

describe('grids of quads of any outline', () => {
  it('with a missing corner: each column as wide as its edges in the mean, each row as high', () => {
    const [m, n] = [12, 5];
    const { mesh, set, vertex, points } = cells(m, n, bent, (i, j) => i < 9 || j < 3);
    const { set: laid, report } = straightenIsland(mesh, set, 0, straight, 'level');
    expect(report).toMatchObject({ isGrid: true, flips: 0, unfit: [], follow: 0 });
    const own = (i: number, j: number) => points[vertex.get(`${i} ${j}`)!]!;
    const mean = (values: number[]) => values.reduce((sum, x) => sum + x, 0) / values.length;
    const inColumn = (i: number) => Array.from({ length: n + 1 }, (_, j) => j).filter((j) => vertex.has(`${i} ${j}`) && vertex.has(`${i + 1} ${j}`));
    let x = 0;
    const from = places(laid, report.scale, vertex.get('0 0')!);
    for (let i = 0; i <= m; i++) {
      for (let j = 0; j <= n; j++) {
        const v = vertex.get(`${i} ${j}`);
        if (v === undefined) continue;
        const [u, w] = places(laid, report.scale, v);
        expect(Math.abs(u - from[0])).toBeCloseTo(x, 9);
        // the rows of this sheet are 0.2 apart
        expect(Math.abs(w - from[1])).toBeCloseTo(0.2 * j, 9);
      }
      if (i < m) x += mean(inColumn(i).map((j) => gap(own(i, j), own(i + 1, j))));
    }
    expect(report.keptLength).toBeCloseTo(x, 9);
  });

  it('some of its faces as triangles: the grid is the same, and those faces are told', () => {
    const whole = cells(10, 4, bent, () => true);
    const odd = cells(
      10,
      4,
      bent,
      () => true,
      (i, j) => i === 4 && j === 2,
    );
    const a = straightenIsland(whole.mesh, whole.set, 0, straight, 'level');
    const b = straightenIsland(odd.mesh, odd.set, 0, straight, 'level');
    expect(b.report.unfit).toHaveLength(2);
    for (const f of b.report.unfit) expect(odd.mesh.faceStart[f + 1]! - odd.mesh.faceStart[f]!).toBe(3);
    a.set.uv.forEach((x, k) => expect(b.set.uv[k]).toBeCloseTo(x, 9));
  });

  it('a flat cross of squares, turned in space, comes out as it is', () => {
    const turned = (i: number, j: number): Place => [0.6 * i, 0.8 * i, j];
    const { mesh, set } = cells(7, 7, turned, (i, j) => (i >= 2 && i < 5) || j === 3);
    const { report } = straightenIsland(mesh, set, 0, straight, 'level');
    expect(report.energy).toBeCloseTo(4, 9);
    expect(report).toMatchObject({ flips: 0, unfit: [] });
  });

  it('where not four quads meet the nearer side counts: three faces of a cube round its corner', () => {
    const n = 4;
    const points: Place[] = [];
    const index = new Map<string, number>();
    const of = (p: Place) => {
      if (!index.has(p.join())) index.set(p.join(), points.push(p) - 1);
      return index.get(p.join())!;
    };
    const faces: number[][] = [];
    const sides = [(i: number, j: number): Place => [i, j, 0], (i: number, j: number): Place => [0, i, j], (i: number, j: number): Place => [j, 0, i]];
    for (const at of sides)
      for (let i = 0; i < n; i++) for (let j = 0; j < n; j++) faces.push([of(at(i, j)), of(at(i + 1, j)), of(at(i + 1, j + 1)), of(at(i, j + 1))]);
    const quads = faces.flat();
    const triangles = faces.flatMap(([a, b, c, d]) => [a, b, c, a, c, d]) as number[];
    const lattice = latticeOf(quads, Float64Array.from(points.flat()), triangles)!;
    const fitting = lattice.fits.reduce((sum, x) => sum + x, 0);
    // two sides at least, and of the third all but what would lie at two places
    expect(fitting).toBeGreaterThanOrEqual(2 * n * n);
    expect(fitting).toBeLessThan(3 * n * n);
    const at = new Set<string>();
    lattice.column.forEach((c, v) => {
      if (c < 0) return;
      const key = `${c} ${lattice.row[v]}`;
      expect(at.has(key)).toBe(false);
      at.add(key);
    });
    quads.forEach((v, h) => {
      if (!lattice.fits[h >> 2]) return;
      const w = quads[h - (h % 4) + ((h + 1) % 4)]!;
      expect(Math.abs(lattice.column[v]! - lattice.column[w]!) + Math.abs(lattice.row[v]! - lattice.row[w]!)).toBe(1);
    });
  });

  it('the length of the kept line is as it is typed; rows keep their heights', () => {
    const { mesh, set } = cells(12, 5, bent, (i, j) => i < 9 || j < 3);
    const px = 0.5;
    const { set: laid } = straightenIsland(mesh, set, 0, { ...straight, px }, 'level');
    const own = straightenIsland(mesh, set, 0, straight, 'level').set;
    const size = (of: UvSet, d: number) => Math.max(...of.uv.filter((_, k) => k % 2 === d)) - Math.min(...of.uv.filter((_, k) => k % 2 === d));
    expect(size(laid, 0)).toBeCloseTo(px, 12);
    expect(size(laid, 1)).toBeCloseTo(size(own, 1), 12);
  });
});

describe('strips that branch', () => {
  /** A bent run of triangles, 40 columns long, with a branch of so many columns set out sideways. */
  const branching = (reach: number) =>
    cells(
      40,
      4 + reach,
      (i, j) => [(3 - 0.1 * j) * Math.cos(0.05 * i), (3 - 0.1 * j) * Math.sin(0.05 * i), 0],
      (i, j) => j < 4 || (i >= 18 && i < 22),
      () => true,
    );

  it.each([[8], [14]])('the longest run is straight at its own length, the branch follows without a flip (%s)', (reach) => {
    const { mesh, set, vertex } = branching(reach);
    const { set: laid, report } = straightenIsland(mesh, set, 0, straight, 'level');
    expect(report.flips).toBe(0);
    expect(report.follow).toBe(reach * 4 * 2);
    // 40 chords of the middle circle, about
    expect(report.keptLength).toBeGreaterThan(40 * 2 * 2.6 * Math.sin(0.025));
    expect(report.keptLength).toBeLessThan(40 * 2 * 3 * Math.sin(0.025));
    for (const j of [0, 4]) {
      const heights = Array.from({ length: 41 }, (_, i) => places(laid, report.scale, vertex.get(`${i} ${j}`)!)[1]);
      expect(Math.max(...heights) - Math.min(...heights)).toBeLessThan(1e-9);
    }
    expect(report.energy).toBeLessThan(4.3);
  });

  it('a strip with one corner bent inwards does not branch', () => {
    const { mesh, set } = cells(
      12,
      6,
      (i, j) => [i, j, 0],
      (i, j) => i < 4 || j < 2,
      () => true,
    );
    expect(straightenIsland(mesh, set, 0, straight, 'level').report.follow).toBe(0);
  });
});
