import { describe, expect, it } from 'vitest';
import { activeSet, newJob, partOf, type Job, type Part } from '../job/job.ts';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { trayIslands } from '../uv/tray.ts';
import { uvState } from '../measure/uvState.ts';
import { islandsOf } from '../uv/islands.ts';
import { box, cylinder, plane as rectangle } from '../mesh/starterForms.ts';
import { emptyUvSet, uvSetFrom } from '../uv/uvSet.ts';
import { runOperation } from './registry.ts';

const part = (id: string, mesh = box(1, 1, 1)): Part => ({
  id,
  name: id,
  mesh,
  uvSets: [emptyUvSet(mesh)],
  activeUv: 0,
  imageId: null,
  origin: { kind: 'made' },
});
const three = (): Job => newJob('job', 'three', [part('a'), part('b'), part('c', cylinder(1, 2, 8, 2, true))]);
const run = async (job: Job, name: string, params: Record<string, unknown> = {}) => (await runOperation(job, name, params)).job;
const seen = (job: Job) => job.parts.filter((p) => !p.isHidden).map((p) => p.id);

describe('parts as wholes', () => {
  it('are chosen several at a time; the last one is worked on', async () => {
    const job = await run(three(), 'selectParts', { parts: ['c', 'b', 'c'] });
    expect([job.selectedParts, job.activePart]).toEqual([['c', 'b'], 'b']);
    expect((await run(job, 'selectParts', { parts: [] })).selectedParts).toEqual([]);
    await expect(run(job, 'selectParts', { parts: ['nobody'] })).rejects.toThrow(/not in the job/);
  });

  it('are hidden, shown alone and shown again; what is worked on is always seen', async () => {
    let job = await run(three(), 'hideParts', { what: 'hide', parts: ['a'] });
    expect([seen(job), job.activePart]).toEqual([['b', 'c'], 'b']);
    job = await run(job, 'hideParts', { what: 'only', parts: ['c'] });
    expect([seen(job), job.activePart]).toEqual([['c'], 'c']);
    await expect(run(job, 'hideParts', { what: 'hide', parts: ['c'] })).rejects.toThrow(/every part/);
    job = await run(job, 'hideParts', { what: 'show', parts: ['a'] });
    expect(seen(job)).toEqual(['a', 'c']);
    expect(seen(await run(job, 'hideParts', { what: 'all' }))).toEqual(['a', 'b', 'c']);
  });

  it('are taken out several at a time, one stays', async () => {
    const job = await run(await run(three(), 'selectParts', { parts: ['a', 'b'] }), 'removeParts', { parts: ['b'] });
    expect([job.parts.map((p) => p.id), job.activePart, job.selectedParts]).toEqual([['a', 'c'], 'a', ['a']]);
    await expect(run(job, 'removeParts', { parts: ['a', 'c'] })).rejects.toThrow(/one part at least/);
  });

  it('all of it survives the job archive', async () => {
    let job = await run(three(), 'hideParts', { what: 'hide', parts: ['b'] });
    job = await run(job, 'markDone', { faces: [0, 3] });
    job = await run(job, 'selectParts', { parts: ['a', 'c'] });
    const again = readArchive(writeArchive(job)).job;
    expect([again.parts[1]!.isHidden, again.selectedParts]).toEqual([true, ['a', 'c']]);
    expect(again.parts.map((p) => p.done?.length ?? 0)).toEqual(job.parts.map((p) => p.done?.length ?? 0));
  });
});

