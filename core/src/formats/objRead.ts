import { JigError } from '../jigError.ts';
import type { Mesh } from '../mesh/mesh.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { DoubleList, IntList, latin1, parseDouble, utf8, utf8Mark } from './bytes.ts';
import type { Context } from '../context.ts';

export interface ObjPart {
  name: string;
  mesh: Mesh;
  uvSet: UvSet;
  /** Numbers of the file's points, where the file holds several objects; null if the part has them all. */
  filePoints: Uint32Array | null;
}

export interface ObjFile {
  parts: ObjPart[];
  pointCount: number;
  /** Names of material files. */
  libraries: string[];
  /** What was passed over, in words. */
  skipped: string[];
}

interface Reading {
  points: DoubleList;
  colors: DoubleList;
  hasColors: boolean;
  uv: DoubleList;
  normals: DoubleList;
  corners: IntList;
  cornerUv: IntList;
  cornerNormal: IntList;
  faceStart: IntList;
  faceObject: IntList;
  faceGroup: IntList;
  faceMaterial: IntList;
  faceSmooth: IntList;
  groups: NameTable;
  materials: NameTable;
  objects: string[];
  libraries: string[];
  skipped: Map<string, number>;
}

class NameTable {
  readonly names: string[] = [];
  private readonly at = new Map<string, number>();
  numberOf(name: string): number {
    let k = this.at.get(name);
    if (k === undefined) {
      k = this.names.length;
      this.names.push(name);
      this.at.set(name, k);
    }
    return k;
  }
}

/**
 * Reads a Wavefront OBJ (Object Files, Appendix B1 of the Advanced Visualizer manual): v (with w or colours), vt, vn, f in all its forms with
 * negative numbers, o, g, s, usemtl, mtllib, line continuation, any line ends. Order of points, polygons and every vt are kept.
 * Curves, surfaces, lines and loose points are passed over and counted.
 *
 * @throws JigError with the line for numbers that are none, numbers out of range, faces cut short; `no-faces` without faces
 * O(bytes).
 */
export function readObj(bytes: Uint8Array, context?: Context): ObjFile {
  const r: Reading = {
    points: new DoubleList(),
    colors: new DoubleList(),
    hasColors: false,
    uv: new DoubleList(),
    normals: new DoubleList(),
    corners: new IntList(),
    cornerUv: new IntList(),
    cornerNormal: new IntList(),
    faceStart: new IntList(),
    faceObject: new IntList(),
    faceGroup: new IntList(),
    faceMaterial: new IntList(),
    faceSmooth: new IntList(),
    groups: new NameTable(),
    materials: new NameTable(),
    objects: [],
    libraries: [],
    skipped: new Map(),
  };
  r.faceStart.push(0);
  readLines(bytes, r, context);
  if (r.faceStart.length === 1) {
    throw new JigError(
      'no-faces',
      r.points.length > 0 ? `The file has ${r.points.length / 3} points but no faces.` : 'The file has no points and no faces.',
      '',
      'Export it again as polygons.',
    );
  }
  return assemble(r);
}

/** Start and end of each word of the line being read; as long as the longest line needs. */
let words = new Int32Array(1 << 12);

function growWords() {
  const grown = new Int32Array(words.length * 2);
  grown.set(words);
  words = grown;
}

