import { bakeBands, bakedFile } from '@jig-peel/core/images/bakeBands';
import type { Pixels } from '@jig-peel/core';
import type { Tasks, Tools } from './tasks.ts';

export const bake = (input: Tasks['bake']['input'], { check, progress }: Tools): Promise<Tasks['bake']['output']> =>
  bakeBands(input, { progress, throwIfCancelled: check }, !hasBrowser ? undefined : input.isRough ? decodeSmall : decodeByBrowser);

/** Without one, in tests, pictures that no package of ours reads are left out. */
const hasBrowser = typeof createImageBitmap === 'function';

export const finish = ({ bands, options, bleed }: Tasks['finishBake']['input'], { check }: Tools): Tasks['finishBake']['output'] => {
  check();
  return bakedFile(bands, options, bleed);
};

/** What no package of ours reads, the browser does; it multiplies colours by alpha on the way. */
export const decodeByBrowser = (bytes: Uint8Array, type: string): Promise<Pixels> => decodeUpTo(bytes, type, Infinity);

/** Px of the longer side of images for a rough first look. */
const smallSide = 1024;
/** In a tenth of the time that our packages take. */
const decodeSmall = (bytes: Uint8Array, type: string): Promise<Pixels> => decodeUpTo(bytes, type, smallSide);

async function decodeUpTo(bytes: Uint8Array, type: string, side: number): Promise<Pixels> {
  const bitmap = await createImageBitmap(new Blob([bytes as Uint8Array<ArrayBuffer>], { type }), { premultiplyAlpha: 'none', colorSpaceConversion: 'none' });
  const scale = Math.min(1, side / Math.max(bitmap.width, bitmap.height));
  const canvas = new OffscreenCanvas(Math.max(1, Math.round(bitmap.width * scale)), Math.max(1, Math.round(bitmap.height * scale)));
  const c = canvas.getContext('2d', { willReadFrequently: true })!;
  c.drawImage(bitmap, 0, 0, canvas.width, canvas.height);
  bitmap.close();
  const { width, height, data } = c.getImageData(0, 0, canvas.width, canvas.height);
  return { width, height, data };
}
