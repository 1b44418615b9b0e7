import { describe, expect, it } from 'vitest';
import type { Mesh } from '../mesh/mesh.ts';
import { box, cone, cylinder, heightField, hemisphere, plane, sphere, torus } from '../mesh/starterForms.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { topologyOf } from '../mesh/topology.ts';
import { creaseEdges } from '../seams/crease.ts';
import { cut } from '../seams/cut.ts';
import { openIslands } from '../seams/cutGraph.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import { emptyUvSet, type UvSet } from '../uv/uvSet.ts';
import { conformal, prepare } from './conformal.ts';
import { flatTriangles } from './flatTriangles.ts';
import { pieceOf } from './piece.ts';
import { rigid } from './rigid.ts';
import type { UnwrapMethod } from './solveIsland.ts';
import { unwrapIslands } from './unwrapIslands.ts';

/** Width and height of the layout's box and lengths of all edges on the sheet relative to space. */
function measureLayout(mesh: Mesh, set: UvSet) {
  const { cornerFace } = topologyOf(mesh);
  const box2 = [Infinity, Infinity, -Infinity, -Infinity];
  const ratios: number[] = [];
  for (let c = 0; c < mesh.corners.length; c++) {
    const f = cornerFace[c]!;
    const n = c + 1 === mesh.faceStart[f + 1] ? mesh.faceStart[f]! : c + 1;
    const [a, b] = [set.cornerUv[c]! * 2, set.cornerUv[n]! * 2];
    const [p, q] = [mesh.corners[c]! * 3, mesh.corners[n]! * 3];
    const flat = Math.hypot(set.uv[a]! - set.uv[b]!, set.uv[a + 1]! - set.uv[b + 1]!);
    ratios.push(flat / Math.hypot(...[0, 1, 2].map((k) => mesh.points[p + k]! - mesh.points[q + k]!)));
    for (let k = 0; k < 2; k++) {
      box2[k] = Math.min(box2[k]!, set.uv[a + k]!);
      box2[k + 2] = Math.max(box2[k + 2]!, set.uv[a + k]!);
    }
  }
  return { width: box2[2]! - box2[0]!, height: box2[3]! - box2[1]!, least: Math.min(...ratios), most: Math.max(...ratios) };
}

/** Opens what is closed, unwraps, and returns the layout. */
async function unwrapped(mesh: Mesh, method: UnwrapMethod, seams: number[] = []) {
  const start = openIslands(mesh, cut(mesh, emptyUvSet(mesh), seams).set).set;
  return (await unwrapIslands(mesh, start, 'all', method)).set;
}

describe.each(['conformal', 'rigid', 'isometric'] as const)('%s: forms that unroll (a handbook of mathematics: mensuration)', (method) => {
  it('a tube unrolls to its rectangle: n sides of a chord each by its height, every edge at one ratio', async () => {
    const [radius, height, sides] = [1.5, 2, 24];
    const mesh = cylinder(radius, height, sides, 4, false);
    const layout = measureLayout(mesh, await unwrapped(mesh, method));
    expect(layout.most / layout.least).toBeCloseTo(1, 7);
    const round = 2 * radius * Math.sin(Math.PI / sides) * sides;
    expect(layout.width / layout.most).toBeCloseTo(round, 6);
    expect(layout.height / layout.most).toBeCloseTo(height, 6);
  });

  it('the tube of more and more sides tends to 2πr × h', async () => {
    const mesh = cylinder(1, 1, 400, 1, false);
    const layout = measureLayout(mesh, await unwrapped(mesh, method));
    expect(layout.width / layout.most).toBeCloseTo(2 * Math.PI, 3);
  });

  it('a cone unrolls to its sector: slant l, angle 2πr/l', async () => {
    const [radius, height, sides] = [1, 2, 60];
    const mesh = cone(radius, height, sides);
    const seam = topologyOf(mesh);
    // one straight cut from rim to tip
    const tip = mesh.points.length / 3 - 1;
    const edge = [...Array(seam.edgeCount).keys()].find((e) => seam.edgePoints[e * 2 + 1] === tip)!;
    const set = await unwrapped(mesh, method, [edge]);
    const { most, least } = measureLayout(mesh, set);
    expect(most / least).toBeCloseTo(1, 6);
    const slant = Math.hypot(radius, height);
    let angle = 0;
    const triangles = trianglesOf(mesh);
    for (let t = 0; t < triangles.count; t++) {
      const at = [0, 1, 2].map((k) => triangles.corners[t * 3 + k]!);
      const top = at.findIndex((c) => mesh.corners[c] === tip);
      const [o, a, b] = [0, 1, 2].map((k) => set.cornerUv[at[(top + k) % 3]!]! * 2);
      const heading = (k: number) => Math.atan2(set.uv[k + 1]! - set.uv[o! + 1]!, set.uv[k]! - set.uv[o!]!);
      let turn = heading(b!) - heading(a!);
      if (turn < 0) turn += 2 * Math.PI;
      angle += turn;
    }
    // a chord of n sides subtends 2n·asin(c / 2l): tends to 2πr / l
    expect(angle).toBeCloseTo(2 * sides * Math.asin((radius * Math.sin(Math.PI / sides)) / slant), 6);
    expect(angle).toBeCloseTo((2 * Math.PI * radius) / slant, 2);
  });

  it('a box cut at its edges becomes six rectangles of its sizes', async () => {
    const mesh = box(1, 2, 3);
    const set = await unwrapped(mesh, method, creaseEdges(mesh));
    expect(islandsOf(mesh, set).count).toBe(6);
    const { most, least } = measureLayout(mesh, set);
    expect(most / least).toBeCloseTo(1, 8);
  });

  it('a plane is congruent to itself and stands upright', async () => {
    const mesh = plane(3, 1, 6, 2);
    const layout = measureLayout(mesh, await unwrapped(mesh, method));
    expect(layout.most / layout.least).toBeCloseTo(1, 9);
    expect(layout.width / layout.height).toBeCloseTo(3, 8);
  });

  it('a wavy strip that bends without stretching unrolls to its true length', async () => {
    const mesh = heightField(40, 4, (u, v) => [Math.cos(u * 3) * 2, v - 0.5, Math.sin(u * 3) * 2]);
    const layout = measureLayout(mesh, await unwrapped(mesh, method));
    expect(layout.most / layout.least).toBeCloseTo(1, 6);
    expect(layout.width / layout.most).toBeCloseTo(40 * 2 * 2 * Math.sin(3 / 80), 5);
  });
});

