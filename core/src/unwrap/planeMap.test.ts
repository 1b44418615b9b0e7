import { describe, expect, it } from 'vitest';
import { newJob, type Part } from '../job/job.ts';
import { plainMesh, type Mesh } from '../mesh/mesh.ts';
import { seededRandom } from '../numeric/random.ts';
import { runOperation } from '../ops/registry.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { overlapFigures } from '../measure/overlap.ts';
import { activeSet, partOf } from '../job/job.ts';
import { planeMap } from './planeMap.ts';

const jobOf = (mesh: Mesh) => {
  const part: Part = { id: 'p', name: 'p', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } };
  return newJob('j', 'j', [part]);
};
const length = (uv: Float64Array, a: number, b: number) => Math.hypot(uv[a * 2]! - uv[b * 2]!, uv[a * 2 + 1]! - uv[b * 2 + 1]!);

describe('pieces that are flat in space', () => {
  it('lie in their own plane, true to size and the right way round, however they are turned', () => {
    const positions = Float64Array.of(1e6, 0, 0, 1e6 + 2, 1, 3, 1e6 - 1, 4, 2);
    const uv = planeMap(positions, Uint32Array.of(0, 1, 2))!;
    for (const [a, b] of [
      [0, 1],
      [1, 2],
      [2, 0],
    ] as const)
      expect(length(uv, a, b)).toBeCloseTo(Math.hypot(...[0, 1, 2].map((d) => positions[a * 3 + d]! - positions[b * 3 + d]!)), 9);
    expect((uv[2]! - uv[0]!) * (uv[5]! - uv[1]!) - (uv[4]! - uv[0]!) * (uv[3]! - uv[1]!)).toBeGreaterThan(0);
  });

  it('what leans out of the plane, is turned over or has no area is left to the solver', () => {
    const quad = (z: number) => Float64Array.of(0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, z);
    expect(planeMap(quad(0), Uint32Array.of(0, 1, 2, 0, 2, 3))).not.toBeNull();
    expect(planeMap(quad(0.01), Uint32Array.of(0, 1, 2, 0, 2, 3))).toBeNull();
    expect(planeMap(quad(0), Uint32Array.of(0, 1, 2, 0, 3, 2))).toBeNull();
    expect(planeMap(Float64Array.of(0, 0, 0, 1, 0, 0, 2, 0, 0), Uint32Array.of(0, 1, 2))).toBeNull();
  });

  it('a flat ribbon that lies over itself is left to the solver', () => {
    // a fan of 450 degrees round the origin, wider outside than inside
    const steps = 30;
    const points: number[] = [];
    const triangles: number[] = [];
    for (let k = 0; k <= steps; k++) {
      const turn = (k / steps) * 2.5 * Math.PI;
      points.push(Math.cos(turn), Math.sin(turn), 0, 2 * Math.cos(turn), 2 * Math.sin(turn), 0);
      if (k > 0) triangles.push(k * 2 - 2, k * 2 - 1, k * 2 + 1, k * 2 - 2, k * 2 + 1, k * 2);
    }
    expect(planeMap(Float64Array.from(points), Uint32Array.from(triangles))).toBeNull();
  });
});

describe('ten thousand islands of one triangle', () => {
  it('are laid flat and packed, none over another, within seconds', async () => {
    const n = 10_000;
    const random = seededRandom(3);
    const points = new Float64Array(n * 9);
    for (let t = 0; t < n; t++) {
      const [x, y] = [(t % 100) * 3, Math.floor(t / 100) * 3];
      points.set([x, y, random(), x + 1 + random(), y, random(), x + random(), y + 1, random()], t * 9);
    }
    const mesh = plainMesh(
      points,
      Uint32Array.from({ length: n + 1 }, (_, k) => k * 3),
      Uint32Array.from({ length: n * 3 }, (_, k) => k),
    );
    const { job, report } = await runOperation(jobOf(mesh), 'firstLayout', {});
    expect(report).toMatchObject({ islands: n, flips: 0 });
    const { overlapArea, coveredArea } = overlapFigures(mesh, activeSet(partOf(job)));
    expect(overlapArea).toBe(0);
    // gaps of 8 px take most of the sheet
    expect(coveredArea).toBeGreaterThan(0.15);
    expect(activeSet(partOf(job)).uv.every((x) => x >= 0 && x <= 1)).toBe(true);
  });

  it('a star of a thousand corners is laid flat as one piece', async () => {
    const k = 1000;
    const points = new Float64Array(k * 3);
    for (let i = 0; i < k; i++)
      points.set([(i % 2 ? 1 : 0.4) * Math.cos((2 * Math.PI * i) / k), (i % 2 ? 1 : 0.4) * Math.sin((2 * Math.PI * i) / k), 0], i * 3);
    const star = plainMesh(
      points,
      Uint32Array.of(0, k),
      Uint32Array.from({ length: k }, (_, i) => i),
    );
    const { report } = await runOperation(jobOf(star), 'unwrap', {});
    expect(report).toMatchObject({ islands: 1, flips: 0, energy: 4 });
  });
});
