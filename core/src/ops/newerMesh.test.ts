import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { activeSet, newJob, partOf, type Job } from '../job/job.ts';
import { checkLayout } from '../measure/check.ts';
import { meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import { simplify } from '../mesh/simplify.ts';
import { seededRandom } from '../numeric/random.ts';
import { tubeCross } from '../propose/testForms.ts';
import { islandsOf } from '../uv/islands.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { realMesh, realMeshes } from '../../../scripts/realMeshes.ts';
import type { NewerMeshReport } from '../job/withNewerMesh.ts';
import { runOperation } from './registry.ts';

const jobOf = (mesh: Mesh): Job =>
  newJob('j', 'j', [{ id: 'p', name: 'Part', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } }]);
const laid = async (mesh: Mesh) => (await runOperation(jobOf(mesh), 'firstLayout', {})).job;
const facesOf = ({ corners, faceStart }: Mesh) =>
  Array.from({ length: faceStart.length - 1 }, (_, f) => [...corners.subarray(faceStart[f]!, faceStart[f + 1]!)]);
const cross = () =>
  tubeCross(
    [
      [1, 0, 0],
      [-1, 0, 0],
      [0, 1, 0],
    ],
    2,
    3,
  );
async function newer(job: Job, mesh: Mesh) {
  const ran = await runOperation(job, 'newerMesh', { mesh });
  return { job: ran.job, report: ran.report as NewerMeshReport, sentence: ran.sentence };
}
const reportOf = (job: Job) => checkLayout(partOf(job).mesh, activeSet(partOf(job)), 2048, 2048).report;

/** Points and faces in another order; each face begins at another corner. */
function shuffled(mesh: Mesh, seed = 3): Mesh {
  const random = seededRandom(seed);
  const count = mesh.points.length / 3;
  const order = Array.from({ length: count }, (_, p) => p)
    .map((p) => [random(), p] as const)
    .sort((a, b) => a[0] - b[0])
    .map(([, p]) => p);
  const now = new Map(order.map((p, k) => [p, k]));
  const faces = facesOf(mesh)
    .map((face) => {
      const turn = Math.floor(random() * face.length);
      return [random(), [...face.slice(turn), ...face.slice(0, turn)].map((p) => now.get(p)!)] as const;
    })
    .sort((a, b) => a[0] - b[0])
    .map(([, face]) => face);
  return meshFromFaces(
    order.flatMap((p) => [...mesh.points.subarray(p * 3, p * 3 + 3)]),
    faces,
  );
}

/** Each quad cut into four, points in between its corners. */
function subdivided(mesh: Mesh): Mesh {
  const points = [...mesh.points];
  const between = new Map<string, number>();
  const mean = (list: number[]) => {
    const key = [...list].sort((a, b) => a - b).join();
    let id = between.get(key);
    if (id === undefined) {
      id = points.length / 3;
      between.set(key, id);
      for (let d = 0; d < 3; d++) points.push(list.reduce((sum, p) => sum + mesh.points[p * 3 + d]!, 0) / list.length);
    }
    return id;
  };
  const faces = facesOf(mesh).flatMap((face) => {
    const middle = mean(face);
    return face.map((p, k) => [p, mean([p, face[(k + 1) % face.length]!]), middle, mean([face[(k + face.length - 1) % face.length]!, p])]);
  });
  return meshFromFaces(points, faces);
}

/** Where the picture is at the middle of each face. */
const middles = (job: Job) => {
  const { mesh } = partOf(job);
  const set = activeSet(partOf(job));
  return new Map(
    facesOf(mesh).map((face, f) => {
      const key = [0, 1, 2].map((d) => Math.round((face.reduce((sum, p) => sum + mesh.points[p * 3 + d]!, 0) / face.length) * 1e6)).join();
      const ids = face.map((_, k) => set.cornerUv[mesh.faceStart[f]! + k]!);
      return [key, [0, 1].map((d) => ids.reduce((sum, id) => sum + set.uv[id * 2 + d]!, 0) / ids.length)] as const;
    }),
  );
};