function readLines(bytes: Uint8Array, r: Reading, context?: Context) {
  let line = 0;
  let at = utf8Mark(bytes);
  let object = -1;
  let group = -1;
  let material = -1;
  let smooth = -1;
  const end = bytes.length;
  while (at < end) {
    line++;
    if ((line & 0x3fff) === 0) {
      context?.throwIfCancelled();
      context?.progress(at / end, 'Reading');
    }
    const startLine = line;
    let count = 0;
    let wordAt = -1;
    let comment = false;
    for (; at < end; at++) {
      const c = bytes[at]!;
      if (c === 10 || c === 13) break;
      if (comment) continue;
      if (c === 35) {
        comment = true;
        if (wordAt >= 0) {
          words[count++] = wordAt;
          words[count++] = at;
          wordAt = -1;
        }
        continue;
      }
      if (c === 92 && isLineEnd(bytes, at + 1)) {
        if (wordAt >= 0) {
          words[count++] = wordAt;
          words[count++] = at;
          wordAt = -1;
        }
        at++;
        while (bytes[at] === 32) at++;
        if (bytes[at] === 13 && bytes[at + 1] === 10) at++;
        line++;
        continue;
      }
      if (c === 32 || c === 9 || c === 0) {
        if (wordAt >= 0) {
          if (count + 4 > words.length) growWords();
          words[count++] = wordAt;
          words[count++] = at;
          wordAt = -1;
        }
      } else if (wordAt < 0) wordAt = at;
    }
    if (wordAt >= 0) {
      words[count++] = wordAt;
      words[count++] = at;
    }
    if (bytes[at] === 13 && bytes[at + 1] === 10) at++;
    at++;
    if (count === 0) continue;

    const a = words[0]!;
    const length = words[1]! - a;
    const c0 = bytes[a]!;
    const c1 = length > 1 ? bytes[a + 1]! : 0;
    if (c0 === 118 && length === 1) readPoint(bytes, r, count, startLine);
    else if (c0 === 118 && c1 === 116 && length === 2) {
      r.uv.push(number(bytes, 1, count, startLine));
      r.uv.push(count > 4 ? number(bytes, 2, count, startLine) : 0);
    } else if (c0 === 118 && c1 === 110 && length === 2) {
      for (let k = 1; k <= 3; k++) r.normals.push(number(bytes, k, count, startLine));
    } else if (c0 === 102 && length === 1) {
      if (object === -1) {
        r.objects.push('');
        object = 0;
      }
      if (!readFace(bytes, r, count, startLine)) continue;
      r.faceObject.push(object);
      r.faceGroup.push(group);
      r.faceMaterial.push(material);
      r.faceSmooth.push(smooth);
    } else {
      const keyword = latin1(bytes, a, a + Math.min(length, 16));
      const rest = count > 2 ? utf8(bytes, words[2], words[count - 1]) : '';
      if (keyword === 'o') {
        object = r.objects.length;
        r.objects.push(rest);
      } else if (keyword === 'g') group = r.groups.numberOf(rest || 'default');
      else if (keyword === 'usemtl') material = rest ? r.materials.numberOf(rest) : -1;
      else if (keyword === 's') smooth = rest === 'off' || rest === '' ? 0 : Math.max(0, Math.trunc(Number(rest)) || 0);
      else if (keyword === 'mtllib') r.libraries.push(rest);
      else if (keyword !== '') r.skipped.set(keyword, (r.skipped.get(keyword) ?? 0) + 1);
    }
  }
}

function isLineEnd(bytes: Uint8Array, at: number): boolean {
  while (bytes[at] === 32) at++;
  return bytes[at] === 10 || bytes[at] === 13;
}

function number(bytes: Uint8Array, word: number, count: number, line: number): number {
  if (word * 2 >= count) throw new JigError('bad-number', 'A number is missing.', `line ${line}`, 'The file may be cut short: export it again.');
  const from = words[word * 2]!;
  const to = words[word * 2 + 1]!;
  const value = parseDouble(bytes, from, to);
  if (!Number.isFinite(value))
    throw new JigError('bad-number', `“${latin1(bytes, from, Math.min(to, from + 24))}” is not a number.`, `line ${line}`, 'Export the model again.');
  return value;
}

function readPoint(bytes: Uint8Array, r: Reading, count: number, line: number) {
  for (let k = 1; k <= 3; k++) r.points.push(number(bytes, k, count, line));
  const values = count / 2 - 1;
  if (values >= 6) {
    if (!r.hasColors) {
      r.hasColors = true;
      for (let k = 0; k < r.points.length - 3; k++) r.colors.push(1);
    }
    const first = values === 6 ? 4 : 5;
    for (let k = 0; k < 3; k++) r.colors.push(number(bytes, first + k, count, line));
  } else if (r.hasColors) for (let k = 0; k < 3; k++) r.colors.push(1);
}

