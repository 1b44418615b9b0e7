import { expect, it } from 'vitest';
import { emptyUvSet } from './uvSet.ts';
import { islandsOf } from './islands.ts';
import { newJob } from '../job/job.ts';
import { meshFromFaces } from '../mesh/mesh.ts';
import { runOperation } from '../ops/registry.ts';
import { shrunkShare } from './shrunkShare.ts';
import { uvSetFrom } from './uvSet.ts';

it('counts faces by their area in space, against their own island alone', () => {
  // two squares side by side, 1 and 3 units wide, the second hardly seen; a third island as small as that, alone
  const mesh = meshFromFaces(
    [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 4, 0, 0, 4, 1, 0, 9, 0, 0, 10, 0, 0, 10, 1, 0, 9, 1, 0],
    [
      [0, 1, 2, 3],
      [1, 4, 5, 2],
      [6, 7, 8, 9],
    ],
  );
  const share = (width: number) => {
    const uv = Float64Array.from([0, 0, 1, 0, 1, 1, 0, 1, 1 + width, 0, 1 + width, 1, 0, 2, 0.001, 2, 0.001, 2.001, 0, 2.001]);
    const set = uvSetFrom(mesh, 'UV', Uint32Array.from(mesh.corners), uv);
    const islands = islandsOf(mesh, set);
    expect(islands.count).toBe(2);
    return shrunkShare(mesh, set, islands, [0, 1]);
  };
  // the mean of the island is 1/4 of an area for one: a 256th of that, of three units
  expect(share(3 / 1024 - 1e-6)).toBeCloseTo(3 / 5, 9);
  expect(share(3 / 1000)).toBe(0);
});

it('is told of a cup laid by its angles, whose bottom shrinks by the exponential of its depth, and not where it is laid by least stretch', async () => {
  // radius 1, depth 8, open above: a place at depth h is e^-h as large as the rim (ln z takes the plane to the tube)
  const [around, rows, depth] = [32, 40, 8];
  const points: number[] = [];
  for (let y = 0; y <= rows; y++)
    for (let k = 0; k < around; k++) points.push(Math.cos((2 * Math.PI * k) / around), (depth * y) / rows, Math.sin((2 * Math.PI * k) / around));
  const faces: number[][] = [Array.from({ length: around }, (_, k) => k)];
  for (let y = 0; y < rows; y++)
    for (let k = 0; k < around; k++) {
      const next = (k + 1) % around;
      faces.push([y * around + k, (y + 1) * around + k, (y + 1) * around + next, y * around + next]);
    }
  const mesh = meshFromFaces(points, faces);
  const job = newJob('cup', 'Cup', [{ id: 'cup', name: 'Cup', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } }]);
  const byAngles = await runOperation(job, 'unwrap', { method: 'conformal' });
  // area on the sheet by area in space is 1/17 on average: a length of 1/16 of that mean at a depth of ln(16 √17) = 4.19, the rest of 8 and the bottom lie below
  const { shrunk } = byAngles.report as { shrunk: number };
  expect(shrunk).toBeGreaterThan((2 * (depth - 4.19) + 1) / (2 * depth + 1) - 0.04);
  expect(shrunk).toBeLessThan((2 * (depth - 4.19) + 1) / (2 * depth + 1) + 0.04);
  expect(byAngles.warns).toBe(true);
  expect(byAngles.sentence).toContain(`; ${Math.round(shrunk * 100)} % of the surface came out less than a 16th as large as the rest`);
  const byStretch = await runOperation(job, 'unwrap', { method: 'isometric' });
  expect(byStretch).toMatchObject({ warns: false, sentence: 'Unwrapped 1 island', report: { shrunk: 0 } });
});