describe('a newer mesh of a part', () => {
  it('moved points change no UV; faces of another shape are selected', async () => {
    const job = await laid(cross());
    const { mesh } = partOf(job);
    const points = mesh.points.slice();
    points[1] = points[1]! + 0.2;
    const { job: next, report, sentence } = await newer(job, { ...mesh, points });
    expect(report).toMatchObject({ onlyMoved: true, fresh: 0, carried: 0 });
    expect(partOf(next).uvSets).toBe(partOf(job).uvSets);
    const touching = facesOf(mesh).flatMap((face, f) => (face.includes(0) ? [f] : []));
    expect([...next.selection.ids]).toEqual(touching);
    expect(sentence).toMatch(/no UV changed/);
    await expect(newer(job, { ...mesh, points: mesh.points.slice() })).rejects.toThrow(/same as before/);
  });

  it('points and faces in another order: every face keeps its UVs bit for bit, and its marks', async () => {
    let job = await laid(cross());
    const old = middles(job);
    job = (await runOperation(job, 'select', { kind: 'faces', ids: [3, 4, 5] })).job;
    job = (await runOperation(job, 'markSeams', { mark: 'lookedAt' })).job;
    const { job: next, report } = await newer(job, shuffled(cross()));
    expect(report).toMatchObject({ onlyMoved: false, carried: 0, fresh: 0 });
    expect(report.work).toHaveLength(0);
    const now = middles(next);
    for (const [key, place] of old) expect(now.get(key)!.map((x) => x.toFixed(12))).toEqual(place.map((x) => x.toFixed(12)));
    const count = (one: Job) => islandsOf(partOf(one).mesh, activeSet(partOf(one))).count;
    expect(count(next)).toBe(count(job));
    expect(activeSet(partOf(next)).uv.length).toBe(activeSet(partOf(job)).uv.length);
    expect(partOf(next).seamMarks!.reduce((sum, mark) => sum + (mark === 3 ? 1 : 0), 0)).toBe(3);
    expect(reportOf(next).seamLength).toBeCloseTo(reportOf(job).seamLength, 9);
  });

  it('sized and moved as a whole it is found by its box', async () => {
    const job = await laid(cross());
    const mesh = shuffled(cross(), 8);
    const { report } = await newer(job, { ...mesh, points: mesh.points.map((x, k) => x * 39.37 + (k % 3) * 5) });
    expect(report).toMatchObject({ carried: 0, fresh: 0, same: facesOf(mesh).length });
  });

  it('subdivided: the same picture at the same place, the same islands, nothing turned over', async () => {
    const job = await laid(cross());
    const { job: next, report } = await newer(job, subdivided(cross()));
    expect(report).toMatchObject({ same: 0, fresh: 0 });
    expect(report.work.length).toBeLessThan(0.02 * report.carried);
    const [before, after] = [reportOf(job), reportOf(next)];
    expect(after.islands).toBe(before.islands);
    expect(after.flippedTriangles).toBe(0);
    expect(after.seamLength).toBeCloseTo(before.seamLength, 6);
    expect(after.coverage).toBeCloseTo(before.coverage, 3);
  });

  it('one limb cut off: the rest stays bit for bit; a limb more: it has no place yet and is selected', async () => {
    const whole = cross();
    const job = await laid(whole);
    const kept = facesOf(whole).filter((face) => face.every((p) => whole.points[p * 3 + 1]! < 1.2));
    const less = meshFromFaces([...whole.points], kept);
    const cutOff = await newer(job, less);
    expect(cutOff.report).toMatchObject({ same: kept.length, carried: 0, fresh: 0 });
    const old = middles(job);
    for (const [key, place] of middles(cutOff.job)) expect(place.map((x) => x.toFixed(12))).toEqual(old.get(key)!.map((x) => x.toFixed(12)));
    const stump = await laid(less);
    const more = await newer(stump, shuffled(whole));
    expect(more.report.same).toBe(kept.length);
    expect(more.report.fresh).toBeGreaterThan(0);
    expect(more.report.fresh).toBeLessThanOrEqual(facesOf(whole).length - kept.length);
    // what is new is among what is to be worked on, whether it was laid beside its neighbours or has no place yet
    expect([...more.job.selection.ids].filter((f) => activeSet(partOf(more.job)).unplaced[f])).toHaveLength(more.report.fresh - more.report.filled);
    expect(more.report.work.length).toBeGreaterThanOrEqual(more.report.fresh);
    const { job: done } = await runOperation(more.job, 'unwrap', { islands: 'all' });
    expect(reportOf(done).facesWithoutUv).toBe(0);
  });

  /** A flat sheet of n by n quads of size 1; `at` lifts a point, `has` leaves faces out. */
  const sheetOf = (n: number, at: (x: number, y: number) => number, has: (x: number, y: number) => boolean = () => true) =>
    meshFromFaces(
      Array.from({ length: (n + 1) ** 2 }, (_, k) => [k % (n + 1), Math.floor(k / (n + 1)), at(k % (n + 1), Math.floor(k / (n + 1)))]).flat(),
      Array.from({ length: n * n }, (_, k) => [k % n, Math.floor(k / n)] as const)
        .filter(([x, y]) => has(x, y))
        .map(([x, y]) => [0, 1, n + 2, n + 1].map((d) => y * (n + 1) + x + d)),
    );

  it('a dent amid a sheet: its faces are laid flat within their border, all others stay bit for bit', async () => {
    const dent = (x: number, y: number) => (Math.hypot(x - 6, y - 6) < 2.5 ? 3 : 0);
    const job = await laid(sheetOf(12, () => 0));
    const { job: next, report, sentence } = await newer(job, shuffled(sheetOf(12, dent)));
    expect(report.fresh).toBeGreaterThan(15);
    expect(report.filled).toBe(report.fresh);
    expect(sentence).toMatch(/laid beside their neighbours/);
    const old = middles(job);
    let stayed = 0;
    for (const [key, place] of middles(next)) {
      if (!old.has(key)) continue;
      stayed++;
      expect(place.map((x) => x.toFixed(12))).toEqual(old.get(key)!.map((x) => x.toFixed(12)));
    }
    expect(stayed).toBe(report.same);
    const figures = reportOf(next);
    expect(figures).toMatchObject({ islands: 1, flippedTriangles: 0, facesWithoutUv: 0, overlapArea: 0 });
    // who wants the holes instead can have them
    const { report: bare } = await runOperation(job, 'newerMesh', { mesh: shuffled(sheetOf(12, dent)), fill: false });
    expect(bare).toMatchObject({ filled: 0 });
  });

  it('a sheet that grew at its border goes on from there at its own density', async () => {
    const small = sheetOf(
      12,
      () => 0,
      (x) => x < 8,
    );
    const job = await laid(small);
    const { job: next, report } = await newer(
      job,
      sheetOf(12, (x) => (x > 8 ? (x - 8) * 0.5 : 0)),
    );
    expect(report).toMatchObject({ same: 96, fresh: 48, filled: 48 });
    const figures = reportOf(next);
    expect(figures).toMatchObject({ islands: 1, flippedTriangles: 0, facesWithoutUv: 0, overlapArea: 0 });
    expect(figures.symmetricDirichlet).toBeLessThan(4.05);
  });

  it.each([
    ['with its faces turned back', true],
    ['wound as it was', false],
  ])('a mirror image, %s, keeps its layout', async (_, turned) => {
    const whole = cross();
    const job = await laid(whole);
    const mirrored = shuffled({
      ...whole,
      points: whole.points.map((x, k) => (k % 3 === 1 ? -x * 2 + 7 : x * 2)),
      corners: turned
        ? meshFromFaces(
            [...whole.points],
            facesOf(whole).map((face) => [...face].reverse()),
          ).corners
        : whole.corners,
    });
    const { report, sentence } = await newer(job, mirrored);
    expect(report).toMatchObject({ same: facesOf(whole).length, carried: 0, fresh: 0, mirrored: true });
    expect(sentence).toMatch(/newer mesh, mirrored/);
    expect(report.work).toHaveLength(0);
  });

  it('none, and one without faces, are refused', async () => {
    const job = await laid(cross());
    await expect(runOperation(job, 'newerMesh', {})).rejects.toThrow(/no newer mesh/);
    await expect(newer(job, meshFromFaces([0, 0, 0, 1, 0, 0, 0, 1, 0], []))).rejects.toThrow(/no faces/);
  });
});

