import type { Context } from '../context.ts';
import { JigError } from '../jigError.ts';
import { emptySelection, newJob, type Job, type JobImage, type KeptFile, type Part } from '../job/job.ts';
import { withOwnPoints } from '../uv/ownPoints.ts';
import { emptyUvSet, unplacedCount } from '../uv/uvSet.ts';
import { guessUp, turnUp } from '../mesh/upAxis.ts';
import { topologyOf } from '../mesh/topology.ts';
import { contentHash } from '../images/contentHash.ts';
import type { ImagePlacement } from '../images/placement.ts';
import { imageFacts, isImageName } from '../images/imageFacts.ts';
import { materialImages } from '../job/materialImages.ts';
import { withMaterialImages } from '../job/pictureParts.ts';
import { readArchive } from './archive.ts';
import { isGlb } from './gltfNames.ts';
import { readObj } from './objRead.ts';
import { plyUvSet, readPly } from './ply.ts';
import { readStl } from './stl.ts';

export interface InputFile {
  name: string;
  bytes: Uint8Array;
}

const endings = ['.obj', '.glb', '.gltf', '.ply', '.stl', '.jigpeel'];
export const endingOf = (name: string) => name.slice(name.lastIndexOf('.')).toLowerCase();
const baseName = (name: string) => name.slice(Math.max(name.lastIndexOf('/'), name.lastIndexOf('\\')) + 1);
const stem = (name: string) => baseName(name).replace(/\.[^.]*$/, '');

export interface OpenOptions {
  /** Which way is up in models that do not say it (glTF does: y): as it is, or guessed from the form (see `guessUp`); default: as it is. */
  up?: 'asItIs' | 'guess';
}

/**
 * Makes one job of the given files: models (.obj, .glb, .gltf, .ply, .stl), their material files, images and buffers, or one job archive.
 * Everything read, passed over and missing is listed in the job's intake.
 * @throws JigError with the file's name for a model that cannot be read
 */
export async function openFiles(files: readonly InputFile[], id: string, context?: Context, options: OpenOptions = {}): Promise<Job> {
  const models = files.filter((file) => endings.includes(endingOf(file.name)));
  if (models.length === 0) {
    const names = files.map((file) => `“${baseName(file.name)}”`).join(', ');
    throw new JigError(
      'unknown-format',
      files.length === 0 ? 'No file was given.' : `${names} cannot be opened as a model.`,
      '',
      'Use .obj, .glb, .gltf, .ply, .stl or .jigpeel.',
    );
  }
  const archive = models.find((file) => endingOf(file.name) === '.jigpeel');
  if (archive) return { ...named(archive.name, () => readArchive(archive.bytes)).job, id };
  const parts: Part[] = [];
  const kept: KeptFile[] = [];
  const images: JobImage[] = [];
  const known = new Map<string, { image: string; placement: ImagePlacement }>();
  const intake: string[] = [];
  for (const file of models) {
    const name = baseName(file.name);
    const found = await named(name, async () => {
      if (file.bytes.length === 0) throw new JigError('empty-file', 'The file is empty.', '', 'Copy or export it again.');
      if (endingOf(name) === '.ply') return openPly(file, intake, context);
      if (endingOf(name) === '.stl') return openStl(file, intake);
      return endingOf(name) === '.obj' && !isGlb(file.bytes)
        ? openObj(file, files, kept, intake, context)
        : openGltfFile(file, files, kept, images, known, intake);
    });
    const standing = options.up === 'guess' && found.every((part) => part.origin.kind !== 'gltf') ? stoodUp(found, name, intake) : found;
    for (const part of standing) parts.push({ ...part, id: `part-${parts.length + 1}` });
  }
  for (const part of parts) {
    const { nonManifoldEdges, windingEdges } = topologyOf(part.mesh);
    if (nonManifoldEdges > 0) intake.push(`${part.name}: ${nonManifoldEdges} edges have more than two faces; islands do not run across them.`);
    if (windingEdges > 0) intake.push(`${part.name}: ${windingEdges} edges join faces that are wound against each other; islands do not run across them.`);
  }
  const used = new Set([...models, ...kept].map((file) => file.name));
  for (const file of files) {
    if (used.has(file.name) || images.some((image) => image.name === baseName(file.name))) continue;
    if (!isImageName(file.name)) intake.push(`“${baseName(file.name)}” was not needed.`);
    else takeImage(file, images, intake);
  }
  for (const { library, missing } of materialImages({ files: kept, images }))
    if (missing.length > 0)
      intake.push(
        `${missing.length === 1 ? 'One image' : `${missing.length} images`} named in “${baseName(library)}” ${missing.length === 1 ? 'was' : 'were'} not given: ${missing.join(', ')}.`,
      );
  const job = newJob(id, stem(models[0]!.name), parts, { files: kept, images, intake });
  return withMaterialImages({ ...job, selection: emptySelection(job.activePart) }, known);
}

