import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { activeSet, newJob, partOf } from '../job/job.ts';
import { checkLayout } from '../measure/check.ts';
import { plane } from '../mesh/starterForms.ts';
import { runOperation } from '../ops/registry.ts';
import { uvSetFrom } from '../uv/uvSet.ts';
import { pushPoints } from './push.ts';

const sheet = () => {
  const mesh = plane(1, 1, 12, 12);
  const uv = Float64Array.from({ length: (mesh.points.length / 3) * 2 }, (_, k) => mesh.points[Math.floor(k / 2) * 3 + (k % 2)]! * 0.6 + 0.5);
  return { mesh, set: uvSetFrom(mesh, 'a', mesh.corners.slice(), uv) };
};
const number = fc.double({ min: 0, max: 1, noNaN: true });

describe('pushing points', () => {
  it('turns no triangle over, however wild the stroke; points out of reach and pins stay', () => {
    fc.assert(
      fc.property(fc.array(number, { minLength: 4, maxLength: 24 }), fc.double({ min: 0.03, max: 0.4, noNaN: true }), (path, radius) => {
        const { mesh, set } = sheet();
        set.pins[84] = 1;
        const even = path.slice(0, path.length - (path.length % 2));
        const { set: pushed } = pushPoints(mesh, set, 0, { path: even, radius, strength: 1 });
        expect(checkLayout(mesh, pushed, 1024, 1024).report.flippedTriangles).toBe(0);
        expect([pushed.uv[168], pushed.uv[169]]).toEqual([set.uv[168], set.uv[169]]);
        for (let p = 0; p < set.uv.length / 2; p++) {
          let near = Infinity;
          for (let k = 0; k < even.length; k += 2) near = Math.min(near, Math.hypot(set.uv[p * 2]! - even[k]!, set.uv[p * 2 + 1]! - even[k + 1]!));
          // it may be carried into reach by one that was
          if (near > radius + 1.5) expect(pushed.uv[p * 2]).toBe(set.uv[p * 2]);
        }
      }),
      { numRuns: 40 },
    );
  });

  it('right under the brush a point goes along, at its rim not at all', () => {
    const { mesh, set } = sheet();
    const p = 84;
    const [x, y] = [set.uv[p * 2]!, set.uv[p * 2 + 1]!];
    const { set: pushed, moved } = pushPoints(mesh, set, 0, { path: [x, y, x + 0.01, y], radius: 0.2, strength: 1 });
    expect(pushed.uv[p * 2]! - x).toBeCloseTo(0.01, 12);
    expect(moved.get(p)).toBe(1);
    expect(moved.get(0)).toBeUndefined();
  });

  it('as a step: what is round it gives way, so that less stretch is left than without', async () => {
    const { mesh, set } = sheet();
    const job = newJob('j', 'one', [{ id: 'a', name: 'a', mesh, uvSets: [set], activeUv: 0, imageId: null, origin: { kind: 'made' } }]);
    const stroke = { face: 70, path: [0.5, 0.5, 0.55, 0.5, 0.6, 0.52], radius: 0.12 };
    const energyOf = async (relax: boolean) => {
      const { job: next } = await runOperation(job, 'push', { ...stroke, relax });
      const { report } = checkLayout(mesh, activeSet(partOf(next)), 1024, 1024);
      expect(report.flippedTriangles).toBe(0);
      return report.symmetricDirichlet!;
    };
    expect(await energyOf(true)).toBeLessThan(await energyOf(false));
    await expect(runOperation(job, 'push', { ...stroke, path: [3, 3, 3.1, 3] })).rejects.toThrow('No point went along');
  });
});