/* Meshes that nobody here made; without them this is passed over. */
describe.skipIf(!existsSync(join(realMeshes, 'data')))('pairs made from real meshes', () => {
  it.each(['triceratops', 'dino', 'pig'])(
    '%s: shuffled nothing changes; decimated to two thirds the layout stays usable',
    async (name) => {
      const mesh = realMesh(name);
      const job = (await runOperation(jobOf(mesh), 'firstLayout', { by: 'limbs' })).job;
      const before = reportOf(job);
      const same = await newer(job, shuffled(mesh));
      // two faces at one place are one
      expect(same.report.same).toBeGreaterThan(0.99 * facesOf(mesh).length);
      expect(reportOf(same.job).seamLength).toBeCloseTo(before.seamLength, 3);
      const { mesh: coarse } = simplify(mesh, (facesOf(mesh).length * 2) / 3);
      const { job: next, report } = await newer(job, coarse);
      const faces = facesOf(coarse).length;
      expect(report.fresh).toBeLessThan(0.02 * faces);
      expect(report.work.length).toBeLessThan(0.25 * faces);
      const after = reportOf(next);
      expect(Math.abs(after.coverage - before.coverage)).toBeLessThan(0.1);
      expect(after.flippedTriangles).toBeLessThan(0.05 * faces);
    },
    60_000,
  );
});
