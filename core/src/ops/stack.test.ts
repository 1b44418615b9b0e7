import { describe, expect, it } from 'vitest';
import { JigError } from '../jigError.ts';
import { wholeIslands } from '../job/grip.ts';
import { activeSet, newJob, partOf, withSet, type Job } from '../job/job.ts';
import { joinParts } from '../job/joinParts.ts';
import { partsOnSheet } from '../job/sheets.ts';
import { stacksOnSheet } from '../job/stacks.ts';
import { checkLayout } from '../measure/check.ts';
import { box, plane } from '../mesh/starterForms.ts';
import { plainMesh, type Mesh } from '../mesh/mesh.ts';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { islandsOf } from '../uv/islands.ts';
import { emptyUvSet, uvSetFrom, type UvSet } from '../uv/uvSet.ts';
import { runOperation } from './registry.ts';

const at = (mesh: Mesh, by: readonly number[]): Mesh =>
  plainMesh(
    mesh.points.map((x, k) => x + by[k % 3]!),
    mesh.faceStart,
    mesh.corners,
  );
const part = (id: string, mesh: Mesh, set: UvSet = emptyUvSet(mesh)) => ({
  id,
  name: id,
  mesh,
  uvSets: [set],
  activeUv: 0,
  imageId: null,
  origin: { kind: 'made' as const },
});

/** Planks: boxes of one form side by side, without a layout but for the first. */
async function planks(count = 4): Promise<Job> {
  const mesh = box(3, 0.2, 0.5);
  const parts = Array.from({ length: count }, (_, k) => part(`plank-${k}`, at(mesh, [0, 0, k])));
  let job = newJob('j', 'deck', parts);
  job = await done(job, 'select', { kind: 'edges', ids: [0, 1, 2, 3, 4, 5, 6] });
  job = await done(job, 'seams', { by: 'crease', angle: 40 });
  return done(job, 'firstLayout', {});
}
const done = async (job: Job, name: string, params: Record<string, unknown> = {}): Promise<Job> => (await runOperation(job, name, params)).job;
const report = async (job: Job, name: string, params: Record<string, unknown> = {}) =>
  (await runOperation(job, name, params)).report as Record<string, unknown>;
const measured = (job: Job) => {
  const { mesh, set } = joinParts(partsOnSheet(job));
  return checkLayout(mesh, set, 2048, 2048).report;
};
const placesOf = (job: Job, id: string) => {
  const set = activeSet(partOf(job, id));
  return [...set.cornerUv].flatMap((p) => [set.uv[p * 2]!, set.uv[p * 2 + 1]!]);
};
const islandLengths = (job: Job, id: string) => {
  const { mesh } = partOf(job, id);
  const uv = placesOf(job, id);
  const out: number[] = [];
  for (let f = 0; f + 1 < mesh.faceStart.length; f++)
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const n = c + 1 < mesh.faceStart[f + 1]! ? c + 1 : mesh.faceStart[f]!;
      out.push(Math.hypot(uv[n * 2]! - uv[c * 2]!, uv[n * 2 + 1]! - uv[c * 2 + 1]!));
    }
  return out;
};

