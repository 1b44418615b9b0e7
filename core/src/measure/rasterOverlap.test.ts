import { describe, expect, it } from 'vitest';
import { seededRandom } from '../numeric/random.ts';
import { activeSet, newJob, partOf, type Part } from '../job/job.ts';
import { overlapFigures } from './overlap.ts';
import { sphere } from '../mesh/starterForms.ts';
import { runOperation } from '../ops/registry.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { rasterOverlap } from './rasterOverlap.ts';

describe('overlap counted on a raster', () => {
  it('two squares over one another by a quarter', () => {
    const square = (x: number, y: number) => [x, y, x + 1, y, x + 1, y + 1, x, y, x + 1, y + 1, x, y + 1];
    const found = rasterOverlap(Float64Array.from([...square(0, 0), ...square(0.5, 0.5), ...square(3, 3)]));
    expect(found.overlapArea).toBeCloseTo(0.25, 2);
    expect(found.coveredArea).toBeCloseTo(2.75, 2);
    expect([...found.overlapping]).toEqual([1, 1, 1, 1, 0, 0]);
  });

  it('triangles of a fan that only touch do not overlap', () => {
    const n = 40;
    const fan = Array.from({ length: n }, (_, k) => [k, k + 1].map((i) => (2 * Math.PI * i) / n)).flatMap(([a, b]) => [
      0,
      0,
      Math.cos(a!),
      Math.sin(a!),
      Math.cos(b!),
      Math.sin(b!),
    ]);
    const found = rasterOverlap(Float64Array.from(fan));
    expect(found.overlapArea).toBe(0);
    expect([...found.overlapping]).not.toContain(1);
  });

  it('agrees with counting dots (random triangles)', () => {
    const random = seededRandom(5);
    const xy = Float64Array.from({ length: 60 }, () => random());
    for (let t = 0; t < 60; t += 6) {
      const area = (xy[t + 2]! - xy[t]!) * (xy[t + 5]! - xy[t + 1]!) - (xy[t + 4]! - xy[t]!) * (xy[t + 3]! - xy[t + 1]!);
      if (area < 0) [xy[t + 2], xy[t + 3], xy[t + 4], xy[t + 5]] = [xy[t + 4]!, xy[t + 5]!, xy[t + 2]!, xy[t + 3]!];
    }
    const inside = (t: number, x: number, y: number) =>
      [0, 2, 4].every((v) => {
        const w = (v + 2) % 6;
        return (xy[t + w]! - xy[t + v]!) * (y - xy[t + v + 1]!) - (xy[t + w + 1]! - xy[t + v + 1]!) * (x - xy[t + v]!) > 0;
      });
    let [once, more] = [0, 0];
    const dots = 200;
    for (let i = 0; i < dots * dots; i++) {
      const [x, y] = [((i % dots) + 0.5) / dots, (Math.floor(i / dots) + 0.5) / dots];
      let times = 0;
      for (let t = 0; t < 60; t += 6) if (inside(t, x, y)) times++;
      if (times > 0) once++;
      if (times > 1) more++;
    }
    const found = rasterOverlap(xy);
    expect(Math.abs(found.coveredArea - once / dots ** 2)).toBeLessThan(0.01);
    expect(Math.abs(found.overlapArea - more / dots ** 2)).toBeLessThan(0.01);
  });

  it('a layout with one copy of the image for each of 3,200 faces is measured, not waited for', async () => {
    const mesh = sphere(1, 80, 40);
    const part: Part = { id: 'p', name: 'p', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } };
    const { job } = await runOperation(newJob('j', 'j', [part]), 'place', { kind: 'each-face' });
    // without the raster it took 21 s, and 9,800 faces minutes
    const found = overlapFigures(mesh, activeSet(partOf(job)));
    expect(found.counted).toBe(true);
    expect(found.overlapArea).toBeCloseTo(1, 2);
    expect([...found.overlapping]).not.toContain(0);
  });
});
