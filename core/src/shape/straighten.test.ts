import { describe, expect, it } from 'vitest';
import type { Mesh } from '../mesh/mesh.ts';
import { islandsOf } from '../uv/islands.ts';
import { emptyUvSet, uvSetFrom, type UvSet } from '../uv/uvSet.ts';
import { flipCount } from '../unwrap/solveIsland.ts';
import { triangleStretch, type TriangleStretch } from '../uv/triangleStretch.ts';
import { pieceOf } from '../unwrap/piece.ts';
import { straightenIsland, type StraightenedIsland } from './straightenIsland.ts';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { activeSet, newJob } from '../job/job.ts';
import { runOperation } from '../ops/registry.ts';
import { realMesh, realMeshes } from '../../../scripts/realMeshes.ts';
import { topologyOf } from '../mesh/topology.ts';

/** A sheet of m × n quads (or twice as many triangles) swept through space; its UVs are the given ones, a layout to start from. */
function swept(
  m: number,
  n: number,
  at: (s: number, t: number) => [number, number, number],
  uvAt: (s: number, t: number) => [number, number],
  triangles = false,
): { mesh: Mesh; set: UvSet } {
  const points: number[] = [];
  const uv: number[] = [];
  for (let j = 0; j <= n; j++)
    for (let i = 0; i <= m; i++) {
      points.push(...at(i / m, j / n));
      uv.push(...uvAt(i / m, j / n));
    }
  const corners: number[] = [];
  const starts = [0];
  const face = (...list: number[]) => {
    corners.push(...list);
    starts.push(corners.length);
  };
  for (let j = 0; j < n; j++)
    for (let i = 0; i < m; i++) {
      const [a, b, c, d] = [j * (m + 1) + i, j * (m + 1) + i + 1, (j + 1) * (m + 1) + i + 1, (j + 1) * (m + 1) + i];
      if (!triangles) face(a, b, c, d);
      else if ((i * 7 + j * 3) % 2 === 0) {
        face(a, b, c);
        face(a, c, d);
      } else {
        face(a, b, d);
        face(b, c, d);
      }
    }
  const faces = starts.length - 1;
  const mesh: Mesh = {
    points: Float64Array.from(points),
    faceStart: Uint32Array.from(starts),
    corners: Uint32Array.from(corners),
    faceGroup: new Int32Array(faces).fill(-1),
    groups: [],
    faceMaterial: new Int32Array(faces).fill(-1),
    materials: [],
    faceSmooth: new Int32Array(faces).fill(-1),
  };
  return { mesh, set: uvSetFrom(mesh, 'UV set 1', Uint32Array.from(corners), Float64Array.from(uv)) };
}

/** A flat sector of a ring: radius r, angle θ, width w; it lies as it is, a tenth as large. */
const sector = (r: number, theta: number, w: number, m: number, n: number, triangles = false) => {
  const place = (s: number, t: number): [number, number] => {
    const [radius, angle] = [r + w * (1 - t), theta * s];
    return [radius * Math.cos(angle), radius * Math.sin(angle)];
  };
  return swept(
    m,
    n,
    (s, t) => [...place(s, t), 0],
    (s, t) => place(s, t).map((x) => x * 0.1) as [number, number],
    triangles,
  );
};

/** The vertices' places of row j, in units of length. */
function rowOf(set: UvSet, m: number, j: number, { scale }: StraightenedIsland): { u: number; v: number }[] {
  return Array.from({ length: m + 1 }, (_, i) => ({ u: set.uv[(j * (m + 1) + i) * 2]! / scale, v: set.uv[(j * (m + 1) + i) * 2 + 1]! / scale }));
}
const spread = (values: number[]) => Math.max(...values) - Math.min(...values);

