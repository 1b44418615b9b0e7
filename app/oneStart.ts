import { build, type Plugin, type Rollup, type UserConfig } from 'vite';

type Output = Rollup.RollupOutput['output'];

/** Modules of the chunks that an entry imports at once. */
function atOnceIn(output: Output): Set<string> {
  const chunks = new Map(output.flatMap((one) => (one.type === 'chunk' ? [[one.fileName, one] as const] : [])));
  const seen = new Set<string>();
  const modules = new Set<string>();
  const open = [...chunks.values()].filter(({ isEntry }) => isEntry).map(({ fileName }) => fileName);
  for (let name = open.pop(); name !== undefined; name = open.pop()) {
    const chunk = chunks.get(name);
    if (!chunk || seen.has(name)) continue;
    seen.add(name);
    open.push(...chunk.imports);
    for (const id of chunk.moduleIds) modules.add(id);
  }
  return modules;
}

/**
 * What a worker imports at once comes in one file: cut up by what its tasks share it would be some sixty, each fetched only when the one that imports it is
 * there, which takes a worker's start several times as long. What is loaded when asked for stays apart. Which modules these are is found by bundling the
 * worker once without it: of what the modules import, much is not used at once.
 */
export function oneStart(config: Pick<UserConfig, 'resolve' | 'plugins'>): Plugin {
  let atOnce = new Set<string>();
  return {
    name: 'one-start',
    apply: 'build',
    async buildStart({ input }) {
      const made = await build({
        ...config,
        configFile: false,
        logLevel: 'silent',
        build: { write: false, minify: false, target: 'es2022', modulePreload: false, rollupOptions: { input, output: { format: 'es' } } },
      });
      atOnce = atOnceIn((Array.isArray(made) ? made.flatMap(({ output }) => output) : 'output' in made ? made.output : []) as Output);
    },
    outputOptions: (options) => ({ ...options, manualChunks: (id: string) => (atOnce.has(id) ? 'start' : undefined) }),
  };
}
