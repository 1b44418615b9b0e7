import { describe, expect, it } from 'vitest';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { activeSet, newJob, partOf, type Job, type Part } from '../job/job.ts';
import { atOwnScale, triangleStretch } from '../measure/distortion.ts';
import { meshFromFaces } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { runOperation } from './registry.ts';

const side = 24;
/** A dome: it cannot be laid flat without stretch. */
const dome = (): Part => {
  const at = (k: number) => (k / side) * 2 - 1;
  const points: number[] = [];
  for (let y = 0; y <= side; y++) for (let x = 0; x <= side; x++) points.push(at(x), at(y), 1.4 * Math.exp(-1.5 * (at(x) ** 2 + at(y) ** 2)));
  const faces = Array.from({ length: side * side }, (_, k) => {
    const a = Math.floor(k / side) * (side + 1) + (k % side);
    return [a, a + 1, a + side + 2, a + side + 1];
  });
  const mesh = meshFromFaces(points, faces);
  return { id: 'd', name: 'dome', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } };
};
/** Faces on one flank. */
const flank = Array.from({ length: side * side }, (_, f) => f).filter((f) => {
  const [x, y] = [(f % side) / side, Math.floor(f / side) / side];
  return x > 0.55 && x < 0.8 && y > 0.4 && y < 0.6;
});

/** Mean symmetric Dirichlet energy of the chosen faces and of all, the chosen ones counted by a weight, at the scale of the whole. */
function energies(job: Job, chosen: ReadonlySet<number>, weight = 1) {
  const { mesh } = partOf(job);
  const { most, least, area } = atOwnScale(mesh, activeSet(partOf(job)), triangleStretch(mesh, activeSet(partOf(job)), 1, 1));
  const { face } = trianglesOf(mesh);
  const sums = { chosen: 0, all: 0, weighed: 0, chosenArea: 0, area: 0 };
  for (let t = 0; t < area.length; t++) {
    const energy = area[t]! * (most[t]! ** 2 + least[t]! ** 2 + 1 / most[t]! ** 2 + 1 / least[t]! ** 2);
    const isChosen = chosen.has(face[t]!);
    sums.all += energy;
    sums.area += area[t]!;
    sums.weighed += energy * (isChosen ? weight : 1);
    if (isChosen) {
      sums.chosen += energy;
      sums.chosenArea += area[t]!;
    }
  }
  return { chosen: sums.chosen / sums.chosenArea, all: sums.all / sums.area, weighed: sums.weighed };
}

const chosen = new Set(flank);
const weighed = async (weight: number): Promise<Job> => {
  const job = (await runOperation(newJob('j', 'j', [dome()]), 'select', { kind: 'faces', ids: Uint32Array.from(flank) })).job;
  return weight === 1 ? job : (await runOperation(job, 'care', { weight })).job;
};
const unwrapped = async (weight: number) => (await runOperation(await weighed(weight), 'unwrap', { method: 'isometric' })).job;

describe('faces whose stretch counts more', () => {
  it('stretch less at the price of the others; each layout is the best for its own weights', async () => {
    const [plain, careful] = [await unwrapped(1), await unwrapped(50)];
    const [before, after] = [energies(plain, chosen, 50), energies(careful, chosen, 50)];
    expect(before.chosen).toBeGreaterThan(4.1);
    expect(after.chosen - 4).toBeLessThan(0.4 * (before.chosen - 4));
    expect(after.all).toBeGreaterThan(before.all);
    expect(after.weighed).toBeLessThan(before.weighed);
    const { report } = await runOperation(careful, 'check', {});
    expect(JSON.stringify(report)).toContain('"flippedTriangles":0');
  });

  it('relaxing goes by it, too', async () => {
    const plain = await unwrapped(1);
    const marked = (await runOperation(plain, 'care', { weight: 50 })).job;
    const relaxed = (await runOperation(marked, 'relax', {})).job;
    expect(energies(relaxed, chosen).chosen - 4).toBeLessThan(0.6 * (energies(plain, chosen).chosen - 4));
  });

  it('is selected again, taken off, kept in an archive; by part and by material', async () => {
    const job = await weighed(10);
    const none = (await runOperation(job, 'select', { kind: 'faces', ids: new Uint32Array(0) })).job;
    expect([...(await runOperation(none, 'selectBy', { way: 'care' })).job.selection.ids]).toEqual(flank);
    expect(activeSet(partOf((await runOperation(job, 'care', { weight: 1 })).job)).care).toBeUndefined();
    const back = readArchive(writeArchive(job)) as unknown as { job?: Job } & Job;
    expect(activeSet(partOf(back.job ?? back)).care).toEqual(activeSet(partOf(job)).care);
    await expect(runOperation(none, 'care', { weight: 2 })).rejects.toThrow('No face is selected.');
    await expect(runOperation(job, 'care', { weight: 2, of: 'material', material: 'tin' })).rejects.toThrow('No face has this material.');
    await expect(runOperation(job, 'care', { weight: 0 })).rejects.toThrow();
  });
});
