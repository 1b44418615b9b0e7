import { readFile, rename, rm, writeFile } from 'node:fs/promises';
import { readdir } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import { JigError, openFiles, readBack, writeArchive, writeGlb, writeMtl, writeObj, writePly, type InputFile, type Job } from '@jig-peel/core';

/** Reads a model and the files beside it that it may need (materials, buffers, images). */
export async function readJob(path: string): Promise<Job> {
  const bytes = await readFile(path).catch((error: NodeJS.ErrnoException) => {
    throw new JigError('not-found', error.code === 'ENOENT' ? 'There is no such file.' : `The file cannot be read (${error.code ?? error.message}).`, path);
  });
  const files: InputFile[] = [{ name: basename(path), bytes: new Uint8Array(bytes) }];
  const text = new TextDecoder('latin1').decode(bytes.subarray(0, 1 << 20));
  const wanted =
    extname(path).toLowerCase() === '.obj'
      ? [...text.matchAll(/^\s*mtllib\s+(.+?)\s*$/gm)].map((m) => m[1]!)
      : extname(path).toLowerCase() === '.gltf'
        ? [...text.matchAll(/"uri"\s*:\s*"([^"]+)"/g)].map((m) => decodeURIComponent(m[1]!)).filter((uri) => !uri.startsWith('data:'))
        : [];
  const beside = wanted.length > 0 ? await readdir(dirname(path) || '.').catch(() => []) : [];
  for (const name of new Set(wanted)) {
    if (!beside.includes(basename(name))) continue;
    files.push({ name: basename(name), bytes: new Uint8Array(await readFile(join(dirname(path), basename(name)))) });
  }
  return openFiles(files, 'cli');
}

/** Writes a file whole or not at all: to a neighbour first, then renamed. */
export async function writeWhole(path: string, bytes: Uint8Array | string): Promise<void> {
  const beside = join(dirname(path), `.${basename(path)}.${process.pid}.part`);
  try {
    await writeFile(beside, bytes);
    await rename(beside, path);
  } catch (error) {
    await rm(beside, { force: true });
    const code = (error as NodeJS.ErrnoException).code;
    throw new JigError('not-found', code === 'ENOENT' ? 'The folder does not exist.' : `The file cannot be written (${code}).`, path);
  }
}

/** Writes a job in the format of the path's ending, read back and compared first. Returns the files written and notes. */
export async function writeJob(job: Job, path: string): Promise<{ files: string[]; notes: string[] }> {
  const ending = extname(path).toLowerCase();
  if (ending === '.jigpeel') {
    await writeWhole(path, writeArchive(job));
    return { files: [path], notes: [] };
  }
  if (ending === '.glb') {
    const { bytes, notes } = await writeGlb(job.parts, job.files, job.images);
    await readBack(job, job.parts, [{ name: basename(path), bytes }]);
    await writeWhole(path, bytes);
    return { files: [path], notes };
  }
  if (ending === '.ply') {
    const bytes = writePly(job.parts);
    await readBack(job, job.parts, [{ name: basename(path), bytes }]);
    await writeWhole(path, bytes);
    return { files: [path], notes: [] };
  }
  if (ending === '.obj') {
    const kept = job.files.find((file) => file.name.toLowerCase().endsWith('.mtl'));
    const mtl = writeMtl(job.parts, kept ? new TextDecoder().decode(kept.bytes) : null, job.images);
    const library = basename(path, extname(path)) + '.mtl';
    const bytes = writeObj(job.parts, mtl ? library : null);
    await readBack(job, job.parts, [{ name: basename(path), bytes }]);
    await writeWhole(path, bytes);
    if (!mtl) return { files: [path], notes: [] };
    const mtlPath = join(dirname(path), library);
    await writeWhole(mtlPath, mtl.bytes);
    const pictures = mtl.images.map((image) => ({ path: join(dirname(path), basename(image.name)), bytes: image.bytes }));
    for (const picture of pictures) await writeWhole(picture.path, picture.bytes);
    return { files: [path, mtlPath, ...pictures.map((picture) => picture.path)], notes: mtl.notes };
  }
  throw new JigError('unknown-format', `“${ending || path}” cannot be written.`, path, 'Use .obj, .glb, .ply or .jigpeel.');
}
