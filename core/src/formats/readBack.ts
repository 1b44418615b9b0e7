import { JigError } from '../jigError.ts';
import type { Job, Part } from '../job/job.ts';
import { activeSet, asInFile } from '../job/job.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { joinParts } from '../job/joinParts.ts';
import { wholeParts } from '../job/splitPart.ts';
import { documentOf } from './gltfWrite.ts';
import { endingOf, openFiles, type InputFile } from './open.ts';

/** What a delivery was compared on. */
export interface ReadBack {
  parts: number;
  faces: number;
  /** Largest difference of a UV, and of a coordinate relative to the model's size. */
  uvError: number;
  pointError: number;
}

/**
 * Reads a written model and compares it with the job corner by corner: number of faces, place of each corner in space and on the
 * sheet. Files of triangles are compared with the polygons' triangles.
 * @throws JigError `read-back` if anything differs by more than the format's own precision
 */
export async function readBack(job: Job, parts: readonly Part[], files: readonly InputFile[]): Promise<ReadBack> {
  const again = await openFiles(files, job.id);
  parts = wholeParts(parts);
  const report: ReadBack = { parts: again.parts.length, faces: 0, uvError: 0, pointError: 0 };
  // glTF has y up by its specification; everything else is written as it came
  if (endingOf(files[0]!.name) !== '.glb' || documentOf(parts) !== '') parts = parts.map(asInFile);
  // PLY holds one mesh: the parts one after the other
  if (parts.length > 1 && endingOf(files[0]!.name) === '.ply') parts = [joined(parts)];
  if (again.parts.length !== parts.length) fail(`has ${again.parts.length} parts instead of ${parts.length}`);
  // a document that is written into keeps its order; a new one has its faces material by material
  const sorted = endingOf(files[0]!.name) === '.glb' && documentOf(parts) === '';
  parts.forEach((part, k) => compare(part, again.parts[k]!, sorted, report));
  return report;
}

function joined(parts: readonly Part[]): Part {
  const { mesh, set } = joinParts(parts);
  return { ...parts[0]!, mesh, uvSets: [set], activeUv: 0 };
}

function fail(what: string): never {
  throw new JigError('read-back', `The written file was read again and ${what}; it was not handed over.`, '', 'Please keep a job archive and report this.');
}

function compare(part: Part, other: Part, sorted: boolean, report: ReadBack) {
  const polygons = !sorted && part.mesh.corners.length === other.mesh.corners.length && part.mesh.faceStart.every((s, f) => s === other.mesh.faceStart[f]);
  const mine = polygons ? Uint32Array.from(part.mesh.corners, (_, c) => c) : trianglesByMaterial(part);
  const theirs = polygons ? mine : Uint32Array.from(other.mesh.corners, (_, c) => c);
  if (mine.length !== theirs.length) fail(`has ${theirs.length / 3} triangles instead of ${mine.length / 3} in “${part.name}”`);
  report.faces += other.mesh.faceStart.length - 1;
  let size = 1e-30;
  for (const x of part.mesh.points) if (Math.abs(x) > size) size = Math.abs(x);
  const a = activeSet(part);
  const b = activeSet(other);
  const faceA = faceOfCorners(part);
  const faceB = faceOfCorners(other);
  for (let k = 0; k < mine.length; k++) {
    const c = mine[k]!;
    const d = theirs[k]!;
    for (let i = 0; i < 3; i++) {
      const difference = Math.abs(part.mesh.points[part.mesh.corners[c]! * 3 + i]! - other.mesh.points[other.mesh.corners[d]! * 3 + i]!) / size;
      if (difference > report.pointError) report.pointError = difference;
    }
    if (a.unplaced[faceA[c]!]) continue;
    if (b.unplaced[faceB[d]!]) fail(`lacks UVs in “${part.name}”`);
    for (let i = 0; i < 2; i++) {
      const value = a.uv[a.cornerUv[c]! * 2 + i]!;
      const difference = Math.abs(value - b.uv[b.cornerUv[d]! * 2 + i]!) / Math.max(1, Math.abs(value));
      if (difference > report.uvError) report.uvError = difference;
    }
  }
  if (report.pointError > 1e-6) fail(`moved points of “${part.name}”`);
  if (report.uvError > 1e-6) fail(`moved UVs of “${part.name}”`);
}

function faceOfCorners({ mesh }: Part): Uint32Array {
  const out = new Uint32Array(mesh.corners.length);
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) out.fill(f, mesh.faceStart[f]!, mesh.faceStart[f + 1]!);
  return out;
}

/** Corners of the triangles in the order in which glTF gets them: material by material as they first come up. */
function trianglesByMaterial({ mesh }: Part): Uint32Array {
  const triangles = trianglesOf(mesh);
  const groups = new Map<number, number[]>();
  for (let t = 0; t < triangles.count; t++) {
    const material = mesh.faceMaterial[triangles.face[t]!]!;
    const list = groups.get(material) ?? [];
    for (let k = 0; k < 3; k++) list.push(triangles.corners[t * 3 + k]!);
    groups.set(material, list);
  }
  return Uint32Array.from([...groups.values()].flat());
}
