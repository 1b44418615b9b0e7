import type { Context } from '../context.ts';
import { JigError } from '../jigError.ts';
import { activeSet, asInFile, type Part } from '../job/job.ts';
import { wholeParts } from '../job/splitPart.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { emptyUvSet, uvSetFrom, type UvSet } from '../uv/uvSet.ts';
import { DoubleList, IntList, latin1, parseDouble, utf8Mark } from './bytes.ts';

/*
 * PLY, the polygon file format of Stanford's 3D scanning repository (G. Turk, 1994, and its published description): a text header that
 * states elements and their properties, then the data as text or binary in either byte order.
 */

const sizes = new Map([
  ['int8', 1],
  ['uint8', 1],
  ['int16', 2],
  ['uint16', 2],
  ['int32', 4],
  ['uint32', 4],
  ['float32', 4],
  ['float64', 8],
]);
const aliases = new Map([
  ['char', 'int8'],
  ['uchar', 'uint8'],
  ['short', 'int16'],
  ['ushort', 'uint16'],
  ['int', 'int32'],
  ['uint', 'uint32'],
  ['float', 'float32'],
  ['double', 'float64'],
]);

interface Property {
  name: string;
  type: string;
  /** Type of a list's length; null for a single value. */
  count: string | null;
}

interface Element {
  name: string;
  count: number;
  properties: Property[];
}

export interface PlyContents {
  mesh: Mesh;
  uvSet: UvSet | null;
  /** What was passed over, in words. */
  skipped: string[];
}

const bad = (text: string, place = '', advice = 'Export it again.') => new JigError('bad-file', text, place, advice);

/** Where the values come from: text or binary, one after the other. */
interface Source {
  next(type: string): number;
  place(): string;
}

class TextSource implements Source {
  private line: number;
  constructor(
    private readonly bytes: Uint8Array,
    private at: number,
    headerLines: number,
  ) {
    this.line = headerLines + 1;
  }

  next(): number {
    const { bytes } = this;
    while (this.at < bytes.length && bytes[this.at]! <= 32) if (bytes[this.at++] === 10) this.line++;
    if (this.at >= bytes.length) throw bad('The file ends before all of its data: it is cut short.', this.place(), 'Copy or export it again.');
    const from = this.at;
    while (this.at < bytes.length && bytes[this.at]! > 32) this.at++;
    const value = parseDouble(bytes, from, this.at);
    if (Number.isNaN(value)) throw bad(`“${latin1(bytes, from, Math.min(this.at, from + 30))}” is not a number.`, this.place());
    return value;
  }

  place = () => `line ${this.line}`;
}

