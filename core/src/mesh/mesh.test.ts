import { describe, expect, it } from 'vitest';
import { faceCount, meshFromFaces, type Mesh } from './mesh.ts';
import { faceAreas, faceNormals } from './normals.ts';
import { box, cone, cubeSphere, cylinder, hemisphere, plane, sphere, torus } from './starterForms.ts';
import { shapeFacts, topologyOf } from './topology.ts';
import { trianglesOf } from './triangles.ts';

/** Sum over points of 2π (π at a border) minus the angles there: 2πχ by Gauss–Bonnet (a handbook of mathematics). */
function angleDeficit(mesh: Mesh): number {
  const triangles = trianglesOf(mesh);
  const topology = topologyOf(mesh);
  const onBorder = new Set<number>();
  for (let e = 0; e < topology.edgeCount; e++) {
    if (topology.edgeStart[e + 1]! - topology.edgeStart[e]! === 1) [0, 1].forEach((k) => onBorder.add(topology.edgePoints[e * 2 + k]!));
  }
  let sum = 0;
  for (let p = 0; p < mesh.points.length / 3; p++) {
    if (topology.pointStart[p + 1]! > topology.pointStart[p]!) sum += onBorder.has(p) ? Math.PI : 2 * Math.PI;
  }
  const at = (c: number) => [0, 1, 2].map((k) => mesh.points[mesh.corners[c]! * 3 + k]!);
  for (let t = 0; t < triangles.count; t++) {
    for (let k = 0; k < 3; k++) {
      const a = at(triangles.corners[t * 3 + k]!);
      const b = at(triangles.corners[t * 3 + ((k + 1) % 3)]!);
      const c = at(triangles.corners[t * 3 + ((k + 2) % 3)]!);
      const u = b.map((x, i) => x - a[i]!);
      const v = c.map((x, i) => x - a[i]!);
      sum -= Math.acos(Math.max(-1, Math.min(1, (u[0]! * v[0]! + u[1]! * v[1]! + u[2]! * v[2]!) / Math.hypot(...u) / Math.hypot(...v))));
    }
  }
  return sum;
}

const forms: [string, Mesh, number, number, number][] = [
  ['plane', plane(2, 1, 5, 4), 1, 1, 0],
  ['box', box(1, 2, 3), 2, 0, 0],
  ['tube', cylinder(1, 2, 12, 3, false), 0, 2, 0],
  ['tube with lids', cylinder(1, 2, 12, 3, true), 2, 0, 0],
  ['cone side', cone(1, 2, 9), 1, 1, 0],
  ['ball', sphere(1, 12, 8), 2, 0, 0],
  ['ball of quads', cubeSphere(1, 5), 2, 0, 0],
  ['ring', torus(2, 0.5, 12, 8), 0, 0, 1],
  ['half ball', hemisphere(1, 5), 1, 1, 0],
];

describe('known solids', () => {
  it.each(forms)('%s: Euler characteristic, border loops, genus', (_name, mesh, euler, loops, genus) => {
    expect(shapeFacts(mesh)).toEqual({ components: 1, euler, borderLoops: loops, genus });
  });

  it.each(forms)('%s: the angle deficits sum to 2πχ (Gauss–Bonnet)', (_name, mesh, euler) => {
    expect(angleDeficit(mesh)).toBeCloseTo(2 * Math.PI * euler, 8);
  });

  it.each(forms)('%s: every edge is a border or a plain edge', (_name, mesh) => {
    const topology = topologyOf(mesh);
    expect([topology.nonManifoldEdges, topology.windingEdges]).toEqual([0, 0]);
  });

  it('normals of a closed form look outward and areas sum to the mensuration formula', () => {
    const mesh = box(1, 2, 3);
    expect(faceAreas(mesh).reduce((a, b) => a + b)).toBeCloseTo(2 * (2 + 3 + 6), 12);
    const normals = faceNormals(mesh);
    for (let f = 0; f < faceCount(mesh); f++) {
      let outward = 0;
      for (let k = 0; k < 3; k++) outward += normals[f * 3 + k]! * mesh.points[mesh.corners[mesh.faceStart[f]!]! * 3 + k]!;
      expect(outward).toBeGreaterThan(0);
    }
  });
});

describe('unusual meshes are legal', () => {
  it('a book of three pages has a non-manifold spine that nothing crosses', () => {
    const book = meshFromFaces(
      [0, 0, 0, 0, 1, 0, 1, 0, 0, 1, 1, 0, -1, 0, 0, -1, 1, 0, 0, 0, 1, 0, 1, 1],
      [
        [0, 2, 3, 1],
        [0, 4, 5, 1],
        [0, 6, 7, 1],
      ],
    );
    const topology = topologyOf(book);
    expect(topology.nonManifoldEdges).toBe(1);
    expect([...topology.twin].every((t) => t === -1)).toBe(true);
    expect(shapeFacts(book).components).toBe(3);
  });

  it('two faces wound against each other are told apart from a plain edge', () => {
    const mesh = meshFromFaces(
      [0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0],
      [
        [0, 1, 2],
        [1, 2, 3],
      ],
    );
    expect(topologyOf(mesh).windingEdges).toBe(1);
  });
});

describe('triangles', () => {
  const area = (mesh: Mesh) => {
    const t = trianglesOf(mesh);
    let sum = 0;
    for (let k = 0; k < t.count; k++) {
      const [a, b, c] = [0, 1, 2].map((i) => mesh.corners[t.corners[k * 3 + i]!]! * 3);
      const p = mesh.points;
      sum += ((p[b!]! - p[a!]!) * (p[c! + 1]! - p[a! + 1]!) - (p[c!]! - p[a!]!) * (p[b! + 1]! - p[a! + 1]!)) / 2;
    }
    return sum;
  };

  it('a dented quad is split so that both halves stay upright', () => {
    const dart = meshFromFaces([0, 0, 0, 2, 1, 0, 0, 2, 0, 0.5, 1, 0], [[0, 1, 2, 3]]);
    expect(area(dart)).toBeCloseTo(1.5, 12);
  });

  it('an L of six corners becomes four triangles of the same area, the same way round', () => {
    const l = meshFromFaces([0, 0, 0, 2, 0, 0, 2, 1, 0, 1, 1, 0, 1, 2, 0, 0, 2, 0], [[0, 1, 2, 3, 4, 5]]);
    expect(trianglesOf(l).count).toBe(4);
    expect(area(l)).toBeCloseTo(3, 12);
  });

  it('a face without area still has its triangles', () => {
    const flat = meshFromFaces([0, 0, 0, 1, 0, 0, 2, 0, 0, 3, 0, 0, 4, 0, 0], [[0, 1, 2, 3, 4]]);
    expect(trianglesOf(flat).count).toBe(3);
  });
});
