// The programs that run in Node (command line, server, their threads), each made into one file: they start in a quarter of the time that a loader of TypeScript takes.
import { mkdirSync, readdirSync, renameSync, statSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { threadId } from 'node:worker_threads';

const root = fileURLToPath(new URL('..', import.meta.url));
/** Two folders below the root, as the sources are: what they find by a path relative to themselves is found from here, too. */
const folder = join(root, 'dist', 'programs');
const programs = {
  jig: 'cli/src/main.ts',
  server: 'server/src/main.ts',
  packThread: 'cli/src/packThread.ts',
  bakeThread: 'cli/src/bakeThread.ts',
  recipeThread: 'batch/src/recipeThread.ts',
};
const sources = ['core', 'batch', 'cli', 'server'].map((name) => join(root, name, 'src'));
const fileOf = (name) => join(folder, `${name}.mjs`);

/** Ms of the newest change below a folder: of its files, and of folders, which change where a file goes. */
function newestIn(path) {
  let newest = statSync(path).mtimeMs;
  for (const entry of readdirSync(path, { withFileTypes: true })) {
    const below = join(path, entry.name);
    newest = Math.max(newest, entry.isDirectory() ? newestIn(below) : statSync(below).mtimeMs);
  }
  return newest;
}

function isOld() {
  const made = Object.keys(programs).map((name) => statSync(fileOf(name), { throwIfNoEntry: false })?.mtimeMs ?? 0);
  const installed = statSync(join(root, 'node_modules', '.package-lock.json'), { throwIfNoEntry: false })?.mtimeMs ?? 0;
  return Math.min(...made) < Math.max(installed, statSync(fileURLToPath(import.meta.url)).mtimeMs, ...sources.map(newestIn));
}

/** Makes the programs; whoever reads one meanwhile has the former or the new one, never half of one. */
async function make() {
  const { build } = await import('esbuild');
  const { outputFiles } = await build({
    absWorkingDir: root,
    entryPoints: Object.entries(programs).map(([out, source]) => ({ in: join(root, source), out })),
    bundle: true,
    write: false,
    // modules that register something when they are read are kept, whatever the packages say
    ignoreAnnotations: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    outdir: folder,
    outExtension: { '.js': '.mjs' },
    logLevel: 'error',
    plugins: [
      {
        name: 'what is installed stays where it is',
        setup({ onResolve }) {
          onResolve({ filter: /^[^./]/ }, ({ path, kind }) => (kind === 'entry-point' || path.startsWith('@jig-peel/') ? null : { path, external: true }));
        },
      },
    ],
  });
  mkdirSync(folder, { recursive: true });
  for (const { path, contents } of outputFiles) {
    const fresh = `${path}.${process.pid}.${threadId}`;
    writeFileSync(fresh, contents);
    renameSync(fresh, join(folder, basename(path)));
  }
}

/** @returns the path of a program, made from the sources as they are now. @param name a key of `programs` */
export async function programFile(name) {
  if (isOld()) await make();
  return fileOf(name);
}