describe('copying a layout to like parts', () => {
  it('all planks take the first one’s, on one another, marked so that nothing counts as overlap', async () => {
    const job = await planks(5);
    const before = measured(job);
    const next = await done(job, 'copyLayout', { from: 'plank-0' });
    for (let k = 1; k < 5; k++) expect(placesOf(next, `plank-${k}`)).toEqual(placesOf(next, 'plank-0'));
    const after = measured(next);
    expect(after.overlapArea).toBe(0);
    expect(after.coverage).toBeCloseTo(before.coverage, 9);
    expect(after.smallestGapPx).toBeCloseTo(before.smallestGapPx!, 6);
    expect(after.facesWithoutUv).toBe(0);
    expect(stacksOnSheet(next.parts)).toHaveLength(6);
    for (const stack of stacksOnSheet(next.parts)) expect(stack).toHaveLength(5);
    // without the marks it is what it would be for another program: all of it on itself
    const bare = { ...next, parts: next.parts.map((one) => ({ ...one, uvSets: one.uvSets.map(({ stack: _, ...set }) => set) })) };
    expect(measured(bare).overlapArea).toBeCloseTo(after.coverage, 6);
  });

  it('beside: nothing on anything, no marks', async () => {
    const next = await done(await planks(3), 'copyLayout', { from: 'plank-0', how: 'beside' });
    expect(stacksOnSheet(next.parts)).toEqual([]);
    expect(measured(next).overlapArea).toBe(0);
    expect(measured(next).facesWithoutUv).toBe(0);
    expect(islandLengths(next, 'plank-2').map((x) => x.toFixed(6))).toEqual(islandLengths(next, 'plank-0').map((x) => x.toFixed(6)));
  });

  it('leaves out what differs and says how; a part without a layout has none to give', async () => {
    const job = await planks(2);
    const more = { ...job, parts: [...job.parts, part('panel', plane(1, 1, 3, 3))] };
    expect(await report(more, 'copyLayout', { from: 'plank-0' })).toMatchObject({
      parts: 1,
      left: [{ part: 'panel', why: 'the first has 6 faces, the second 9' }],
    });
    await expect(runOperation(more, 'copyLayout', { from: 'plank-0', to: ['panel'] })).rejects.toThrow('“plank-0” and “panel” differ: the first has 6 faces');
    await expect(runOperation(more, 'copyLayout', { from: 'panel' })).rejects.toThrow('has no layout to copy yet');
  });
});

