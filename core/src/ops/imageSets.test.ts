import { decode, encode } from 'fast-png';
import { WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS, type Transform } from '@gltf-transform/extensions';
import { validateBytes } from 'gltf-validator';
import { describe, expect, it } from 'vitest';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { writeGlb } from '../formats/gltfWrite.ts';
import { openFiles } from '../formats/open.ts';
import { setOfImage } from '../images/imageSets.ts';
import { asItLies, type ImagePlacement } from '../images/placement.ts';
import { activeSet, newJob, partOf, type Job } from '../job/job.ts';
import { layersOf } from '../job/layers.ts';
import { layersWithPicture } from '../job/setMates.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import type { BakeReport } from './bake.ts';
import { runOperation } from './registry.ts';

/** A picture of one colour, of which no two are the same. */
const png = (r: number, g = r, b = r) =>
  encode({ width: 4, height: 4, data: Uint8Array.from({ length: 48 }, (_, k) => [r, g, b][k % 3]!), channels: 3, depth: 8 });
const step = async (job: Job, name: string, params: object) => (await runOperation(job, name, params as Record<string, unknown>)).job;
const turned: ImagePlacement = { ...asItLies, repeats: [3, 3], turn: 90 };

const files = [
  ['bark_color.png', png(200, 100, 50)],
  ['bark_height.png', png(90)],
  ['bark_normal.png', png(128, 128, 255)],
  ['bark_roughness.png', png(180)],
  ['bark_metalness.png', png(20)],
  ['bark_ao.png', png(220)],
  ['photo.png', png(7)],
] as const;

async function start(): Promise<Job> {
  let job = await step(newJob('j', 'j', []), 'makeForm', { kind: 'box' });
  job = await step(job, 'unwrap', {});
  job = await step(job, 'addImages', { images: files.map(([name, bytes]) => ({ name, bytes })) });
  return step(job, 'putImageSet', { set: 'bark' });
}
const idOf = (job: Job, name: string) => job.images.find((image) => image.name === name)!.id;
const along = (job: Job) => {
  const { imageId, placement = null, layers = null, uvSets, activeUv } = partOf(job);
  return layersWithPicture(job.images, { imageId, placement, layers, uvSets: uvSets.map(({ name }) => name), activeUv });
};
const relief = (job: Job) => partOf(job).layers!.find(({ to }) => to === 'relief')!;

