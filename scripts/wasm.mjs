// Builds the SIMD modules (core/assembly) and writes them as modules that browsers, workers, Node and tests load alike.
import { existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { run } from './run.mjs';

/** @param features beyond the plain ones @returns the binary in base64 */
function build(source, name, features) {
  const binary = `core/dist/${name}.wasm`;
  const enabled = ['simd', ...features].flatMap((feature) => ['--enable', feature]);
  run('npx', ['asc', source, '-O3', '--runtime', 'stub', '--importMemory', '--maximumMemory', '65536', ...enabled, '--noAssert', '-o', binary]);
  return readFileSync(binary).toString('base64');
}

/** @param binaries by the name of what is exported: name of the binary, features */
function write(source, target, binaries) {
  if (existsSync(target) && [source, 'core/assembly/random.ts', 'scripts/wasm.mjs'].every((file) => statSync(target).mtimeMs >= statSync(file).mtimeMs)) return;
  mkdirSync('core/dist', { recursive: true });
  const lines = Object.entries(binaries).map(([exported, [name, features]]) => `export const ${exported} = '${build(source, name, features)}';\n`);
  writeFileSync(target, lines.join(''));
}

// the second one multiplies and adds in one instruction: not every engine has that
write('core/assembly/cholesky.ts', 'core/src/numeric/simdModule.generated.ts', {
  simdModule: ['cholesky', []],
  fusedModule: ['cholesky-fused', ['relaxed-simd']],
});
write('core/assembly/packing.ts', 'core/src/pack/packModule.generated.ts', { packModule: ['packing', []] });
write('core/assembly/sampling.ts', 'core/src/pack/sampleModule.generated.ts', { sampleModule: ['sampling', []] });
write('core/assembly/cells.ts', 'core/src/pack/cellsModule.generated.ts', { cellsModule: ['cells', []] });
write('core/assembly/surface.ts', 'core/src/images/surface/surfaceModule.generated.ts', { surfaceModule: ['surface', []] });
