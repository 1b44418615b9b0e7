import { bakeBands, bakedFile } from '@jig-peel/core/images/bakeBands';
import type { Pixels } from '@jig-peel/core';
import type { Tasks, Tools } from './tasks.ts';

export const bake = (input: Tasks['bake']['input'], { check, progress }: Tools): Promise<Tasks['bake']['output']> =>
  bakeBands(input, { progress, throwIfCancelled: check }, decodeByBrowser);

export const finish = ({ bands, options, bleed }: Tasks['finishBake']['input'], { check }: Tools): Tasks['finishBake']['output'] => {
  check();
  return bakedFile(bands, options, bleed);
};

/** What no package of ours reads, the browser does; it multiplies colours by alpha on the way. */
export async function decodeByBrowser(bytes: Uint8Array, type: string): Promise<Pixels> {
  const bitmap = await createImageBitmap(new Blob([bytes as Uint8Array<ArrayBuffer>], { type }), { premultiplyAlpha: 'none', colorSpaceConversion: 'none' });
  const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
  const c = canvas.getContext('2d')!;
  c.drawImage(bitmap, 0, 0);
  bitmap.close();
  const { width, height, data } = c.getImageData(0, 0, canvas.width, canvas.height);
  return { width, height, data };
}