describe('a set of images on a part', () => {
  it('shows its colour as the picture and its relief as a layer, laid alike; once more changes nothing', async () => {
    const job = await start();
    expect(partOf(job).imageId).toBe(idOf(job, 'bark_color.png'));
    expect(partOf(job).layers).toHaveLength(1);
    expect(relief(job)).toMatchObject({ name: 'bark relief', source: { image: idOf(job, 'bark_height.png') }, driver: { kind: 'set', set: '' } });
    expect(along(job)).toEqual([relief(job).id]);
    expect(partOf(await step(job, 'putImageSet', { set: 'BARK' })).layers).toEqual(partOf(job).layers);
    await expect(step(job, 'putImageSet', { set: 'none' })).rejects.toThrow('no set of images');
  });

  it('in place of another set takes the relief of that one along, and leaves what lies otherwise', async () => {
    let job = await step(await start(), 'addImages', {
      images: [
        { name: 'moss_color.png', bytes: png(1) },
        { name: 'moss_height.png', bytes: png(2) },
      ],
    });
    job = await step(job, 'addLayer', {
      layer: { name: 'apart', to: 'relief', source: { kind: 'image', image: idOf(job, 'bark_height.png') }, placement: turned },
    });
    job = await step(job, 'putImageSet', { set: 'moss' });
    expect(partOf(job).layers!.map(({ name }) => name)).toEqual(['apart', 'moss relief']);
  });

  it('dropped together, its colour is shown first', async () => {
    const job = await step(newJob('j', 'j', []), 'makeForm', { kind: 'box' });
    const shown = await step(job, 'addImages', {
      images: files
        .toReversed()
        .map(([name, bytes]) => ({ name, bytes }))
        .slice(1),
      show: true,
    });
    expect(partOf(shown).imageId).toBe(idOf(shown, 'bark_color.png'));
  });

  it('without UVs colour and relief are shown from the same sides; once unwrapped both by the UVs', async () => {
    let job = await step(newJob('j', 'j', []), 'makeForm', { kind: 'box' });
    const bare = emptyUvSet(partOf(job).mesh);
    job = { ...job, parts: job.parts.map((part) => ({ ...part, uvSets: [bare], activeUv: 0 })) };
    job = await step(job, 'addImages', { images: files.map(([name, bytes]) => ({ name, bytes })) });
    job = await step(job, 'putImageSet', { set: 'bark' });
    const drivers = (one: Job) => layersOf(one, partOf(one)).map(({ layer }) => layer.driver);
    const [picture, layer] = drivers(job);
    expect(picture!.kind).toBe('triplanar');
    expect(layer).toEqual(picture);
    job = await step(job, 'unwrap', { seams: 'crease' });
    expect(drivers(job)).toEqual([
      { kind: 'set', set: '' },
      { kind: 'set', set: '' },
    ]);
  });

  it('as layers: colour and relief within its mask, over the picture that is there', async () => {
    let job = await step(await start(), 'addImages', { images: [{ name: 'bark_mask.png', bytes: png(255, 0, 255) }] });
    job = await step(job, 'showImage', { part: partOf(job).id, image: idOf(job, 'photo.png') });
    job = await step(job, 'removeLayer', { layer: relief(job).id });
    job = await step(job, 'putImageSet', { set: 'bark', as: 'layers' });
    expect(partOf(job).imageId).toBe(idOf(job, 'photo.png'));
    expect(partOf(job).layers!.map(({ name, to, masks }) => [name, to, masks.map((mask) => mask.kind === 'image' && mask.image)])).toEqual([
      ['bark', 'colour', [idOf(job, 'bark_mask.png')]],
      ['bark relief', 'relief', [idOf(job, 'bark_mask.png')]],
    ]);
  });

  it('moves as one: by the picture, by the layer, written to the UVs, driven otherwise; what was laid otherwise stays', async () => {
    let job = await start();
    job = await step(job, 'addLayer', { layer: { name: 'photo', source: { kind: 'image', image: idOf(job, 'photo.png') } } });
    const photo = () => partOf(job).layers!.find(({ name }) => name === 'photo')!;
    job = await step(job, 'placeImage', { placement: turned });
    expect(relief(job).placement).toEqual(turned);
    expect(photo().placement).toEqual(asItLies);
    // by the layer
    job = await step(job, 'setLayer', { layer: { ...relief(job), placement: asItLies } });
    expect(partOf(job).placement).toBeUndefined();
    // other changes of the layer move nothing
    job = await step(job, 'setLayer', { layer: { ...relief(job), opacity: 0.5 } });
    expect(partOf(job).placement).toBeUndefined();
    job = await step(job, 'placeImage', { placement: turned });
    const before = activeSet(partOf(job)).uv;
    job = await step(job, 'writePlacement', {});
    expect(activeSet(partOf(job)).uv).not.toEqual(before);
    expect(relief(job).placement).toEqual(asItLies);
    // apart: laid otherwise, then the picture goes alone
    job = await step(job, 'setLayer', { layer: { ...relief(job), driver: { kind: 'triplanar', size: 1, blend: 0.3, offset: [0, 0, 0], turn: [0, 0, 0] } } });
    expect(partOf(job).placement).toBeUndefined();
    job = await step(job, 'placeImage', { placement: turned });
    expect(relief(job).placement).toEqual(asItLies);
    expect(along(job)).toEqual([]);
  });

  it('written to the UVs by the layer, the picture is at rest, too', async () => {
    let job = await step(await start(), 'placeImage', { placement: turned });
    job = await step(job, 'writePlacement', { layer: relief(job).id });
    expect(partOf(job).placement).toBeUndefined();
    expect(relief(job).placement).toEqual(asItLies);
  });

  it('what an image is of can be said, is kept in archives, and by the image that takes its place', async () => {
    let job = await start();
    await expect(step(job, 'setImageUse', { image: 'none', set: 'bark' })).rejects.toThrow('not in the job');
    job = await step(job, 'setImageUse', { image: idOf(job, 'photo.png'), set: 'bark', role: 'mask' });
    job = await step(job, 'setImageUse', { image: idOf(job, 'bark_ao.png'), set: null });
    const names = (one: Job) => setOfImage(one.images, idOf(one, 'bark_color.png'))!.members.map(({ name }) => name);
    expect(names(job)).toContain('photo.png');
    expect(names(job)).not.toContain('bark_ao.png');
    const { job: back } = readArchive(writeArchive(job));
    expect(names(back)).toEqual(names(job));
    job = await step(job, 'addImages', { images: [{ name: 'photo.png', bytes: png(8) }] });
    expect(names(job)).toContain('photo.png');
  });
});

