import { encode } from 'fast-png';
import { zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { imagesOfZip } from './zippedImages.ts';

const png = (value: number) => encode({ width: 2, height: 2, data: new Uint8Array(16).fill(value), channels: 4 });
const zip = (files: Record<string, Uint8Array>) => ({ name: 'wood.zip', bytes: zipSync(files) });

describe('images of a zip', () => {
  it('come from any folder, colour first, without what is hidden or no image', () => {
    const found = imagesOfZip(
      zip({
        'wood/wood_ao.png': png(1),
        'wood/wood_Color.png': png(2),
        'wood/notes.txt': Uint8Array.of(65),
        '__MACOSX/wood/wood_ao.png': png(3),
        'wood/.thumb.png': png(4),
        'plain.JPG': png(5),
      }),
    );
    expect(found.map(({ name }) => name)).toEqual(['wood_Color.png', 'plain.JPG', 'wood_ao.png']);
    expect(found[0]!.bytes).toEqual(png(2));
  });

  it('of the same name have their folder before it, so that none takes another’s place', () => {
    expect(imagesOfZip(zip({ 'a/top.png': png(1), 'b/Top.png': png(2), 'c/side.png': png(3) })).map(({ name }) => name)).toEqual([
      'a top.png',
      'b Top.png',
      'side.png',
    ]);
  });

  it('that is damaged, cut short or empty is refused with a sentence that names it', () => {
    const { bytes } = zip({ 'a.png': png(1) });
    expect(() => imagesOfZip({ name: 'wood.zip', bytes: bytes.subarray(0, bytes.length - 30) })).toThrow('wood.zip is damaged or cut short');
    expect(() => imagesOfZip({ name: 'wood.zip', bytes: new Uint8Array(0) })).toThrow('wood.zip is damaged or cut short');
    expect(() => imagesOfZip(zip({ 'a.txt': Uint8Array.of(1) }))).toThrow('wood.zip holds no image.');
  });
});
