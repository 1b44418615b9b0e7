import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
/** Numbers in [0, 1), the same for a seed. */
export type Dice = () => number;

/** Numbers that readers stumble over. */
const numbers = [
  '0',
  '-1',
  '1',
  '2',
  '3',
  '255',
  '256',
  '65535',
  '65536',
  '2147483647',
  '-2147483648',
  '4294967295',
  '4294967296',
  '9007199254740991',
  '1e9',
  '700000000',
  '1e308',
  '-1e308',
  '1e-320',
  '1e999',
  'NaN',
  'nan',
  'inf',
  '-inf',
  '0x10',
  '1.5',
  '--1',
  '1/2',
  '1//3',
  '',
  '-0',
  '1e',
  '١',
];
const words = [
  'constructor',
  '__proto__',
  'toString',
  '..',
  '../x',
  '%',
  '%00',
  '\0',
  'a'.repeat(5000),
  'é',
  '\\',
  '#',
  'f',
  'v',
  'element',
  'face',
  'property list uchar int vertex_index',
  'vertex',
  'endfacet',
  'facet',
  'usemtl',
];
const values: unknown[] = [
  null,
  true,
  -1,
  0,
  1,
  2,
  1.5,
  99,
  5125,
  5126,
  2 ** 31,
  2 ** 32,
  2 ** 53,
  7e8,
  1e308,
  '',
  'VEC3',
  'constructor',
  '__proto__',
  '%',
  [],
  {},
  [0],
  [null],
  { $: 'arrays/0.f64' },
  { $: '__proto__' },
];

