import { decode } from 'fast-png';
import { describe, expect, it } from 'vitest';
import { PNG } from 'pngjs';
import { JigError } from '../jigError.ts';
import { contextWithSignal } from '../context.ts';
import { History } from '../job/history.ts';
import { activeSet, newJob, type Job, type Part } from '../job/job.ts';
import { joinParts, splitUv } from '../job/joinParts.ts';
import { checkLayout } from '../measure/check.ts';
import { purposeLimits } from '../measure/judge.ts';
import { box, cubeSphere, cylinder, plane, sphere, torus } from '../mesh/starterForms.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { operations, runOperation } from './registry.ts';

const part = (id: string, mesh: Part['mesh']): Part => ({
  id,
  name: id,
  mesh,
  uvSets: [emptyUvSet(mesh)],
  activeUv: 0,
  imageId: null,
  origin: { kind: 'made' },
});
const jobOf = (...meshes: Part['mesh'][]): Job =>
  newJob(
    'j',
    'Job',
    meshes.map((mesh, k) => part(`p${k}`, mesh)),
  );
const checked = (job: Job) => {
  const { mesh, set } = joinParts(job.parts);
  return checkLayout(mesh, set, job.settings.width, job.settings.height).report;
};

describe('from a bare mesh to a layout in one step', () => {
  it.each([
    ['box', box(1, 2, 3), 6],
    ['ball', sphere(1, 20, 12), 1],
    ['ring', torus(1, 0.35, 24, 12), 1],
    ['tin', cylinder(1, 2, 24, 4, true), 3],
    ['ball of quads', cubeSphere(1, 8), 1],
  ] as const)('%s: all islands disks, inside the sheet, margin kept', async (_name, mesh, islands) => {
    const { job } = await runOperation(jobOf(mesh), 'firstLayout');
    const report = checked(job);
    expect(report.facesWithoutUv).toBe(0);
    expect(islandFacts(mesh, activeSet(job.parts[0]!)).every((f) => f.shape === 'disk')).toBe(true);
    expect(report.outsideArea).toBe(0);
    expect(report.smallestBorderGapPx!).toBeGreaterThanOrEqual(8 - 1e-6);
    expect(report.islands).toBe(islands);
    // one island has none beside it
    expect(report.smallestGapPx ?? 8).toBeGreaterThanOrEqual(8 - 1e-6);
    expect(report.smallestGapPx === null).toBe(islands === 1);
  });

  it('seams that a person cut stand; creases are not added to them', async () => {
    let job = jobOf(cylinder(1, 2, 12, 2, true));
    job = (await runOperation(job, 'seams', { angle: 80 })).job;
    const before = islandsOf(job.parts[0]!.mesh, activeSet(job.parts[0]!)).count;
    job = (await runOperation(job, 'firstLayout', { angle: 20 })).job;
    expect(islandsOf(job.parts[0]!.mesh, activeSet(job.parts[0]!)).count).toBe(before);
  });
});

describe('unwrap', () => {
  it('--seams crease on closed meshes gives islands that are all disks', async () => {
    for (const mesh of [box(), sphere(1, 12, 8), torus(1, 0.3, 16, 8), cylinder(1, 1, 16, 1, true)]) {
      const { job } = await runOperation(jobOf(mesh), 'unwrap', { seams: 'crease' });
      for (const fact of islandFacts(mesh, activeSet(job.parts[0]!))) expect(fact.shape).toBe('disk');
    }
  });

  it('new islands go into free room beside those that lie already, which do not move', async () => {
    let job = jobOf(box());
    job = (await runOperation(job, 'seams')).job;
    job = (await runOperation(job, 'unwrap', { islands: [0, 1] })).job;
    job = (await runOperation(job, 'density', { target: 300 })).job;
    const first = activeSet(job.parts[0]!);
    const kept = [...first.cornerUv.slice(0, 8)].map((id) => [first.uv[id * 2], first.uv[id * 2 + 1]]);
    const ran = await runOperation(job, 'unwrap', { islands: [2, 3, 4, 5] });
    const set = activeSet(ran.job.parts[0]!);
    expect([...set.cornerUv.slice(0, 8)].map((id) => [set.uv[id * 2], set.uv[id * 2 + 1]])).toEqual(kept);
    expect(checked(ran.job).overlapArea).toBe(0);
  });

  it('on a sheet that is not square, islands are square in px', async () => {
    let job = jobOf(plane(1, 1, 2, 2));
    job = (await runOperation(job, 'settings', { width: 2048, height: 1024 })).job;
    job = (await runOperation(job, 'unwrap')).job;
    expect(checked(job).conformalMean).toBeCloseTo(1, 9);
  });

  it('an island number that is not there is refused', async () => {
    await expect(runOperation(jobOf(box()), 'unwrap', { islands: [7] })).rejects.toThrow(/no island 7/);
  });
});

