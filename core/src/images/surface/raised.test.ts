import { describe, expect, it } from 'vitest';
import { meshFromFaces, type Mesh } from '../../mesh/mesh.ts';
import { makeForm } from '../../mesh/makeForm.ts';
import { topologyOf } from '../../mesh/topology.ts';
import { uvSetFrom, type UvSet } from '../../uv/uvSet.ts';
import { layerSchema } from './layer.ts';
import type { Pixels } from './pixels.ts';
import { planSurface } from './plan.ts';
import { raised } from './raised.ts';

const square = meshFromFaces([0, 0, 0, 2, 0, 0, 2, 2, 0, 0, 2, 0], [[0, 1, 2, 3]]);
const onSquare = uvSetFrom(square, 'a', Uint32Array.of(0, 1, 2, 3), Float64Array.of(0, 0, 1, 0, 1, 1, 0, 1));
/** From black at u = 0 to white at u = 1, even: the middles of its two px are at 1/4 and 3/4. */
const ramp: Pixels = { width: 2, height: 1, data: Uint8Array.of(0, 0, 0, 255, 255, 255, 255, 255) };

const form = (kind: 'box' | 'cylinder') => {
  const { mesh, cornerUv, uv } = makeForm({ kind, width: 1, height: 1, depth: 1, tube: 0.2, segments: 16, rows: 4, lids: true });
  return { mesh, set: uvSetFrom(mesh, 'a', cornerUv, uv) };
};

const raise = (mesh: Mesh, set: UvSet, layers: object[], levels: number, pixels: Pixels | null = ramp) =>
  raised(
    mesh,
    set,
    planSurface({
      mesh,
      sets: [set],
      activeSet: set,
      jigs: new Map(),
      layers: layers.map((one) => ({ layer: layerSchema.parse({ id: 'l', name: 'l', to: 'relief', ...one }), material: null })),
    }),
    () => pixels,
    levels,
  );

describe('a mesh raised by its relief', () => {
  it('has each place of a plane at the height that its picture says there, and lies over where it was', () => {
    const edge = { outsideU: 'edge', outsideV: 'edge', repeats: [1, 1], turn: 0, offset: [0, 0], pivot: [0.5, 0.5], mirrorU: false, mirrorV: false };
    const { mesh, flat, faceFrom } = raise(square, onSquare, [{ source: { kind: 'image', image: 'p' }, strength: 0.5, placement: edge }], 3);
    expect([mesh.faceStart.length - 1, mesh.points.length / 3, Math.max(...faceFrom)]).toEqual([64, 81, 0]);
    for (let p = 0; p < 81; p++) {
      const [x, , z] = mesh.points.subarray(p * 3, p * 3 + 3);
      // linear between the middles of the px, the edge's value beyond them
      expect(z).toBeCloseTo(0.5 * Math.min(1, Math.max(0, (x! / 2 - 0.25) * 2)), 6);
    }
    for (let c = 0; c < mesh.corners.length; c++) {
      const p = mesh.corners[c]! * 3;
      expect([flat[c * 3], flat[c * 3 + 1], flat[c * 3 + 2]]).toEqual([Math.fround(mesh.points[p]!), Math.fround(mesh.points[p + 1]!), 0]);
    }
  });

  it('of a tube stands so much further out all round, by a plain colour', () => {
    const { mesh, set } = form('cylinder');
    const reach = (points: ArrayLike<number>, p: number) => Math.hypot(points[p * 3]!, points[p * 3 + 2]!);
    const radius = Math.max(...Array.from({ length: mesh.points.length / 3 }, (_, p) => reach(mesh.points, p)));
    const { mesh: out } = raise(mesh, set, [{ source: { kind: 'colour', colour: '#ffffff' }, strength: 0.1 }], 1);
    const heights = [...new Set(Array.from({ length: mesh.points.length / 3 }, (_, p) => mesh.points[p * 3 + 1]!.toFixed(6)))]
      .map(Number)
      .sort((a, b) => a - b);
    // cage points of the wall, not those of the rims, where wall and cap look different ways
    let walls = 0;
    for (let p = 0; p < mesh.points.length / 3; p++) {
      if (reach(mesh.points, p) < radius - 1e-9 || mesh.points[p * 3 + 1]! > heights.at(-1)! - 1e-6 || mesh.points[p * 3 + 1]! < heights[0]! + 1e-6) continue;
      walls++;
      expect(reach(out.points, p)).toBeCloseTo(radius + 0.1, 6);
    }
    expect(walls).toBeGreaterThan(20);
  });

  it('opens nowhere: at seams of the picture and at creases corners go to their mean', () => {
    const { mesh, set } = form('box');
    const before = topologyOf(mesh);
    const { mesh: out } = raise(mesh, set, [{ source: { kind: 'noise' }, strength: 0.3 }], 2, null);
    const { twin } = topologyOf(out);
    expect(before.twin.filter((t) => t < 0)).toHaveLength(0);
    expect(twin.filter((t) => t < 0)).toHaveLength(0);
    expect(out.points.every(Number.isFinite)).toBe(true);
  });

  it('stays as it is without relief, and where a picture cannot be read', () => {
    const still = [
      raise(square, onSquare, [{ source: { kind: 'image', image: 'p' } }], 2, null),
      raise(square, onSquare, [{ to: 'colour', source: { kind: 'colour' } }], 2),
    ];
    for (const { mesh } of still) expect(Array.from({ length: mesh.points.length / 3 }, (_, p) => mesh.points[p * 3 + 2])).toEqual(Array(25).fill(0));
  });
});
