import { CanvasTexture, LinearFilter, LinearMipmapLinearFilter, NoColorSpace, RepeatWrapping, Texture } from 'three';
import { testGrid } from '@jig-peel/core';
import { coreApi } from '../../worker/client.ts';

function prepared<T extends Texture>(texture: T): T {
  texture.wrapS = texture.wrapT = RepeatWrapping;
  texture.minFilter = LinearMipmapLinearFilter;
  texture.magFilter = LinearFilter;
  texture.generateMipmaps = true;
  // the shader works on the picture's own numbers, without turning them into light and back
  texture.colorSpace = NoColorSpace;
  texture.anisotropy = 8;
  texture.needsUpdate = true;
  return texture;
}

let grid: Texture | null = null;

/** The lettered test grid, drawn once. */
export function gridTexture(): Texture {
  if (grid) return grid;
  const size = 1024;
  const picture = testGrid(size, 8);
  const canvas = document.createElement('canvas');
  canvas.width = canvas.height = size;
  canvas.getContext('2d')!.putImageData(new ImageData(new Uint8ClampedArray(picture.data), size, size), 0, 0);
  grid = prepared(new CanvasTexture(canvas));
  return grid;
}

/** An image of the job as a texture, right way up (v runs up, as on the sheet); null if it cannot be read. */
export async function imageTexture(id: string): Promise<Texture | null> {
  const image = await coreApi().image(id);
  if (!image) return null;
  try {
    const bitmap = await createImageBitmap(new Blob([image.bytes as Uint8Array<ArrayBuffer>], { type: image.type }));
    const canvas = document.createElement('canvas');
    const most = 4096;
    const scale = Math.min(1, most / Math.max(bitmap.width, bitmap.height));
    canvas.width = Math.max(1, Math.round(bitmap.width * scale));
    canvas.height = Math.max(1, Math.round(bitmap.height * scale));
    canvas.getContext('2d')!.drawImage(bitmap, 0, 0, canvas.width, canvas.height);
    bitmap.close();
    return prepared(new CanvasTexture(canvas));
  } catch {
    return null;
  }
}
