import { DataTexture, LinearFilter, LinearMipmapLinearFilter, NoColorSpace, RepeatWrapping, RGBAFormat, Texture, UnsignedByteType } from 'three';
import { tileExtent, tilePlace, type GridKind, type TileImage } from '@jig-peel/core';
import { coreApi } from '../../worker/client.ts';
import { inOwnWorker } from '../../worker/seat.ts';
import { isDrawnBySoftware, mostTexturePx } from './webgl.ts';

function prepared<T extends Texture>(texture: T): T {
  texture.wrapS = texture.wrapT = RepeatWrapping;
  texture.minFilter = LinearMipmapLinearFilter;
  texture.magFilter = LinearFilter;
  texture.generateMipmaps = true;
  // the shader works on the picture's own numbers, without turning them into light and back, and without alpha worked into them
  texture.colorSpace = NoColorSpace;
  texture.premultiplyAlpha = false;
  texture.flipY = false;
  // where the processor draws, each look at a picture counts
  texture.anisotropy = isDrawnBySoftware() ? 1 : 8;
  texture.needsUpdate = true;
  return texture;
}

const coming = new Set<Promise<unknown>>();

/** Counts something that comes into sight later among what `texturesReady` waits for. */
export function awaited<T>(shown: Promise<T>): Promise<T> {
  const one = shown.catch(() => null).finally(() => coming.delete(one));
  coming.add(one);
  return shown;
}

/** Until all pictures that were asked for are there: what is drawn then is what was chosen. */
export async function texturesReady(): Promise<void> {
  while (coming.size > 0) await Promise.all(coming);
}

/** A single pixel, until the real picture is there. */
export function blankTexture(): Texture {
  return prepared(new DataTexture(Uint8Array.of(233, 225, 208, 255), 1, 1, RGBAFormat, UnsignedByteType));
}

/** A test grid as a PNG file at its full size. Large ones take a second or two: they are made in a worker of their own, which then goes. */
export const gridPng = (kind: GridKind, size: number): Promise<Uint8Array> => inOwnWorker('gridPng', { kind, size });

/** A square picture with its first row on top, as a texture whose v runs up. Turns the rows round in place. */
export function upright(data: Uint8Array, px: number): Texture {
  const rows = new Uint32Array(data.buffer, data.byteOffset, px * px);
  const line = new Uint32Array(px);
  for (let y = 0; y < px >> 1; y++) {
    const [a, b] = [y * px, (px - 1 - y) * px];
    line.set(rows.subarray(a, a + px));
    rows.copyWithin(a, b, b + px);
    rows.set(line, b);
  }
  return prepared(new DataTexture(data as Uint8Array<ArrayBuffer>, px, px, RGBAFormat, UnsignedByteType));
}

let grid: { key: string; texture: Promise<Texture> } | null = null;

/** A test grid, made in the worker; the last one is kept. */
export function gridTexture(kind: GridKind, size: number): Promise<Texture> {
  const px = Math.min(size, mostTexturePx());
  const key = `${kind} ${px}`;
  if (grid?.key === key) return grid.texture;
  const old = grid;
  grid = {
    key,
    texture: awaited(
      inOwnWorker('grid', { kind, size: px }).then((data) => {
        void old?.texture.then((texture) => texture.dispose());
        return upright(data, px);
      }),
    ),
  };
  return grid.texture;
}

const images = new Map<string, Promise<Texture | null>>();
const kept = 16;

/** An image of the job as a texture, right way up (v runs up, as on the sheet); null if it cannot be read. The last few are kept. */
export function imageTexture(id: string): Promise<Texture | null> {
  let made = images.get(id);
  if (!made) {
    made = awaited(readImage(id));
    images.set(id, made);
    for (const [old, texture] of images) {
      if (images.size <= kept) break;
      images.delete(old);
      void texture.then((t) => t?.dispose());
    }
  } else {
    // the one used last goes last
    images.delete(id);
    images.set(id, made);
  }
  return made;
}

async function readImage(id: string): Promise<Texture | null> {
  const image = await coreApi().image(id);
  if (!image) return null;
  const blob = new Blob([image.bytes as Uint8Array<ArrayBuffer>], { type: image.type });
  try {
    const whole = await createImageBitmap(blob, { imageOrientation: 'flipY', premultiplyAlpha: 'none', colorSpaceConversion: 'none' });
    const scale = mostTexturePx() / Math.max(whole.width, whole.height);
    if (scale >= 1) return prepared(new Texture(whole));
    const reduced = await createImageBitmap(whole, {
      resizeWidth: Math.max(1, Math.round(whole.width * scale)),
      resizeHeight: Math.max(1, Math.round(whole.height * scale)),
      resizeQuality: 'high',
      premultiplyAlpha: 'none',
    });
    whole.close();
    return prepared(new Texture(reduced));
  } catch {
    return null;
  }
}

/** Images of tiles side by side in one texture, as they lie on the sheet; null where none of them can be read. */
export const tilesTexture = (tiles: readonly TileImage[]): Promise<Texture | null> => awaited(readTiles(tiles));

async function readTiles(tiles: readonly TileImage[]): Promise<Texture | null> {
  const { columns, rows } = tileExtent(tiles);
  const bitmaps = await Promise.all(tiles.map(({ id }) => bitmapOf(id)));
  const largest = Math.max(0, ...bitmaps.map((one) => (one ? Math.max(one.width, one.height) : 0)));
  if (largest === 0) return null;
  const side = Math.max(1, Math.min(largest, Math.floor(mostTexturePx() / Math.max(columns, rows))));
  const canvas = new OffscreenCanvas(columns * side, rows * side);
  const c = canvas.getContext('2d')!;
  // v runs up in the texture: the first row of tiles is its first rows of px, each image already turned that way
  bitmaps.forEach((bitmap, k) => {
    const [column, row] = tilePlace(tiles[k]!.tile);
    if (bitmap) c.drawImage(bitmap, column * side, row * side, side, side);
    bitmap?.close();
  });
  return prepared(new Texture(canvas.transferToImageBitmap()));
}

async function bitmapOf(id: string): Promise<ImageBitmap | null> {
  const image = await coreApi().image(id);
  if (!image) return null;
  const blob = new Blob([image.bytes as Uint8Array<ArrayBuffer>], { type: image.type });
  return createImageBitmap(blob, { imageOrientation: 'flipY', premultiplyAlpha: 'none', colorSpaceConversion: 'none' }).catch(() => null);
}
