import busboy from 'busboy';
import type { Request } from 'express';
import { createWriteStream } from 'node:fs';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { freshName, safeName } from './batches.ts';

export interface UploadLimits {
  /** Bytes of one file, and of all of one batch. */
  fileBytes: number;
  batchBytes: number;
  files: number;
}

export interface Upload {
  fields: Map<string, string>;
  files: { name: string; bytes: number }[];
}

/** What is wrong with an upload, in a sentence. */
export class UploadError extends Error {
  readonly status: number;
  constructor(status: number, sentence: string) {
    super(sentence);
    this.status = status;
  }
}

const megabytes = (bytes: number) => `${Math.round(bytes / 1e6).toLocaleString('en')} MB`;

/**
 * Writes the files of a form into a folder as they come in, under safe names; nothing is held in memory.
 * @throws UploadError where it is no form, breaks off, or is over a limit
 */
export function takeUpload(request: Request, folder: string, limits: UploadLimits): Promise<Upload> {
  return new Promise((resolve, reject) => {
    let parser;
    try {
      parser = busboy({
        headers: request.headers,
        defParamCharset: 'utf8',
        limits: { fileSize: limits.fileBytes, files: limits.files, fields: 8, fieldSize: 8e6, parts: limits.files + 8 },
      });
    } catch {
      reject(new UploadError(400, 'This is no form with files.'));
      return;
    }
    const fields = new Map<string, string>();
    const files: Upload['files'] = [];
    const taken = new Set<string>();
    const writing: Promise<void>[] = [];
    let total = 0;
    const fail = (error: UploadError) => {
      request.unpipe(parser);
      // the rest is read away, so that the answer gets through
      request.resume();
      void Promise.allSettled(writing).then(() => reject(error));
      // not within its own call, which goes on with what it has
      setImmediate(() => parser.destroy());
    };
    parser.on('field', (name, value, { valueTruncated }) => {
      if (valueTruncated) fail(new UploadError(413, `“${name}” is too long.`));
      else fields.set(name, value);
    });
    parser.on('file', (_field, stream, { filename }) => {
      const name = freshName(safeName(filename ?? ''), taken);
      taken.add(name.toLowerCase());
      const file = { name, bytes: 0 };
      files.push(file);
      stream.on('data', (chunk: Buffer) => {
        file.bytes += chunk.length;
        total += chunk.length;
        if (total > limits.batchBytes)
          fail(new UploadError(413, `The files together are larger than ${megabytes(limits.batchBytes)}. Make several batches of them.`));
      });
      stream.on('limit', () =>
        fail(new UploadError(413, `“${name}” is larger than ${megabytes(limits.fileBytes)}, which is the most that one file may have here.`)),
      );
      const written = pipeline(stream, createWriteStream(join(folder, name), { flags: 'wx' }));
      written.catch(() => {});
      writing.push(written);
    });
    for (const limit of ['filesLimit', 'partsLimit'] as const)
      parser.on(limit, () => fail(new UploadError(413, `More than ${limits.files.toLocaleString('en')} files. Make several batches of them.`)));
    parser.on('error', () => fail(new UploadError(400, 'The upload cannot be read.')));
    request.on('aborted', () => fail(new UploadError(400, 'The upload broke off.')));
    parser.on('close', () => {
      Promise.all(writing).then(
        () => resolve({ fields, files }),
        () => reject(new UploadError(507, 'The upload could not be written to the server’s disk.')),
      );
    });
    request.pipe(parser);
  });
}
