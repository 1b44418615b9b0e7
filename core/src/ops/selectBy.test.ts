import { describe, expect, it } from 'vitest';
import { activeSet, newJob, partOf, type Job } from '../job/job.ts';
import { box, cubeSphere, torus } from '../mesh/starterForms.ts';
import { islandsOf } from '../uv/islands.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { runOperation } from './registry.ts';
import { selectWays } from './selectBy.ts';

const jobOf = (mesh = box(1, 2, 3)): Job =>
  newJob('j', 'Job', [{ id: 'p', name: 'Crate', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } }]);
const run = async (job: Job, name: string, params: Record<string, unknown> = {}) => (await runOperation(job, name, params)).job;
const ids = (job: Job) => [...job.selection.ids];

describe('selectBy', () => {
  it('all, invert, convert, border', async () => {
    let job = await run(jobOf(), 'selectBy', { way: 'all', kind: 'faces' });
    expect(ids(job).length).toBe(6);
    job = await run(job, 'selectBy', { way: 'convert', kind: 'points' });
    expect([job.selection.kind, ids(job).length]).toEqual(['points', 8]);
    job = await run(job, 'select', { kind: 'faces', ids: [2] });
    job = await run(job, 'selectBy', { way: 'invert' });
    expect(ids(job)).toEqual([0, 1, 3, 4, 5]);
    job = await run(job, 'selectBy', { way: 'border' });
    expect([job.selection.kind, ids(job).length]).toEqual(['edges', 4]);
  });

  it('adds to and takes from what is selected', async () => {
    let job = await run(jobOf(), 'select', { kind: 'faces', ids: [0] });
    job = await run(job, 'selectBy', { way: 'facing', angle: 1, mode: 'take' });
    expect(ids(job)).toEqual([]);
    job = await run(job, 'select', { kind: 'faces', ids: [1] });
    job = await run(job, 'selectBy', { way: 'noUv', mode: 'add' });
    expect(ids(job).length).toBe(6);
  });

  it('mirror reports what has no image', async () => {
    const ball = cubeSphere(1, 4);
    const lopsided = { ...ball, points: ball.points.map((x, k) => (k === 0 ? x + 0.2 : x)) };
    let job = await run(jobOf(ball), 'select', { kind: 'faces', ids: [0, 1, 2] });
    const outcome = await runOperation(job, 'selectBy', { way: 'mirror', axis: 'x', tolerance: 1e-6 });
    expect(outcome.report).toMatchObject({ selected: 3, unmatched: 0 });
    const back = await run(outcome.job, 'selectBy', { way: 'mirror', axis: 'x', tolerance: 1e-6 });
    expect(ids(back)).toEqual([0, 1, 2]);
    job = await run(jobOf(lopsided), 'selectBy', { way: 'all', kind: 'points' });
    const missing = await runOperation(job, 'selectBy', { way: 'mirror', axis: 'x', tolerance: 1e-6 });
    expect((missing.report as { unmatched: number }).unmatched).toBeGreaterThan(0);
  });

  it('a path needs exactly two, and says so', async () => {
    const ring = torus(1, 0.3, 12, 8);
    const job = await run(jobOf(ring), 'select', { kind: 'faces', ids: [0, 1, 2] });
    await expect(runOperation(job, 'selectBy', { way: 'path' })).rejects.toThrow(/two points, two edges or two faces/);
    const two = await run(jobOf(ring), 'select', { kind: 'edges', ids: [0, 40] });
    expect(ids(await run(two, 'selectBy', { way: 'path' })).length).toBeGreaterThan(2);
  });

  it('every way runs or says in words why it has nothing to start from', async () => {
    for (const way of selectWays) {
      for (const start of [[], [0]]) {
        const job = await run(jobOf(cubeSphere(1, 3)), 'select', { kind: 'edges', ids: start });
        try {
          const { job: after } = await runOperation(job, 'selectBy', { way, kind: undefined });
          expect(after.parts).toBe(job.parts);
        } catch (error) {
          expect((error as Error).message).toMatch(/^[A-Z].*\.$/);
        }
      }
    }
  });
});