describe('straightening strips', () => {
  const [r, theta, w, m, n] = [2, 1.9, 0.6, 40, 4];
  /** Length of m chords of an arc: 2 r sin(θ / 2m) m, plane geometry. */
  const chords = (radius: number) => 2 * radius * Math.sin(theta / (2 * m)) * m;

  it('a ring sector becomes a rectangle: its kept line at its own length, its width kept, the grain level', () => {
    const { mesh, set } = sector(r, theta, w, m, n);
    for (const [keep, length] of [
      ['middle', chords(r + w / 2)],
      ['longer', chords(r + w)],
      ['shorter', chords(r)],
    ] as const) {
      const { set: laid, report } = straightenIsland(mesh, set, 0, { keep, far: 'straight', spacing: 'lengths' }, 'level');
      expect(report.keptLength).toBeCloseTo(length, 9);
      expect(report).toMatchObject({ isGrid: true, flips: 0 });
      for (let j = 0; j <= n; j++) {
        const row = rowOf(laid, m, j, report);
        expect(spread(row.map(({ v }) => v))).toBeLessThan(1e-12);
        expect(spread(row.map(({ u }) => u))).toBeCloseTo(length, 9);
      }
      const [first, last] = [rowOf(laid, m, 0, report)[0]!, rowOf(laid, m, n, report)[0]!];
      expect(Math.abs(first.v - last.v)).toBeCloseTo(w, 9);
      expect(Math.abs(first.u - last.u)).toBeLessThan(1e-12);
      // the arc itself, within what chords miss of it
      if (keep === 'middle') expect(Math.abs(report.keptLength - (r + w / 2) * theta)).toBeLessThan(1e-3);
    }
  });

  it('says what the borders gain and lose', () => {
    const { mesh, set } = sector(r, theta, w, m, n);
    const { report } = straightenIsland(mesh, set, 0, { keep: 'shorter', far: 'straight', spacing: 'lengths' }, 'level');
    const gains = report.borders.map(({ length, laid }) => laid / length - 1).sort((a, b) => a - b);
    // the longer border shrinks to the shorter one's length
    expect(gains[0]).toBeCloseTo(r / (r + w) - 1, 9);
    expect(gains[1]).toBeCloseTo(0, 9);
  });

  it('the same of triangles: level and upright to 1°, the kept border exact, no flips, stretch within 2 % of the grid’s', () => {
    const { mesh, set } = sector(r, theta, w, m, n, true);
    const grid = sector(r, theta, w, m, n);
    for (const keep of ['middle', 'longer', 'shorter'] as const) {
      const { set: laid, report } = straightenIsland(mesh, set, 0, { keep, far: 'straight', spacing: 'lengths' }, 'level');
      expect(report).toMatchObject({ isGrid: false, flips: 0 });
      if (keep !== 'middle') expect(report.keptLength).toBeCloseTo(chords(keep === 'longer' ? r + w : r), 9);
      const columns = w / n;
      for (let j = 0; j <= n; j++) {
        const row = rowOf(laid, m, j, report);
        const angle = Math.max(...row.slice(1).map(({ u, v }, k) => Math.abs(Math.atan2(v - row[k]!.v, Math.abs(u - row[k]!.u)))));
        expect((angle * 180) / Math.PI).toBeLessThan(1);
        if (j > 0) {
          const below = rowOf(laid, m, j - 1, report);
          for (let i = 0; i <= m; i++) expect((Math.atan2(Math.abs(row[i]!.u - below[i]!.u), columns) * 180) / Math.PI).toBeLessThan(1);
        }
      }
      const best = straightenIsland(grid.mesh, grid.set, 0, { keep, far: 'straight', spacing: 'lengths' }, 'level').report.energy;
      expect(report.energy / best).toBeLessThan(1.02);
    }
  });

  it('a helix strip comes out at its own length: m chords of √(r² φ² + h²) nearly', () => {
    const [turns, rise] = [2.5, 0.8];
    const phi = 2 * Math.PI * turns;
    const at = (s: number, t: number): [number, number, number] => [Math.cos(phi * s), rise * turns * s + 0.2 * t, Math.sin(phi * s)];
    const { mesh, set } = swept(120, 3, at, (s, t) => [s, t * 0.1]);
    const { report } = straightenIsland(mesh, set, 0, { keep: 'middle', far: 'straight', spacing: 'lengths' }, 'level');
    const chord = Math.hypot(2 * Math.sin(phi / 240), (rise * turns) / 120) * 120;
    expect(report.keptLength).toBeCloseTo(chord, 9);
    // m chords of a circle miss φ³ / (24 m²) of it
    expect(Math.abs(report.keptLength - Math.hypot(phi, rise * turns))).toBeLessThan((1.05 * phi ** 3) / (24 * 120 ** 2));
  });

  it('a closed band opens at its shortest way across and is as long as its circumference; a cone frustum as its middle circle', () => {
    for (const [r0, r1, height] of [
      [1, 1, 0.7],
      [1, 0.6, 0.7],
    ] as const) {
      const at = (s: number, t: number): [number, number, number] => {
        const radius = r0 + (r1 - r0) * t;
        return [radius * Math.cos(2 * Math.PI * s), height * t, -radius * Math.sin(2 * Math.PI * s)];
      };
      const tube = closed(
        swept(48, 2, at, (s, t) => [(0.2 + 0.1 * t) * Math.cos(2 * Math.PI * s), (0.2 + 0.1 * t) * Math.sin(2 * Math.PI * s)]),
        48,
      );
      const { set, report } = straightenIsland(tube.mesh, tube.set, 0, { keep: 'middle', far: 'straight', spacing: 'lengths' }, 'level');
      const circle = (radius: number) => 2 * radius * Math.sin(Math.PI / 48) * 48;
      expect(report.opened).toHaveLength(2);
      expect(islandsOf(tube.mesh, set).count).toBe(1);
      expect(report.keptLength).toBeCloseTo((circle(r0) + circle((r0 + r1) / 2) + circle(r1)) / 3, 9);
      const width = Math.hypot(height, r0 - r1);
      const heights = [...pieceOf(tube.mesh, set, 0).uvPoint].map((p) => set.uv[p * 2 + 1]! / report.scale);
      expect(spread(heights)).toBeCloseTo(width, 9);
    }
  });

  it('a chosen line of edges keeps its length', () => {
    const { mesh, set } = sector(r, theta, w, m, n);
    const { edgePoints, edgeCount } = topologyOf(mesh);
    const row = 1;
    const own = [...Array(edgeCount).keys()].filter((e) => [0, 1].every((k) => Math.floor(edgePoints[e * 2 + k]! / (m + 1)) === row));
    expect(own).toHaveLength(m);
    const { report } = straightenIsland(mesh, set, 0, { keep: 'edges', far: 'straight', spacing: 'lengths' }, 'level', new Set(own));
    expect(report.keptLength).toBeCloseTo(chords(r + w * (1 - row / n)), 9);
    const triangles = sector(r, theta, w, m, n, true);
    const edges = topologyOf(triangles.mesh);
    const again = [...Array(edges.edgeCount).keys()].filter((e) => [0, 1].every((k) => Math.floor(edges.edgePoints[e * 2 + k]! / (m + 1)) === row));
    const other = straightenIsland(triangles.mesh, triangles.set, 0, { keep: 'edges', far: 'straight', spacing: 'lengths' }, 'level', new Set(again));
    expect(other.report.keptLength).toBeCloseTo(chords(r + w * (1 - row / n)), 9);
    expect(spread(rowOf(other.set, m, row, other.report).map(({ v }) => v))).toBeLessThan(1e-9);
  });

  it('a straight strip stays as it is, however it lies', () => {
    const turned = (s: number, t: number): [number, number] => [0.4 * s * Math.cos(1) - 0.1 * t * Math.sin(1), 0.4 * s * Math.sin(1) + 0.1 * t * Math.cos(1)];
    for (const triangles of [false, true]) {
      const { mesh, set } = swept(12, 3, (s, t) => [4 * s, t, 0], turned, triangles);
      const { set: laid } = straightenIsland(mesh, set, 0, { keep: 'middle', far: 'straight', spacing: 'lengths' }, 'asLies');
      set.uv.forEach((x, k) => expect(laid.uv[k]).toBeCloseTo(x, 9));
    }
  });

  it('alike strips come out alike, mirrored ones mirrored', () => {
    const one = sector(r, theta, w, m, n, true);
    const [a, b] = [one.set, { ...one.set, uv: one.set.uv.map((x, k) => (k % 2 === 0 ? -x : x)) }].map(
      (set) => straightenIsland(one.mesh, set, 0, { keep: 'middle', far: 'straight', spacing: 'lengths' }, 'level').set.uv,
    ) as [Float64Array, Float64Array];
    const width = (uv: Float64Array, d: number) => spread([...uv].filter((_, k) => k % 2 === d));
    expect(width(a, 0)).toBeCloseTo(width(b, 0), 9);
    expect(width(a, 1)).toBeCloseTo(width(b, 1), 9);
    const piece = pieceOf(one.mesh, one.set, 0);
    const local = (uv: Float64Array) => Float64Array.from([...piece.uvPoint].flatMap((p) => [uv[p * 2]!, uv[p * 2 + 1]!]));
    expect(flipCount(piece.triangles, local(a))).toBe(0);
    expect(flipCount(piece.triangles, local(b))).toBe(piece.triangles.length / 3);
  });

  it('free on the far side it stretches less, and the kept border stays straight', () => {
    const { mesh, set } = sector(r, theta, w, m, n, true);
    const straight = straightenIsland(mesh, set, 0, { keep: 'shorter', far: 'straight', spacing: 'lengths' }, 'level').report;
    const { set: laid, report } = straightenIsland(mesh, set, 0, { keep: 'shorter', far: 'free', spacing: 'lengths' }, 'level');
    expect(report.energy).toBeLessThan(straight.energy);
    expect(spread(rowOf(laid, m, n, report).map(({ v }) => v))).toBeLessThan(1e-9);
  });

  it('a tooth on the long border keeps its form: it is not pressed into the line', () => {
    const { mesh, set } = sector(r, theta, w, m, n, true);
    // a triangle more, on an edge of the inner border
    const [a, b] = [n * (m + 1) + 7, n * (m + 1) + 8];
    const tip = mesh.points.length / 3;
    const at = (p: number, d: number) => mesh.points[p * 3 + d]!;
    const place = [0, 1].map((d) => ((at(a, d) + at(b, d)) / 2) * 0.9);
    const toothed: Mesh = {
      ...mesh,
      points: Float64Array.from([...mesh.points, ...place, 0]),
      corners: Uint32Array.from([...mesh.corners, a, b, tip]),
      faceStart: Uint32Array.from([...mesh.faceStart, mesh.corners.length + 3]),
      ...Object.fromEntries(['faceGroup', 'faceMaterial', 'faceSmooth'].map((k) => [k, new Int32Array(mesh.faceStart.length).fill(-1)])),
    };
    const layout = uvSetFrom(toothed, 'UV set 1', toothed.corners.slice(), Float64Array.from([...set.uv, ...place.map((x) => x * 0.1)]));
    for (const keep of ['middle', 'shorter'] as const) {
      const { set: laid, report } = straightenIsland(toothed, layout, 0, { keep, far: 'straight', spacing: 'lengths' }, 'level');
      expect(report.flips).toBe(0);
      expect(report.energy).toBeLessThan(4.3);
      const height = Math.abs(laid.uv[tip * 2 + 1]! - laid.uv[a * 2 + 1]!) / report.scale;
      // its own height in space, about
      const own = Math.hypot(...[0, 1].map((d) => place[d]! - (at(a, d) + at(b, d)) / 2));
      expect(height / own).toBeGreaterThan(0.8);
      expect(height / own).toBeLessThan(1.25);
      expect(laid.uv[a * 2 + 1]!).toBeCloseTo(laid.uv[b * 2 + 1]!, 12);
    }
  });

  it('what is no strip is refused in words', () => {
    const disk = swept(
      1,
      1,
      (s, t) => [s, t, 0],
      (s, t) => [s, t],
    );
    disk.set.unplaced.fill(1);
    expect(() => straightenIsland(disk.mesh, disk.set, 0, { keep: 'middle', far: 'straight', spacing: 'lengths' }, 'level')).toThrow(/no place/);
    const fan = roundFan(24);
    expect(() => straightenIsland(fan.mesh, fan.set, 0, { keep: 'middle', far: 'straight', spacing: 'lengths' }, 'level')).toThrow(/no four corners/);
  });
});

