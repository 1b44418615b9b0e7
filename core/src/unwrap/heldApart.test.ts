import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { openIslands } from '../seams/cutGraph.ts';
import { separateFans } from '../seams/cut.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { heightField } from '../mesh/starterForms.ts';
import { borderBarrier } from './borderBarrier.ts';
import { borderCrossings, borderSegments } from './borderCrossings.ts';
import { prepare } from './conformal.ts';
import { pieceOf } from './piece.ts';
import { solveIsland } from './solveIsland.ts';
import { realMesh, realMeshes } from '../../../scripts/realMeshes.ts';

describe('a border held apart', () => {
  it('what would meet is told: along the line between, each side gives way alike, and no more than a fifth of what is between them is used up', () => {
    // two strips side by side, joined at one end: a gap of 0.5 from x = 1 on
    const strip = heightField(6, 1, (u, v) => [u * 6, v, 0]);
    const { positions, triangles } = pieceOf(strip, emptyUvSet(strip), 0);
    const prepared = prepare(positions, triangles);
    const flat = Float64Array.from({ length: (positions.length / 3) * 2 }, (_, k) => positions[(k >> 1) * 3 + (k & 1)]!);
    // bent so that its two ends face one another
    const bent = flat.slice();
    for (let v = 0; v < bent.length; v += 2) {
      const turn = (flat[v]! / 6) * 1.8 * Math.PI;
      const r = 1 + flat[v + 1]!;
      bent[v] = Math.cos(turn) * r;
      bent[v + 1] = -Math.sin(turn) * r;
    }
    expect(borderCrossings(borderSegments(prepared, bent))).toEqual([]);
    const barrier = borderBarrier(prepared, bent);
    // closing the ring: every vertex turns on in proportion to how far along it is
    const closing = new Float64Array(bent.length);
    for (let v = 0; v < bent.length; v += 2) {
      const turn = (flat[v]! / 6) * 0.6 * Math.PI;
      closing[v] = bent[v + 1]! * turn;
      closing[v + 1] = -bent[v]! * turn;
    }
    expect(barrier.largestStep(bent, closing, 1)).toBeLessThan(0.5);
    const told: { v: number; n: [number, number]; along: number; share: number }[] = [];
    barrier.obstacles!(bent, closing, 1, (v, nx, ny, along, share) => told.push({ v, n: [nx, ny], along, share }));
    expect(told.length).toBeGreaterThan(0);
    expect(told.length % 3).toBe(0);
    for (let k = 0; k < told.length; k += 3) {
      const [point, a, b] = [told[k]!, told[k + 1]!, told[k + 2]!];
      expect(Math.hypot(...point.n)).toBeCloseTo(1, 12);
      expect(point.share).toBe(1);
      expect(a.share + b.share).toBeCloseTo(1, 12);
      const at = (v: number) => [bent[v * 2]!, bent[v * 2 + 1]!] as const;
      const between = [0, 1].map((d) => at(point.v)[d]! - a.share * at(a.v)[d]! - b.share * at(b.v)[d]!);
      const apart = Math.hypot(...between);
      expect(between[0]! / apart).toBeCloseTo(point.n[0], 9);
      expect(between[1]! / apart).toBeCloseTo(point.n[1], 9);
      // after the step
      const nearer = a.share * a.along + b.share * b.along - point.along;
      expect(nearer).toBeCloseTo(0.2 * apart, 9);
    }
    // nothing to tell where nothing meets
    barrier.obstacles!(bent, new Float64Array(bent.length), 1, () => expect.unreachable());
  });

  // one place in the way of all others stopped the whole: these came to 4.60 and 4.37
  it.skipIf(!existsSync(join(realMeshes, 'data'))).each([
    ['elephant-with-holes', 4.3],
    ['couplingdown', 4.32],
  ] as const)('%s, opened to disks and no more: does not jam', (name, most) => {
    const mesh = realMesh(name);
    const set = separateFans(
      mesh,
      openIslands(mesh, emptyUvSet(mesh)).set,
      Array.from({ length: mesh.faceStart.length - 1 }, (_, f) => f),
    );
    const piece = pieceOf(mesh, set, 0);
    const { uv, energy, flips } = solveIsland({ positions: piece.positions, triangles: piece.triangles, method: 'isometric', apart: true });
    expect(flips).toBe(0);
    expect(borderCrossings(borderSegments(prepare(piece.positions, piece.triangles), uv))).toEqual([]);
    expect(energy).toBeLessThan(most);
  });
});