class BinarySource implements Source {
  private readonly view: DataView;
  constructor(
    bytes: Uint8Array,
    private at: number,
    private readonly little: boolean,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  next(type: string): number {
    const { view, at, little } = this;
    const size = sizes.get(type)!;
    if (at + size > view.byteLength) throw bad('The file ends before all of its data: it is cut short.', this.place(), 'Copy or export it again.');
    this.at += size;
    switch (type) {
      case 'int8':
        return view.getInt8(at);
      case 'uint8':
        return view.getUint8(at);
      case 'int16':
        return view.getInt16(at, little);
      case 'uint16':
        return view.getUint16(at, little);
      case 'int32':
        return view.getInt32(at, little);
      case 'uint32':
        return view.getUint32(at, little);
      case 'float32':
        return view.getFloat32(at, little);
      default:
        return view.getFloat64(at, little);
    }
  }

  place = () => `byte ${this.at}`;
}

function readHeader(bytes: Uint8Array): { format: string; elements: Element[]; end: number; lines: number; unknown: string[] } {
  const elements: Element[] = [];
  const unknown: string[] = [];
  let format = '';
  let at = utf8Mark(bytes);
  let lines = 0;
  for (;;) {
    let to = at;
    while (to < bytes.length && bytes[to] !== 10 && bytes[to] !== 13) to++;
    if (to >= bytes.length || to - at > 4096)
      throw bad(lines === 0 ? 'The file is not a PLY file.' : 'The header has no end: the file is cut short.', `line ${lines + 1}`);
    const words = latin1(bytes, at, to).trim().split(/\s+/);
    lines++;
    at = bytes[to] === 13 && bytes[to + 1] === 10 ? to + 2 : to + 1;
    const place = `line ${lines}`;
    const typeOf = (word: string | undefined) => {
      const type = aliases.get(word ?? '') ?? word ?? '';
      if (!sizes.has(type)) throw bad(`“${word ?? ''}” is not a type of number that PLY knows.`, place);
      return type;
    };
    if (lines === 1) {
      if (words[0] !== 'ply') throw bad('The file is not a PLY file.', place);
    } else if (words[0] === 'format') format = words[1] ?? '';
    else if (words[0] === 'element') {
      const count = Number(words[2]);
      if (!Number.isInteger(count) || count < 0) throw bad(`“${words[2] ?? ''}” is not a number of elements.`, place);
      elements.push({ name: words[1] ?? '', count, properties: [] });
    } else if (words[0] === 'property') {
      const element = elements.at(-1);
      if (!element) throw bad('A property stands before any element.', place);
      if (words[1] === 'list') element.properties.push({ name: words[4] ?? '', type: typeOf(words[3]), count: typeOf(words[2]) });
      else element.properties.push({ name: words[2] ?? '', type: typeOf(words[1]), count: null });
    } else if (words[0] === 'end_header') break;
    else if (words[0] !== 'comment' && words[0] !== 'obj_info' && words[0] !== '')
      throw bad(`The header holds a word that PLY does not know: “${words[0]!.slice(0, 30)}”.`, place);
  }
  if (!['ascii', 'binary_little_endian', 'binary_big_endian'].includes(format)) throw bad(`The format “${format}” is not one that PLY knows.`);
  return { format, elements, end: at, lines, unknown };
}

/**
 * Reads a PLY file: points in their order, polygons, vertex colours, UVs at the vertices (s t, u v, texture_u texture_v) or at the faces'
 * corners (texcoord). @throws JigError `bad-file` with the line or byte. O(bytes).
 */
export function readPly(bytes: Uint8Array, context?: Context): PlyContents {
  if (bytes.length === 0) throw new JigError('empty-file', 'The file is empty.', '', 'Copy or export it again.');
  const { format, elements, end, lines, unknown } = readHeader(bytes);
  // each value takes a byte at least: a count that cannot be there is named at once
  for (const element of elements) {
    if (element.properties.length === 0 && (element.name === 'vertex' || element.name === 'face'))
      throw bad(`The header states no properties of “${element.name}”.`);
    if (element.properties.length > 0 && element.count > bytes.length)
      throw bad(`The header promises ${element.count.toLocaleString('en')} of “${element.name}”, more than the file can hold: it is cut short.`);
  }
  const source: Source = format === 'ascii' ? new TextSource(bytes, end, lines) : new BinarySource(bytes, end, format === 'binary_little_endian');
  const skipped: string[] = unknown;
  let points = new Float64Array(0);
  let colors: Float64Array | undefined;
  let pointUv: Float64Array | null = null;
  const corners = new IntList();
  const faceStart = new IntList();
  faceStart.push(0);
  const cornerUv = new DoubleList();
  const faceHasUv: number[] = [];
  let dropped = 0;
  for (const element of elements) {
    const { properties, count } = element;
    // nothing of it is in the file, whatever number is stated
    if (properties.length === 0) continue;
    if (element.name === 'vertex') {
      const column = (...names: string[]) => properties.findIndex((p) => p.count === null && names.includes(p.name));
      const [x, y, z] = [column('x'), column('y'), column('z')];
      if (x < 0 || y < 0 || z < 0) throw bad('The vertices have no x, y and z.');
      const [u, v] = [column('s', 'u', 'texture_u'), column('t', 'v', 'texture_v')];
      const rgb = [column('red', 'r'), column('green', 'g'), column('blue', 'b')];
      points = new Float64Array(count * 3);
      if (u >= 0 && v >= 0) pointUv = new Float64Array(count * 2);
      if (rgb.every((k) => k >= 0)) colors = new Float64Array(count * 3);
      const row = new Float64Array(properties.length);
      for (let k = 0; k < count; k++) {
        if ((k & 0x3fff) === 0) context?.throwIfCancelled();
        readRow(source, properties, row);
        points.set([row[x]!, row[y]!, row[z]!], k * 3);
        if (!Number.isFinite(row[x]! + row[y]! + row[z]!)) throw bad(`Point ${k} is not a number.`, source.place());
        if (pointUv) pointUv.set([row[u]!, row[v]!], k * 2);
        if (colors)
          rgb.forEach(
            (c, d) => (colors![k * 3 + d] = properties[c]!.type.startsWith('float') ? row[c]! : row[c]! / (2 ** (8 * sizes.get(properties[c]!.type)!) - 1)),
          );
      }
    } else if (element.name === 'face') {
      for (let k = 0; k < count; k++) {
        if ((k & 0x3fff) === 0) context?.throwIfCancelled();
        let face: number[] = [];
        let uvs: number[] = [];
        for (const property of properties) {
          if (property.count === null) source.next(property.type);
          else {
            const length = source.next(property.count);
            if (!(length >= 0 && Number.isInteger(length) && length <= bytes.length)) throw bad(`A list of ${length} values cannot be.`, source.place());
            const list: number[] = [];
            for (let i = 0; i < length; i++) list.push(source.next(property.type));
            if (property.name === 'vertex_indices' || property.name === 'vertex_index') face = list;
            else if (property.name === 'texcoord') uvs = list;
          }
        }
        const n = points.length / 3;
        for (const p of face)
          if (!(p >= 0 && p < n && Number.isInteger(p))) throw bad(`Face ${k} uses point ${p}, but there are ${n.toLocaleString('en')}.`, source.place());
        if (face.length < 3) {
          dropped++;
          continue;
        }
        for (const p of face) corners.push(p);
        faceStart.push(corners.length);
        const whole = uvs.length === face.length * 2 && uvs.every(Number.isFinite);
        faceHasUv.push(whole ? 1 : 0);
        for (let i = 0; i < face.length * 2; i++) cornerUv.push(whole ? uvs[i]! : 0);
      }
    } else {
      const row = new Float64Array(properties.length);
      for (let k = 0; k < count; k++) readRow(source, properties, row);
      if (count > 0) skipped.push(`${count.toLocaleString('en')} of “${element.name}” were passed over`);
    }
  }
  const faces = faceStart.length - 1;
  if (dropped > 0) skipped.push(`${dropped.toLocaleString('en')} faces with fewer than three points were left out`);
  if (faces === 0)
    throw bad(points.length > 0 ? `The file holds ${points.length / 3} points but no faces.` : 'The file holds no faces.', '', 'Export it with its faces.');
  const mesh: Mesh = {
    points,
    faceStart: Uint32Array.from(faceStart.take()),
    corners: Uint32Array.from(corners.take()),
    faceGroup: new Int32Array(faces).fill(-1),
    groups: [],
    faceMaterial: new Int32Array(faces).fill(-1),
    materials: [],
    faceSmooth: new Int32Array(faces).fill(-1),
    ...(colors ? { pointColors: colors } : {}),
  };
  let uvSet: UvSet | null = null;
  if (faceHasUv.some((x) => x === 1)) uvSet = sharedCornerUvs(mesh, cornerUv.take(), faceHasUv);
  else if (pointUv && pointUv.every(Number.isFinite)) uvSet = uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), pointUv);
  return { mesh, uvSet, skipped };
}

