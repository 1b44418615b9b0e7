import { setFlagsFromString } from 'node:v8';

/** Node 20 has fused SIMD instructions behind a flag, later ones as browsers have them; without them the solver takes its other binary. Call before the first solve. */
export function enableFused(): void {
  if (Number(process.versions.node.split('.')[0]) < 22) setFlagsFromString('--experimental-wasm-relaxed-simd');
}
