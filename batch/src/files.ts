import { readdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { basename, dirname, extname, join, resolve } from 'node:path';
import {
  decodedUri,
  JigError,
  materialImages,
  openFiles,
  readBack,
  runOperation,
  sameName,
  statementOf,
  writeArchive,
  writeGlb,
  writeMtl,
  writeObj,
  writePly,
  type InputFile,
  type Job,
} from '@jig-peel/core';

/** @throws JigError `not-found` */
const bytesOf = (path: string) =>
  readFile(path).catch((error: NodeJS.ErrnoException) => {
    throw new JigError('not-found', error.code === 'ENOENT' ? 'There is no such file.' : `The file cannot be read (${error.code ?? error.message}).`, path);
  });

/** @throws JigError `not-found` */
export const readText = async (path: string): Promise<string> => new TextDecoder().decode(await bytesOf(path));

/** Reads a model and the files beside it that it may need (materials, buffers, images). */
export async function readJob(path: string): Promise<Job> {
  const bytes = await bytesOf(path);
  const files: InputFile[] = [{ name: basename(path), bytes: new Uint8Array(bytes) }];
  const text = new TextDecoder('latin1').decode(bytes.subarray(0, 1 << 20));
  const wanted =
    extname(path).toLowerCase() === '.obj'
      ? text.split('\n').flatMap((line) => {
          const [keyword, rest] = statementOf(line) ?? ['', ''];
          return keyword === 'mtllib' && rest !== '' ? [rest] : [];
        })
      : extname(path).toLowerCase() === '.gltf'
        ? [...text.matchAll(/"uri"\s*:\s*"([^"]+)"/g)].map((m) => decodedUri(m[1]!)).filter((uri) => !uri.startsWith('data:'))
        : [];
  const beside = wanted.length > 0 ? await readdir(dirname(path) || '.').catch(() => []) : [];
  for (const name of new Set(wanted)) {
    if (!beside.includes(basename(name))) continue;
    files.push({ name: basename(name), bytes: new Uint8Array(await readFile(join(dirname(path), basename(name)))) });
  }
  return withImages(await openFiles(files, 'cli'), dirname(path));
}

/** Images that material files name, as far as they are beside the model. */
async function withImages(job: Job, folder: string): Promise<Job> {
  const missing = materialImages(job).flatMap((one) => one.missing);
  if (missing.length === 0) return job;
  const beside = await readdir(folder || '.').catch(() => []);
  const images: InputFile[] = [];
  for (const name of new Set(missing)) {
    const found = beside.find((file) => sameName(file, name));
    if (found) images.push({ name: found, bytes: new Uint8Array(await readFile(join(folder, found))) });
  }
  if (images.length === 0) return job;
  // one that is no picture is left out, as if it were not there
  return runOperation(job, 'addImages', { images, replace: false }).then(
    (ran) => {
      // what was missing when the model was read is here now
      const left = materialImages(ran.job).flatMap((one) => one.missing);
      const intake = left.length > 0 ? ran.job.intake : ran.job.intake.filter((line) => !/named in “.*” (was|were) not given/.test(line));
      return { ...ran.job, intake };
    },
    () => job,
  );
}

/** A file that is ready to be put in place. */
export interface Ready {
  path: string;
  bytes: Uint8Array | string;
  /** Named in the call; others are written only where there is none yet, or one that says the same, unless that is allowed. */
  named: boolean;
}

/**
 * Puts files in place, all or none: each is written to a neighbour first; only when all of them are there are they renamed.
 * @throws JigError `not-found` where a folder is missing, `bad-parameter` where a file that was not named is there already
 */
export async function putInPlace(files: readonly Ready[], overwrite = false): Promise<void> {
  const paths = files.map(({ path }) => resolve(path));
  const twice = paths.find((path, k) => paths.indexOf(path) !== k);
  if (twice !== undefined) throw new JigError('bad-parameter', 'Two of the files to be written have one name.', twice, 'Give the output another name.');
  for (const { path, named, bytes } of files) {
    if (named || overwrite || !(await otherThan(path, bytes))) continue;
    throw new JigError(
      'bad-parameter',
      'There is a file of that name already, and the call does not name it; nothing was written.',
      path,
      'Move it away, or say --overwrite.',
    );
  }
  const beside = paths.map((path, k) => join(dirname(path), `.${basename(path)}.${process.pid}-${k}.part`));
  try {
    for (const [k, { bytes }] of files.entries()) await writeFile(beside[k]!, bytes, { flag: 'wx' });
    for (const [k, path] of paths.entries()) await rename(beside[k]!, path);
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code;
    const at = (error as NodeJS.ErrnoException).path;
    const which = at === undefined ? 0 : Math.max(0, beside.indexOf(at));
    throw new JigError('not-found', code === 'ENOENT' ? 'The folder does not exist.' : `The file cannot be written (${code}).`, files[which]!.path);
  } finally {
    await Promise.all(beside.map((path) => rm(path, { force: true })));
  }
}

/** Is there a file that says something else? */
const otherThan = (path: string, bytes: Uint8Array | string) =>
  readFile(path).then(
    (found) => !found.equals(Buffer.from(bytes)),
    () => false,
  );

/**
 * A job in the format of the path's ending, read back and compared, ready to be put in place; and notes. What is written beside the stated file
 * (materials, images) is so only under a safe name in its folder.
 */
export async function readyJob(job: Job, path: string): Promise<{ files: Ready[]; notes: string[] }> {
  const ending = extname(path).toLowerCase();
  const one = (bytes: Uint8Array, notes: string[] = []) => ({ files: [{ path, bytes, named: true }], notes });
  if (ending === '.jigpeel') return one(writeArchive(job));
  if (ending === '.glb') {
    const { bytes, notes } = await writeGlb(job.parts, job.files, job.images, undefined, job.materialLayers);
    await readBack(job, job.parts, [{ name: basename(path), bytes }]);
    return one(bytes, notes);
  }
  if (ending === '.ply') {
    const bytes = writePly(job.parts);
    await readBack(job, job.parts, [{ name: basename(path), bytes }]);
    return one(bytes);
  }
  if (ending === '.obj') {
    const kept = job.files.find((file) => file.name.toLowerCase().endsWith('.mtl'));
    const mtl = writeMtl(job.parts, kept ? new TextDecoder().decode(kept.bytes) : null, job.images, job.materialLayers);
    const library = basename(path, extname(path)) + '.mtl';
    const bytes = writeObj(job.parts, mtl ? library : null);
    await readBack(job, job.parts, [{ name: basename(path), bytes }]);
    if (!mtl) return one(bytes);
    const beside = (name: string) => join(dirname(path), name);
    return {
      files: [
        { path, bytes, named: true },
        { path: beside(library), bytes: mtl.bytes, named: false },
        ...mtl.images.map((image) => ({ path: beside(image.name), bytes: image.bytes, named: false })),
      ],
      notes: mtl.notes,
    };
  }
  throw new JigError('unknown-format', `“${ending || path}” cannot be written.`, path, 'Use .obj, .glb, .ply or .jigpeel.');
}
