import 'fake-indexeddb/auto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { decode, encode } from 'fast-png';
import type { Layer, OperationName, ParamsOf } from '@jig-peel/core';
import { openBench, type Bench } from './testing.ts';

let one: Bench;
const done = async <N extends OperationName>(name: N, params: ParamsOf<N>) => {
  const outcome = await one.session.run(name, params, true);
  if (!outcome.ok) throw new Error(outcome.sentence);
  return outcome.report;
};
const layersNow = () => one.last('summary')!.changed.parts!.at(-1)!.layers as readonly Layer[];

beforeAll(async () => {
  one = openBench();
  await one.session.begin('surface', 'box');
});
afterAll(() => one.session.close());

describe('what the views are told of layers', () => {
  it('nothing without any; arrays once, then numbers alone until drivers or chosen faces change', async () => {
    expect(one.session.surface(0)).toBeNull();
    await done('addLayer', { layer: { name: 'grid', source: { kind: 'grid' } } });
    const first = one.session.surface(0)!;
    expect(first.drivers).toHaveLength(1);
    expect(first.layers.map(({ layer, driver }) => [layer.name, driver])).toEqual([['grid', 0]]);
    await done('setLayer', { layer: { ...layersNow()[0]!, opacity: 0.25 } });
    const second = one.session.surface(first.key)!;
    expect([second.key, second.drivers, second.layers[0]!.layer.opacity]).toEqual([first.key, null, 0.25]);
    await done('setLayer', { layer: { ...layersNow()[0]!, masks: [{ kind: 'faces', faces: [0], soft: 0, isInverted: false, how: 'and' }] } });
    const third = one.session.surface(first.key)!;
    expect(third.key).not.toBe(first.key);
    expect(third.fields).toHaveLength(1);
    // three corners of each of the face's two triangles
    expect(third.fields![0]!.reduce((sum, x) => sum + x, 0)).toBe(6);
    await done('transform', { move: [3, 0] }).catch(() => {});
  });

  it('the form raised by relief: asked for without any it says what to do; with it, each place and where it was', async () => {
    const look = { form: 'raised', levels: 2, borders: 'kept', radius: 0 } as const;
    await expect(one.session.form(look)).rejects.toThrow('This part has no relief. Add a layer at Images and let it go to relief');
    await done('addLayer', { layer: { name: 'height', to: 'relief', source: { kind: 'colour', colour: '#ffffff' }, strength: 0.25 } });
    const view = (await one.session.form(look))!;
    expect([view.levels, view.positions.length, view.flat!.sunk.length]).toEqual([2, view.triangles * 9, view.triangles * 9]);
    // most of a box's faces lie away from its edges: out by the whole height, along the way they look
    let whole = 0;
    for (let k = 0; k < view.triangles * 9; k += 3) {
      const along = [0, 1, 2].reduce((sum, d) => sum - view.flat!.sunk[k + d]! * view.flat!.normals[k + d]!, 0);
      if (Math.abs(along - 0.25) < 1e-5) whole++;
      expect(along).toBeGreaterThan(0.05);
    }
    expect(whole / (view.triangles * 3)).toBeGreaterThan(0.5);
    await done('removeLayer', { layer: layersNow().find(({ name }) => name === 'height')!.id });
  });

  it('what is at a place is answered by the definition that pictures are baked from', async () => {
    const outcome = await one.session.surfaceAt([0, 0.2, 0.3, 0.5, 20, 0.2, 0.3, 0.5]);
    if (!outcome.ok) throw new Error(outcome.sentence);
    const [inside, outside] = outcome.report;
    expect(inside!.layers).toMatchObject([{ name: 'grid', share: 0.25 }]);
    expect(inside!.colour[3]).toBeCloseTo(0.25, 9);
    expect(outside!.colour[3]).toBe(0);
  });

  it('baking goes to two workers, can be cancelled, and a picture says whether it joins with itself', async () => {
    const tasks = () => one.seats.made.reduce((sum, seat) => sum + seat.tasks, 0);
    const before = tasks();
    const report = await done('bake', { what: 'position', size: '512', samples: 1, add: true });
    // two shares of the bands, and what puts them together
    expect(tasks() - before).toBeGreaterThanOrEqual(3);
    expect(report.image).not.toBeNull();
    // a rough one is small, of the same shape, and adds nothing to the job
    const told = one.told.length;
    const rough = await one.session.roughBake({ what: 'position', size: '2048x1024', samples: 4 });
    if (!rough.ok) throw new Error(rough.sentence);
    expect(decode(rough.report)).toMatchObject({ width: 256, height: 128 });
    expect(one.told.slice(told).map(({ kind }) => kind)).not.toContain('summary');
    const baking = one.session.run('bake', { what: 'occlusion', size: '512', samples: 1 });
    await new Promise((next) => setTimeout(next, 5));
    one.session.cancel();
    expect(await baking).toMatchObject({ ok: false, code: 'cancelled' });
    const ramp = encode({ width: 32, height: 4, data: Uint8Array.from({ length: 32 * 4 * 3 }, (_, k) => (Math.floor(k / 3) % 32) * 8), channels: 3, depth: 8 });
    const added = await one.session.addImages([{ name: 'ramp.png', bytes: ramp }], false);
    if (!added.ok) throw new Error(added.sentence);
    expect((await one.session.selfJoin(added.report.ids[0]!))!.across).toBeCloseTo(248, 6);
    expect(await one.session.selfJoin('none')).toBeNull();
    // of the grid over the box by its own layout, both sides of some seams differ; under one colour none does
    const looks = await one.session.seamLooks();
    if (!looks.ok) throw new Error(looks.sentence);
    expect(looks.report.length).toBeGreaterThan(0);
    await done('addLayer', { layer: { name: 'plain', source: { kind: 'colour' } } as never });
    const plain = await one.session.seamLooks();
    expect(plain.ok && plain.report).toEqual([]);
    // a newer question ends the one before, leaving ends the last
    const [older, newer] = [one.session.seamLooks(), one.session.seamLooks()];
    expect(await older).toMatchObject({ ok: false, code: 'cancelled' });
    expect(await newer).toMatchObject({ ok: true, report: [] });
    const left = one.session.seamLooks();
    one.session.leaveSeamLooks();
    expect(await left).toMatchObject({ ok: false, code: 'cancelled' });
    // an image is read once for all questions, whatever else of the layers changes
    await done('addLayer', { layer: { name: 'ramp', source: { kind: 'image', image: added.report.ids[0]! } } as never });
    const read = () => one.seats.asked.filter((name) => name === 'decode').length;
    const readBefore = read();
    const place = [0, 0.3, 0.3, 0.4];
    const first = await one.session.surfaceAt(place);
    expect(read()).toBe(readBefore + 1);
    await done('setLayer', { layer: { ...layersNow().find(({ name }) => name === 'ramp')!, opacity: 0.5 } });
    const second = await one.session.surfaceAt(place);
    expect(read()).toBe(readBefore + 1);
    expect(second.ok && second.report[0]!.colour).not.toEqual(first.ok && first.report[0]!.colour);
  });
});
