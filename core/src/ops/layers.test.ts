import { decode, encode } from 'fast-png';
import { describe, expect, it } from 'vitest';
import { runOperation } from './registry.ts';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { layersOf } from '../job/layers.ts';
import { newJob, type Job } from '../job/job.ts';
import type { BakeReport } from './bake.ts';
import { showBaked } from './bakeWork.ts';

const png = (r: number, g: number, b: number) =>
  encode({ width: 4, height: 4, data: Uint8Array.from({ length: 48 }, (_, k) => [r, g, b][k % 3]!), channels: 3, depth: 8 });
const layer = (name: string, more: object = {}) => ({ name, source: { kind: 'colour', colour: '#ff0000' }, ...more });

async function start(): Promise<Job> {
  let job = newJob('j', 'j', []);
  for (let k = 0; k < 2; k++) job = (await runOperation(job, 'makeForm', { kind: 'box' })).job;
  const materials = job.parts.map((part, k) =>
    k === 0 ? part : { ...part, mesh: { ...part.mesh, materials: ['tiles', 'wood'], faceMaterial: part.mesh.faceMaterial.map((_, f) => f % 2) } },
  );
  return { ...job, parts: materials };
}
const step = async (job: Job, name: string, params: object) => (await runOperation(job, name, params as Record<string, unknown>)).job;