describe('hidden faces', () => {
  it('are passed over by selections, come back, and survive the archive', async () => {
    let job = await run(jobOf(), 'select', { kind: 'faces', ids: [0, 1] });
    job = await run(job, 'hide', { what: 'selected' });
    expect(ids(job)).toEqual([]);
    job = await run(job, 'selectBy', { way: 'all', kind: 'faces' });
    expect(ids(job)).toEqual([2, 3, 4, 5]);
    expect(readArchive(writeArchive(job)).job.parts[0]!.hidden).toEqual(job.parts[0]!.hidden);
    job = await run(job, 'hide', { what: 'none' });
    job = await run(job, 'selectBy', { way: 'all', kind: 'faces' });
    expect(ids(job).length).toBe(6);
    await expect(run(job, 'hide', { what: 'selected' })).rejects.toThrow(/hide the whole part/);
    await expect(run(job, 'hide', { what: 'none' })).rejects.toThrow(/Nothing is hidden/);
  });

  it('show only keeps the selected and nothing else', async () => {
    let job = await run(jobOf(), 'select', { kind: 'faces', ids: [4] });
    job = await run(job, 'hide', { what: 'others' });
    expect([...job.parts[0]!.hidden!]).toEqual([1, 1, 1, 1, 0, 1]);
  });
});

describe('kept selections', () => {
  it('come back by name, also after cuts renumbered the islands', async () => {
    let job = await run(jobOf(), 'seams', { by: 'crease', angle: 40 });
    job = await run(job, 'select', { kind: 'islands', ids: [3] });
    const part = job.parts[0]!;
    const islands = islandsOf(part.mesh, activeSet(part));
    const face = islands.faces[islands.start[3]!]!;
    job = await run(job, 'saveSelection', { name: 'lid' });
    job = await run(job, 'select', { kind: 'edges', ids: [] });
    job = await run(job, 'useSelection', { name: 'lid' });
    expect([job.selection.kind, ids(job)]).toEqual(['faces', [face]]);
    expect(readArchive(writeArchive(job)).job.savedSelections![0]!.name).toBe('lid');
    job = await run(job, 'useSelection', { name: 'lid', forget: true });
    await expect(run(job, 'useSelection', { name: 'lid' })).rejects.toThrow(/no kept selection/);
  });
});

describe('over the parts of a sheet', () => {
  const two = async (): Promise<Job> => {
    const mesh = box(1, 1, 1);
    const part = (id: string) => ({ id, name: id, mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' as const } });
    let job = newJob('j', 'two', [part('a'), part('b')]);
    for (const id of ['a', 'b']) job = (await runOperation(job, 'unwrap', { part: id, seams: 'crease' })).job;
    return (await runOperation(job, 'select', { part: 'a', kind: 'islands', ids: [0, 1], also: [{ part: 'b', ids: [2] }] })).job;
  };
  const hiddenOf = (job: Job, id: string) => [...(partOf(job, id).hidden ?? [])].reduce((sum, x) => sum + x, 0);

  it('hiding hides what is selected of each, only leaves it, showing brings all back', async () => {
    const job = await two();
    const hidden = (await runOperation(job, 'hide', { what: 'selected' })).job;
    expect([hiddenOf(hidden, 'a'), hiddenOf(hidden, 'b')]).toEqual([2, 1]);
    expect(hidden.selection).toMatchObject({ ids: new Uint32Array(0) });
    expect(hidden.selection.also).toBeUndefined();
    const only = (await runOperation(job, 'hide', { what: 'others' })).job;
    expect([hiddenOf(only, 'a'), hiddenOf(only, 'b')]).toEqual([4, 5]);
    const shown = (await runOperation(hidden, 'hide', { what: 'none' })).job;
    expect([hiddenOf(shown, 'a'), hiddenOf(shown, 'b')]).toEqual([0, 0]);
  });

  it('relaxing relaxes the selected islands of each and nothing else', async () => {
    const job = await two();
    const { job: relaxed, report } = await runOperation(job, 'relax', {});
    expect(report).toMatchObject({ islands: 3 });
    expect(partOf(relaxed, 'b')).not.toBe(partOf(job, 'b'));
  });
});