/** The parts of a file turned to y up where z is, by a guess that is said. */
function stoodUp(parts: Part[], name: string, intake: string[]): Part[] {
  const { up, why } = guessUp(
    parts.map(({ mesh }) => mesh),
    endingOf(name) === '.stl' ? 'z' : 'y',
  );
  if (up === 'y') return parts;
  intake.push(
    `${name}: z is taken for up, ${why === 'base' ? 'since it stands on a flat base that way' : 'as is usual for this format'}; it is written back as it came. Intake changes it.`,
  );
  return parts.map((part) => ({ ...part, mesh: turnUp(part.mesh), up }));
}

/** An image given along with the models; one that is none is passed over and said. */
function takeImage(file: InputFile, images: JobImage[], intake: string[]) {
  const name = baseName(file.name);
  try {
    const { type, width, height } = imageFacts(file.bytes, name);
    const hash = contentHash(file.bytes);
    if (!images.some((image) => contentHash(image.bytes) === hash)) images.push({ id: `image-${hash.slice(0, 16)}`, name, type, bytes: file.bytes });
    intake.push(`${name}: picture, ${width} × ${height} px.`);
  } catch (error) {
    if (!(error instanceof JigError)) throw error;
    intake.push(`${error.message} It was passed over.`);
  }
}

function named<T>(name: string, run: () => T): T {
  const rename = (error: unknown): never => {
    if (error instanceof JigError && error.code !== 'cancelled')
      throw new JigError(error.code, error.message, error.place ? `${name}, ${error.place}` : name, error.advice);
    throw error;
  };
  try {
    const result = run();
    return result instanceof Promise ? (result.catch(rename) as T) : result;
  } catch (error) {
    return rename(error);
  }
}

function openObj(file: InputFile, files: readonly InputFile[], kept: KeptFile[], intake: string[], context?: Context): Part[] {
  const name = baseName(file.name);
  const obj = readObj(asUtf8(file.bytes), context);
  for (const library of obj.libraries) {
    const found = files.find((other) => baseName(other.name) === baseName(library));
    if (found && !kept.some((k) => k.name === found.name)) kept.push({ name: found.name, bytes: found.bytes });
    if (!found) intake.push(`${name}: the material file “${library}” was not given; material names are kept.`);
  }
  for (const words of obj.skipped) intake.push(`${name}: ${words}.`);
  return obj.parts.map((part): Part => {
    const placed = unplacedCount(part.uvSet) < part.uvSet.unplaced.length;
    const { set, from: vtOf } = withOwnPoints(part.mesh, placed ? part.uvSet : emptyUvSet(part.mesh));
    const partName = part.name || stem(file.name);
    intake.push(
      `${partName}: ${count(part.mesh.faceStart.length - 1, 'face')}, ${count(part.mesh.points.length / 3, 'point')}${placed ? '' : ', no UVs yet'}.`,
    );
    return {
      id: '',
      name: partName,
      mesh: part.mesh,
      uvSets: [set],
      activeUv: 0,
      imageId: null,
      origin: { kind: 'obj', filePoints: part.filePoints, filePointCount: obj.pointCount, fileUv: placed ? set.uv : null, ...(vtOf ? { vtOf } : {}) },
    };
  });
}