/** Joins the ends of a swept sheet. */
function closed({ mesh, set }: { mesh: Mesh; set: UvSet }, m: number): { mesh: Mesh; set: UvSet } {
  const corners = mesh.corners.map((p) => (p % (m + 1) === m ? p - m : p));
  return { mesh: { ...mesh, corners }, set: { ...set, cornerUv: corners.slice() } };
}

/** A flat disk of n triangles round its middle: no corner turns by much. */
function roundFan(n: number): { mesh: Mesh; set: UvSet } {
  const { mesh } = swept(
    1,
    1,
    (x, y) => [x, y, 0],
    (x, y) => [x, y],
  );
  const places = [0, 0, ...Array.from({ length: n }, (_, k) => [Math.cos((2 * Math.PI * k) / n), Math.sin((2 * Math.PI * k) / n)]).flat()];
  const corners = Uint32Array.from(Array.from({ length: n }, (_, k) => [0, k + 1, ((k + 1) % n) + 1]).flat());
  const none = () => new Int32Array(n).fill(-1);
  const round: Mesh = {
    ...mesh,
    points: Float64Array.from(places.flatMap((x, k) => (k % 2 === 1 ? [x, 0] : [x]))),
    corners,
    faceStart: Uint32Array.from({ length: n + 1 }, (_, k) => k * 3),
    faceGroup: none(),
    faceMaterial: none(),
    faceSmooth: none(),
  };
  return { mesh: round, set: uvSetFrom(round, 'UV set 1', corners.slice(), Float64Array.from(places)) };
}

