/** Numbers that look random, the same after the same seed (xorshift, 32 bits). */
export let seed: u32 = 1;

export function setSeed(number: u32): void {
  seed = number | 1;
}

// @ts-ignore: decorator
@inline
export function random(): u32 {
  seed ^= seed << 13;
  seed ^= seed >> 17;
  seed ^= seed << 5;
  return seed;
}

/** A whole number from 0 to less than a limit. */
// @ts-ignore: decorator
@inline
export function below(limit: i32): i32 {
  return <i32>(((random() as u64) * (limit as u64)) >> 32);
}
