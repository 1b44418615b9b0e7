import { describe, expect, it } from 'vitest';
import { activeSet, newJob, partOf, type Job, type Part } from '../job/job.ts';
import { box, cubeSphere } from '../mesh/starterForms.ts';
import { meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import { repairMesh } from '../mesh/repair.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf } from '../uv/islands.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { checkLayout } from '../measure/check.ts';
import { runOperation } from './registry.ts';

const partFrom = (id: string, mesh: Mesh): Part => ({ id, name: id, mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } });
const jobOf = (mesh: Mesh): Job => newJob('j', 'Job', [partFrom('part-1', mesh)]);
const run = async (job: Job, name: string, params: Record<string, unknown> = {}) => (await runOperation(job, name, params)).job;
const all = { mergeWithin: 0, dropDegenerate: true, agreeWinding: true, splitNonManifold: true };

/** Every face with points of its own. */
function soup(mesh: Mesh): Mesh {
  const points: number[] = [];
  const faces: number[][] = [];
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
    faces.push(
      Array.from(mesh.corners.subarray(mesh.faceStart[f], mesh.faceStart[f + 1]), (p) => {
        points.push(mesh.points[p * 3]!, mesh.points[p * 3 + 1]!, mesh.points[p * 3 + 2]!);
        return points.length / 3 - 1;
      }),
    );
  }
  return meshFromFaces(points, faces);
}

describe('repair', () => {
  it('a soup of faces becomes one closed form; counts are told; UVs stay at their corners', async () => {
    const mesh = soup(cubeSphere(1, 3));
    let job = jobOf(mesh);
    job = await run(job, 'unwrap', { seams: 'keep' });
    const before = activeSet(job.parts[0]!);
    const outcome = await runOperation(job, 'repair', {});
    expect(outcome.report).toMatchObject({ pointsMerged: 54 * 4 - 56, facesBefore: 54, facesAfter: 54, edgesSplit: 0, facesTurned: 0 });
    const part = outcome.job.parts[0]!;
    expect(topologyOf(part.mesh).borderEdges).toBe(0);
    for (let c = 0; c < part.mesh.corners.length; c++) expect(activeSet(part).cornerUv[c]).toBe(before.cornerUv[c]);
    expect(islandsOf(part.mesh, activeSet(part)).count).toBe(54);
    await expect(runOperation(outcome.job, 'repair', {})).rejects.toThrow(/Nothing had to be repaired/);
  });

  it('merges within a distance, and not beyond it', () => {
    const two = meshFromFaces(
      [0, 0, 0, 1, 0, 0, 0, 1, 0, 1.0005, 0, 0, 1, 1, 0, 0, 1, 0],
      [
        [0, 1, 2],
        [3, 4, 5],
      ],
    );
    expect(repairMesh(two, { ...all, mergeWithin: 1e-3 }).report.pointsMerged).toBe(2);
    expect(repairMesh(two, { ...all, mergeWithin: 1e-4 }).report.pointsMerged).toBe(1);
    expect(repairMesh(two, { ...all, mergeWithin: null }).report.pointsMerged).toBe(0);
  });

  it('turns the fewer faces so that all agree', () => {
    const mesh = cubeSphere(1, 3);
    const corners = mesh.corners.slice();
    for (const f of [0, 7, 20, 33]) corners.subarray(f * 4, f * 4 + 4).reverse();
    const broken = { ...mesh, corners };
    expect(topologyOf(broken).windingEdges).toBeGreaterThan(0);
    const { mesh: right, report, cornerFrom } = repairMesh(broken, all);
    expect(report.facesTurned).toBe(4);
    expect(topologyOf(right).windingEdges).toBe(0);
    expect([...right.corners]).toEqual(Array.from(cornerFrom, (c) => broken.corners[c]!));
  });

  it('drops faces without area, and corners that double', () => {
    const mesh = meshFromFaces(
      [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 2, 0, 0],
      [
        [0, 1, 2, 3],
        [0, 1, 4],
        [1, 1, 2, 4],
      ],
    );
    const { mesh: right, report } = repairMesh(mesh, all);
    expect(report.facesDropped).toBe(1);
    expect([...right.faceStart]).toEqual([0, 4, 7]);
  });

  it('splits a book’s spine so that no edge has more than two faces', () => {
    const book = meshFromFaces(
      [0, 0, 0, 0, 1, 0, 1, 0, 0, 1, 1, 0, -1, 0, 0, -1, 1, 0, 0, 0, 1, 0, 1, 1],
      [
        [0, 2, 3, 1],
        [0, 4, 5, 1],
        [0, 6, 7, 1],
      ],
    );
    const { mesh, report } = repairMesh(book, all);
    expect(report.edgesSplit).toBe(1);
    expect(topologyOf(mesh).nonManifoldEdges).toBe(0);
    expect(mesh.faceStart.length - 1).toBe(3);
  });
});

