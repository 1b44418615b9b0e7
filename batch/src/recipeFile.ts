import { basename, extname, join } from 'node:path';
import { JigError, judgedSheets, readLimits, readRecipe, runRecipe } from '@jig-peel/core';
import { reportJson } from '@jig-peel/core/formats/checkReport';
import { putInPlace, readJob, readyJob } from './files.ts';

/** One file of a batch. */
export interface FileTask {
  file: string;
  /** Where it goes; its ending says the format. */
  output: string;
  /** The texts of the recipe, and of limits to judge by; null: the job's own. */
  recipe: string;
  limits: string | null;
}

/** What became of it. */
export interface FileDone {
  file: string;
  ok: boolean;
  /** In one sentence. */
  words: string;
  /** Names of the files written. */
  files: string[];
  /** Limits that are not kept. */
  missed: string[];
  seconds: number;
}

/** Works one file through a recipe: read, all steps, judged, written and read back, with a report beside it. Never throws. */
export async function workFile({ file, output, recipe, limits }: FileTask): Promise<FileDone> {
  const start = performance.now();
  const done = (ok: boolean, words: string, rest: Partial<FileDone> = {}): FileDone => ({
    file,
    ok,
    words,
    files: [],
    missed: [],
    seconds: Math.round(performance.now() - start) / 1000,
    ...rest,
  });
  try {
    const job = await readJob(file);
    const { job: worked, done: steps, stopped } = await runRecipe(job, readRecipe(recipe));
    if (stopped) return done(false, `Stopped at step ${stopped.step} (${stopped.operation}${stopped.part ? `, ${stopped.part}` : ''}): ${stopped.why}`);
    const asked = limits === null ? { name: 'the job’s limits', limits: worked.settings.limits } : readLimits(limits);
    const sheets = judgedSheets(worked, asked.limits);
    const report = `${output.slice(0, -extname(output).length)}.report.json`;
    const made = new Date().toISOString().slice(0, 10);
    const { files } = await readyJob(worked, output);
    await putInPlace([...files, { path: report, bytes: reportJson({ job: basename(file), made, sheets, limitsName: asked.name }), named: true }]);
    const missed = sheets.flatMap(({ verdicts }) => verdicts.filter(({ passed }) => !passed).map(({ key }) => key));
    return done(true, `${steps.length} steps`, { files: [...files.map(({ path }) => basename(path)), basename(report)], missed: [...new Set(missed)] });
  } catch (error) {
    return done(false, error instanceof JigError ? error.sentence : `Something went wrong: ${(error as Error).message}`);
  }
}

const endings: Record<string, string> = { '.stl': '.obj', '.gltf': '.glb' };

/** Where each file goes: its own name in the folder, in a format that can be written; of two alike the second gets a number. */
export function outputsOf(files: readonly string[], folder: string, to: string | undefined): string[] {
  const taken = new Set<string>();
  return files.map((file) => {
    const own = extname(file).toLowerCase();
    const ending = to ? `.${to}` : (endings[own] ?? own);
    const stem = basename(file, extname(file));
    let name = stem;
    for (let k = 2; taken.has(name.toLowerCase()); k++) name = `${stem}-${k}`;
    taken.add(name.toLowerCase());
    return join(folder, `${name}${ending}`);
  });
}
