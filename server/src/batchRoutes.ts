import { JigError, readLimits, readRecipe } from '@jig-peel/core';
import type { BatchWork } from '@jig-peel/batch/worker';
import { Router, type Request, type Response } from 'express';
import { Zip, ZipPassThrough } from 'fflate';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, rename, rm, stat } from 'node:fs/promises';
import { basename, extname, join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { isModel, lineOf, safeName, type Batches } from './batches.ts';
import { takeUpload, UploadError, type UploadLimits } from './upload.ts';

/** Ms between two messages of one batch at the most. */
const often = 250;
/** Ms after which a silent line says that it is there. */
const alive = 20_000;

/** What a zip without its 64-bit form holds. */
const mostZipped = 4e9;
const mostEntries = 65_000;

const formats = ['obj', 'glb', 'ply', 'jigpeel'];
const gone = (response: Response) => response.status(404).json({ sentence: 'There is no such batch any more.' });
const numberOf = (text: string | undefined) => (/^\d{1,6}$/.test(text ?? '') ? Number(text) : -1);

/** Batches of files: given, followed, fetched, stopped, removed; and what workers on other machines need. */
export function batchRoutes(batches: Batches, limits: UploadLimits): Router {
  const router = Router();

  router.get('/batches', (_request, response) => {
    response.json({ batches: batches.list(), room: { used: batches.bytes, ...batches.limits }, upload: limits });
  });

  router.post('/batches', (request, response, next) => {
    take(batches, limits, request).then(
      (batch) => response.status(201).json(batch),
      (error: unknown) => {
        if (error instanceof UploadError) response.status(error.status).json({ sentence: error.message });
        else if (error instanceof JigError) response.status(400).json({ sentence: error.sentence });
        else next(error);
      },
    );
  });

  router.get('/batches/events', (request, response) => {
    const line = openLine(request, response);
    const told = new Set<string>();
    const timer = setInterval(() => {
      for (const id of told) {
        const batch = batches.get(id);
        line('batch', batch ? lineOf(batch) : { id, removed: true });
      }
      told.clear();
    }, often);
    const note = (id: string) => void told.add(id);
    batches.on('change', note);
    batches.on('removed', note);
    response.on('close', () => {
      clearInterval(timer);
      batches.off('change', note);
      batches.off('removed', note);
    });
  });

  router.get('/batches/:id', (request, response) => {
    const batch = batches.get(request.params.id);
    if (batch) response.json(batch);
    else gone(response);
  });

  router.get('/batches/:id/events', (request, response) => {
    const { id } = request.params;
    if (!batches.get(id)) {
      gone(response);
      return;
    }
    const line = openLine(request, response);
    const changed = new Set<number>();
    const timer = setInterval(() => {
      const batch = batches.get(id);
      if (!batch || changed.size === 0) return;
      line('files', { files: [...changed].map((file) => ({ at: file, ...batch.files[file]! })), line: lineOf(batch) });
      changed.clear();
    }, often);
    const note = (of: string, file: number | null) => {
      if (of !== id) return;
      if (file !== null) changed.add(file);
      else batches.get(id)?.files.forEach((_, k) => changed.add(k));
    };
    const removed = (of: string) => {
      if (of === id) line('removed', {});
    };
    batches.on('change', note);
    batches.on('removed', removed);
    response.on('close', () => {
      clearInterval(timer);
      batches.off('change', note);
      batches.off('removed', removed);
    });
  });

  router.post('/batches/:id/cancel', (request, response, next) => {
    if (!batches.get(request.params.id)) {
      gone(response);
      return;
    }
    batches.cancel(request.params.id).then(() => response.json(batches.get(request.params.id)), next);
  });

  router.post('/batches/:id/files/:file/again', (request, response, next) => {
    batches.again(request.params.id, numberOf(request.params.file)).then((taken) => {
      if (taken) response.json(batches.get(request.params.id));
      else response.status(409).json({ sentence: 'Only a file that failed, or was not worked, can be worked again.' });
    }, next);
  });

  router.delete('/batches/:id', (request, response, next) => {
    batches.remove(request.params.id).then((removed) => (removed ? response.status(204).end() : gone(response)), next);
  });

  router.get('/batches/:id/files/:file/:name', (request, response) => {
    const path = batches.outputPath(request.params.id, numberOf(request.params.file), request.params.name);
    if (!path) gone(response);
    else response.download(path, basename(path), { dotfiles: 'allow' });
  });

  router.get('/batches/:id/zip', (request, response) => void sendZip(batches, request.params.id, response));

  /* for workers */
  router.get('/tasks/:id', (request, response) => {
    const body = batches.bodyOf(request.params.id);
    if (!body) gone(response);
    else {
      const { recipe, limits: judged, beside, files } = body;
      response.json({ recipe, limits: judged, beside, files } satisfies BatchWork);
    }
  });

  router.get('/tasks/:id/in/:name', (request, response) => {
    const { id, name } = request.params;
    const body = batches.bodyOf(id);
    if (body && (body.beside.includes(name) || body.files.some((file) => file.name === name)))
      response.sendFile(join(batches.folder, id, 'in', name), { dotfiles: 'allow' });
    else gone(response);
  });

  router.put('/tasks/:id/:file/out/:name', (request, response, next) => {
    const { id, name } = request.params;
    const file = numberOf(request.params.file);
    const own = batches.get(id)?.files[file];
    if (!own || safeName(name) !== name) {
      gone(response);
      return;
    }
    if (own.state !== 'waiting' && own.state !== 'working') {
      request.resume();
      response.status(409).json({ sentence: 'The file is done.' });
      return;
    }
    receive(request, batches.outFolder(id, file), name, limits.batchBytes).then(
      () => response.status(204).end(),
      (error: unknown) => (error instanceof UploadError ? response.status(error.status).json({ sentence: error.message }) : next(error)),
    );
  });
  return router;
}

/** A batch out of a form: the recipe, limits where given, the files. */
async function take(batches: Batches, limits: UploadLimits, request: Request) {
  const full = batches.isFull();
  if (full !== null) {
    request.resume();
    throw new UploadError(507, full);
  }
  const room = await batches.makeRoom();
  try {
    const { fields, files } = await takeUpload(request, join(room.folder, 'in'), limits);
    const recipe = fields.get('recipe');
    if (recipe === undefined) throw new UploadError(400, 'The batch has no recipe. Keep one as a file at Deliver, and give it.');
    const { name, steps } = readRecipe(recipe);
    const asks = steps.findIndex(({ asks: why, isOff }) => why && !isOff);
    if (asks >= 0) throw new UploadError(400, `Step ${asks + 1} of the recipe asks for a person. Leave it out first.`);
    if (!steps.some(({ isOff }) => !isOff)) throw new UploadError(400, 'The recipe has no step that is on.');
    const judged = fields.get('limits') || null;
    if (judged !== null) readLimits(judged);
    const to = fields.get('to') || null;
    if (to !== null && !formats.includes(to)) throw new UploadError(400, `“${to}” cannot be written: ${formats.join(', ')}.`);
    if (!files.some((file) => isModel(file.name))) throw new UploadError(400, 'None of the files is a model: OBJ, GLB, glTF, PLY, STL or a job archive.');
    const steps_ = steps.filter(({ isOff }) => !isOff).length;
    return await batches.take(room, { name: (fields.get('name') || name).slice(0, 120), recipe, steps: steps_, limits: judged, to, files });
  } catch (error) {
    await rm(room.folder, { recursive: true, force: true });
    throw error;
  }
}

/** A file as it comes in: seen under its name only when it is whole. */
async function receive(request: Request, folder: string, name: string, most: number): Promise<void> {
  await mkdir(folder, { recursive: true });
  const part = join(folder, `.${name}.${process.hrtime.bigint()}.part`);
  let bytes = 0;
  request.on('data', (chunk: Buffer) => {
    bytes += chunk.length;
    if (bytes > most) request.destroy();
  });
  try {
    await pipeline(request, createWriteStream(part));
    await rename(part, join(folder, name));
  } catch {
    await rm(part, { force: true });
    throw new UploadError(400, 'The file broke off.');
  }
}

/** Opens a line of events; the returned function says one. */
function openLine(request: Request, response: Response): (event: string, data: unknown) => void {
  request.socket.setTimeout(0);
  response.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-cache, no-transform', 'x-accel-buffering': 'no' });
  response.write('retry: 1000\n\n');
  const timer = setInterval(() => response.write(': here\n\n'), alive);
  response.on('close', () => clearInterval(timer));
  return (event, data) => void response.write(`event: ${event}\ndata: ${JSON.stringify(data)}\n\n`);
}

/** All results of a batch as they are read from the disk, a folder for each model that has several files. */
async function sendZip(batches: Batches, id: string, response: Response): Promise<void> {
  const batch = batches.get(id);
  const body = batches.bodyOf(id);
  if (!batch || !body) {
    gone(response);
    return;
  }
  const found = batch.files.flatMap((file, k) => file.outputs.map((name) => join(batches.outFolder(id, k), name)));
  const bytes = (
    await Promise.all(
      found.map((path) =>
        stat(path).then(
          ({ size }) => size,
          () => 0,
        ),
      ),
    )
  ).reduce((sum, size) => sum + size, 0);
  if (bytes > mostZipped || found.length > mostEntries) {
    response.status(413).json({ sentence: 'The results are too many for one zip: fetch them singly, or from the server’s folder.' });
    return;
  }
  response.attachment(`${safeName(batch.name)}.zip`);
  const zip = new Zip((error, chunk, isLast) => {
    if (error) response.destroy(error);
    else {
      response.write(chunk);
      if (isLast) response.end();
    }
  });
  const add = async (name: string, chunks: AsyncIterable<Uint8Array>) => {
    // results are packed already, or packed by nobody who waits: stored as they are
    const entry = new ZipPassThrough(name);
    zip.add(entry);
    for await (const chunk of chunks) {
      entry.push(new Uint8Array(chunk));
      if (response.writableNeedDrain) await new Promise<void>((go) => response.once('drain', go).once('close', go));
      if (response.destroyed) throw new Error('Nobody reads it any more.');
    }
    entry.push(new Uint8Array(), true);
  };
  try {
    for (const [k, file] of batch.files.entries()) {
      const output = body.files[k]!.output;
      const stem = basename(output, extname(output));
      for (const name of file.outputs) await add(`${stem}/${name}`, createReadStream(join(batches.outFolder(id, k), name)));
    }
    await add('batch.json', one(new TextEncoder().encode(`${JSON.stringify(batch, null, 2)}\n`)));
    zip.end();
  } catch {
    response.destroy();
  }
}

async function* one(bytes: Uint8Array): AsyncIterable<Uint8Array> {
  yield await Promise.resolve(bytes);
}
