import { JigError } from '../jigError.ts';
import { imageFacts } from './imageFacts.ts';
import type { Pixels } from './surface/pixels.ts';

/** Px that a picture may have along a side, and in all. */
const mostSide = 16_384;
const mostPx = 2 ** 27;

/** How pictures of a type are read where neither package does it: by the browser. */
export type OtherDecoder = (bytes: Uint8Array, type: string) => Promise<Pixels>;

/**
 * A picture's px, 8 bits a channel, straight alpha, first row on top. PNG by fast-png, JPEG by jpeg-js; others by the decoder that is given.
 * @throws JigError `bad-image` for what is no picture, is cut short, or is too large
 */
export async function decodeImage(bytes: Uint8Array, name: string, other?: OtherDecoder): Promise<Pixels> {
  const { type, width, height } = imageFacts(bytes, name);
  if (width > mostSide || height > mostSide || width * height > mostPx)
    throw new JigError('bad-image', `${name} is ${width} × ${height} px: too large to work with.`, '', `Use one of up to ${mostSide} px a side.`);
  try {
    if (type === 'image/png') return fromPng((await import('fast-png')).decode(bytes));
    if (type === 'image/jpeg') {
      const { default: jpeg } = await import('jpeg-js');
      const read = jpeg.decode(bytes, { useTArray: true, formatAsRGBA: true, maxMemoryUsageInMB: 2048 });
      return { width: read.width, height: read.height, data: read.data };
    }
    if (other) return await other(bytes, type);
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error);
    throw new JigError('bad-image', `${name} cannot be read: ${reason}.`, '', 'It may be cut short: save it once more, as PNG or JPEG.');
  }
  throw new JigError('bad-image', `${name} is a ${type.replace('image/', '').toUpperCase()}, which is read by the app alone.`, '', 'Save it as PNG or JPEG.');
}

interface ReadPng {
  width: number;
  height: number;
  channels: number;
  depth: number;
  data: ArrayLike<number>;
  palette?: number[][];
}

/** Grey, colour or palette, 1 to 16 bits: all as 8-bit colour with alpha. */
function fromPng({ width, height, channels, depth, data, palette }: ReadPng): Pixels {
  const count = width * height;
  if (depth === 8 && channels === 4 && !palette) return { width, height, data: data as Uint8Array };
  const out = new Uint8Array(count * 4);
  const most = 2 ** depth - 1;
  const rowBits = width * channels * depth;
  const rowBytes = Math.ceil(rowBits / 8);
  const valueAt = (px: number, c: number): number => {
    if (depth >= 8) return data[px * channels + c]!;
    const [y, x] = [Math.floor(px / width), px % width];
    const bit = x * depth;
    return (data[y * rowBytes + (bit >> 3)]! >> (8 - depth - (bit & 7))) & most;
  };
  for (let px = 0; px < count; px++) {
    if (palette) {
      const entry = palette[valueAt(px, 0)] ?? [0, 0, 0, 255];
      out.set([entry[0]!, entry[1]!, entry[2]!, entry[3] ?? 255], px * 4);
      continue;
    }
    for (let c = 0; c < 4; c++) {
      const isAlpha = c === 3;
      const from = channels >= 3 ? c : isAlpha ? 1 : 0;
      const has = isAlpha ? channels === 2 || channels === 4 : true;
      out[px * 4 + c] = has ? Math.round((valueAt(px, from) / most) * 255) : 255;
    }
  }
  return { width, height, data: out };
}