/** Reads one face; false if it has fewer than three corners (counted as passed over). */
function readFace(bytes: Uint8Array, r: Reading, count: number, line: number): boolean {
  const corners = count / 2 - 1;
  const before = r.corners.length;
  for (let k = 1; k <= corners; k++) {
    const from = words[k * 2]!;
    const to = words[k * 2 + 1]!;
    let at = from;
    for (let field = 0; field < 3; field++) {
      const total = field === 0 ? r.points.length / 3 : field === 1 ? r.uv.length / 2 : r.normals.length / 3;
      let value = -1;
      if (at < to && bytes[at] !== 47) {
        let negative = false;
        if (bytes[at] === 45) {
          negative = true;
          at++;
        } else if (bytes[at] === 43) at++;
        let n = 0;
        const first = at;
        for (; at < to; at++) {
          const d = bytes[at]! - 48;
          if (d < 0 || d > 9) break;
          n = Math.min(4e9, n * 10 + d);
        }
        if (at === first || (at < to && bytes[at] !== 47))
          throw new JigError(
            'bad-index',
            `“${latin1(bytes, from, Math.min(to, from + 24))}” is not a corner of a face.`,
            `line ${line}`,
            'The file may be cut short: export it again.',
          );
        value = negative ? total - n : n - 1;
        if (value < 0 || value >= total) {
          const what = field === 0 ? 'point' : field === 1 ? 'texture point' : 'normal';
          throw new JigError(
            'bad-index',
            `The face uses ${what} ${negative ? -n : n}, but there are ${total} so far.`,
            `line ${line}`,
            'The file may be cut short: export it again.',
          );
        }
      } else if (field === 0) throw new JigError('bad-index', 'A corner has no point.', `line ${line}`, 'Export the model again.');
      if (field === 0) r.corners.push(value);
      else if (field === 1) r.cornerUv.push(value);
      else r.cornerNormal.push(value);
      if (at < to && bytes[at] === 47) at++;
    }
    if (at < to) throw new JigError('bad-index', `“${latin1(bytes, from, Math.min(to, from + 24))}” is not a corner of a face.`, `line ${line}`);
  }
  if (corners < 3) {
    r.corners.length = r.cornerUv.length = r.cornerNormal.length = before;
    r.skipped.set('f with fewer than three corners', (r.skipped.get('f with fewer than three corners') ?? 0) + 1);
    return false;
  }
  r.faceStart.push(r.corners.length);
  return true;
}

const skippedWords = new Map([
  ['l', 'lines'],
  ['p', 'loose points'],
  ['curv', 'curves'],
  ['curv2', 'curves'],
  ['surf', 'free-form surfaces'],
  ['vp', 'parameter points'],
]);

function assemble(r: Reading): ObjFile {
  const pointCount = r.points.length / 3;
  const used = [...new Set(r.faceObject.take())];
  const skipped = [...r.skipped].map(([word, n]) => `${n} × ${skippedWords.get(word) ?? `“${word}”`} passed over`);
  const all = { points: r.points.take(), colors: r.hasColors ? r.colors.take() : undefined, uv: r.uv.take(), normals: r.normals.take() };
  const faces = r.faceStart.length - 1;
  const parts = used.map((object, k) => {
    const name = r.objects[object] || (used.length > 1 ? `Part ${k + 1}` : '');
    if (used.length === 1) return wholePart(name, r, all);
    const mine: number[] = [];
    for (let f = 0; f < faces; f++) if (r.faceObject.data[f] === object) mine.push(f);
    return partOfFaces(name, r, all, mine, k === 0);
  });
  return { parts, pointCount, libraries: r.libraries, skipped };
}

interface Everything {
  points: Float64Array;
  colors: Float64Array | undefined;
  uv: Float64Array;
  normals: Float64Array;
}

function wholePart(name: string, r: Reading, all: Everything): ObjPart {
  const cornerNormal = r.cornerNormal.take();
  const mesh: Mesh = {
    points: all.points,
    faceStart: Uint32Array.from(r.faceStart.take()),
    corners: Uint32Array.from(r.corners.take()),
    faceGroup: r.faceGroup.take(),
    groups: r.groups.names,
    faceMaterial: r.faceMaterial.take(),
    materials: r.materials.names,
    faceSmooth: r.faceSmooth.take(),
    ...(all.colors ? { pointColors: all.colors } : {}),
    ...(all.normals.length > 0 && cornerNormal.some((n) => n >= 0) ? { normals: all.normals, cornerNormal } : {}),
  };
  return { name, mesh, uvSet: uvFrom(mesh, r.cornerUv.take(), all.uv), filePoints: null };
}

