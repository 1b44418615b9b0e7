import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { build, type Plugin } from 'vite';

/** Builds the service worker after the app, with the list of all that it keeps. */
export function offline(root: string): Plugin {
  const out = join(root, 'dist');
  return {
    name: 'offline',
    apply: 'build',
    async closeBundle() {
      const files = readdirSync(out, { recursive: true, withFileTypes: true })
        .filter((entry) => entry.isFile() && entry.name !== 'serviceWorker.js')
        .map((entry) => join(entry.parentPath, entry.name))
        .sort();
      const kept = files.map((path) => {
        const url = `/${relative(out, path).replaceAll('\\', '/')}`;
        // names in assets hold their hash
        return { url, revision: url.startsWith('/assets/') ? null : createHash('sha256').update(readFileSync(path)).digest('hex').slice(0, 16) };
      });
      await build({
        configFile: false,
        root,
        publicDir: false,
        logLevel: 'warn',
        define: { __KEPT_FILES__: JSON.stringify(kept), 'process.env.NODE_ENV': '"production"' },
        build: {
          outDir: out,
          emptyOutDir: false,
          target: 'es2022',
          lib: { entry: join(root, 'serviceWorker/serviceWorker.ts'), formats: ['iife'], name: 'serviceWorker', fileName: () => 'serviceWorker.js' },
        },
      });
    },
  };
}