describe('starter forms in a job', () => {
  it('are added, named apart, and made again in place', async () => {
    let job = await run(jobOf(box()), 'makeForm', { kind: 'sphere' });
    job = await run(job, 'makeForm', { kind: 'sphere' });
    expect(job.parts.map((p) => p.name)).toEqual(['part-1', 'Sphere', 'Sphere 2']);
    const id = job.activePart;
    job = await run(job, 'makeForm', { kind: 'torus', replace: id, segments: 12, rows: 6, uvs: false });
    expect(job.parts.length).toBe(3);
    expect(partOf(job).name).toBe('Torus');
    expect(activeSet(partOf(job)).unplaced[0]).toBe(1);
    // once something was done to it, it is not made again: that would lose the work
    const worked = await run(job, 'firstLayout', { part: id });
    await expect(run(worked, 'makeForm', { kind: 'torus', replace: id })).rejects.toThrow(/as it was made/);
    expect(readArchive(writeArchive(job)).job.parts[2]!.form).toMatchObject({ kind: 'torus', segments: 12 });
    await expect(run(job, 'makeForm', { kind: 'torus', tube: 0.9 })).rejects.toThrow(/thicker than half/);
    await expect(run(job, 'makeForm', { kind: 'cone', segments: 2 })).rejects.toThrow(/at least 3/);
  });
});

describe('UV sets', () => {
  it('add, copy, rename, move, choose, remove', async () => {
    let job = await run(jobOf(box()), 'firstLayout');
    job = await run(job, 'uvSets', { what: 'copy' });
    job = await run(job, 'uvSets', { what: 'add', name: 'light' });
    let part = partOf(job);
    expect([part.uvSets.map((s) => s.name), part.activeUv]).toEqual([['UV set 1', 'UV set 2', 'light'], 2]);
    expect(part.uvSets[1]!.uv).toBe(part.uvSets[0]!.uv);
    job = await run(job, 'uvSets', { what: 'up', set: 2 });
    job = await run(job, 'uvSets', { what: 'rename', set: 0, name: 'paint' });
    job = await run(job, 'uvSets', { what: 'choose', set: 0 });
    part = partOf(job);
    expect([part.uvSets.map((s) => s.name), part.activeUv]).toEqual([['paint', 'light', 'UV set 2'], 0]);
    await expect(run(job, 'uvSets', { what: 'rename', set: 1, name: 'paint' })).rejects.toThrow(/already/);
    job = await run(job, 'uvSets', { what: 'remove', set: 0 });
    part = partOf(job);
    expect([part.uvSets.length, part.activeUv]).toEqual([2, 0]);
    job = await run(job, 'uvSets', { what: 'remove', set: 1 });
    await expect(run(job, 'uvSets', { what: 'remove' })).rejects.toThrow(/one UV set at least/);
  });
});

describe('parts, materials, units', () => {
  it('a part is renamed and removed, the last one stays', async () => {
    let job = await run(jobOf(box()), 'makeForm', { kind: 'plane' });
    job = await run(job, 'renamePart', { part: 'part-1', name: 'Crate' });
    job = await run(job, 'removeParts', { parts: [job.activePart] });
    expect([job.parts.map((p) => p.name), job.activePart]).toEqual([['Crate'], 'part-1']);
    await expect(run(job, 'removeParts', { parts: ['part-1'] })).rejects.toThrow(/one part at least/);
  });

  it('faces given to a material can be selected by it', async () => {
    let job = await run(jobOf(box()), 'assignMaterial', { faces: [1, 4], material: 'tin' });
    job = await run(job, 'selectNamed', { what: 'material', name: 'tin' });
    expect([...job.selection.ids]).toEqual([1, 4]);
    await expect(run(job, 'selectNamed', { what: 'group', name: 'tin' })).rejects.toThrow(/no group/);
  });

  it('the unit is a setting', async () => {
    const job = await run(jobOf(box()), 'settings', { unit: 'cm' });
    expect((await runOperation(job, 'info')).report).toMatchObject({ units: 'cm' });
    expect(jobOf(box()).settings.unit).toBe('unit');
  });
});

describe('a starter set', () => {
  it('is the form’s own for a starter form, six packed sides for any other mesh', async () => {
    const form = await run(newJob('j', 'j', []), 'makeForm', { kind: 'cylinder', uvs: false });
    const own = activeSet(partOf(await run(form, 'uvSets', { what: 'starter' })));
    const { report } = checkLayout(partOf(form).mesh, own, 1024, 1024);
    expect([own.unplaced.some((x) => x === 1), report.islands, report.overlapArea < 1e-9]).toEqual([false, 3, true]);
    const mesh = box(2, 1, 1);
    const part: Part = { id: 'p', name: 'p', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } };
    const job = await run(newJob('j', 'j', [part]), 'uvSets', { what: 'starter' });
    const sides = activeSet(partOf(job));
    const checked = checkLayout(mesh, sides, 2048, 2048).report;
    expect([partOf(job).uvSets.length, partOf(job).activeUv, checked.islands, checked.flippedTriangles, checked.overlapArea < 1e-9]).toEqual([
      2,
      1,
      6,
      0,
      true,
    ]);
    expect(checked.symmetricDirichlet!).toBeCloseTo(4, 6);
  });
});