const pick = <T>(random: Dice, list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
const below = (random: Dice, n: number) => Math.floor(random() * n);

/** A damaged copy of a file: bytes changed, cut, doubled; numbers and words replaced; JSON and zips damaged from within. Always the same for a seed. */
export function mutate(name: string, bytes: Uint8Array, random: Dice): Uint8Array {
  const rounds = 1 + below(random, 4);
  let out = bytes;
  for (let k = 0; k < rounds; k++) out = once(name, out, random);
  return out;
}

function once(name: string, bytes: Uint8Array, random: Dice): Uint8Array {
  const kind = below(random, 10);
  if (kind < 5) {
    if (/\.jigpeel$/i.test(name)) return zipFromWithin(bytes, random) ?? damaged(bytes, random);
    if (/\.gltf$/i.test(name)) return json(bytes, random) ?? damaged(bytes, random);
    if (/\.glb$/i.test(name)) return glbFromWithin(bytes, random) ?? damaged(bytes, random);
    return replaced(bytes, random);
  }
  return damaged(bytes, random);
}

/** Bytes changed, cut off, taken out, doubled or put in. */
function damaged(bytes: Uint8Array, random: Dice): Uint8Array {
  if (bytes.length === 0) return bytes;
  const at = below(random, bytes.length);
  const length = 1 + below(random, Math.min(64, bytes.length));
  switch (below(random, 6)) {
    case 0:
      return bytes.slice(0, at);
    case 1:
      return joined(bytes.subarray(0, at), bytes.subarray(Math.min(bytes.length, at + length)));
    case 2:
      return joined(bytes.subarray(0, at), bytes.subarray(Math.max(0, at - length), at), bytes.subarray(at));
    case 3: {
      const out = bytes.slice();
      new DataView(out.buffer).setUint8(at, pick(random, [0, 1, 0x7f, 0x80, 0xff, 0x0a, 0x20]));
      return out;
    }
    case 4: {
      // a whole number as binary files hold them
      const out = bytes.slice();
      const view = new DataView(out.buffer);
      if (at + 4 <= out.length) view.setUint32(at, pick(random, [0, 1, 0xffffffff, 0x7fffffff, 0x80000000, 0x7fc00000, 1e9, 65536]), random() < 0.7);
      return out;
    }
    default: {
      const out = bytes.slice();
      for (let k = 0; k < length; k++) out[below(random, out.length)] = below(random, 256);
      return out;
    }
  }
}

/** A number or word of a text replaced; a line doubled, taken out or moved. */
function replaced(bytes: Uint8Array, random: Dice): Uint8Array {
  const text = strFromU8(bytes, true);
  const lines = text.split('\n');
  const at = below(random, lines.length);
  switch (below(random, 5)) {
    case 0:
      lines.splice(at, 1);
      break;
    case 1:
      lines.splice(below(random, lines.length), 0, lines[at]!);
      break;
    case 2: {
      const all = lines[at]!.split(' ');
      all[below(random, all.length)] = pick(random, words);
      lines[at] = all.join(' ');
      break;
    }
    default: {
      const all = lines[at]!.split(' ');
      all[below(random, all.length)] = pick(random, numbers);
      lines[at] = all.join(' ');
    }
  }
  return strToU8(lines.join('\n'), true);
}

/** One value of a JSON text replaced, taken out or doubled. */
function json(bytes: Uint8Array, random: Dice): Uint8Array | null {
  let root: unknown;
  try {
    root = JSON.parse(strFromU8(bytes));
  } catch {
    return null;
  }
  let at = root as Record<string, unknown> | unknown[];
  for (let depth = 0; depth < 12; depth++) {
    if (!at || typeof at !== 'object') break;
    const keys = Object.keys(at);
    if (keys.length === 0) break;
    const key = pick(random, keys);
    const value = (at as Record<string, unknown>)[key];
    if (value && typeof value === 'object' && random() < 0.85) {
      at = value as Record<string, unknown>;
      continue;
    }
    const change = random();
    if (change < 0.15) {
      if (Array.isArray(at)) at.splice(Number(key), 1);
      else delete at[key];
    } else if (change < 0.25 && Array.isArray(at)) at.push(structuredClone(at[Number(key)]));
    else if (change < 0.4 && typeof value === 'number') (at as Record<string, unknown>)[key] = value + pick(random, [-1, 1, 1000, 0.5]);
    else (at as Record<string, unknown>)[key] = pick(random, values);
    break;
  }
  return strToU8(JSON.stringify(root));
}

/** The JSON chunk of a GLB damaged, its lengths put right. */
function glbFromWithin(bytes: Uint8Array, random: Dice): Uint8Array | null {
  if (bytes.length < 20) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const length = view.getUint32(12, true);
  if (20 + length > bytes.length) return null;
  const inner = json(bytes.subarray(20, 20 + length), random);
  if (!inner) return null;
  const padded = new Uint8Array(Math.ceil(inner.length / 4) * 4).fill(32);
  padded.set(inner);
  const head = bytes.slice(0, 20);
  const headView = new DataView(head.buffer);
  const rest = bytes.subarray(20 + length);
  headView.setUint32(8, 20 + padded.length + rest.length, true);
  headView.setUint32(12, padded.length, true);
  return joined(head, padded, rest);
}

/** One entry of a zip damaged, the zip whole. */
function zipFromWithin(bytes: Uint8Array, random: Dice): Uint8Array | null {
  let files: Record<string, Uint8Array>;
  try {
    files = unzipSync(bytes, { filter: ({ originalSize }) => originalSize < 1e7 });
  } catch {
    return null;
  }
  const names = Object.keys(files);
  if (names.length === 0) return null;
  const name = random() < 0.6 && names.includes('manifest.json') ? 'manifest.json' : pick(random, names);
  const inner = name === 'manifest.json' ? (json(files[name]!, random) ?? files[name]!) : damaged(files[name]!, random);
  return zipSync({ ...files, [name]: inner }, { level: 1 });
}

function joined(...pieces: Uint8Array[]): Uint8Array {
  const out = new Uint8Array(pieces.reduce((sum, piece) => sum + piece.length, 0));
  let at = 0;
  for (const piece of pieces) {
    out.set(piece, at);
    at += piece.length;
  }
  return out;
}
