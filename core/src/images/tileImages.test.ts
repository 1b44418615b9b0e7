import { encode } from 'fast-png';
import { describe, expect, it } from 'vitest';
import { writeMtl } from '../formats/objWrite.ts';
import { newJob, partOf, type Job } from '../job/job.ts';
import { sheetsOf } from '../job/sheets.ts';
import { plane } from '../mesh/starterForms.ts';
import { runOperation } from '../ops/registry.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { tileExtent, tileImages, tileOfName } from './tileImages.ts';

describe('images by tile', () => {
  it('names say the tile: 1001 + column + 10 · row', () => {
    expect(tileOfName('Deck.1001.png')).toMatchObject({ tile: 0 });
    expect(tileOfName('deck_1013.JPG')).toMatchObject({ tile: 12 });
    for (const name of ['deck.png', 'deck.999.png', 'deck.1101.png', '1001.png', 'deck.10010.png', 'deck1002.png']) expect(tileOfName(name)).toBeNull();
  });

  it('those of one stem and ending belong together', () => {
    const images = ['a.1002.png', 'b.1001.png', 'A.1001.PNG', 'a.1001.jpg', 'a.png', 'a.1011.png'].map((name, k) => ({ id: String(k), name }));
    expect(tileImages(images, '0')).toEqual([
      { id: '2', tile: 0 },
      { id: '0', tile: 1 },
      { id: '5', tile: 10 },
    ]);
    expect(tileImages(images, '4')).toBeNull();
    expect(tileExtent(tileImages(images, '0')!)).toEqual({ columns: 2, rows: 2 });
    expect(tileExtent([{ tile: 3 }])).toEqual({ columns: 4, rows: 1 });
  });

  const png = (grey: number) => encode({ width: 2, height: 2, data: new Uint8Array(16).fill(grey), channels: 4 });
  const job = (): Job => {
    const mesh = { ...plane(), faceMaterial: Int32Array.of(0), materials: ['paint'] };
    return newJob('j', 'one', [{ id: 'a', name: 'a', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } }]);
  };

  it('given together they are shown on the part, its sheet has as many tiles, and all of them are written; two alike are two', async () => {
    const images = [
      { name: 'deck.1003.png', bytes: png(9) },
      { name: 'deck.1001.png', bytes: png(9) },
      { name: 'deck.1002.png', bytes: png(200) },
    ];
    const { job: next } = await runOperation(job(), 'addImages', { images, show: true });
    expect(next.images.map(({ name }) => name)).toEqual(['deck.1003.png', 'deck.1001.png', 'deck.1002.png']);
    expect(new Set(next.images.map(({ id }) => id)).size).toBe(3);
    expect(sheetsOf(next)[0]!.tiles).toBe(3);
    // the first tile stands for all
    expect(next.images.find(({ id }) => id === partOf(next).imageId)!.name).toBe('deck.1001.png');
    const mtl = writeMtl(next.parts, null, next.images)!;
    expect(mtl.images.map(({ name }) => name).sort()).toEqual(['deck.1001.png', 'deck.1002.png', 'deck.1003.png']);
    expect(new TextDecoder().decode(mtl.bytes)).toContain('map_Kd deck.1001.png');
    // given again nothing is added
    const again = await runOperation(next, 'addImages', { images });
    expect(again.report).toMatchObject({ added: 0 });
  });
});
