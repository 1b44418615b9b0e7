import { setFlagsFromString } from 'node:v8';
import { describe, expect, it } from 'vitest';
import { bumpySystem } from './testSystems.ts';

// newer engines have these instructions as they are; Node 20 has them behind a flag
if (Number(process.versions.node.split('.')[0]) < 22) setFlagsFromString('--experimental-wasm-relaxed-simd');

describe('the binary that multiplies and adds in one instruction', () => {
  it('is taken where the engine has it, and gives the numbers of plain code but for rounding', async () => {
    const { SimdCholesky, simdKind } = await import('./simdCholesky.ts');
    const { Cholesky } = await import('./cholesky.ts');
    expect(simdKind()).toBe('fused');
    for (const block of [1, 2] as const) {
      const { symbolic, values, rhs } = bumpySystem(40, block);
      const [fused, plain] = [new SimdCholesky(symbolic, block), new Cholesky(symbolic, block)];
      fused.factorise(values);
      plain.factorise(values);
      const [x, y] = [fused.solve(rhs), plain.solve(rhs)];
      const size = Math.max(...y.map(Math.abs));
      let most = 0;
      for (let k = 0; k < x.length; k++) most = Math.max(most, Math.abs(x[k]! - y[k]!));
      expect(most / size).toBeLessThan(1e-11);
      expect(size).toBeGreaterThan(0);
      fused.release();
    }
  });
});