describe('a set of images in a GLB', () => {
  const read = async (job: Job) => {
    const { bytes, notes } = await writeGlb(job.parts, job.files, job.images);
    const { issues } = await validateBytes(bytes);
    expect(issues.messages.filter(({ severity }) => severity === 0)).toEqual([]);
    return { notes, material: (await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(bytes)).getRoot().listMaterials()[0]! };
  };

  it('goes as its normals, occlusion, and roughness beside metalness, all placed as the colour', async () => {
    const job = await step(await start(), 'placeImage', { placement: turned });
    const { material, notes } = await read(job);
    expect(notes.filter((note) => note.includes('left out'))).toEqual([]);
    expect(notes.filter((note) => note.includes('with “bark_color.png” went “bark_normal.png”, “bark_ao.png”, “bark roughness metalness.png”'))).toHaveLength(
      1,
    );
    expect(material.getNormalTexture()!.getImage()).toEqual(files[2][1]);
    expect(material.getOcclusionTexture()!.getImage()).toEqual(files[5][1]);
    const both = decode(material.getMetallicRoughnessTexture()!.getImage()!);
    expect([...both.data.slice(0, 3)]).toEqual([255, 180, 20]);
    expect([material.getRoughnessFactor(), material.getMetallicFactor()]).toEqual([1, 1]);
    const infos = [
      material.getBaseColorTextureInfo()!,
      material.getNormalTextureInfo()!,
      material.getOcclusionTextureInfo()!,
      material.getMetallicRoughnessTextureInfo()!,
    ];
    const scales = infos.map((info) => info.getExtension<Transform>('KHR_texture_transform')!.getScale());
    for (const scale of scales) expect(scale).toEqual(scales[0]);
    expect(scales[0]![0]).toBeCloseTo(3);
  });

  it('that it came with is known again, and its other images go where the colour goes', async () => {
    const first = await step(await start(), 'placeImage', { placement: turned });
    const { bytes } = await writeGlb(first.parts, first.files, first.images);
    let job = await openFiles([{ name: 'box.glb', bytes }], 'k');
    const set = setOfImage(job.images, partOf(job).imageId)!;
    expect(set.members.map(({ role }) => role)).toEqual(['colour', 'normal', 'occlusion', 'roughness-metalness']);
    job = await step(job, 'placeImage', { placement: { ...turned, repeats: [5, 5] } });
    const { material } = await read(job);
    for (const info of [material.getBaseColorTextureInfo()!, material.getNormalTextureInfo()!, material.getMetallicRoughnessTextureInfo()!])
      expect(info.getExtension<Transform>('KHR_texture_transform')!.getScale()[0]).toBeCloseTo(5);
    expect(material.getMetallicRoughnessTexture()).not.toBeNull();
  });
});

describe('a set with several roles in one image', () => {
  const rows = [
    ['bark_color.png', png(200, 100, 50)],
    ['bark_orm.png', png(220, 180, 20)],
  ] as const;
  const begin = async (more: readonly (readonly [string, Uint8Array])[] = []) => {
    let job = await step(newJob('j', 'j', []), 'makeForm', { kind: 'box' });
    job = await step(job, 'unwrap', {});
    job = await step(job, 'addImages', { images: [...rows, ...more].map(([name, bytes]) => ({ name, bytes })) });
    return step(job, 'putImageSet', { set: 'bark' });
  };
  const material = async (job: Job) => {
    const { bytes } = await writeGlb(job.parts, job.files, job.images);
    expect((await validateBytes(bytes)).issues.numErrors).toBe(0);
    return { bytes, material: (await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(bytes)).getRoot().listMaterials()[0]! };
  };

  it('goes into a GLB as it is, for both, and is known again', async () => {
    const { bytes, material: written } = await material(await begin());
    expect(written.getMetallicRoughnessTexture()!.getImage()).toEqual(rows[1][1]);
    expect(written.getOcclusionTexture()).toBe(written.getMetallicRoughnessTexture());
    expect([written.getRoughnessFactor(), written.getMetallicFactor()]).toEqual([1, 1]);
    const back = await openFiles([{ name: 'box.glb', bytes }], 'k');
    expect(setOfImage(back.images, partOf(back).imageId)!.members.map(({ role }) => role)).toEqual(['colour', 'occlusion-roughness-metalness']);
  });

  it('beside metalness of its own gives the roughness alone', async () => {
    const { material: written } = await material(await begin([['bark_metalness.png', png(77)]]));
    const both = decode(written.getMetallicRoughnessTexture()!.getImage()!);
    expect([...both.data.slice(0, 3)]).toEqual([255, 180, 77]);
  });

  it('is baked channel by channel', async () => {
    const job = await begin();
    for (const [what, value] of [
      ['roughness', 180],
      ['metalness', 20],
      ['images-occlusion', 220],
    ] as const) {
      const { report } = await runOperation(job, 'bake', { what, size: '32', samples: 1, bleed: 'full' });
      expect([...decode((report as BakeReport).png()).data.slice(0, 3)], what).toEqual([value, value, value]);
    }
  });
});