describe('groups and materials', () => {
  const named = (): Job => {
    const mesh = { ...box(1, 1, 1), groups: ['roof', 'wall'], faceGroup: Int32Array.from([0, 1, 1, 1, 1, 1]) };
    return newJob('job', 'hut', [part('hut', mesh)]);
  };

  it('take another name, once each', async () => {
    const job = await run(named(), 'renameNamed', { what: 'group', name: 'roof', to: 'hipped roof' });
    expect(partOf(job).mesh.groups).toEqual(['hipped roof', 'wall']);
    await expect(run(job, 'renameNamed', { what: 'group', name: 'wall', to: 'hipped roof' })).rejects.toThrow(/already/);
    await expect(run(job, 'renameNamed', { what: 'material', name: 'wall', to: 'x' })).rejects.toThrow(/no material “wall”/);
  });

  it('are hidden, shown alone and shown again; a selection of hidden faces shrinks', async () => {
    let job = await run(named(), 'select', { kind: 'faces', ids: [0, 2] });
    job = await run(job, 'hideNamed', { what: 'group', name: 'roof', how: 'hide' });
    expect([...partOf(job).hidden!]).toEqual([1, 0, 0, 0, 0, 0]);
    expect([...job.selection.ids]).toEqual([2]);
    job = await run(job, 'hideNamed', { what: 'group', name: 'roof', how: 'only' });
    expect([...partOf(job).hidden!]).toEqual([0, 1, 1, 1, 1, 1]);
    job = await run(job, 'hideNamed', { what: 'group', name: 'wall', how: 'show' });
    expect(partOf(job).hidden).toBeUndefined();
  });
});

describe('done and still to do', () => {
  it('marks faces, says when nothing changes, and forgets the marks when none is left', async () => {
    let job = await run(three(), 'markDone', { faces: [1, 2] });
    expect([...partOf(job).done!]).toEqual([0, 1, 1, 0, 0, 0]);
    await expect(run(job, 'markDone', { faces: [2] })).rejects.toThrow(/already/);
    job = await run(job, 'markDone', { faces: [1, 2], done: false });
    expect(partOf(job).done).toBeUndefined();
  });

  it('what is done is hidden, so that what is left is seen alone', async () => {
    let job = await run(three(), 'markDone', { faces: [0] });
    job = await run(job, 'hide', { what: 'done' });
    expect([...partOf(job).hidden!]).toEqual([1, 0, 0, 0, 0, 0]);
    await expect(run(three(), 'hide', { what: 'done' })).rejects.toThrow(/Nothing is marked/);
  });
});

describe('the tray', () => {
  /** A 2 × 1 grid of squares that fills the sheet but for a rim too narrow for anything, and a box that has no place yet. */
  async function full(): Promise<Job> {
    const plane = rectangle(1, 1);
    const cube = box(1, 1, 1);
    const points = Float64Array.from([...plane.points, ...cube.points.map((x) => x + 5)]);
    const shift = plane.points.length / 3;
    const faceStart = Uint32Array.from([...plane.faceStart, ...Array.from(cube.faceStart.subarray(1), (x) => x + plane.corners.length)]);
    const mesh = {
      ...box(1, 1, 1),
      points,
      faceStart,
      corners: Uint32Array.from([...plane.corners, ...Array.from(cube.corners, (p) => p + shift)]),
      faceGroup: new Int32Array(faceStart.length - 1).fill(-1),
      faceMaterial: new Int32Array(faceStart.length - 1).fill(-1),
      faceSmooth: new Int32Array(faceStart.length - 1).fill(-1),
    };
    const set = emptyUvSet(mesh);
    const uv = set.uv.slice();
    for (let p = 0; p < shift; p++) {
      uv[p * 2] = 0.02 + 0.96 * (points[p * 3]! - Math.min(...plane.points.filter((_: number, k: number) => k % 3 === 0)));
      uv[p * 2 + 1] = 0.02 + 0.96 * (points[p * 3 + 1]! - Math.min(...plane.points.filter((_: number, k: number) => k % 3 === 1)));
    }
    const unplaced = set.unplaced.slice();
    for (let f = 0; f < plane.faceStart.length - 1; f++) unplaced[f] = 0;
    const job = newJob('job', 'full', [{ ...part('full', mesh), uvSets: [{ ...set, uv, unplaced }] }]);
    return run(await run(job, 'open'), 'unwrap', { islands: 'all', method: 'conformal' });
  }

  it('new islands that find no room wait left of the sheet, are no fault, and are named', async () => {
    const job = await full();
    const { mesh } = partOf(job);
    const set = activeSet(partOf(job));
    const waits = trayIslands(mesh, set);
    expect(waits.reduce((sum, x) => sum + x, 0)).toBe(islandsOf(mesh, set).count - 1);
    const lines = uvState(mesh, set, { width: 2048, height: 2048, stretch: 1.5, gapPx: 8, angle: 45 });
    expect(lines.find((line) => line.kind === 'tray')).toMatchObject({ step: 'pack', sentence: expect.stringMatching(/waits? in the tray/) as string });
    expect(lines.find((line) => line.kind === 'outside')).toBeUndefined();
    // packing brings them in
    const packed = await run(job, 'pack');
    expect(trayIslands(mesh, activeSet(partOf(packed))).some((x) => x === 1)).toBe(false);
  });

  it('an island that only reaches over the left border is outside, not in the tray', () => {
    const mesh = rectangle(1, 1);
    const uv = Float64Array.from({ length: (mesh.points.length / 3) * 2 }, (_, k) => (k % 2 === 0 ? mesh.points[(k >> 1) * 3]! * 0.5 : 0.5));
    const set = uvSetFrom(mesh, 's', mesh.corners.slice(), uv);
    expect(trayIslands(mesh, set)).toEqual(Uint8Array.of(0));
  });
});