describe('conformal on a half ball, against stereographic projection', () => {
  const errors = [4, 8, 16].map((rings) => {
    const mesh = hemisphere(1, rings);
    const piece = pieceOf(mesh, emptyUvSet(mesh), 0);
    const prepared = prepare(piece.positions, piece.triangles);
    const uv = conformal(prepared);
    // mean angle distortion over triangles
    let angle = 0;
    let area = 0;
    for (let t = 0; t < prepared.flat.count; t++) {
      const [x1, x2, y2] = prepared.flat.shape.subarray(t * 3, t * 3 + 3) as unknown as [number, number, number];
      const [i, j, k] = [0, 1, 2].map((c) => piece.triangles[t * 3 + c]! * 2) as [number, number, number];
      const a = (uv[j]! - uv[i]!) / x1,
        b = (uv[j + 1]! - uv[i + 1]!) / x1;
      const c = (uv[k]! - uv[i]! - a * x2) / y2,
        d = (uv[k + 1]! - uv[i + 1]! - b * x2) / y2;
      const dirichlet = a * a + b * b + c * c + d * d;
      const det = a * d - b * c;
      angle += prepared.flat.area[t]! * (dirichlet / (2 * det) - 1);
      area += prepared.flat.area[t]!;
    }
    // area scale against 1 / (1 + cos θ)² up to a constant (Snyder 1987), at triangle centres
    const ratios: number[] = [];
    for (let t = 0; t < prepared.flat.count; t++) {
      const at = [0, 1, 2].map((c) => piece.triangles[t * 3 + c]!);
      const z = at.reduce((sum, v) => sum + piece.positions[v * 3 + 2]! / 3, 0);
      const centre = at.map((v) => [0, 1, 2].map((k) => piece.positions[v * 3 + k]!)).reduce((s, p) => s.map((x, k) => x + p[k]! / 3), [0, 0, 0]);
      const cos = z / Math.hypot(...centre);
      const [i, j, k] = at.map((v) => v * 2) as [number, number, number];
      const onSheet = ((uv[j]! - uv[i]!) * (uv[k + 1]! - uv[i + 1]!) - (uv[k]! - uv[i]!) * (uv[j + 1]! - uv[i + 1]!)) / 2;
      ratios.push((onSheet / prepared.flat.area[t]!) * (1 + cos) ** 2);
    }
    const mean = ratios.reduce((a, b) => a + b) / ratios.length;
    const spread = Math.sqrt(ratios.reduce((s, r) => s + (r / mean - 1) ** 2, 0) / ratios.length);
    return { angle: angle / area, spread };
  });

  it('angle error and conformal energy shrink by about four with each halving of the edges', () => {
    expect(errors[1]!.angle).toBeLessThan(errors[0]!.angle / 2.5);
    expect(errors[2]!.angle).toBeLessThan(errors[1]!.angle / 2.5);
  });

  it('the area scale tends to that of the stereographic projection', () => {
    expect(errors[1]!.spread).toBeLessThan(errors[0]!.spread);
    expect(errors[2]!.spread).toBeLessThan(errors[1]!.spread);
    expect(errors[2]!.spread).toBeLessThan(0.06);
  });
});

