import { encode } from 'fast-png';
import { createHash } from 'node:crypto';
import { deflateSync } from 'node:zlib';
import { PNG } from 'pngjs';
import { describe, expect, it } from 'vitest';
import { contentHash } from './contentHash.ts';
import { decodeImage } from './decode.ts';
import { imageFacts } from './imageFacts.ts';
import { gridKinds, testGrid, type GridKind } from './testGrid.ts';

const png = (width: number, height: number) => encode({ width, height, data: new Uint8Array(width * height * 4).fill(200), channels: 4, depth: 8 });

/** A JPEG's start: start of image, and a baseline frame header (ITU T.81, B.2.2). */
function jpegHead(width: number, height: number): Uint8Array {
  const frame = [0xff, 0xc0, 0, 17, 8, height >> 8, height & 255, width >> 8, width & 255, 3, 1, 0x22, 0, 2, 0x11, 1, 3, 0x11, 1];
  return Uint8Array.from([0xff, 0xd8, 0xff, 0xe0, 0, 16, 0x4a, 0x46, 0x49, 0x46, 0, 1, 1, 0, 0, 1, 0, 1, 0, 0, ...frame, 0xff, 0xd9]);
}

/** A lossless WebP's start (RFC 9649, 3.4: 14 bits each of width − 1 and height − 1 after the signature byte). */
function webpHead(width: number, height: number): Uint8Array {
  const bits = (width - 1) | ((height - 1) << 14);
  const chunk = [0x2f, bits & 255, (bits >> 8) & 255, (bits >> 16) & 255, (bits >>> 24) & 255, 0, 0, 0];
  const body = [...new TextEncoder().encode('WEBPVP8L'), chunk.length, 0, 0, 0, ...chunk];
  return Uint8Array.from([...new TextEncoder().encode('RIFF'), body.length, 0, 0, 0, ...body]);
}

describe('what an image file is', () => {
  it.each([
    ['PNG', png(7, 3), 'image/png', 7, 3],
    ['JPEG', jpegHead(640, 301), 'image/jpeg', 640, 301],
    ['WebP', webpHead(33, 1025), 'image/webp', 33, 1025],
  ])('%s is known by its bytes, whatever its name', (_, bytes, type, width, height) => {
    expect(imageFacts(bytes, 'called.something')).toEqual({ type, width, height });
  });

  it.each([
    ['an empty file', new Uint8Array(0), /empty/],
    ['text', new TextEncoder().encode('v 0 0 0'), /no picture that can be read/],
    ['a PNG cut short in its head', png(4, 4).slice(0, 12), /no picture|no size/],
    ['a kind that browsers do not draw', Uint8Array.from([...new TextEncoder().encode('BM'), ...new Array<number>(60).fill(1)]), /which cannot be shown/],
    ['a picture too large', jpegHead(60000, 10), /60000 × 10 px/],
  ])('%s is turned away in words', (_, bytes, words) => {
    expect(() => imageFacts(bytes, 'x.png')).toThrow(words);
  });

  it('has the same content hash as Node’s own SHA-256', () => {
    const bytes = png(5, 9);
    expect(contentHash(bytes)).toBe(createHash('sha256').update(bytes).digest('hex'));
    expect(contentHash(bytes.slice())).toBe(contentHash(bytes));
  });
});

const lightness = (data: Uint8Array, k: number) => 0.2126 * data[k]! + 0.7152 * data[k + 1]! + 0.0722 * data[k + 2]!;