describe('layers of a job', () => {
  it('are added, changed, ordered, copied and removed; each has a name and an id of its own', async () => {
    let job = await start();
    const [a, b] = job.parts.map(({ id }) => id);
    job = await step(job, 'addLayer', { part: a, layer: layer('dirt') });
    job = await step(job, 'addLayer', { part: a, layer: layer('dirt', { opacity: 0.5 }) });
    expect(job.parts[0]!.layers!.map(({ id, name }) => [id, name])).toEqual([
      ['layer-1', 'dirt'],
      ['layer-2', 'dirt 2'],
    ]);
    const second = job.parts[0]!.layers![1]!;
    job = await step(job, 'setLayer', { part: a, layer: { ...second, blend: 'multiply' } });
    job = await step(job, 'orderLayers', { part: a, order: ['layer-2', 'layer-1'] });
    expect(job.parts[0]!.layers!.map(({ blend }) => blend)).toEqual(['multiply', 'normal']);
    job = await step(job, 'copyLayers', { part: a, to: [b] });
    expect(job.parts[1]!.layers!.map(({ name }) => name)).toEqual(['dirt 2', 'dirt']);
    job = await step(job, 'removeLayer', { part: a, layer: 'layer-1' });
    job = await step(job, 'removeLayer', { part: a, layer: 'layer-2' });
    expect(job.parts[0]).not.toHaveProperty('layers');
    await expect(step(job, 'orderLayers', { part: b, order: ['layer-1'] })).rejects.toThrow('does not name each layer once');
    await expect(step(job, 'setLayer', { part: b, layer: { ...second, id: 'none' } })).rejects.toThrow('not there');
    await expect(step(job, 'addLayer', { part: b, layer: { name: 'x', source: { kind: 'image', image: 'none' } } })).rejects.toThrow('not in the job');
    await expect(step(job, 'addLayer', { part: b, layer: layer('x', { opacity: Number.NaN }) })).rejects.toThrow();
  });

  it('of a material are followed by all parts that have none of their own, on its faces alone', async () => {
    let job = await start();
    const [a, b] = job.parts.map(({ id }) => id);
    job = await step(job, 'addLayer', { material: 'tiles', layer: layer('glaze') });
    expect(layersOf(job, job.parts[0]!)).toHaveLength(0);
    expect(layersOf(job, job.parts[1]!)).toMatchObject([{ layer: { name: 'glaze' }, material: 0 }]);
    job = await step(job, 'ownLayers', { part: b });
    expect(layersOf(job, job.parts[1]!)).toMatchObject([{ layer: { name: 'glaze', masks: [{ kind: 'material', material: 'tiles' }] }, material: null }]);
    await expect(step(job, 'ownLayers', { part: a })).rejects.toThrow('follows no layers');
    await expect(step(job, 'addLayer', { material: 'gold', layer: layer('x') })).rejects.toThrow('No part has a material');
  });

  it('a decal reaches onto other parts where asked to: one layer, over theirs, near them alone, without masks of its own part’s faces', async () => {
    let job = await start();
    const [a, b] = job.parts.map(({ id }) => id);
    const stamp = { driver: { kind: 'decal', centre: [0, 0, 0.5], right: [1, 0, 0], up: [0, 1, 0], size: [0.5, 0.5], depth: 0.1 } };
    const masks = [{ kind: 'faces', faces: [0] }, { kind: 'noise' }, { kind: 'each' }];
    job = await step(job, 'addLayer', { part: a, layer: layer('stamp', { ...stamp, masks }) });
    job = await step(job, 'addLayer', { part: b, layer: layer('paint') });
    const shown = (one: Job) => layersOf(one, one.parts[1]!).map(({ layer: { name } }) => name);
    expect(shown(job)).toEqual(['paint']);
    const [own] = job.parts[0]!.layers!;
    const reach = (driver: object) => step(job, 'setLayer', { part: a, layer: { ...own!, driver: { ...own!.driver, others: true, ...driver } } });
    job = await reach({});
    expect(shown(job)).toEqual(['paint', 'stamp']);
    const there = layersOf(job, job.parts[1]!)[1]!;
    expect([there.layer.masks.map(({ kind }) => kind), there.material]).toEqual([['noise'], null]);
    // ids are told apart, as both begin with layer-1
    expect(new Set(layersOf(job, job.parts[1]!).map(({ layer: { id } }) => id)).size).toBe(2);
    expect(layersOf(job, job.parts[0]!)).toHaveLength(1);
    // moved, it moves on both; far away it is on its own part alone
    const moved = await reach({ centre: [0.1, 0, 0.5] });
    expect(layersOf(moved, moved.parts[1]!)[1]!.layer.driver).toMatchObject({ centre: [0.1, 0, 0.5] });
    expect(shown(await reach({ centre: [40, 0, 0.5] }))).toEqual(['paint']);
    // nothing of it is taken over by what gives a part layers of its own
    await expect(step(job, 'copyLayers', { part: a, to: [b] })).rejects.toThrow('on the other parts that they reach already');
    job = await step(job, 'removeLayer', { part: b, layer: 'layer-1' });
    await expect(step(job, 'ownLayers', { part: b })).rejects.toThrow('follows no layers');
    expect(shown(job)).toEqual(['stamp']);
    const again = (await readArchive(await writeArchive(job))).job;
    expect(shown(again)).toEqual(['stamp']);
    expect(shown(await step(job, 'removeLayer', { part: a, layer: own!.id }))).toEqual([]);
  });

  it('a decal on two parts, baked on one of them, is in its picture and no longer drawn over it; on the other it stays', async () => {
    let job = await start();
    const [a, b] = job.parts.map(({ id }) => id);
    job = { ...job, parts: job.parts.map((part, k) => (k === 1 ? { ...part, mesh: { ...part.mesh, materials: [] } } : part)) };
    const driver = { kind: 'decal', centre: [0, 0, 0.5], right: [1, 0, 0], up: [0, 1, 0], size: [0.5, 0.5], depth: 0.1, others: true };
    job = await step(job, 'addLayer', { part: a, layer: layer('stamp', { driver, opacity: 0.5 }) });
    const names = (one: Job, k: number) => layersOf(one, one.parts[k]!).flatMap(({ layer: { id, name, isOn } }) => (id === 'picture' || !isOn ? [] : [name]));
    const image = (await runOperation(job, 'addImages', { images: [{ name: 'a.png', bytes: png(9, 90, 200) }], show: false })).job;
    const id = image.images[0]!.id;
    const there = showBaked(image, [b!], id, undefined);
    expect([names(there, 0), names(there, 1)]).toEqual([['stamp'], []]);
    const here = showBaked(image, [a!], id, undefined);
    expect([names(here, 0), names(here, 1)]).toEqual([[], ['stamp']]);
    // baked again, or the other one after it, the layer is there still; baked on all it is switched off
    const again = showBaked(here, [a!], id, undefined);
    expect([names(again, 0), names(again, 1)]).toEqual([[], ['stamp']]);
    const later = showBaked(here, [b!], id, undefined);
    expect([names(later, 0), names(later, 1)]).toEqual([[], []]);
    expect(later.parts[0]!.layers!.map(({ isOn }) => isOn)).toEqual([false]);
    // plain layers of a part that is not baked stay on
    const plain = await step(image, 'addLayer', { part: a, layer: layer('paint') });
    const other = showBaked(plain, [b!], id, undefined);
    expect([names(other, 0), names(other, 1)]).toEqual([['stamp', 'paint'], []]);
    const both = showBaked(image, [a!, b!], id, undefined);
    expect([names(both, 0), names(both, 1)]).toEqual([[], []]);
    expect(both.parts[0]!.layers![0]!.isOn).toBe(false);
  });

  /** A ball that a jig drives, with a picture on it. */
  async function ball(jig: object): Promise<Job> {
    let job = (await runOperation(newJob('j', 'j', []), 'makeForm', { kind: 'sphere', width: 1, segments: 48, rows: 32 })).job;
    job = await step(job, 'addImages', { images: [{ name: 'a.png', bytes: png(9, 90, 200) }], show: true });
    const faces = Array.from({ length: job.parts[0]!.mesh.faceStart.length - 1 }, (_, f) => f);
    return step(job, 'addJigs', { items: [{ faces, jig: { size: [1, 1, 1], ...jig } }] });
  }
  /** Latitude of the middles of the masked faces, degrees. */
  const latitudes = (job: Job) => {
    const { mesh, layers } = job.parts[0]!;
    const mask = layers!.at(-1)!.masks[0]!;
    if (mask.kind !== 'faces') throw new Error('no faces');
    return mask.faces.map((f) => {
      let [x, y, z, n] = [0, 0, 0, 0];
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        const p = mesh.corners[c]! * 3;
        [x, y, z, n] = [x + mesh.points[p]!, y + mesh.points[p + 1]!, z + mesh.points[p + 2]!, n + 1];
      }
      return (Math.atan2(y, Math.hypot(x, z)) * 180) / Math.PI;
    });
  };

  it('the poles of a ball are covered from three sides, both alike, nothing near its middle; the picture as large as it is there', async () => {
    const job = await step(await ball({ kind: 'spherical' }), 'coverSmears', { id: 'jig-1' });
    const layer = job.parts[0]!.layers!.at(-1)!;
    expect(layer).toMatchObject({ source: { kind: 'image', image: job.images[0]!.id }, driver: { kind: 'triplanar' } });
    const all = latitudes(job);
    expect(all.filter((x) => x > 0).length).toBe(all.filter((x) => x < 0).length);
    expect(Math.min(...all.map(Math.abs))).toBeGreaterThan(35);
    // to the very poles
    expect(Math.max(...all)).toBeGreaterThan(85);
    // round the middle the picture is as wide as the ball's girth
    // the jig throws the square picture π wide and π/2 high: as large in area, at the latitude that halves the ball's area on either side (30°)
    const { driver, placement } = layer;
    const mean = Math.sqrt((Math.PI * Math.PI) / 2);
    expect(driver.kind === 'triplanar' && driver.size).toBeCloseTo(mean * Math.sqrt(Math.cos(Math.PI / 6)), 1);
    expect(placement.repeats[0]).toBe(1);
    expect(placement.repeats[1]).toBeCloseTo(1, 6);
  });

  it('after the jig was moved the cover takes the place of the one before; where a jig smears nothing it says so', async () => {
    const once = await step(await ball({ kind: 'spherical' }), 'coverSmears', { id: 'jig-1' });
    // lying on its side: the poles are left and right now
    const jig = { ...once.jigs![0]!.jig, up: [1, 0, 0] as [number, number, number], right: [0, -1, 0] as [number, number, number] };
    const twice = await step(await step(once, 'changeJig', { id: 'jig-1', jig }), 'coverSmears', { id: 'jig-1' });
    expect(twice.parts[0]!.layers).toHaveLength(1);
    expect(Math.min(...latitudes(twice).map(Math.abs))).toBeLessThan(10);
    let flat = (await runOperation(newJob('j', 'j', []), 'makeForm', { kind: 'plane' })).job;
    flat = await step(flat, 'addImages', { images: [{ name: 'a.png', bytes: png(9, 90, 200) }], show: true });
    flat = await step(flat, 'addJigs', { items: [{ faces: [0], jig: { kind: 'planar' } }] });
    await expect(step(flat, 'coverSmears', { id: 'jig-1' })).rejects.toThrow('smears nothing');
    await expect(step({ ...flat, parts: flat.parts.map((part) => ({ ...part, imageId: null })) }, 'coverSmears', { id: 'jig-1' })).rejects.toThrow(
      'shows no picture',
    );
  });

  it('a cover follows its jig by itself, keeps what was made of it, and goes where nothing is smeared any more', async () => {
    let once = await step(await ball({ kind: 'spherical' }), 'coverSmears', { id: 'jig-1' });
    const own = once.parts[0]!.layers![0]!;
    const mask = own.masks[0]!;
    once = await step(once, 'setLayer', { layer: { ...own, name: 'caps', opacity: 0.7, masks: [{ ...mask, soft: 0.2 }, { kind: 'noise' }] } });
    const jig = { ...once.jigs![0]!.jig, up: [1, 0, 0], right: [0, -1, 0] };
    const moved = await step(once, 'changeJig', { id: 'jig-1', jig });
    expect(moved.parts[0]!.layers).toHaveLength(1);
    const after = moved.parts[0]!.layers![0]!;
    expect(after).toMatchObject({ id: own.id, name: 'caps', opacity: 0.7, covers: 'jig-1', masks: [{ kind: 'faces', soft: 0.2 }, { kind: 'noise' }] });
    const again = await step(moved, 'coverSmears', { id: 'jig-1' });
    expect(after).toEqual(again.parts[0]!.layers![0]);
    expect(after.masks[0]).not.toEqual(own.masks[0]);
    // with no picture to tell by it stays
    const bare = { ...moved, parts: moved.parts.map((part) => ({ ...part, imageId: null })) };
    expect((await step(bare, 'changeJig', { id: 'jig-1', jig: once.jigs![0]!.jig })).parts[0]!.layers).toEqual(moved.parts[0]!.layers);
    const { mesh } = moved.parts[0]!;
    const poles = [...Array(mesh.faceStart.length - 1).keys()].filter((f) => !(after.masks[0]!.kind === 'faces' && !after.masks[0]!.faces.includes(f)));
    const served = await step(moved, 'driveFaces', { id: 'jig-1', faces: poles.join(','), take: true });
    expect(served.parts[0]).not.toHaveProperty('layers');
  });

  it('a fade goes with the jig that it is bound to: moved, turned and sized as the jig is; others stay', async () => {
    const linear = { kind: 'fade', fade: { shape: 'linear', from: [0, 0.25, 0], to: [0, -0.25, 0.1] } };
    const round = { kind: 'fade', fade: { shape: 'radial', centre: [0.5, 0, 0], inner: 0.1, outer: 0.3 } };
    let job = await ball({ kind: 'spherical' });
    job = await step(job, 'addLayer', { layer: layer('soot', { masks: [{ ...linear, jig: 'jig-1' }, { ...round, jig: 'jig-1' }, linear] }) });
    const { jig } = job.jigs![0]!;
    // up becomes right, right becomes down; twice as wide, high and deep; one unit to the right
    const next = { ...jig, origin: [1, 0, 0], up: [1, 0, 0], right: [0, -1, 0], size: jig.size.map((x) => x * 2) };
    const moved = await step(job, 'changeJig', { id: 'jig-1', jig: next });
    const [a, b, c] = moved.parts[0]!.layers![0]!.masks;
    const close = (xs: number[]) => xs.map((x) => expect.closeTo(x, 12) as number);
    expect(a).toMatchObject({ fade: { from: close([1.5, 0, 0]), to: close([0.5, 0, 0.2]) } });
    expect(b).toMatchObject({ fade: { centre: close([1, -1, 0]), inner: expect.closeTo(0.2, 12) as number, outer: expect.closeTo(0.6, 12) as number } });
    expect(c).toMatchObject(linear);
    // back again, it is where it was
    const back = await step(moved, 'changeJig', { id: 'jig-1', jig });
    expect(back.parts[0]!.layers![0]!.masks[0]).toMatchObject({ fade: { from: close([0, 0.25, 0]), to: close([0, -0.25, 0.1]) } });
    // the model turned upright: bound or not, a fade goes round once, with the surface
    const upright = await step(job, 'setUp', { up: 'z' });
    const [bound, , free] = upright.parts[0]!.layers![0]!.masks;
    if (bound!.kind !== 'fade' || free!.kind !== 'fade' || bound!.fade.shape !== 'linear' || free!.fade.shape !== 'linear') throw new Error('no fades');
    expect(bound!.fade).toMatchObject({ from: close([...free!.fade.from]), to: close([...free!.fade.to]) });
    expect(free!.fade.from).not.toEqual([0, 0.25, 0]);
    // what the jig's picture does moves no fade
    const turned = await step(job, 'changeJig', { id: 'jig-1', jig: { ...jig, turn: 30 } });
    expect(turned.parts[0]!.layers).toBe(job.parts[0]!.layers);
  });

  it('copied to another part they are fitted to its size; a fade stays with a jig that drives both', async () => {
    let job = await start();
    const [a, b] = job.parts.map(({ id }) => id) as [string, string];
    // the second box twice as large, and elsewhere
    const points = (mesh: (typeof job.parts)[0]['mesh']) => mesh.points.map((x, k) => x * 2 + (k % 3 === 0 ? 10 : 0));
    job = { ...job, parts: job.parts.map((part) => (part.id === b ? { ...part, mesh: { ...part.mesh, points: points(job.parts[0]!.mesh) } } : part)) };
    const faces = [0, 1, 2];
    job = await step(job, 'addJigs', { part: a, items: [{ faces, jig: { kind: 'planar' }, name: 'own' }] });
    job = await step(job, 'addJigs', { part: a, items: [{ faces: [3], jig: { kind: 'planar' }, name: 'shared' }] });
    job = await step(job, 'driveFaces', { id: 'jig-2', part: b, faces: '3' });
    const linear = { kind: 'fade', fade: { shape: 'linear', from: [0, 0.5, 0], to: [0.1, -0.5, 0] } };
    const round = { kind: 'fade', fade: { shape: 'radial', centre: [0.25, 0, 0], inner: 0.1, outer: 0.3 } };
    job = await step(job, 'addLayer', { part: a, layer: layer('soot', { masks: [{ ...linear, jig: 'jig-1' }, round, { ...linear, jig: 'jig-2' }] }) });
    job = await step(job, 'copyLayers', { part: a, to: [b] });
    const masks = job.parts.find(({ id }) => id === b)!.layers![0]!.masks;
    const middle = (d: number) => {
      const all = [...job.parts[0]!.mesh.points].filter((_, k) => k % 3 === d);
      return (Math.min(...all) + Math.max(...all)) / 2;
    };
    // the box of the first part is scaled by 2 about the origin and moved by 10
    const fitted = (place: number[]) => place.map((x, d) => expect.closeTo((x - middle(d)) * 2 + middle(d) * 2 + (d === 0 ? 10 : 0), 9) as number);
    expect(masks[0]).toMatchObject({ fade: { from: fitted([0, 0.5, 0]), to: fitted([0.1, -0.5, 0]) } });
    expect(masks[0]).not.toHaveProperty('jig');
    expect(masks[1]).toMatchObject({ fade: { centre: fitted([0.25, 0, 0]), inner: expect.closeTo(0.2, 9) as number } });
    expect(masks[2]).toMatchObject({ ...linear, jig: 'jig-2' });
  });

  it('survive a job archive, and a damaged one is refused', async () => {
    let job = await start();
    job = await step(job, 'addLayer', {
      layer: layer('dirt', { masks: [{ kind: 'faces', faces: [1, 2], soft: 0.1 }], driver: { kind: 'triplanar', size: 2 } }),
    });
    job = await step(job, 'addLayer', { material: 'wood', layer: layer('grain') });
    const back = readArchive(writeArchive(job)).job;
    expect(back.parts.map(({ layers }) => layers)).toEqual(job.parts.map(({ layers }) => layers));
    expect(back.materialLayers).toEqual(job.materialLayers);
    const broken = { ...job, parts: job.parts.map((part) => (part.layers ? { ...part, layers: [{ ...part.layers[0]!, opacity: 7 }] } : part)) };
    expect(() => readArchive(writeArchive(broken))).toThrow();
  });
});

