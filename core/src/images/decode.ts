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
 * @param always the given decoder reads every type @throws JigError `bad-image` for what is no picture, is cut short, or is too large
 */
export async function decodeImage(bytes: Uint8Array, name: string, other?: OtherDecoder, always = false): Promise<Pixels> {
  const { type, width, height } = imageFacts(bytes, name);
  if (width > mostSide || height > mostSide || width * height > mostPx)
    throw new JigError('bad-image', `${name} is ${width} × ${height} px: too large to work with.`, '', `Use one of up to ${mostSide} px a side.`);
  try {
    if (other && always) return await other(bytes, type);
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
  /** The colour (or grey) that is seen through wholly, in a picture without alpha. */
  transparency?: ArrayLike<number>;
}

/** Grey, colour or palette, 1 to 16 bits: all as 8-bit colour with alpha. O(px) */
function fromPng({ width, height, channels, depth, data, palette, transparency }: ReadPng): Pixels {
  const count = width * height;
  if (depth === 8 && channels === 4 && !palette) return { width, height, data: data as Uint8Array };
  const out = new Uint8Array(count * 4);
  const values = eightBits(data, width * channels, height, depth, palette !== undefined);
  const hasAlpha = channels === 2 || channels === 4;
  // where red, green and blue are: grey is all three
  const [green, blue] = channels >= 3 ? [1, 2] : [0, 0];
  if (palette) {
    const entries = new Uint8Array(256 * 4);
    for (let k = 0; k < 256; k++) entries.set([...(palette[k] ?? [0, 0, 0]), 255].slice(0, 4), k * 4);
    for (let from = 0, to = 0; from < count; from++, to += 4) {
      const entry = values[from]! * 4;
      out[to] = entries[entry]!;
      out[to + 1] = entries[entry + 1]!;
      out[to + 2] = entries[entry + 2]!;
      out[to + 3] = entries[entry + 3]!;
    }
  } else
    for (let from = 0, to = 0; to < out.length; from += channels, to += 4) {
      out[to] = values[from]!;
      out[to + 1] = values[from + green]!;
      out[to + 2] = values[from + blue]!;
      out[to + 3] = hasAlpha ? values[from + channels - 1]! : 255;
    }
  if (transparency && transparency.length === channels && !palette) {
    // 16 bits are compared as they were written
    const [whole, key] = depth === 16 ? [data, transparency] : [values, Array.from(transparency, (value) => (value * 255) / (2 ** depth - 1))];
    for (let from = 0, to = 3; to < out.length; from += channels, to += 4) {
      let isKey = true;
      for (let c = 0; c < channels && isKey; c++) isKey = whole[from + c] === key[c];
      if (isKey) out[to] = 0;
    }
  }
  return { width, height, data: out };
}

/** Values of rows as 8 bits each, whatever they had. @param isNumbers they say which entry of a palette is meant, and stay as they are */
function eightBits(data: ArrayLike<number>, perRow: number, rows: number, depth: number, isNumbers: boolean): ArrayLike<number> {
  if (depth === 8) return data;
  const out = new Uint8Array(perRow * rows);
  if (depth === 16) {
    for (let k = 0; k < out.length; k++) out[k] = Math.round(data[k]! / 257);
    return out;
  }
  const most = 2 ** depth - 1;
  const rowBytes = Math.ceil((perRow * depth) / 8);
  const scale = isNumbers ? 1 : 255 / most;
  for (let y = 0, to = 0; y < rows; y++)
    for (let bit = 0; bit < perRow * depth; bit += depth, to++) out[to] = ((data[y * rowBytes + (bit >> 3)]! >> (8 - depth - (bit & 7))) & most) * scale;
  return out;
}
