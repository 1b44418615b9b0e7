import { asItLies, fromMtlOptions, outsideNote, toMtlOptions } from '../images/placement.ts';
import type { Job, JobImage, Part } from '../job/job.ts';
import { materialPictures } from '../job/materialPictures.ts';
import { tileImages } from '../images/tileImages.ts';
import { safeImageNames } from '../images/safeName.ts';
import { mapFileName, sameName, statementOf } from '../job/materialImages.ts';
import { activeSet, asInFile } from '../job/job.ts';
import { wholeParts } from '../job/splitPart.ts';
import { JigError } from '../jigError.ts';

/** Text pieces joined in chunks, so that large files do not become one giant string early. */
class TextOut {
  private readonly encoder = new TextEncoder();
  private readonly chunks: Uint8Array[] = [];
  private lines: string[] = [];

  line(text: string): void {
    this.lines.push(text);
    if (this.lines.length >= 8192) this.flush();
  }

  private flush() {
    if (this.lines.length === 0) return;
    this.chunks.push(this.encoder.encode(this.lines.join('\n') + '\n'));
    this.lines = [];
  }

  bytes(): Uint8Array {
    this.flush();
    const total = this.chunks.reduce((sum, chunk) => sum + chunk.length, 0);
    const out = new Uint8Array(total);
    let at = 0;
    for (const chunk of this.chunks) {
      out.set(chunk, at);
      at += chunk.length;
    }
    return out;
  }
}

/**
 * Writes parts as one OBJ: points in the order of the file they came from, polygons, groups, materials, smoothing, normals and vertex
 * colours as they were, the active UV set as vt (v up). Numbers are written so that they read back to the same double. Faces
 * without a place get no vt.
 * @param library name of the material file to state, or none
 */
export function writeObj(given: readonly Part[], library: string | null): Uint8Array {
  const parts = wholeParts(given).map(asInFile);
  const out = new TextOut();
  out.line('# Jig Peel');
  if (library) out.line(`mtllib ${library}`);
  const pointNumber = writePoints(parts, out);
  let uvBase = 0;
  let normalBase = 0;
  const normalBases = new Map<Float64Array, number>();
  parts.forEach((part, k) => {
    const { mesh } = part;
    const set = activeSet(part);
    const { origin } = part;
    const keepAll = origin.kind === 'obj' && origin.fileUv === set.uv;
    const vtOf = keepAll ? origin.vtOf : undefined;
    const used = new Uint8Array(set.uv.length / 2);
    // all of the file's, while nothing was moved: neither copies of one that islands shared, nor UV points of faces that have none in the file
    if (keepAll) used.forEach((_, i) => (used[i] = vtOf && vtOf[i] !== i ? 0 : 1));
    for (let f = 0; f < set.unplaced.length; f++) {
      if (keepAll ? !set.unplaced[f] : set.unplaced[f]) continue;
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) used[set.cornerUv[c]!] = keepAll ? 0 : 1;
    }
    const uvNumber = new Uint32Array(used.length);
    for (let i = 0; i < used.length; i++) {
      if (used[i]) {
        uvNumber[i] = ++uvBase;
        out.line(`vt ${text(set.uv[i * 2]!)} ${text(set.uv[i * 2 + 1]!)}`);
      } else if (vtOf) uvNumber[i] = uvNumber[vtOf[i]!]!;
    }
    let normalsFrom = normalBase;
    if (mesh.normals && mesh.cornerNormal) {
      const known = normalBases.get(mesh.normals);
      if (known !== undefined) normalsFrom = known;
      else {
        normalBases.set(mesh.normals, normalBase);
        for (let i = 0; i < mesh.normals.length; i += 3) out.line(`vn ${text(mesh.normals[i]!)} ${text(mesh.normals[i + 1]!)} ${text(mesh.normals[i + 2]!)}`);
        normalBase += mesh.normals.length / 3;
      }
    }
    writeFaces(part, pointNumber[k]!, uvNumber, normalsFrom, parts.length > 1 || part.name !== '', out);
  });
  return out.bytes();
}

const text = (x: number) => (x === 0 ? '0' : String(x));

/** Writes all points; returns the file's number of each point of each part. */
function writePoints(parts: readonly Part[], out: TextOut): Uint32Array[] {
  const line = (part: Part, p: number) => {
    const { points, pointColors } = part.mesh;
    let words = `v ${text(points[p * 3]!)} ${text(points[p * 3 + 1]!)} ${text(points[p * 3 + 2]!)}`;
    if (pointColors) words += ` ${text(pointColors[p * 3]!)} ${text(pointColors[p * 3 + 1]!)} ${text(pointColors[p * 3 + 2]!)}`;
    out.line(words);
  };
  const shared = parts.length > 1 && parts.every((part) => part.origin.kind === 'obj' && part.origin.filePoints !== null);
  if (shared) {
    const origins = parts.map((part) => part.origin as Extract<Part['origin'], { kind: 'obj' }>);
    const total = origins[0]!.filePointCount;
    if (origins.every((origin) => origin.filePointCount === total)) {
      const from: [Part, number][] = new Array(total);
      parts.forEach((part, k) => origins[k]!.filePoints!.forEach((filePoint, p) => (from[filePoint] ??= [part, p])));
      if (!from.includes(undefined as never)) {
        for (const [part, p] of from) line(part, p);
        return origins.map((origin) => origin.filePoints!.map((p) => p + 1));
      }
    }
  }
  let base = 0;
  return parts.map((part) => {
    const count = part.mesh.points.length / 3;
    for (let p = 0; p < count; p++) line(part, p);
    base += count;
    return Uint32Array.from({ length: count }, (_, p) => base - count + p + 1);
  });
}

