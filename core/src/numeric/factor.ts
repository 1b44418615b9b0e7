import { Cholesky } from './cholesky.ts';
import { SimdCholesky, simdFits } from './simdCholesky.ts';
import type { Symbolic } from './symbolic.ts';

/** A Cholesky factorisation that can be made again with new values; see Cholesky for the shapes. */
export interface Factor {
  factorise(values: Float64Array): void;
  solve(rhs: Float64Array, sides?: number): Float64Array;
  /** Gives its memory to the next factorisation; the factor must not be used after that. */
  release(): void;
}

/** Below this many unknowns the plain code is as fast as the module. */
const SMALL = 48;

/** The fastest factorisation that this machine runs: the SIMD module, or plain code where it is missing or the matrix too large. */
export function makeFactor(symbolic: Symbolic, blockSize: 1 | 2): Factor {
  if (symbolic.size * blockSize >= SMALL && simdFits(symbolic, blockSize)) return new SimdCholesky(symbolic, blockSize);
  return new Cholesky(symbolic, blockSize);
}