describe('UV values by number', () => {
  const flat = (): Job => {
    const mesh = rectangle(1, 1, 2, 1);
    const uv = Float64Array.from({ length: (mesh.points.length / 3) * 2 }, (_, k) => mesh.points[(k >> 1) * 3 + (k % 2)]! / 4 + 0.5);
    return newJob('job', 'flat', [{ ...part('flat', mesh), uvSets: [uvSetFrom(mesh, 's', mesh.corners.slice(), uv)] }]);
  };

  it('corners that share a UV point move together, and nothing else does', async () => {
    const before = flat();
    const { mesh } = partOf(before);
    const shared = [...mesh.corners.keys()].filter((c) => mesh.corners[c] === mesh.corners[1]);
    expect(shared.length).toBeGreaterThan(1);
    const { job, report } = await runOperation(before, 'setUv', { corners: [shared[0]!], u: 0.125 });
    expect(report).toEqual({ moved: 1 });
    const [was, is] = [activeSet(partOf(before)), activeSet(partOf(job))];
    for (let c = 0; c < mesh.corners.length; c++) {
      const id = is.cornerUv[c]! * 2;
      expect(is.uv[id]).toBe(shared.includes(c) ? 0.125 : was.uv[id]);
      expect(is.uv[id + 1]).toBe(was.uv[id + 1]);
    }
    expect(is.cornerUv).toBe(was.cornerUv);
  });

  it('the same value changes nothing: no step is made', async () => {
    const job = flat();
    const u = activeSet(partOf(job)).uv[activeSet(partOf(job)).cornerUv[0]! * 2]!;
    expect((await runOperation(job, 'setUv', { corners: [0], u })).job).toBe(job);
  });

  it.each([
    [{ corners: [999], u: 0 }, /no corner 999/],
    [{ corners: [0] }, /Neither u nor v/],
    [{ corners: [0], u: Number.NaN }, /corners|u:/],
    [{ corners: [0], u: 1e9 }, /u:/],
  ])('%j is turned away in words', async (params, words) => {
    await expect(runOperation(flat(), 'setUv', params)).rejects.toThrow(words);
  });

  it('a face without a place has no values to set', async () => {
    await expect(runOperation(three(), 'setUv', { corners: [0], u: 0.5 })).rejects.toThrow(/no place on the sheet/);
  });
});