describe('pack and density over parts', () => {
  it('all parts share one sheet: nothing overlaps, density is even', async () => {
    let job = jobOf(box(1, 2, 3), cylinder(0.5, 1, 16, 2, true));
    for (const { id } of job.parts) job = (await runOperation(job, 'firstLayout', { part: id })).job;
    const { job: packed, report } = await runOperation(job, 'pack', { size: '1024', margin: 4, evenDensity: true });
    const figures = checked(packed);
    expect(figures.overlapArea).toBeLessThan(1e-12);
    expect(figures.densityCV).toBeLessThan(1e-6);
    expect(figures.smallestGapPx!).toBeGreaterThanOrEqual(4 - 1e-6);
    expect(report).toMatchObject({ packed: 9 });
    expect(packed.settings).toMatchObject({ width: 1024, height: 1024, margin: 4 });
  });

  it('another sheet size keeps every island’s shape in px', async () => {
    let job = (await runOperation(jobOf(box()), 'firstLayout')).job;
    job = (await runOperation(job, 'settings', { width: 4096, height: 1024 })).job;
    expect(checked(job).conformalMean).toBeCloseTo(1, 9);
  });
});

describe('the registry', () => {
  it('says in words what is wrong with parameters', async () => {
    const error = await runOperation(jobOf(box()), 'pack', { margin: -3, turn: 'sideways' }).catch((e: unknown) => e);
    expect(error).toBeInstanceOf(JigError);
    expect((error as JigError).code).toBe('bad-parameter');
    expect((error as JigError).message).toMatch(/margin.*turn/s);
    await expect(runOperation(jobOf(box()), 'no such')).rejects.toThrow(/no operation/);
  });

  it('never changes the job that it is given', async () => {
    const job = jobOf(box());
    const copy = structuredClone(job);
    for (const [name, params] of [
      ['seams', {}],
      ['firstLayout', {}],
      ['select', { kind: 'faces', ids: [1] }],
      ['settings', { margin: 2 }],
    ] as const)
      await runOperation(job, name, params);
    expect(job).toEqual(copy);
  });

  it('every operation has a summary and writes a sentence', async () => {
    const job = (await runOperation(jobOf(box()), 'firstLayout')).job;
    for (const operation of operations.values()) expect(operation.summary.length).toBeGreaterThan(8);
    expect((await runOperation(job, 'pack')).sentence).toMatch(/^Packed 6 islands on 2048 px/);
    expect((await runOperation(job, 'select', { kind: 'edges', ids: [4] })).sentence).toBe('Selected 1 edge');
  });

  it('what has no effect says so', async () => {
    const job = jobOf(plane(1, 1, 2, 2));
    for (const [name, words] of [
      ['cut', /No edge is selected/],
      ['uncut', /No edge/],
      ['open', /lie flat already/],
      ['seams', /No uncut edge/],
      ['guide', /no layout to draw/],
      ['pack', /no shape yet/],
    ] as const) {
      await expect(runOperation(job, name), name).rejects.toThrow(words);
    }
  });

  it('cancel stops long work', async () => {
    const stop = new AbortController();
    stop.abort();
    await expect(runOperation(jobOf(box()), 'firstLayout', {}, contextWithSignal(stop.signal))).rejects.toMatchObject({ code: 'cancelled' });
  });
});

