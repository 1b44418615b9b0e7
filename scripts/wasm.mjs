// Builds the SIMD solver (core/assembly) and writes it as a module that browsers, workers, Node and tests load alike.
import { existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { run } from './run.mjs';

const source = 'core/assembly/cholesky.ts';
const binary = 'core/dist/cholesky.wasm';
const target = 'core/src/numeric/simdModule.generated.ts';
if (!existsSync(target) || statSync(target).mtimeMs < statSync(source).mtimeMs) {
  mkdirSync('core/dist', { recursive: true });
  run('npx', ['asc', source, '-O3', '--runtime', 'stub', '--importMemory', '--maximumMemory', '65536', '--enable', 'simd', '--noAssert', '-o', binary]);
  writeFileSync(target, `export const simdModule = '${readFileSync(binary).toString('base64')}';\n`);
}