describe('stacks', () => {
  const stacked = async () => done(await planks(4), 'copyLayout', { from: 'plank-0' });

  it('move as one, and pack as one', async () => {
    const job = await stacked();
    const chosen = await done(job, 'select', { part: 'plank-2', kind: 'islands', ids: [1] });
    const moved = await done(chosen, 'transform', { move: [0.1, 0.05], turn: 20 });
    expect(placesOf(moved, 'plank-2')).not.toEqual(placesOf(job, 'plank-2'));
    for (let k = 0; k < 4; k++) placesOf(moved, `plank-${k}`).forEach((x, i) => expect(x).toBeCloseTo(placesOf(moved, 'plank-2')[i]!, 12));
    expect(stacksOnSheet(moved.parts).map((one) => one.length)).toEqual([4, 4, 4, 4, 4, 4]);

    const packed = await done(moved, 'pack', { parts: 'sheet', margin: 4 });
    for (let k = 1; k < 4; k++) expect(placesOf(packed, `plank-${k}`)).toEqual(placesOf(packed, 'plank-0'));
    const alone = await done({ ...moved, parts: moved.parts.slice(0, 1) }, 'pack', { margin: 4 });
    expect(measured(packed).coverage).toBeCloseTo(measured(alone).coverage, 9);
    expect(measured(packed).overlapArea).toBe(0);

    // of a stack one box is aligned and distributed
    const all = await done(packed, 'select', { part: 'plank-0', kind: 'islands', ids: [0, 1, 2, 3, 4, 5] });
    expect(wholeIslands(all).flatMap(({ groups }) => groups)).toHaveLength(6);
  });

  it('islands follow point by point where one is reshaped, unless that is off', async () => {
    const job = await stacked();
    const chosen = await done(job, 'select', { part: 'plank-1', kind: 'points', ids: [0] });
    const reshaped = await done(chosen, 'transform', { move: [0.01, 0] });
    for (const id of ['plank-0', 'plank-3']) expect(placesOf(reshaped, id)).toEqual(placesOf(reshaped, 'plank-1'));
    const off = await done(await done(chosen, 'settings', { stacksFollow: false }), 'transform', { move: [0.1, 0.1] });
    expect(placesOf(off, 'plank-0')).toEqual(placesOf(job, 'plank-0'));
    expect(placesOf(off, 'plank-1')).not.toEqual(placesOf(job, 'plank-1'));
    // it is in the stack no more, and what is on it counts
    expect(measured(off).overlapArea).toBeGreaterThan(0);
  });

  it('taken apart are side by side again, each in the shape it had', async () => {
    const job = await stacked();
    const next = await done(await done(job, 'pack', { parts: 'sheet' }), 'unstack', { which: 'sheet' });
    expect(stacksOnSheet(next.parts)).toEqual([]);
    expect(measured(next).overlapArea).toBe(0);
    const shape = islandLengths(job, 'plank-0');
    const factor = islandLengths(next, 'plank-0')[0]! / shape[0]!;
    for (const id of ['plank-0', 'plank-1', 'plank-3']) islandLengths(next, id).forEach((x, k) => expect(x).toBeCloseTo(shape[k]! * factor, 9));
  });

  it('one can be taken out alone', async () => {
    const chosen = await done(await stacked(), 'select', { part: 'plank-1', kind: 'islands', ids: [0] });
    const next = await done(chosen, 'unstack', { only: true });
    const sizes = stacksOnSheet(next.parts).map((one) => one.length);
    expect(sizes.sort()).toEqual([3, 4, 4, 4, 4, 4]);
    expect(measured(next).overlapArea).toBe(0);
  });

  it('laid by shape: three like panels of one part, of one selected those like it', async () => {
    const [a, b, c, d] = [plane(1, 0.5, 2, 1), plane(1, 0.5, 2, 1), plane(0.5, 1, 1, 2), plane(0.6, 0.6, 2, 1)];
    const list = [a, b, c, d];
    const starts = list.map((_, k) => list.slice(0, k).reduce((sum, m) => sum + m.points.length / 3, 0));
    const points = Float64Array.from(list.flatMap((m, k) => [...m.points].map((x, i) => (i % 3 === 2 ? k : x))));
    const corners = Uint32Array.from(list.flatMap((m, k) => [...m.corners].map((p) => p + starts[k]!)));
    const faceStart = Uint32Array.from({ length: corners.length / 4 + 1 }, (_, f) => f * 4);
    const mesh = plainMesh(points, faceStart, corners);
    const shifts = [[0.1, 0.1], [0.1, 0.4], [0.5, 0.1], [0.5, 0.5]]; // prettier-ignore
    const uv = Float64Array.from(list.flatMap((m, k) => Array.from({ length: m.points.length / 3 }, (_, p) => [m.points[p * 3]! * 0.2 + 0.2 + shifts[k]![0]!, m.points[p * 3 + 1]! * 0.2 + 0.2 + shifts[k]![1]!]).flat())); // prettier-ignore
    const job = newJob('j', 'panels', [part('panels', mesh, uvSetFrom(mesh, 'a', corners.slice(), uv))]);
    expect(await report(job, 'findLike')).toMatchObject({
      groups: [{ faces: 2, mirrored: 0, stacked: false, islands: [{ island: 0 }, { island: 1 }, { island: 2 }] }],
    });
    const one = await done(job, 'select', { kind: 'islands', ids: [1] });
    const next = await done(one, 'stack');
    // the selected one stays, the others come to it
    const set = activeSet(partOf(next));
    const before = activeSet(partOf(job));
    const islands = islandsOf(mesh, set);
    const cornersOf = (i: number) => [...islands.faces.subarray(islands.start[i]!, islands.start[i + 1]!)].flatMap((f) => [0, 1, 2, 3].map((k) => f * 4 + k));
    for (const c of cornersOf(1)) expect(set.uv[set.cornerUv[c]! * 2]).toBe(before.uv[before.cornerUv[c]! * 2]);
    const boxOf = (i: number) => cornersOf(i).reduce(([l, b, r, t], c) => { const p = set.cornerUv[c]! * 2; const [u, v] = [set.uv[p]!, set.uv[p + 1]!]; return [Math.min(l!, u), Math.min(b!, v), Math.max(r!, u), Math.max(t!, v)]; }, [9, 9, -9, -9]); // prettier-ignore
    expect(boxOf(0)).toEqual(boxOf(1));
    expect(boxOf(2)).toEqual(boxOf(1));
    expect(measured(next).overlapArea).toBe(0);
    expect(await report(next, 'findLike')).toMatchObject({ groups: [{ stacked: true }] });
    const none = await done(job, 'select', { kind: 'islands', ids: [3] });
    await expect(runOperation(none, 'stack')).rejects.toThrow('No islands are alike this way.');
  });

  it('those alike by their outline alone move along as a whole', async () => {
    const [a, b] = [plane(1, 0.5, 4, 2), plane(1, 0.5, 3, 1)];
    const parts = [a, b].map((mesh, k) =>
      part(
        `p${k}`,
        mesh,
        uvSetFrom(
          mesh,
          'a',
          mesh.corners.slice(),
          Float64Array.from({ length: (mesh.points.length / 3) * 2 }, (_, i) => mesh.points[Math.floor(i / 2) * 3 + (i % 2)]! * 0.2 + 0.2 + k * 0.4),
        ),
      ),
    );
    let job = await done(newJob('j', 'two', parts), 'stack', { which: 'sheet' });
    expect(stacksOnSheet(job.parts).map((one) => one.length)).toEqual([2]);
    expect(measured(job).overlapArea).toBe(0);
    job = await done(job, 'select', { part: 'p0', kind: 'islands', ids: [0] });
    for (const params of [{ move: [0.1, 0.2] }, { turn: 33 }, { scale: [1.5, 1.5] }]) job = await done(job, 'transform', params);
    expect(stacksOnSheet(job.parts).map((one) => one.length)).toEqual([2]);
    const boxOf = (id: string) => [0, 1].map((d) => Math.max(...placesOf(job, id).filter((_, k) => k % 2 === d)));
    boxOf('p1').forEach((x, d) => expect(x).toBeCloseTo(boxOf('p0')[d]!, 9));
  });

  it('a cut takes its island out of the stack', async () => {
    const job = await stacked();
    const { mesh } = partOf(job, 'plank-1');
    const face = islandsOf(mesh, activeSet(partOf(job, 'plank-1'))).faces[0]!;
    // as a cut leaves it: the face no longer shares its points
    const set = activeSet(partOf(job, 'plank-1'));
    const uv = set.uv.slice();
    for (let c = mesh.faceStart[face]!; c < mesh.faceStart[face + 1]!; c++) uv[set.cornerUv[c]! * 2]! += 0.3;
    const apart = withSet(job, 'plank-1', { ...set, uv });
    expect(
      stacksOnSheet(apart.parts)
        .map((one) => one.length)
        .sort(),
    ).toEqual([3, 4, 4, 4, 4, 4]);
  });

  it('comparing can be cancelled, and says how far it is', async () => {
    const job = await planks(3);
    const shares: number[] = [];
    await runOperation(job, 'findLike', { which: 'sheet' }, { progress: (share) => void shares.push(share), throwIfCancelled: () => {} });
    expect(shares.length).toBeGreaterThan(3);
    expect([...shares].sort((a, b) => a - b)).toEqual(shares);
    const cancel = () => {
      throw new JigError('cancelled', 'Cancelled.');
    };
    await expect(runOperation(job, 'stack', { which: 'sheet' }, { progress: () => {}, throwIfCancelled: cancel })).rejects.toThrow('Cancelled.');
  });

  it('are kept in the archive', async () => {
    const job = await stacked();
    const again = readArchive(writeArchive(job)).job;
    expect(stacksOnSheet(again.parts).map((one) => one.length)).toEqual([4, 4, 4, 4, 4, 4]);
  });
});
