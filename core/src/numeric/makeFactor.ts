import { Cholesky } from './cholesky.ts';
import type { Factor } from './factor.ts';
import { SimdCholesky, simdFits } from './simdCholesky.ts';
import type { Symbolic } from './symbolic.ts';

/** Below this many unknowns the plain code is as fast as the module. */
const small = 48;

/** The fastest factorisation that this machine runs: the SIMD module, or plain code where it is missing or the matrix too large. */
export function makeFactor(symbolic: Symbolic, blockSize: 1 | 2): Factor {
  if (symbolic.size * blockSize >= small && simdFits(symbolic, blockSize)) return new SimdCholesky(symbolic, blockSize);
  return new Cholesky(symbolic, blockSize);
}
