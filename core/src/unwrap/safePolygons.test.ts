import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { checkLayout } from '../measure/check.ts';
import { meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import { plane } from '../mesh/starterForms.ts';
import { topologyOf } from '../mesh/topology.ts';
import { proposeSeams } from '../propose/proposeSeams.ts';
import { cut } from '../seams/cut.ts';
import { emptyUvSet, uvSetFrom, type UvSet } from '../uv/uvSet.ts';
import { realMesh, realMeshes } from '../../../scripts/realMeshes.ts';
import { safePolygons } from './safePolygons.ts';
import { unwrapIslands } from './unwrapIslands.ts';

/** A grid of 4 × 4 quads on the sheet, one point pushed over the diagonal of a quad. */
function dented(): { mesh: Mesh; set: UvSet; dent: number } {
  const mesh = plane(4, 4, 4, 4);
  const uv = new Float64Array((mesh.points.length / 3) * 2);
  for (let p = 0; p < uv.length / 2; p++) {
    uv[p * 2] = mesh.points[p * 3]! * 0.1 + 0.5;
    uv[p * 2 + 1] = mesh.points[p * 3 + 1]! * 0.1 + 0.5;
  }
  const dent = 12;
  uv[dent * 2]! += 0.055;
  uv[dent * 2 + 1]! += 0.055;
  return { mesh, set: uvSetFrom(mesh, 'a', mesh.corners.slice(), uv), dent };
}

/** Every corner of every face turns the same way: told by hand, face by face. */
function badCorners(mesh: Mesh, { uv, cornerUv }: UvSet): number {
  let bad = 0;
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
    const ids = [...cornerUv.subarray(mesh.faceStart[f]!, mesh.faceStart[f + 1]!)];
    ids.forEach((p, k) => {
      const [q, r] = [ids[(k + 1) % ids.length]!, ids[(k + ids.length - 1) % ids.length]!];
      const cross = (uv[q * 2]! - uv[p * 2]!) * (uv[r * 2 + 1]! - uv[p * 2 + 1]!) - (uv[r * 2]! - uv[p * 2]!) * (uv[q * 2 + 1]! - uv[p * 2 + 1]!);
      if (cross <= 0) bad++;
    });
  }
  return bad;
}

describe('safe polygons', () => {
  it('a quad bent inwards is counted, whichever diagonal the file gives, and put right', () => {
    const { mesh, set } = dented();
    expect(badCorners(mesh, set)).toBe(1);
    expect(checkLayout(mesh, set, 1024, 1024).report.concavePolygons).toBe(1);
    const { set: safe, repaired, left } = safePolygons(mesh, set, [0]);
    expect([repaired, left]).toEqual([1, 0]);
    expect(badCorners(mesh, safe)).toBe(0);
    const after = checkLayout(mesh, safe, 1024, 1024).report;
    expect(after).toMatchObject({ concavePolygons: 0, fanFlips: 0, flippedTriangles: 0 });
    // what is far from it stays
    expect([...safe.uv.slice(0, 2)]).toEqual([...set.uv.slice(0, 2)]);
  });

  it('an island that lies mirrored counts the same', () => {
    const { mesh, set } = dented();
    const mirrored = { ...set, uv: set.uv.map((x, k) => (k % 2 === 0 ? 1 - x : x)) };
    expect(checkLayout(mesh, mirrored, 1024, 1024).report).toMatchObject({ concavePolygons: 1, mirroredIslands: 1 });
    expect(safePolygons(mesh, mirrored, [0])).toMatchObject({ repaired: 1, left: 0 });
  });

  it('a pinned point stays; the others do what they can', () => {
    const { mesh, set, dent } = dented();
    const pins = set.pins.slice();
    pins[dent] = 1;
    const { set: safe, left } = safePolygons(mesh, { ...set, pins }, [0]);
    expect([safe.uv[dent * 2], safe.uv[dent * 2 + 1]]).toEqual([set.uv[dent * 2], set.uv[dent * 2 + 1]]);
    expect(left).toBe(0);
    expect(badCorners(mesh, safe)).toBe(0);
  });

  it('quads that are concave on the model are no fault of the layout', () => {
    const mesh = meshFromFaces([0, 0, 0, 1, 0, 0, 0.2, 0.2, 0, 0, 1, 0], [[0, 1, 2, 3]]);
    const set = uvSetFrom(mesh, 'a', mesh.corners.slice(), Float64Array.from([0, 0, 0.5, 0, 0.1, 0.1, 0, 0.5]));
    expect(checkLayout(mesh, set, 1024, 1024).report).toMatchObject({ concavePolygons: 0, flippedTriangles: 0 });
    // cut as a fan from its second corner it would be turned over, from the first it is not
    expect(checkLayout(mesh, set, 1024, 1024).report.fanFlips).toBe(0);
  });
});

/** Neighbouring triangles as quads, those with diagonals of like length first. */
function paired(m: Mesh): Mesh {
  const { twin, cornerFace } = topologyOf(m);
  const used = new Uint8Array(m.faceStart.length - 1);
  const turn = (c: number, by: number) => c - (c % 3) + ((c + by) % 3);
  const far = (p: number, q: number) => Math.hypot(...[0, 1, 2].map((d) => m.points[p * 3 + d]! - m.points[q * 3 + d]!));
  const pairs = [...m.corners.keys()]
    .filter((c) => twin[c]! > c)
    .map((c) => {
      const [a, b, d, e] = [m.corners[c]!, m.corners[turn(c, 1)]!, m.corners[turn(c, 2)]!, m.corners[turn(twin[c]!, 2)]!] as const;
      return { c, quad: [a, e, b, d], off: Math.abs(far(a, b) - far(d, e)) / (far(a, b) + far(d, e)) };
    })
    .sort((x, y) => x.off - y.off);
  const faces: number[][] = [];
  for (const { c, quad } of pairs) {
    const [f, g] = [cornerFace[c]!, cornerFace[twin[c]!]!];
    if (used[f] || used[g]) continue;
    used[f] = used[g] = 1;
    faces.push(quad);
  }
  used.forEach((is, f) => !is && faces.push([...m.corners.subarray(f * 3, f * 3 + 3)]));
  return meshFromFaces(m.points, faces);
}

describe.skipIf(!existsSync(join(realMeshes, 'data')))('figures that nobody here made, their triangles joined to quads', () => {
  it.each(['pig', 'head'])(
    '%s by least stretch and keep shapes: quads that are convex on the model are so on the sheet, nothing is turned over or on itself by it',
    async (name) => {
      const mesh = paired(realMesh(name));
      const { cuts } = await proposeSeams(mesh, emptyUvSet(mesh), { by: 'stretch', limit: 4.2 });
      const { set } = cut(mesh, emptyUvSet(mesh), cuts);
      for (const method of ['isometric', 'rigid'] as const) {
        const { set: laid, report } = await unwrapIslands(mesh, set, 'all', method, undefined, { apart: true });
        // some of these joined quads are very skew; without repair 5 and 8 of the pig's lie concave. “Keep shapes” lays it over itself, so its border stays
        const allowed = method === 'isometric' ? 1 : 3;
        expect(report.concave).toBeLessThanOrEqual(allowed);
        const after = checkLayout(mesh, laid, 1024, 1024).report;
        expect(after.concavePolygons).toBeLessThanOrEqual(allowed);
        expect(after.flippedTriangles).toBe(0);
        if (method === 'isometric') expect(after.overlapArea).toBeLessThan(1e-9);
      }
    },
  );
});