function writeFaces(part: Part, pointNumber: Uint32Array, uvNumber: Uint32Array, normalsFrom: number, named: boolean, out: TextOut) {
  const { mesh } = part;
  const set = activeSet(part);
  if (named) out.line(`o ${part.name.replace(/[\r\n]+/g, ' ') || 'part'}`);
  let group = -1;
  let material = -1;
  let smooth = -1;
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
    if (mesh.faceGroup[f] !== group) {
      group = mesh.faceGroup[f]!;
      out.line(`g ${group < 0 ? 'default' : mesh.groups[group]!}`);
    }
    if (mesh.faceMaterial[f] !== material) {
      material = mesh.faceMaterial[f]!;
      if (material >= 0) out.line(`usemtl ${mesh.materials[material]!}`);
    }
    if (mesh.faceSmooth[f] !== smooth) {
      smooth = mesh.faceSmooth[f]!;
      out.line(`s ${smooth > 0 ? smooth : 'off'}`);
    }
    let words = 'f';
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const vt = set.unplaced[f] ? '' : String(uvNumber[set.cornerUv[c]!]!);
      const normal = mesh.cornerNormal ? mesh.cornerNormal[c]! : -1;
      words += ` ${pointNumber[mesh.corners[c]!]!}`;
      if (normal >= 0) words += `/${vt}/${normalsFrom + normal + 1}`;
      else if (vt) words += `/${vt}`;
    }
    out.line(words);
  }
}

export interface MtlWritten {
  bytes: Uint8Array;
  /** Images that the file names, under names that are safe to write (see `safeImageName`). */
  images: JobImage[];
  /** What could not be kept, in words. */
  notes: string[];
}

/**
 * A material file for the parts: the kept text if there is one, else plain grey for each name; with the images of the parts and, as far as
 * the format goes (-o, -s, -clamp), their placement. @returns null if there is nothing to say
 * @param layers of materials: a file may have given one a picture of its own
 */
export function writeMtl(parts: readonly Part[], kept: string | null, images: readonly JobImage[] = [], layers?: Job['materialLayers']): MtlWritten | null {
  if (kept !== null && kept.includes('\0')) throw new JigError('bad-file', 'The material file is not text.');
  const names = [...new Set(parts.flatMap((part) => part.mesh.materials))];
  const known = new Set<string>();
  for (const line of (kept ?? '').split('\n')) {
    const [keyword, rest] = statementOf(line) ?? ['', ''];
    if (keyword === 'newmtl') known.add(rest);
  }
  const missing = names.filter((name) => !known.has(name));
  if (!kept && missing.length === 0) return null;
  // an image of one tile stands for those of all
  const pictures = parts.flatMap((part) => materialPictures(part, layers));
  const wanted = new Set(pictures.flatMap(({ imageId }) => (imageId === null ? [] : (tileImages(images, imageId)?.map(({ id }) => id) ?? [imageId]))));
  const shown = images.filter(({ id }) => wanted.has(id));
  const safeNames = safeImageNames(shown);
  const named = new Map<string, JobImage>();
  const notes = new Set<string>();
  const statements = new Map<string, string>();
  for (const { part, material, imageId, placement } of pictures) {
    const at = shown.findIndex(({ id }) => id === imageId);
    if (at < 0) continue;
    const safe = safeNames[at];
    if (safe === null || safe === undefined) {
      notes.add(`${part}: its image “${shown[at]!.name.slice(0, 80)}” is no picture that can be read; it was left out.`);
      continue;
    }
    const image = { ...shown[at]!, name: safe };
    named.set(image.id, image);
    for (const { id } of tileImages(images, image.id) ?? []) {
      const k = shown.findIndex((one) => one.id === id);
      if (safeNames[k]) named.set(id, { ...shown[k]!, name: safeNames[k] });
    }
    const options = toMtlOptions(placement ?? asItLies);
    if (options === null) notes.add(`${part}: a turned image is beyond OBJ’s material files; its placement was left out.`);
    const outside = placement ? outsideNote(placement, 'OBJ') : '';
    if (outside) notes.add(`${part}: ${outside}.`);
    if (material !== null) statements.set(material, ['map_Kd', options, image.name].filter(Boolean).join(' '));
  }
  let material = '';
  // only what has changed is written again: a statement that says the same stays as it was
  const lines = (kept?.trimEnd() ?? '').split('\n').map((line) => {
    const [keyword, rest] = statementOf(line) ?? ['', ''];
    if (keyword.toLowerCase() === 'newmtl') material = rest;
    const wanted = statements.get(material);
    if (keyword.toLowerCase() !== 'map_kd' || rest === '' || wanted === undefined) return line;
    statements.delete(material);
    const before = fromMtlOptions(rest);
    const after = fromMtlOptions(wanted);
    return sameName(mapFileName(rest), mapFileName(wanted.slice(7))) && JSON.stringify(before) === JSON.stringify(after) ? line : wanted;
  });
  const added = missing
    .map((name) => `newmtl ${name}\nKd 0.8 0.8 0.8\n${statements.has(name) ? `${statements.get(name)!}\n` : ''}`)
    .join('\n')
    .trimEnd();
  return { bytes: new TextEncoder().encode([lines.join('\n'), added].filter(Boolean).join('\n\n') + '\n'), images: [...named.values()], notes: [...notes] };
}