describe('history', () => {
  it('undo and redo go over everything; a new step drops what was undone; unchanged arrays are shared', async () => {
    const history = new History({ job: jobOf(box()), operation: 'open', params: {}, sentence: 'Opened', time: 0 });
    const step = async (name: string, params: Record<string, unknown> = {}) => {
      const ran = await runOperation(history.present, name, params);
      history.push({ ...ran, operation: name, time: 0 });
    };
    await step('seams');
    await step('select', { kind: 'edges', ids: [1] });
    await step('firstLayout');
    const all = history.entries.map((entry) => entry.job);
    expect(all[1]!.parts[0]!.mesh).toBe(all[3]!.parts[0]!.mesh);
    expect(all[1]!.parts[0]!.uvSets[0]).toBe(all[2]!.parts[0]!.uvSets[0]);
    for (let k = 2; k >= 0; k--) expect(history.undo()).toBe(all[k]);
    expect([history.canUndo, history.undo()]).toEqual([false, all[0]]);
    for (let k = 1; k < 4; k++) expect(history.redo()).toBe(all[k]);
    history.undo();
    history.undo();
    await step('renameJob', { name: 'New' });
    expect(history.entries.map((entry) => entry.operation)).toEqual(['open', 'seams', 'renameJob']);
    expect(history.canRedo).toBe(false);
  });

  it('keeps to its limit', () => {
    const entry = { job: jobOf(box()), operation: 'x', params: {}, sentence: '', time: 0 };
    const history = new History(entry, 5);
    for (let k = 0; k < 20; k++) history.push({ ...entry, time: k });
    expect(history.entries.map((e) => e.time)).toEqual([15, 16, 17, 18, 19]);
  });
});

describe('parts as one', () => {
  it('joining and splitting gives every part its own UVs back', async () => {
    let job = jobOf(box(), plane(1, 1, 2, 2));
    for (const { id } of job.parts) job = (await runOperation(job, 'firstLayout', { part: id })).job;
    const joined = joinParts(job.parts);
    expect(splitUv(job, joined, joined.set.uv)).toEqual(job);
    expect(islandsOf(joined.mesh, joined.set).count).toBe(7);
  });
});

describe('layout guide', () => {
  it('PNG and SVG show the islands where they lie, transparent elsewhere (PNG by a second decoder)', async () => {
    let job = jobOf(plane(1, 1, 1, 1));
    job = (await runOperation(job, 'unwrap')).job;
    const set = activeSet(job.parts[0]!);
    const half = { ...job, parts: [{ ...job.parts[0]!, uvSets: [{ ...set, uv: Float64Array.from([0.25, 0.5, 0.5, 0.5, 0.25, 0.75, 0.5, 0.75]) }] }] };
    const { report } = await runOperation(half, 'guide', { size: '64', names: false });
    const { png, svg } = report as { png: () => Uint8Array; svg: () => string };
    const bytes = png();
    const picture = PNG.sync.read(Buffer.from(bytes));
    expect(new Uint8Array(picture.data)).toEqual(new Uint8Array(decode(bytes).data as Uint8Array));
    const alpha = (x: number, y: number) => picture.data[(y * 64 + x) * 4 + 3];
    // v runs up: 0.5 … 0.75 is the stretch from 16 to 32 px from the top
    expect([alpha(24, 24), alpha(24, 8), alpha(24, 40), alpha(8, 24), alpha(40, 24)]).toEqual([255, 0, 0, 0, 0]);
    expect(svg()).toContain('viewBox="0 0 64 64"');
    expect(svg()).toMatch(/M16 32L32 32/);
  });
});

describe('settings', () => {
  it('a change of one leaves all others as they are', async () => {
    const mesh = box(1, 1, 1);
    const part: Part = { id: 'p', name: 'p', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } };
    let job = newJob('j', 'j', [part]);
    const changes = {
      width: 1024,
      height: 512,
      margin: 3,
      turn: 'none',
      evenDensity: false,
      effort: 2,
      upright: false,
      keepPinned: false,
      live: false,
      method: 'conformal',
      apart: false,
      mirror: 'x',
      seenFrom: 'front',
      views: [{ name: 'Bow', target: [0, 1, 0], distance: 4, azimuth: 0.5, elevation: 0.2 }],
      purpose: 'repeating',
      limits: { ...purposeLimits.shared, gap: 3 },
      distance: 4,
      stacksFollow: false,
      borderGap: 12,
      grainAlong: 'v',
      holdGrain: true,
      unit: 'cm',
      gridRepeat: 4,
      gridKind: 'ramp',
      countImage: true,
      gridSize: 512,
    };
    for (const [name, value] of Object.entries(changes)) job = (await runOperation(job, 'settings', { [name]: value })).job;
    expect(job.settings).toEqual(changes);
    const { sentence } = await runOperation(job, 'settings', { live: true, margin: 5 });
    expect(sentence).toBe('Changed: margin 5, laying flat while cutting on');
    await expect(runOperation(job, 'settings', { margin: -1 })).rejects.toThrow(/margin/);
  });
});