describe('test grids', () => {
  it.each(gridKinds)('%s: every pixel is filled, at any power of two', (kind) => {
    for (const size of [256, 1024]) {
      const { data, width, height } = testGrid(size, 8, kind);
      expect([width, height]).toEqual([size, size]);
      for (let k = 3; k < data.length; k += 4) if (data[k] !== 255) throw new Error(`see-through at ${k}`);
    }
  });

  it.each(['letters', 'squares', 'circles', 'stripes'] as GridKind[])('%s joins with itself: the step over the rim is no larger than steps inside', (kind) => {
    const size = 256;
    const { data } = testGrid(size, 8, kind);
    const at = (x: number, y: number) => lightness(data, (y * size + x) * 4);
    // rim against the same place one cell further in, where the pattern has the same kind of line
    const step = (x0: number, x1: number) => {
      let sum = 0;
      for (let y = 0; y < size; y++) sum += Math.abs(at(x0, y) - at(x1, y));
      return sum / size;
    };
    const inside = Math.max(...[32, 64, 96, 128].map((x) => step(x - 1, x)));
    expect(step(size - 1, 0)).toBeLessThanOrEqual(inside + 8);
  });

  it('squares tell neighbours apart by lightness alone, and are even', () => {
    const size = 512;
    const { data } = testGrid(size, 8, 'squares');
    const at = (x: number, y: number) => lightness(data, (y * size + x) * 4);
    for (let r = 0; r < 16; r++) for (let c = 1; c < 16; c++) expect(Math.abs(at(c * 32 + 16, r * 32 + 16) - at(c * 32 - 16, r * 32 + 16))).toBeGreaterThan(90);
    // and fill half and half
    const dark = Array.from({ length: size * size }, (_, k) => lightness(data, k * 4)).filter((x) => x < 150).length;
    expect(dark).toBe((size * size) / 2);
  });

  it('stripes run up the sheet and tell left from right', () => {
    const size = 256;
    const { data } = testGrid(size, 8, 'stripes');
    const row = Array.from({ length: 32 }, (_, x) => lightness(data, (2 * size + 32 + x) * 4));
    const tones = [4, 12, 20, 28].map((x) => Math.round(row[x]!));
    expect(new Set(tones).size).toBe(4);
    expect(tones).not.toEqual([...tones].reverse());
    // along v the tone stays, away from the arrows
    for (const x of [34, 42, 50, 58]) for (let y = 0; y < 32; y += 4) expect(data[(y * size + x) * 4]).toBe(data[x * 4]);
  });

  it('the ramp tells u and v of any place: hue axis along u, lightness along v', () => {
    const size = 256;
    const { data } = testGrid(size, 8, 'ramp');
    const at = (u: number, v: number) => (Math.floor((1 - v) * size) * size + Math.floor(u * size)) * 4;
    for (const v of [0.13, 0.55, 0.93]) {
      let before = -Infinity;
      for (const u of [0.05, 0.27, 0.45, 0.67, 0.95]) {
        const k = at(u, v);
        const warm = data[k]! - data[k + 2]!;
        expect(warm).toBeGreaterThan(before);
        before = warm;
      }
    }
    for (const u of [0.13, 0.55, 0.93]) {
      let before = -Infinity;
      for (const v of [0.03, 0.27, 0.45, 0.67, 0.97]) {
        expect(lightness(data, at(u, v))).toBeGreaterThan(before);
        before = lightness(data, at(u, v));
      }
    }
  });

  it('letters are the right way up: row A on top, the up mark above its letter (read by a second decoder)', () => {
    const size = 512;
    const { data } = testGrid(size, 8, 'letters');
    const again = PNG.sync.read(Buffer.from(encode({ width: size, height: size, data, channels: 4, depth: 8 })));
    const dark = (x: number, y: number) => lightness(again.data, (y * size + x) * 4) < 90;
    const inkIn = (x0: number, y0: number, x1: number, y1: number) => {
      let n = 0;
      for (let y = y0; y < y1; y++) for (let x = x0; x < x1; x++) if (dark(x, y)) n++;
      return n;
    };
    // cell A2 (row 0, column 1): the mark is in the upper quarter, nothing below the letter
    expect(inkIn(80, 6, 112, 18)).toBeGreaterThan(5);
    expect(inkIn(72, 54, 120, 61)).toBe(0);
  });
});

