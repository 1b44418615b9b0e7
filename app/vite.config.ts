import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';
import { noEval } from './noEval.ts';
import { offline } from './offline.ts';
import { oneStart } from './oneStart.ts';
import { operationFacts } from './operationFacts.ts';

const isolation = { 'Cross-Origin-Opener-Policy': 'same-origin', 'Cross-Origin-Embedder-Policy': 'require-corp' };

/** What every page styles with: in one piece it is smaller than cut into the pieces that single cards share. */
const base =
  /node_modules\/(@emotion|@mui\/(styled-engine|system|private-theming|utils|material\/(esm\/)?(utils|styles|ButtonBase|GlobalStyles|CircularProgress|SvgIcon|Button|Box|Typography|Paper|IconButton)))\//;

// its build for browsers with classes and async functions, a tenth smaller
const resolve = { alias: [{ find: /^dexie$/, replacement: 'dexie/dist/modern/dexie.mjs' }] };

export default defineConfig({
  root: import.meta.dirname,
  plugins: [react(), noEval(), operationFacts(), offline(import.meta.dirname)],
  server: { headers: isolation },
  preview: { headers: isolation },
  resolve,
  worker: { format: 'es', plugins: () => [noEval(), oneStart({ resolve, plugins: [noEval()] })] },
  build: {
    target: 'es2022',
    modulePreload: {
      polyfill: false,
      // what the bench imports is fetched beside it; small cards and dialogs go without a list of theirs, which every page would carry
      resolveDependencies: (file, deps) => (/BenchPage|index-/.test(file) ? deps : deps.filter((name) => name.endsWith('.css'))),
    },
    chunkSizeWarningLimit: 1600,
    rollupOptions: {
      output: {
        manualChunks: (id: string) => (base.test(id) ? 'base' : undefined),
      },
    },
  },
  optimizeDeps: { include: ['comlink', 'three', '@react-three/fiber', 'three-mesh-bvh', '@gltf-transform/core', '@gltf-transform/extensions'] },
});