/** A part of some of the file's faces, with the points they use (the first part also takes points that no face uses). */
function partOfFaces(name: string, r: Reading, all: Everything, faces: number[], takeUnused: boolean): ObjPart {
  const used = new Uint8Array(all.points.length / 3);
  for (const f of faces) for (let c = r.faceStart.data[f]!; c < r.faceStart.data[f + 1]!; c++) used[r.corners.data[c]!] = 1;
  if (takeUnused) {
    const anywhere = new Uint8Array(used.length);
    for (let c = 0; c < r.corners.length; c++) anywhere[r.corners.data[c]!] = 1;
    for (let p = 0; p < used.length; p++) if (!anywhere[p]) used[p] = 1;
  }
  const place = new Int32Array(used.length).fill(-1);
  const filePoints: number[] = [];
  for (let p = 0; p < used.length; p++) {
    if (!used[p]) continue;
    place[p] = filePoints.length;
    filePoints.push(p);
  }
  const pick = (source: Float64Array) => {
    const out = new Float64Array(filePoints.length * 3);
    filePoints.forEach((p, k) => out.set(source.subarray(p * 3, p * 3 + 3), k * 3));
    return out;
  };
  const faceStart = new Uint32Array(faces.length + 1);
  const corners: number[] = [];
  const cornerUv: number[] = [];
  const cornerNormal: number[] = [];
  faces.forEach((f, k) => {
    for (let c = r.faceStart.data[f]!; c < r.faceStart.data[f + 1]!; c++) {
      corners.push(place[r.corners.data[c]!]!);
      cornerUv.push(r.cornerUv.data[c]!);
      cornerNormal.push(r.cornerNormal.data[c]!);
    }
    faceStart[k + 1] = corners.length;
  });
  const uvPlace = new Map<number, number>();
  const uv: number[] = [];
  const mappedUv = cornerUv.map((t) => {
    if (t < 0) return -1;
    let at = uvPlace.get(t);
    if (at === undefined) {
      at = uv.length / 2;
      uvPlace.set(t, at);
      uv.push(all.uv[t * 2]!, all.uv[t * 2 + 1]!);
    }
    return at;
  });
  const [groups, faceGroup] = keepUsed(
    r.groups.names,
    faces.map((f) => r.faceGroup.data[f]!),
  );
  const [materials, faceMaterial] = keepUsed(
    r.materials.names,
    faces.map((f) => r.faceMaterial.data[f]!),
  );
  const mesh: Mesh = {
    points: pick(all.points),
    faceStart,
    corners: Uint32Array.from(corners),
    faceGroup,
    groups,
    faceMaterial,
    materials,
    faceSmooth: Int32Array.from(faces, (f) => r.faceSmooth.data[f]!),
    ...(all.colors ? { pointColors: pick(all.colors) } : {}),
    ...(cornerNormal.some((n) => n >= 0) ? { normals: all.normals, cornerNormal: Int32Array.from(cornerNormal) } : {}),
  };
  return { name, mesh, uvSet: uvFrom(mesh, Int32Array.from(mappedUv), Float64Array.from(uv)), filePoints: Uint32Array.from(filePoints) };
}

function keepUsed(names: string[], ofFace: number[]): [string[], Int32Array] {
  const used = [...new Set(ofFace.filter((k) => k >= 0))].sort((a, b) => a - b);
  const place = new Map(used.map((k, at) => [k, at]));
  return [used.map((k) => names[k]!), Int32Array.from(ofFace, (k) => (k < 0 ? -1 : place.get(k)!))];
}

/** The file's vt as a UV set; faces with a corner without vt have no place and get one UV point a mesh point. */
function uvFrom(mesh: Mesh, cornerUv: Int32Array, uv: Float64Array): UvSet {
  const faces = mesh.faceStart.length - 1;
  const unplaced = new Uint8Array(faces);
  let any = false;
  for (let f = 0; f < faces; f++) {
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      if (cornerUv[c]! < 0) {
        unplaced[f] = 1;
        any = true;
      }
    }
  }
  if (!any) return { name: 'UV set 1', cornerUv: Uint32Array.from(cornerUv), uv, unplaced, slits: new Uint32Array(0), pins: new Uint8Array(uv.length / 2) };
  const out = new Uint32Array(cornerUv.length);
  const extra = new Map<number, number>();
  let count = uv.length / 2;
  for (let f = 0; f < faces; f++) {
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      if (!unplaced[f]) {
        out[c] = cornerUv[c]!;
        continue;
      }
      const p = mesh.corners[c]!;
      let at = extra.get(p);
      if (at === undefined) {
        at = count++;
        extra.set(p, at);
      }
      out[c] = at;
    }
  }
  const grown = new Float64Array(count * 2);
  grown.set(uv);
  return { name: 'UV set 1', cornerUv: out, uv: grown, unplaced, slits: new Uint32Array(0), pins: new Uint8Array(count) };
}
