import { createHash } from 'node:crypto';
import { access, mkdir, readFile } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { basename, join } from 'node:path';
import { z } from 'zod';
import { JigError, readLimits, readRecipe } from '@jig-peel/core';
import { putInPlace, readText } from './files.ts';
import { outputsOf, type FileDone } from './recipeFile.ts';
import { RecipeThread, threadEnded } from './thread.ts';

export interface BatchOptions {
  output: string;
  /** Files at once; default: one a core. */
  parallel?: number;
  limits?: string;
  to?: string;
  /** Do those again, too, that are done. */
  again?: boolean;
}

export interface BatchReport {
  files: (FileDone & { skipped?: boolean })[];
  done: number;
  skipped: number;
  failed: number;
  /** Files of which a limit is not kept. */
  missed: number;
  seconds: number;
}

/** What is kept of a batch in its folder, to go on from. */
const recordSchema = z.object({
  jigPeelRun: z.literal(1),
  /** Hash of recipe and limits: with others everything is done again. */
  recipe: z.string(),
  files: z.record(
    z.string(),
    z.object({ hash: z.string(), ok: z.boolean(), words: z.string(), files: z.array(z.string()), missed: z.array(z.string()), seconds: z.number() }),
  ),
});
type Record_ = z.infer<typeof recordSchema>;
const recordName = 'jig-run.json';

const hashOf = (...texts: (string | Uint8Array | null)[]) => {
  const hash = createHash('sha256');
  for (const text of texts) hash.update(text ?? '').update('\0');
  return hash.digest('hex');
};

async function recordIn(folder: string, recipe: string): Promise<Record_> {
  const none: Record_ = { jigPeelRun: 1, recipe, files: {} };
  try {
    const found = recordSchema.parse(JSON.parse(await readFile(join(folder, recordName), 'utf8')));
    return found.recipe === recipe ? found : none;
  } catch {
    // none yet, or one that cannot be read: everything is done again
    return none;
  }
}

const isThere = (path: string) =>
  access(path).then(
    () => true,
    () => false,
  );

/**
 * Works many files through a recipe, several at once, each in a thread of its own that outlives it: a bad file, and a thread that dies of one, is told and the
 * rest goes on. What is done is kept in the folder, so that the same call goes on where it stopped; a file that changed since is done again.
 *
 * @param told after each file
 * @throws JigError for a recipe, limits or folder that cannot be used
 */
export async function runBatch(
  recipePath: string,
  files: readonly string[],
  options: BatchOptions,
  told: (done: FileDone, at: number) => void,
): Promise<BatchReport> {
  const start = performance.now();
  const recipe = await readText(recipePath);
  readRecipe(recipe);
  const limits = options.limits === undefined ? null : await readText(options.limits);
  if (limits !== null) readLimits(limits);
  await mkdir(options.output, { recursive: true }).catch((error: NodeJS.ErrnoException) => {
    throw new JigError('not-found', `The folder cannot be made (${error.code}).`, options.output);
  });
  const key = hashOf(recipe, limits, options.to ?? '');
  const record = await recordIn(options.output, key);
  const outputs = outputsOf(files, options.output, options.to);
  const found: (FileDone & { skipped?: boolean })[] = [];
  let writing = Promise.resolve();
  let next = 0;

  const keep = (output: string, hash: string, { ok, words, files: written, missed, seconds }: FileDone) => {
    record.files[basename(output)] = { hash, ok, words, files: written, missed, seconds };
    const text = `${JSON.stringify(record, null, 2)}\n`;
    // one after the other: each is the whole record
    writing = writing.then(() => putInPlace([{ path: join(options.output, recordName), bytes: text, named: true }], true));
    return writing;
  };

  const hand = async () => {
    let thread: RecipeThread | null = null;
    while (next < files.length) {
      const at = next++;
      const file = files[at]!;
      const output = outputs[at]!;
      // a file that is not there fails like any other
      const hash = await readFile(file).then(
        (bytes) => hashOf(bytes),
        () => '',
      );
      const known = options.again ? undefined : record.files[basename(output)];
      if (known?.ok && known.hash === hash && (await Promise.all(known.files.map((name) => isThere(join(options.output, name))))).every(Boolean)) {
        found[at] = { file, ...known, skipped: true };
        told(found[at], at);
        continue;
      }
      thread ??= new RecipeThread();
      const done = await thread.work({ file, output, recipe, limits });
      if (!done) thread = null;
      found[at] = done ?? { file, ...threadEnded };
      await keep(output, hash, found[at]);
      told(found[at], at);
    }
    await thread?.end();
  };
  const hands = Math.max(1, Math.min(options.parallel ?? availableParallelism(), files.length));
  await Promise.all(Array.from({ length: hands }, hand));
  return {
    files: found,
    done: found.filter(({ ok, skipped }) => ok && !skipped).length,
    skipped: found.filter(({ skipped }) => skipped).length,
    failed: found.filter(({ ok }) => !ok).length,
    missed: found.filter(({ ok, missed }) => ok && missed.length > 0).length,
    seconds: Math.round(performance.now() - start) / 1000,
  };
}