describe.skipIf(!existsSync(join(realMeshes, 'data')))('real meshes that nobody here made, cut by their creases', () => {
  it.each([
    ['rotor', 7],
    ['pinion', 31],
  ])('%s: islands that are strips are straightened without a flip, those that cannot be are left and named', async (name, strips) => {
    const mesh = realMesh(name);
    const job = newJob('j', name, [{ id: 'a', name, mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } }]);
    const { job: laid } = await runOperation(job, 'unwrap', { seams: 'crease' });
    const count = islandsOf(mesh, activeSet(laid.parts[0]!)).count;
    const { report } = await runOperation(laid, 'straighten', {});
    const { islands, left, flips } = report as { islands: number; flips: number; left: { letter: string; why: string }[] };
    expect([islands, flips]).toEqual([strips, 0]);
    expect(islands + left.length).toBe(count);
    for (const { why } of left) expect(why.length).toBeGreaterThan(10);
  });

  it.each(['bones', 'boeing'])('%s: of many islands none is drawn out far, and no face loses its area', async (name) => {
    const mesh = realMesh(name);
    const job = newJob('j', name, [{ id: 'a', name, mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } }]);
    const { job: laid } = await runOperation(job, 'unwrap', { seams: 'crease' });
    const { job: after, report } = await runOperation(laid, 'straighten', {});
    expect((report as { left: { why: string }[] }).left.some(({ why }) => /hardly a strip/.test(why))).toBe(true);
    // judged by the stretch of each triangle on the sheet, not by the straightening's own figures
    const [before, now] = [laid, after].map(({ parts }) => triangleStretch(mesh, activeSet(parts[0]!), 1, 1)) as [TriangleStretch, TriangleStretch];
    before.least.forEach((least, t) => {
      if (least > 1e-6) expect(now.least[t]!).toBeGreaterThan(1e-3 * least);
    });
  });
});