describe('normals with green downwards', () => {
  const begin = async () => {
    let job = await step(newJob('j', 'j', []), 'makeForm', { kind: 'box' });
    job = await step(job, 'unwrap', {});
    const images = [
      { name: 'bark_color.png', bytes: png(200, 100, 50) },
      { name: 'bark_normal_dx.png', bytes: png(140, 90, 230) },
    ];
    return step(await step(job, 'addImages', { images }), 'putImageSet', { set: 'bark' });
  };

  it('go into a GLB turned round, since glTF has green up, and are known as such when it is opened again', async () => {
    const job = await begin();
    const { bytes } = await writeGlb(job.parts, job.files, job.images);
    expect((await validateBytes(bytes)).issues.numErrors).toBe(0);
    const [written] = (await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(bytes)).getRoot().listMaterials();
    expect([...decode(written!.getNormalTexture()!.getImage()!).data.slice(0, 3)]).toEqual([140, 165, 230]);
    const back = await openFiles([{ name: 'box.glb', bytes }], 'k');
    expect(setOfImage(back.images, partOf(back).imageId)!.members.map(({ role }) => role)).toEqual(['colour', 'normal']);
  });

  it('one that cannot be read is left out of the GLB, and told', async () => {
    const job = await begin();
    const torn = job.images.map((image) => (image.name === 'bark_normal_dx.png' ? { ...image, bytes: image.bytes.slice(0, 40) } : image));
    const { bytes, notes } = await writeGlb(job.parts, job.files, torn);
    const [written] = (await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(bytes)).getRoot().listMaterials();
    expect(written!.getNormalTexture()).toBeNull();
    expect(notes.join(' ')).toContain('“bark_normal_dx.png” was left out');
  });

  it('a bake of normals has green up, or down where asked, and says so in its set', async () => {
    const job = await begin();
    const bake = async (green: 'up' | 'down') => {
      const { job: next, report } = await runOperation(job, 'bake', { what: 'tangent-normal', size: '32', samples: 1, bleed: 'full', add: true, green });
      const { data } = decode((report as BakeReport).png());
      return { data: [...data.slice(0, 3)], role: next.images.find(({ id }) => id === (report as BakeReport).image)!.use!.role };
    };
    const [up, down] = [await bake('up'), await bake('down')];
    expect(up.data[1]).toBeGreaterThan(128);
    expect([down.data[0], 255 - down.data[1]!, down.data[2]]).toEqual(up.data);
    expect([up.role, down.role]).toEqual(['normal', 'normal-green-down']);
  });
});

describe('a set of images, baked', () => {
  const bake = async (job: Job, what: string) => {
    const { report } = await runOperation(job, 'bake', { what, size: '32', samples: 1, bleed: 'full' });
    const { data, channels } = decode((report as BakeReport).png());
    return [...data.slice(0, channels)];
  };

  it('each of its unseen images by itself; without one it is said', async () => {
    const job = await start();
    expect((await bake(job, 'roughness')).slice(0, 3)).toEqual([180, 180, 180]);
    expect((await bake(job, 'metalness')).slice(0, 3)).toEqual([20, 20, 20]);
    expect((await bake(job, 'images-occlusion')).slice(0, 3)).toEqual([220, 220, 220]);
    const bare = await step(job, 'showImage', { part: partOf(job).id, image: idOf(job, 'photo.png') });
    await expect(bake(bare, 'roughness')).rejects.toThrow('No image on the part has a roughness');
  });

  it('of baked pictures those for the UVs are a set; normals in space are not', async () => {
    let job = await start();
    for (const what of ['colour', 'tangent-normal', 'normal', 'occlusion']) job = await step(job, 'bake', { what, size: '16', samples: 1, add: true, rays: 4 });
    const colour = job.images.find(({ name }) => name.endsWith('colour.png'))!;
    expect(setOfImage(job.images, colour.id)!.members.map(({ role }) => role)).toEqual(['colour', 'normal', 'occlusion']);
  });
});
