/** A Cholesky factorisation that can be made again with new values; see Cholesky for the shapes. */
export interface Factor {
  factorise(values: Float64Array): void;
  solve(rhs: Float64Array, sides?: number): Float64Array;
  /** Gives its memory to the next factorisation; the factor must not be used after that. */
  release(): void;
}
