import { encode } from 'fast-png';
import { describe, expect, it } from 'vitest';
import { contentHash } from '../images/contentHash.ts';
import { mapFileName, materialImages } from '../job/materialImages.ts';
import { openFiles } from '../formats/open.ts';
import { partOf, type Job } from '../job/job.ts';
import { runOperation } from './registry.ts';

const png = (shade: number) => encode({ width: 4, height: 2, data: new Uint8Array(32).fill(shade), channels: 4, depth: 8 });
const text = (words: string) => new TextEncoder().encode(words);
const obj = text('mtllib hut.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 0 1\nusemtl wall\nf 1/1 2/2 3/3\n');
const mtl = text('newmtl wall\nmap_Kd -s 2 2 1 -o 0.5 textures/old wall.png\nmap_Bump -bm 0.3 wall_height.png\nnewmtl roof\nmap_Kd roof.jpg\n');

const open = (more: { name: string; bytes: Uint8Array }[] = []): Promise<Job> =>
  openFiles([{ name: 'hut.obj', bytes: obj }, { name: 'hut.mtl', bytes: mtl }, ...more], 'job');
const add = async (job: Job, images: { name: string; bytes: Uint8Array }[], show = false) => runOperation(job, 'addImages', { images, show });

describe('images that a material file names', () => {
  it.each([
    ['wall.png', 'wall.png'],
    ['-s 2 2 1 -o 0.5 textures/old wall.png', 'textures/old wall.png'],
    ['-clamp on -bm 0.30 -mm 0 1 a b.png', 'a b.png'],
    ['-o 1 2 3 7.png', '7.png'],
    ['-t 1 2 3', '3'],
  ])('“map_Kd %s” is the file “%s”', (rest, file) => expect(mapFileName(rest)).toBe(file));

  it('those that were not given are listed once each, and in the intake', async () => {
    const job = await open();
    expect(materialImages(job).map(({ missing }) => missing)).toEqual([['textures/old wall.png', 'wall_height.png', 'roof.jpg']]);
    expect(job.intake.join('\n')).toMatch(/3 images named in “hut.mtl” were not given: textures\/old wall.png, wall_height.png, roof.jpg/);
  });

  it('given along with the model, whatever the folder and case, they are in the job and on the part', async () => {
    const job = await open([{ name: 'Old Wall.PNG', bytes: png(1) }]);
    expect(job.images.map((image) => image.name)).toEqual(['Old Wall.PNG']);
    expect(partOf(job).imageId).toBe(job.images[0]!.id);
    expect(materialImages(job)[0]!.missing).toEqual(['wall_height.png', 'roof.jpg']);
    expect(job.intake.join('\n')).toMatch(/Old Wall.PNG: picture, 4 × 2 px/);
  });

  it('dropped later they are taken in, shown on the part and no longer missing', async () => {
    const ran = await add(await open(), [{ name: 'old wall.png', bytes: png(2) }]);
    expect(partOf(ran.job).imageId).toBe(ran.job.images[0]!.id);
    expect(materialImages(ran.job)[0]!.missing).toEqual(['wall_height.png', 'roof.jpg']);
    expect(ran.sentence).toBe('Added 1 image: textures/old wall.png');
  });

  it('an image beside the model that is none is passed over and said', async () => {
    const job = await open([{ name: 'roof.jpg', bytes: text('not a picture') }]);
    expect(job.images).toEqual([]);
    expect(job.intake.join('\n')).toMatch(/“roof.jpg” is no picture that can be read. It was passed over/);
  });
});

describe('images of the job', () => {
  it('the same picture is kept once, whatever its name', async () => {
    const bytes = png(3);
    let job = (await add(await open(), [{ name: 'a.png', bytes }])).job;
    const again = await add(job, [
      { name: 'copy of a.png', bytes: bytes.slice() },
      { name: 'b.png', bytes: png(4) },
    ]);
    job = again.job;
    expect(job.images.map((image) => image.name)).toEqual(['a.png', 'b.png']);
    expect(again.report).toMatchObject({ added: 1, ids: [`image-${contentHash(bytes).slice(0, 16)}`, job.images[1]!.id] });
  });

  it('one bad file among good ones is named, the good ones are taken', async () => {
    const { job, report } = await add(await open(), [
      { name: 'good.png', bytes: png(5) },
      { name: 'bad.png', bytes: text('no') },
    ]);
    expect(job.images).toHaveLength(1);
    expect(report).toMatchObject({ added: 1, refused: [expect.stringMatching(/bad.png/)] });
    await expect(add(job, [{ name: 'bad.png', bytes: text('no') }])).rejects.toThrow(/bad.png/);
  });

  it('removing one puts its parts back to the test grid', async () => {
    const shown = (await add(await open(), [{ name: 'a.png', bytes: png(6) }], true)).job;
    expect(partOf(shown).imageId).not.toBeNull();
    const { job, sentence } = await runOperation(shown, 'removeImage', { image: shown.images[0]!.id });
    expect([job.images.length, partOf(job).imageId]).toEqual([0, null]);
    expect(sentence).toBe('Removed “a.png”; 1 part shows the test grid instead');
    expect(shown.images).toHaveLength(1);
  });
});
