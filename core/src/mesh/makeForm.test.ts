import { geoEquirectangularRaw } from 'd3-geo';
import { describe, expect, it } from 'vitest';
import { checkLayout } from '../measure/check.ts';
import { uvSetFrom } from '../uv/uvSet.ts';
import { formKinds } from './formKinds.ts';
import { formWords, makeForm, type FormSpec } from './makeForm.ts';
import { shapeFacts, topologyOf } from './topology.ts';

const spec = (over: Partial<FormSpec>): FormSpec => ({ kind: 'box', width: 1, height: 1, depth: 1, tube: 0.3, segments: 12, rows: 6, lids: true, ...over });
const laid = (over: Partial<FormSpec>) => {
  const form = makeForm(spec(over));
  const set = uvSetFrom(form.mesh, 'a', form.cornerUv, form.uv);
  return { ...form, set, report: checkLayout(form.mesh, set, 1024, 1024).report };
};

describe('starter forms', () => {
  it.each([
    ['plane', { segments: 4, rows: 3 }, 20, 12],
    ['box', { segments: 1, rows: 1 }, 8, 6],
    ['box', { segments: 2, rows: 3 }, 2 * 9 + 2 * 8, 4 * 6 + 2 * 4],
    ['cylinder', { segments: 12, rows: 2 }, 36, 26],
    ['cylinder', { segments: 12, rows: 2, lids: false }, 36, 24],
    ['cone', { segments: 12, rows: 2 }, 25, 25],
    ['sphere', { segments: 12, rows: 6 }, 62, 72],
    ['torus', { segments: 12, rows: 6 }, 72, 72],
  ] as const)('%s: points and faces as stated', (kind, over, points, faces) => {
    const { mesh } = makeForm(spec({ kind, ...over }));
    expect([mesh.points.length / 3, mesh.faceStart.length - 1]).toEqual([points, faces]);
    expect(formWords(spec({ kind, ...over }))).toMatchObject({ points, faces });
  });

  it.each(formKinds)('%s: sound topology, all faces the same way round, on the sheet without overlap or flip', (kind) => {
    const { mesh, report } = laid({ kind, width: 1.3, height: 0.8, depth: 0.6 });
    const topology = topologyOf(mesh);
    expect([topology.nonManifoldEdges, topology.windingEdges]).toEqual([0, 0]);
    expect(topology.borderEdges === 0).toBe(kind !== 'plane');
    expect([report.flippedTriangles, report.mirroredIslands, report.facesWithoutUv]).toEqual([0, 0, 0]);
    expect(report.overlapArea).toBeLessThan(1e-9);
    expect(report.outsideArea).toBeLessThan(1e-9);
    // Euler: closed forms 2, the ring 0, the plane 1
    expect(shapeFacts(mesh).euler).toBe(kind === 'torus' ? 0 : kind === 'plane' ? 1 : 2);
    // volume by the divergence theorem: faces look outward
    if (kind === 'plane') return;
    let volume = 0;
    const p = (c: number, d: number) => mesh.points[mesh.corners[c]! * 3 + d]!;
    for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
      for (let k = mesh.faceStart[f]! + 1; k + 1 < mesh.faceStart[f + 1]!; k++) {
        const a = mesh.faceStart[f]!;
        const cross = (d: number, e: number) => p(k, d) * p(k + 1, e) - p(k, e) * p(k + 1, d);
        volume += (p(a, 0) * cross(1, 2) + p(a, 1) * cross(2, 0) + p(a, 2) * cross(0, 1)) / 6;
      }
    }
    expect(volume).toBeGreaterThan(0);
  });

  it('true shapes lie without stretch: plane, box, and the cone but for its facets', () => {
    for (const kind of ['plane', 'box'] as const) expect(laid({ kind, width: 2, height: 1, depth: 0.5 }).report.stretchL2).toBeCloseTo(1, 9);
    expect(laid({ kind: 'cone', segments: 96, rows: 1 }).report.stretchL2).toBeLessThan(1.003);
    expect(laid({ kind: 'cylinder', segments: 96, rows: 1 }).report.stretchL2).toBeLessThan(1.003);
  });

  it('the sphere’s UVs are the equidistant cylindrical projection (Snyder 1987, p. 90; d3-geo)', () => {
    const { mesh, cornerUv, uv } = makeForm(spec({ kind: 'sphere', segments: 24, rows: 12 }));
    for (let c = 0; c < mesh.corners.length; c++) {
      const [x, y, z] = [0, 1, 2].map((d) => mesh.points[mesh.corners[c]! * 3 + d]! * 2) as [number, number, number];
      const [u, v] = [uv[cornerUv[c]! * 2]!, uv[cornerUv[c]! * 2 + 1]!];
      const [, north] = geoEquirectangularRaw(0, Math.asin(Math.max(-1, Math.min(1, y))));
      expect(v).toBeCloseTo(north / Math.PI + 0.5, 9);
      if (Math.hypot(x, z) < 1e-9) continue;
      const [east] = geoEquirectangularRaw(Math.atan2(x, z), 0);
      // on the start line both ends of the image are right
      const turn = u - (east / (2 * Math.PI) + 0.5);
      expect(Math.abs(turn - Math.round(turn))).toBeLessThan(1e-9);
    }
  });

  it('the cylinder’s side goes once round: u = longitude / 2π + ½, heights at the same scale', () => {
    const { mesh, cornerUv, uv } = makeForm(spec({ kind: 'cylinder', segments: 16, rows: 2, lids: false }));
    for (let c = 0; c < mesh.corners.length; c++) {
      const p = mesh.corners[c]! * 3;
      const turn = uv[cornerUv[c]! * 2]! - (Math.atan2(mesh.points[p]!, mesh.points[p + 2]!) / (2 * Math.PI) + 0.5);
      expect(Math.abs(turn - Math.round(turn))).toBeLessThan(1e-9);
      expect(uv[cornerUv[c]! * 2 + 1]).toBeCloseTo((mesh.points[p + 1]! + 0.5) / Math.PI, 9);
    }
  });

  it('no face of a wrapped form runs over more than one column', () => {
    for (const kind of ['sphere', 'cylinder', 'torus'] as const) {
      const { mesh, cornerUv, uv } = makeForm(spec({ kind, lids: false }));
      for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
        const us = Array.from(cornerUv.subarray(mesh.faceStart[f], mesh.faceStart[f + 1]), (id) => uv[id * 2]!);
        expect(Math.max(...us) - Math.min(...us)).toBeLessThan(1 / 12 + 1e-9);
      }
    }
  });
});