function readRow(source: Source, properties: Property[], row: Float64Array) {
  for (let k = 0; k < properties.length; k++) {
    const { count, type } = properties[k]!;
    if (count === null) row[k] = source.next(type);
    else {
      const length = source.next(count);
      for (let i = 0; i < length; i++) source.next(type);
    }
  }
}

/** Corners of one point with the same UVs share one UV point. */
function sharedCornerUvs(mesh: Mesh, perCorner: Float64Array, faceHasUv: number[]): UvSet {
  const known = new Map<string, number>();
  const uv: number[] = [];
  const ids = new Uint32Array(mesh.corners.length);
  for (let c = 0; c < ids.length; c++) {
    const [u, v] = [perCorner[c * 2]!, perCorner[c * 2 + 1]!];
    const key = `${mesh.corners[c]} ${u} ${v}`;
    let id = known.get(key);
    if (id === undefined) {
      id = uv.length / 2;
      known.set(key, id);
      uv.push(u, v);
    }
    ids[c] = id;
  }
  return { ...uvSetFrom(mesh, 'UV set 1', ids, Float64Array.from(uv)), unplaced: Uint8Array.from(faceHasUv, (x) => 1 - x) };
}

/**
 * Writes parts as one binary PLY (little-endian, doubles): points in order with their colours, polygons, the active UV set at the corners
 * (`texcoord`, none for faces without a place).
 */