describe('rigid', () => {
  it('never raises its energy and stretches less than the conformal start', () => {
    const mesh = hemisphere(1, 10, 2);
    const piece = pieceOf(mesh, emptyUvSet(mesh), 0);
    const prepared = prepare(piece.positions, piece.triangles);
    const { energies } = rigid(prepared, conformal(prepared), { steps: 30, tolerance: 0 });
    for (let k = 1; k < energies.length; k++) expect(energies[k]).toBeLessThanOrEqual(energies[k - 1]! * (1 + 1e-12));
    expect(energies.at(-1)).toBeLessThan(energies[0]! * 0.6);
  });
});

describe('islands that are no disks', () => {
  it.each([
    ['ball', sphere(1, 12, 8), 'closed'],
    ['ring', torus(1, 0.3, 12, 8), 'closed'],
    ['tube', cylinder(1, 1, 12, 2, false), 'ring'],
  ] as const)('%s is named as it is and opened to one disk', (_name, mesh, shape) => {
    const bare = emptyUvSet(mesh);
    expect(islandFacts(mesh, bare)[0]!.shape).toBe(shape);
    const { set, cuts } = openIslands(mesh, bare);
    expect(cuts.length).toBeGreaterThan(0);
    expect(islandFacts(mesh, set).map((f) => [f.shape, f.euler])).toEqual([['disk', 1]]);
  });

  it('a closed piece is refused with a sentence that says why', async () => {
    const mesh = sphere(1, 8, 6);
    await expect(unwrapIslands(mesh, emptyUvSet(mesh), 'all', 'rigid')).rejects.toThrow(/closed all round/);
  });
});

describe('place and heading', () => {
  it('an island unwrapped again stays where it was, as large and turned as it was', async () => {
    const mesh = heightField(8, 8, (u, v) => [u, v, 0.15 * Math.sin(5 * u) * Math.cos(4 * v)]);
    const first = await unwrapped(mesh, 'rigid');
    const turned: UvSet = { ...first, uv: first.uv.map((_, k) => (k % 2 === 0 ? 0.3 * -first.uv[k + 1]! + 2 : 0.3 * first.uv[k - 1]! - 1)) };
    const again = (await unwrapIslands(mesh, turned, 'all', 'rigid')).set;
    for (let k = 0; k < turned.uv.length; k++) expect(Math.abs(again.uv[k]! - turned.uv[k]!)).toBeLessThan(2e-3);
  });

  it('a mirrored island stays mirrored', async () => {
    const mesh = plane(2, 1, 4, 2);
    const first = await unwrapped(mesh, 'conformal');
    const mirrored: UvSet = { ...first, uv: first.uv.map((x, k) => (k % 2 === 0 ? -x : x)) };
    const again = (await unwrapIslands(mesh, mirrored, 'all', 'conformal')).set;
    for (let k = 0; k < again.uv.length; k++) expect(again.uv[k]).toBeCloseTo(mirrored.uv[k]!, 9);
  });

  it('the model’s up is the sheet’s up on every side of a new layout', async () => {
    const mesh = cylinder(1, 2, 16, 2, false);
    const set = await unwrapped(mesh, 'conformal');
    const { cornerFace } = topologyOf(mesh);
    for (let c = 0; c < mesh.corners.length; c++) {
      const f = cornerFace[c]!;
      const n = c + 1 === mesh.faceStart[f + 1] ? mesh.faceStart[f]! : c + 1;
      const rise = mesh.points[mesh.corners[n]! * 3 + 1]! - mesh.points[mesh.corners[c]! * 3 + 1]!;
      const up = set.uv[set.cornerUv[n]! * 2 + 1]! - set.uv[set.cornerUv[c]! * 2 + 1]!;
      if (Math.abs(rise) > 0.1) expect(Math.sign(up)).toBe(Math.sign(rise));
    }
  });
});

describe('thin triangles', () => {
  it('needles, doubled points and triangles without area still give finite cotangents, and are counted', () => {
    const positions = Float64Array.from([0, 0, 0, 1, 0, 0, 2, 0, 0, 0, 0, 0, 0, 1, 0]);
    const flat = flatTriangles(positions, Uint32Array.from([0, 1, 2, 0, 3, 0, 0, 3, 4, 0, 1, 4]));
    expect(flat.thin).toBe(3);
    for (const x of [...flat.cot, ...flat.area]) expect(Number.isFinite(x)).toBe(true);
  });
});
