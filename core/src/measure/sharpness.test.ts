import { encode } from 'fast-png';
import { describe, expect, it } from 'vitest';
import { newJob, partOf, type Job } from '../job/job.ts';
import { plane } from '../mesh/starterForms.ts';
import { runOperation } from '../ops/registry.ts';
import { uvSetFrom } from '../uv/uvSet.ts';
import { screenPxPerUnit, sharpFrom, sharpness } from './sharpness.ts';

const viewing = { distance: 1, screen: 1000, angle: 90 };

/** A square of one unit, whose half to the left has `wide` times the sheet's width. */
function square(wide: number) {
  const mesh = plane(1, 1, 2, 1);
  const xs = mesh.points.filter((_, k) => k % 3 === 0);
  const low = Math.min(...xs);
  const uv = new Float64Array((mesh.points.length / 3) * 2);
  const axes = [0, 1, 2].filter((d) => mesh.points.some((x, k) => k % 3 === d && x !== mesh.points[d]));
  for (let p = 0; p < uv.length / 2; p++) {
    const [x, y] = [mesh.points[p * 3 + axes[0]!]! - low, mesh.points[p * 3 + axes[1]!]! - Math.min(...mesh.points.filter((_, k) => k % 3 === axes[1]!))];
    uv[p * 2] = x <= 0.5 ? x * wide : 0.5 * wide + (x - 0.5);
    uv[p * 2 + 1] = y;
  }
  return { mesh, set: uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), uv) };
}

describe('how sharp a picture is on a screen', () => {
  it('a view of 90° spans twice the distance from top to bottom', () => {
    // worked by hand: 1,000 px over 2 units
    expect(screenPxPerUnit(viewing)).toBeCloseTo(500, 9);
    expect(screenPxPerUnit({ ...viewing, distance: 2 })).toBeCloseTo(250, 9);
    expect(sharpFrom(250, viewing)).toBeCloseTo(2, 9);
  });

  it('faces count by the way in which they are coarser, and by area', () => {
    const { mesh, set } = square(0.5);
    // 600 px up everywhere; 300 across on the left, 600 on the right
    const found = sharpness(mesh, set, 600, 600, viewing)!;
    expect(found.least).toBeCloseTo(300, 6);
    expect(found.mean).toBeCloseTo(450, 6);
    expect(found.coarse).toBeCloseTo(0.5, 9);
    expect([...found.faces]).toHaveLength(1);
    expect(sharpness(mesh, set, 600, 600, { ...viewing, distance: 2 })!.coarse).toBe(0);
    expect(sharpness(mesh, { ...set, unplaced: set.unplaced.map(() => 1) }, 600, 600, viewing)).toBeNull();
  });

  it('of a part: by its picture’s own px and repeats, else by the sheet; coarse faces are selected', async () => {
    const step = async (job: Job, name: string, params: object) => runOperation(job, name, params as Record<string, unknown>);
    let { job } = await step(newJob('j', 'j', []), 'makeForm', { kind: 'plane' });
    ({ job } = await step(job, 'unwrap', {}));
    const bySheet = (await step(job, 'sharpness', { ...viewing })).report as { of: string; mean: number };
    expect(bySheet.of).toBe('sheet');
    const image = encode({ width: 64, height: 64, data: new Uint8Array(64 * 64 * 3), channels: 3, depth: 8 });
    ({ job } = await step(job, 'addImages', { images: [{ name: 'a.png', bytes: image }], show: true }));
    const once = (await step(job, 'sharpness', { ...viewing })).report as { of: string; mean: number; faces: number };
    expect(once.of).toBe('picture');
    ({ job } = await step(job, 'placeImage', { placement: { repeats: [4, 4] } }));
    const { job: chosen, report } = await step(job, 'sharpness', { ...viewing, distance: 1e-6, select: true });
    const often = report as typeof once;
    expect(often.mean / once.mean).toBeCloseTo(4, 6);
    expect(chosen.selection.kind).toBe('faces');
    expect([...chosen.selection.ids]).toEqual([...Array(partOf(job).mesh.faceStart.length - 1).keys()]);
  });
});