export function writePly(given: readonly Part[]): Uint8Array {
  const parts = wholeParts(given).map(asInFile);
  const colored = parts.every((part) => part.mesh.pointColors);
  const points = parts.reduce((sum, part) => sum + part.mesh.points.length / 3, 0);
  const faces = parts.reduce((sum, part) => sum + part.mesh.faceStart.length - 1, 0);
  const corners = parts.reduce((sum, part) => sum + part.mesh.corners.length, 0);
  const header = new TextEncoder().encode(
    [
      'ply',
      'format binary_little_endian 1.0',
      `element vertex ${points}`,
      ...['x', 'y', 'z'].map((name) => `property double ${name}`),
      ...(colored ? ['red', 'green', 'blue'].map((name) => `property uchar ${name}`) : []),
      `element face ${faces}`,
      'property list uint uint vertex_indices',
      'property list uint double texcoord',
      'end_header',
      '',
    ].join('\n'),
  );
  const out = new Uint8Array(header.length + points * (24 + (colored ? 3 : 0)) + faces * 8 + corners * 20);
  out.set(header);
  const view = new DataView(out.buffer);
  let at = header.length;
  for (const { mesh } of parts) {
    for (let p = 0; p < mesh.points.length; p += 3) {
      for (let d = 0; d < 3; d++, at += 8) view.setFloat64(at, mesh.points[p + d]!, true);
      if (colored) for (let d = 0; d < 3; d++) view.setUint8(at++, Math.round(Math.max(0, Math.min(1, mesh.pointColors![p + d]!)) * 255));
    }
  }
  let before = 0;
  for (const part of parts) {
    const { mesh } = part;
    const set = activeSet(part);
    for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
      const [from, to] = [mesh.faceStart[f]!, mesh.faceStart[f + 1]!];
      view.setUint32(at, to - from, true);
      at += 4;
      for (let c = from; c < to; c++, at += 4) view.setUint32(at, before + mesh.corners[c]!, true);
      view.setUint32(at, set.unplaced[f] ? 0 : (to - from) * 2, true);
      at += 4;
      if (set.unplaced[f]) continue;
      for (let c = from; c < to; c++) {
        for (let d = 0; d < 2; d++, at += 8) view.setFloat64(at, set.uv[set.cornerUv[c]! * 2 + d]!, true);
      }
    }
    before += mesh.points.length / 3;
  }
  return out.slice(0, at);
}

export const plyUvSet = ({ mesh, uvSet }: PlyContents): UvSet => uvSet ?? emptyUvSet(mesh);
