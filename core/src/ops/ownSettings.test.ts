import { describe, expect, it } from 'vitest';
import { newJob, type Job, type Part } from '../job/job.ts';
import { heightField } from '../mesh/starterForms.ts';
import { torus, box } from '../mesh/starterForms.ts';
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
const jobOf = (mesh: Part['mesh'], settings: Partial<Job['settings']> = {}): Job => {
  const job = newJob('j', 'j', [part('one', mesh), part('two', box())]);
  return { ...job, settings: { ...job.settings, ...settings } };
};

describe('what is left out comes from the job’s own settings', () => {
  it('pack: sheet, margin and turns', async () => {
    const laid = (await runOperation(jobOf(box(), { width: 1024, height: 512, margin: 20, turn: 'none' }), 'firstLayout', {})).job;
    const ran = await runOperation(laid, 'pack', { parts: 'active' });
    expect(ran.params).toMatchObject({ size: '1024x512', margin: 20, turn: 'none' });
    expect(ran.job.settings).toMatchObject({ width: 1024, height: 512, margin: 20 });
    const { report } = await runOperation(ran.job, 'check', {});
    expect((report as { smallestBorderGapPx: number }).smallestBorderGapPx).toBeGreaterThanOrEqual(20 - 1e-6);
  });

  it('unwrap and first layout: the method, and whether islands are kept from lying over themselves', async () => {
    const wave = heightField(8, 8, (u, v) => [u, v, 0.1 * Math.sin(9 * u)]);
    for (const name of ['unwrap', 'firstLayout'])
      expect((await runOperation(jobOf(wave, { method: 'conformal', apart: false }), name, {})).params).toMatchObject({ method: 'conformal', apart: false });
    expect((await runOperation(jobOf(wave, { apart: false }), 'unwrap', { apart: true, method: 'rigid' })).params).toMatchObject({
      method: 'rigid',
      apart: true,
    });
  });

  it('a first layout may lie over itself where the job says so: it stretches no more for it', async () => {
    const ring = torus(1, 0.45, 24, 16);
    const energy = async (apart: boolean) =>
      ((await runOperation(jobOf(ring, { apart }), 'firstLayout', { by: 'crease' })).report as { energy: number }).energy;
    expect(await energy(false)).toBeLessThanOrEqual((await energy(true)) + 1e-9);
  });
});

describe('a part that is not there', () => {
  const names = [...operations].filter(([, operation]) => 'part' in operation.params.shape).map(([name]) => name);
  const more: Record<string, object> = {
    renamePart: { name: 'x' },
    renameNamed: { what: 'group', name: 'a', to: 'b' },
    uvSets: { what: 'add' },
    assignMaterial: { faces: [0], material: 'm' },
    selectNamed: { what: 'group', name: 'a' },
    selectBy: { way: 'all' },
    select: { kind: 'faces', ids: [] },
    hide: { what: 'selected' },
    cut: { edges: [0] },
    uncut: { edges: [0] },
    join: { island: 0, to: 1 },
    joinAdvice: { island: 0 },
    markSeams: { mark: 'whole', what: 'whole' },
    place: { kind: 'box' },
    pin: { points: [0] },
    movePins: { points: [0], places: [0, 0] },
    setUv: { corners: [0], uv: [0, 0] },
    showImage: { image: null },
    placeImage: { placement: {} },
    density: { even: true, parts: 'active' },
    addJigs: { items: [] },
    driveFaces: { id: 'x', faces: [0] },
  };
  it.each(names)('%s says so and touches no other', async (name) => {
    const job = jobOf(box());
    await expect(runOperation(job, name, { ...more[name], part: 'gone' })).rejects.toMatchObject({
      code: expect.stringMatching(/^(not-found|bad-parameter)$/) as string,
    });
  });
});
