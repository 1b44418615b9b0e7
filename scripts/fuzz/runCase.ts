import {
  JigError,
  openFiles,
  readArchive,
  readBack,
  runOperation,
  seededRandom,
  topologyOf,
  trianglesOf,
  writeArchive,
  writeGlb,
  writeObj,
  writePly,
  type InputFile,
  type Job,
} from '@jig-peel/core';
import { mutate } from './mutate.ts';
import type { Seed } from './seeds.ts';

/** What became of a case: refused with a sentence, opened and written again, or a fault in words. */
export type Outcome = { kind: 'refused'; code: string } | { kind: 'opened' } | { kind: 'fault'; words: string };

/** Words of a programming language's own errors, of schemas and of compiled code: nobody should read them. */
const raw = /undefined|not a function|is not iterable|Cannot read|\[object|TypeError|RangeError|ZodError|"code":|"path":|Invalid (array|typed)|\bat \S+:\d+/;

/** The damaged files of case n: the same for a seed, on every machine. */
export function filesOf(seeds: readonly Seed[], seed: number, n: number) {
  const random = seededRandom(seed * 1_000_003 + n);
  const { file, beside } = seeds[Math.floor(random() * seeds.length)]!;
  // sometimes what stands beside it is damaged, too
  const files = [{ name: file.name, bytes: mutate(file.name, file.bytes, random) }];
  for (const other of beside)
    files.push(random() < 0.3 && /\.(mtl|bin)$/i.test(other.name) ? { name: other.name, bytes: mutate(other.name, other.bytes, random) } : other);
  return files;
}

/** What becomes of the files of case n. */
export const runCase = (seeds: readonly Seed[], seed: number, n: number): Promise<Outcome> => runFiles(filesOf(seeds, seed, n));

/** Opens files; what opens has to be sound, to be measured, and to come back from every format it is written in. */
export async function runFiles(files: InputFile[]): Promise<Outcome> {
  let job: Job;
  try {
    job = await openFiles(files, 'fuzz');
  } catch (error) {
    return refusal(error, 'opening');
  }
  const fault = unsound(job);
  if (fault) return { kind: 'fault', words: fault };
  if (job.parts.reduce((sum, part) => sum + part.mesh.corners.length, 0) > 60_000) return { kind: 'opened' };
  for (const [what, work] of [
    ['measuring', () => runOperation(job, 'check', {})],
    ['writing OBJ', () => back(job, 'a.obj', writeObj(job.parts, null))],
    ['writing PLY', () => back(job, 'a.ply', writePly(job.parts))],
    ['writing GLB', async () => back(job, 'a.glb', (await writeGlb(job.parts, job.files, job.images)).bytes)],
    ['writing an archive', () => Promise.resolve(readArchive(writeArchive(job)))],
  ] as const) {
    try {
      await work();
    } catch (error) {
      const met = refusal(error, what);
      // what cannot be measured or written may say so; what was written must come back
      if (met.kind === 'fault' || met.code === 'read-back' || what === 'writing an archive')
        return { kind: 'fault', words: `${what}: ${error instanceof Error ? error.message : String(error)}` };
    }
  }
  return { kind: 'opened' };
}

const back = (job: Job, name: string, bytes: Uint8Array) => readBack(job, job.parts, [{ name, bytes }]);

function refusal(error: unknown, what: string): Exclude<Outcome, { kind: 'opened' }> {
  if (!(error instanceof JigError)) return { kind: 'fault', words: `${what}: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}` };
  const sentence = error.sentence;
  if (raw.test(sentence)) return { kind: 'fault', words: `${what}: no sentence for a person: ${sentence}` };
  if (sentence.length > 1000) return { kind: 'fault', words: `${what}: a sentence of ${sentence.length} letters` };
  return { kind: 'refused', code: error.code };
}

/** What is wrong with a job that was opened; null if nothing is. Written without the reader's own checks. */
function unsound(job: Job): string | null {
  if (job.parts.length === 0) return 'a job without parts';
  for (const { mesh, uvSets, activeUv, name } of job.parts) {
    const faces = mesh.faceStart.length - 1;
    if (faces < 1) return `${name}: no faces`;
    for (let f = 0; f < faces; f++) if (mesh.faceStart[f + 1]! - mesh.faceStart[f]! < 3) return `${name}: face ${f} has too few corners`;
    if (mesh.faceStart[faces] !== mesh.corners.length) return `${name}: faces and corners differ`;
    for (const p of mesh.corners) if (p >= mesh.points.length / 3) return `${name}: a corner without a point`;
    for (const x of mesh.points) if (!Number.isFinite(x)) return `${name}: a point that is not a number`;
    for (const [what, array] of [
      ['groups', mesh.faceGroup],
      ['materials', mesh.faceMaterial],
      ['smoothing', mesh.faceSmooth],
    ] as const)
      if (array.length !== faces) return `${name}: ${array.length} ${what} for ${faces} faces`;
    if (mesh.faceMaterial.some((m) => m >= mesh.materials.length) || mesh.faceGroup.some((g) => g >= mesh.groups.length))
      return `${name}: a material or group that is not there`;
    if (!uvSets[activeUv]) return `${name}: no UV set ${activeUv}`;
    for (const set of uvSets) {
      if (set.cornerUv.length !== mesh.corners.length || set.unplaced.length !== faces || set.pins.length !== set.uv.length / 2)
        return `${name}: UVs do not fit`;
      for (const i of set.cornerUv) if (i >= set.uv.length / 2) return `${name}: a corner without its UV`;
      for (const x of set.uv) if (!Number.isFinite(x)) return `${name}: a UV that is not a number`;
    }
    topologyOf(mesh);
    trianglesOf(mesh);
  }
  return null;
}