/** Text in UTF-16 (it begins with a byte order mark) as UTF-8. */
function asUtf8(bytes: Uint8Array): Uint8Array {
  const encoding = bytes[0] === 0xff && bytes[1] === 0xfe ? 'utf-16le' : bytes[0] === 0xfe && bytes[1] === 0xff ? 'utf-16be' : null;
  return encoding ? new TextEncoder().encode(new TextDecoder(encoding).decode(bytes)) : bytes;
}

function openPly(file: InputFile, intake: string[], context?: Context): Part[] {
  const ply = readPly(file.bytes, context);
  for (const words of ply.skipped) intake.push(`${baseName(file.name)}: ${words}.`);
  return [loosePart(file, ply.mesh, plyUvSet(ply), intake)];
}

function openStl(file: InputFile, intake: string[]): Part[] {
  const mesh = readStl(file.bytes);
  return [loosePart(file, mesh, emptyUvSet(mesh), intake)];
}

/** A part of a format that keeps nothing beyond the mesh. */
function loosePart(file: InputFile, mesh: Part['mesh'], set: Part['uvSets'][number], intake: string[]): Part {
  const name = stem(file.name);
  const bare = unplacedCount(set) === set.unplaced.length;
  const own = withOwnPoints(mesh, set).set;
  intake.push(`${name}: ${count(mesh.faceStart.length - 1, 'face')}, ${count(mesh.points.length / 3, 'point')}${bare ? ', no UVs yet' : ''}.`);
  return { id: '', name, mesh, uvSets: [own], activeUv: 0, imageId: null, origin: { kind: 'made' } };
}

const count = (n: number, noun: string) => `${n.toLocaleString('en')} ${noun}${n === 1 ? '' : 's'}`;

async function openGltfFile(
  file: InputFile,
  files: readonly InputFile[],
  kept: KeptFile[],
  images: JobImage[],
  known: Map<string, { image: string; placement: ImagePlacement }>,
  intake: string[],
): Promise<Part[]> {
  const resources = new Map(files.map((other) => [baseName(other.name), other.bytes]));
  // its library is large, and most files are none of its
  const { readGltf } = await import('./gltfRead.ts');
  const gltf = await readGltf(file.bytes, resources);
  kept.push({ name: file.name, bytes: file.bytes });
  if (!isGlb(file.bytes))
    for (const other of files)
      if (!endings.includes(endingOf(other.name)) && !kept.some((k) => k.name === other.name)) kept.push({ name: baseName(other.name), bytes: other.bytes });
  for (const words of gltf.skipped) intake.push(`${words}.`);
  const ids = gltf.images.map((image) => {
    const id = `image-${contentHash(image.bytes).slice(0, 16)}`;
    if (!images.some((known) => known.id === id)) images.push({ id, ...image });
    return id;
  });
  for (const { material, image, placement } of gltf.pictures) if (!known.has(material)) known.set(material, { image: ids[image]!, placement });
  return gltf.parts.map((part): Part => {
    const sets = (part.uvSets.length > 0 ? part.uvSets : [emptyUvSet(part.mesh)]).map((set) => withOwnPoints(part.mesh, set).set);
    intake.push(
      `${part.name}: ${count(part.mesh.faceStart.length - 1, 'triangle')}, ${count(part.mesh.points.length / 3, 'point')} after merging${part.uvSets.length > 0 ? '' : ', no UVs yet'}.`,
    );
    return {
      id: '',
      name: part.name,
      mesh: part.mesh,
      uvSets: sets,
      activeUv: 0,
      imageId: part.image === null ? null : ids[part.image]!,
      ...(part.placement ? { placement: part.placement } : {}),
      origin: {
        kind: 'gltf',
        file: file.name,
        meshIndex: part.meshIndex,
        facePrimitive: part.facePrimitive,
        cornerVertex: part.cornerVertex,
        ...(part.mirrored ? { mirrored: true } : {}),
      },
    };
  });
}
