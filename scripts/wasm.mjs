// Builds the SIMD solver (core/assembly) and writes it as a module that browsers, workers, Node and tests load alike.
import { existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { run } from './run.mjs';

const source = 'core/assembly/cholesky.ts';
const target = 'core/src/numeric/simdModule.generated.ts';
/** @param features beyond the plain ones @returns the binary in base64 */
function build(name, features) {
  const binary = `core/dist/${name}.wasm`;
  const enabled = ['simd', ...features].flatMap((feature) => ['--enable', feature]);
  run('npx', ['asc', source, '-O3', '--runtime', 'stub', '--importMemory', '--maximumMemory', '65536', ...enabled, '--noAssert', '-o', binary]);
  return readFileSync(binary).toString('base64');
}
if (!existsSync(target) || [source, 'scripts/wasm.mjs'].some((file) => statSync(target).mtimeMs < statSync(file).mtimeMs)) {
  mkdirSync('core/dist', { recursive: true });
  // the second one multiplies and adds in one instruction: not every engine has that
  writeFileSync(target, `export const simdModule = '${build('cholesky', [])}';\nexport const fusedModule = '${build('cholesky-fused', ['relaxed-simd'])}';\n`);
}
