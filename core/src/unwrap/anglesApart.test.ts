import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { checkLayout } from '../measure/check.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { openIslands } from '../seams/cutGraph.ts';
import { emptyUvSet, type UvSet } from '../uv/uvSet.ts';
import { realMesh, realMeshes } from '../../../scripts/realMeshes.ts';
import type { UnwrapMethod } from './solveIsland.ts';
import { unwrapIslands } from './unwrapIslands.ts';

describe.skipIf(!existsSync(join(realMeshes, 'data')))('figures that nobody here made, in one piece, by keep angles', () => {
  it.each(['pig', 'triceratops'])(
    '%s: turned over in places by the conformal map, and nowhere where it is held apart, with angles kept better than by least stretch',
    async (name) => {
      const mesh = realMesh(name);
      const { set } = openIslands(mesh, emptyUvSet(mesh));
      const turned = async (method: UnwrapMethod, apart: boolean) => {
        const { set: laid, report } = await unwrapIslands(mesh, set, 'all', method, undefined, { apart });
        return { report, ...checkLayout(mesh, laid, 1024, 1024).report, shear: shearOf(mesh, laid) };
      };
      const free = await turned('conformal', false);
      expect(free.flippedTriangles).toBeGreaterThan(0);
      const [apart, least] = [await turned('conformal', true), await turned('isometric', true)];
      expect(apart.report).toMatchObject({ heldApart: 1, putRight: 0, flips: 0 });
      expect(apart.flippedTriangles).toBe(0);
      expect(apart.overlapArea).toBeLessThan(1e-9);
      expect(apart.shear).toBeLessThan(0.75 * least.shear);
    },
  );
});

/** How far the angles of triangles are from those in space, mean in degrees: by the law of cosines. */
function shearOf(mesh: Mesh, { uv, cornerUv }: UvSet): number {
  const angle = (at: (c: number) => number[], [i, j, k]: number[]) => {
    const long = (a: number, b: number) => Math.hypot(...at(a).map((x, d) => x - at(b)[d]!));
    const [a, b, c] = [long(i!, j!), long(i!, k!), long(j!, k!)];
    return (Math.acos(Math.max(-1, Math.min(1, (a * a + b * b - c * c) / (2 * a * b)))) * 180) / Math.PI;
  };
  let sum = 0;
  for (let c = 0; c < mesh.corners.length; c++) {
    const t = c - (c % 3);
    const corner = [0, 1, 2].map((d) => t + ((c + d) % 3));
    const flat = angle((k) => [uv[cornerUv[k]! * 2]!, uv[cornerUv[k]! * 2 + 1]!], corner);
    sum += Math.abs(flat - angle((k) => [0, 1, 2].map((d) => mesh.points[mesh.corners[k]! * 3 + d]!), corner));
  }
  return sum / mesh.corners.length;
}