/** A PNG of rows without filters (ISO/IEC 15948). @param type 0 grey, 2 colour, 3 palette, 4 grey with alpha, 6 colour with alpha */
function pngOf(type: number, depth: number, width: number, height: number, rows: Uint8Array, chunks: [string, number[]][] = []): Uint8Array {
  const chunk = (name: string, data: Uint8Array) => {
    const body = Buffer.concat([Buffer.from(name, 'latin1'), data]);
    let crc = ~0;
    for (const byte of body) {
      crc ^= byte;
      for (let k = 0; k < 8; k++) crc = crc & 1 ? (crc >>> 1) ^ 0xedb88320 : crc >>> 1;
    }
    const whole = Buffer.alloc(body.length + 8);
    whole.writeUInt32BE(data.length);
    body.copy(whole, 4);
    whole.writeUInt32BE(~crc >>> 0, body.length + 4);
    return whole;
  };
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width);
  head.writeUInt32BE(height, 4);
  head.set([depth, type, 0, 0, 0], 8);
  const perRow = rows.length / height;
  const lines = Buffer.concat(Array.from({ length: height }, (_, y) => Buffer.concat([Buffer.of(0), rows.subarray(y * perRow, (y + 1) * perRow)])));
  return Buffer.concat([
    Buffer.of(137, 80, 78, 71, 13, 10, 26, 10),
    chunk('IHDR', head),
    ...chunks.map(([name, data]) => chunk(name, Uint8Array.from(data))),
    chunk('IDAT', deflateSync(lines)),
    chunk('IEND', new Uint8Array(0)),
  ]);
}

describe('a picture of any kind of PNG', () => {
  // read by pngjs, too
  const [width, height] = [11, 5];
  const channelsOf: Record<number, number> = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 };
  const palette: [string, number[]][] = [
    ['PLTE', Array.from({ length: 16 * 3 }, (_, k) => (k * 53) % 256)],
    ['tRNS', [0, 128, 255, 40]],
  ];
  const rowsOf = (type: number, depth: number) =>
    Uint8Array.from({ length: Math.ceil((width * channelsOf[type]! * depth) / 8) * height }, (_, k) => (k * 97 + (k >> 3)) % 256);
  const sixteenth = (depth: number, value: number) => (depth === 16 ? [value >> 8, value & 255] : [0, value]);
  const kinds: [string, number, number, [string, number[]][]][] = [
    ...[1, 2, 4, 8, 16].map((depth) => [`grey of ${depth} bits`, 0, depth, []] as [string, number, number, []]),
    ...[2, 4, 6].flatMap((type) => [8, 16].map((depth) => [`type ${type} of ${depth} bits`, type, depth, []] as [string, number, number, []])),
    ...[1, 2, 4].map((depth) => [`palette of ${depth} bits, some of it seen through`, 3, depth, palette] as [string, number, number, [string, number[]][]]),
  ];
  it.each(kinds)('%s', async (_, type, depth, chunks) => {
    const file = pngOf(type, depth, width, height, rowsOf(type, depth), chunks);
    const { data } = await decodeImage(file, 'x.png');
    const other = PNG.sync.read(Buffer.from(file)).data;
    expect(data.length).toBe(width * height * 4);
    for (let k = 0; k < data.length; k++) expect(Math.abs(data[k]! - other[k]!)).toBeLessThanOrEqual(depth === 16 ? 1 : 0);
  });

  it.each([
    [0, 8],
    [0, 16],
    [0, 4],
    [2, 8],
    [2, 16],
  ])('type %i of %i bits with one colour that is seen through', async (type, depth) => {
    const rows = rowsOf(type, depth);
    const bytes = Math.max(1, depth / 8) * channelsOf[type]!;
    // that of the second px
    const key =
      depth < 8
        ? [0, rows[0]! & 15]
        : Array.from({ length: channelsOf[type]! }, (_, c) =>
            sixteenth(depth, depth === 16 ? rows[bytes + c * 2]! * 256 + rows[bytes + c * 2 + 1]! : rows[bytes + c]!),
          ).flat();
    const file = pngOf(type, depth, width, height, rows, [['tRNS', key]]);
    const { data } = await decodeImage(file, 'x.png');
    const other = PNG.sync.read(Buffer.from(file)).data;
    expect(data[7]).toBe(0);
    for (let k = 3; k < data.length; k += 4) expect(data[k]).toBe(other[k]);
  });
});