describe('baking a job', () => {
  it('lays what is seen out by the layout, adds it and shows it; the layers stay, switched off', async () => {
    let job = await start();
    job = await step(job, 'addImages', { images: [{ name: 'blue.png', bytes: png(0, 0, 255) }], show: true });
    job = await step(job, 'addLayer', { layer: layer('half red', { opacity: 0.5 }) });
    const active = job.activePart;
    const { job: next, report } = await runOperation(job, 'bake', { part: active, size: '64', bleed: 'full', show: true });
    const found = report as BakeReport;
    expect(found).toMatchObject({ width: 64, contested: 0, notes: [] });
    const px = decode(found.png());
    expect(px).toMatchObject({ width: 64, height: 64, depth: 8 });
    const part = next.parts.find(({ id }) => id === active)!;
    expect(part.imageId).toBe(found.image);
    expect(part.layers!.map(({ isOn }) => isOn)).toEqual([false]);
    // mixed by hand: half of red over blue
    const covered = [...px.data].findIndex((_, k) => k % px.channels === 0 && px.data[k + (px.channels - 1)] !== 0);
    expect([...px.data.slice(covered, covered + 3)]).toEqual([128, 0, 128]);
    // baked once more it is the same picture: nothing is added twice
    const again = await runOperation(next, 'bake', { part: active, size: '64', bleed: 'full', show: true });
    expect(decode((again.report as BakeReport).png()).data).toEqual(px.data);
    expect(again.job.images).toHaveLength(2);
  });

  it('says what cannot be baked, and what is left out', async () => {
    let job = await start();
    await expect(step(job, 'bake', {})).rejects.toThrow('no picture and no colour layer');
    await expect(step(job, 'bake', { what: 'position', set: 5 })).rejects.toThrow('There is no UV set 5');
    await expect(step(job, 'bake', { what: 'position', size: '9000' })).rejects.toThrow('up to 8192');
    await expect(step(job, 'bake', { what: 'position', size: '64', tile: 1005 })).rejects.toThrow('No island is on tile 1005');
    job = await step(job, 'addLayer', { layer: layer('x') });
    job = await step(job, 'addImages', { images: [{ name: 'a.png', bytes: png(1, 2, 3) }] });
    job = await step(job, 'addLayer', { layer: { name: 'lost', source: { kind: 'image', image: job.images[0]!.id } } });
    job = await step(job, 'removeImage', { image: job.images[0]!.id });
    const { report } = await runOperation(job, 'bake', { size: '64' });
    expect((report as BakeReport).notes).toContain('Left out, their picture, jig or UV set is gone: “lost”.');
  });

  it.each(['mask', 'relief', 'position', 'normal', 'tangent-normal', 'face', 'id', 'material', 'occlusion', 'thickness', 'coverage'] as const)(
    '%s is a picture',
    async (what) => {
      const job = await step(await start(), 'addLayer', { layer: layer('x', { to: what === 'relief' ? 'relief' : 'colour' }) });
      const { report } = await runOperation(job, 'bake', { what, part: job.activePart, size: '32', samples: 1, rays: 8, bleed: 'full', depth: 16 });
      const { data, depth, channels } = decode((report as BakeReport).png());
      expect([depth, channels]).toEqual([16, 3]);
      expect(new Set(data).size).toBeGreaterThanOrEqual(1);
    },
  );
});
