/** The turn and shift that bring places onto others best, and how far off the worst of them stays. */
export interface RigidFit {
  /** x' = a·x − s·b·y + e, y' = b·x + s·a·y + f with s = −1 where it mirrors: as u' = m0·u + m2·v + m4, v' = m1·u + m3·v + m5. */
  readonly affine: readonly [number, number, number, number, number, number];
  /** Largest distance left, in the units of the places. */
  readonly largest: number;
}

/**
 * Least squares over turns and shifts, no change of size (in the plane the Procrustes problem is one quotient of complex numbers: P. Schönemann, 1966; from
 * memory). @param from, to 2 numbers a place, as many @param mirror turns it over first. O(places)
 */
export function rigidFit(from: Float64Array, to: Float64Array, mirror: boolean): RigidFit {
  const n = from.length / 2;
  const s = mirror ? -1 : 1;
  let [fx, fy, tx, ty] = [0, 0, 0, 0];
  for (let k = 0; k < from.length; k += 2) {
    fx += from[k]! / n;
    fy += (s * from[k + 1]!) / n;
    tx += to[k]! / n;
    ty += to[k + 1]! / n;
  }
  let [re, im] = [0, 0];
  for (let k = 0; k < from.length; k += 2) {
    const [x, y] = [from[k]! - fx, s * from[k + 1]! - fy];
    const [u, v] = [to[k]! - tx, to[k + 1]! - ty];
    re += x * u + y * v;
    im += x * v - y * u;
  }
  const long = Math.hypot(re, im);
  const [a, b] = long > 0 ? [re / long, im / long] : [1, 0];
  const affine = [a, b, -s * b, s * a, tx - a * fx + b * fy, ty - b * fx - a * fy] as const;
  let largest = 0;
  for (let k = 0; k < from.length; k += 2) {
    const x = affine[0] * from[k]! + affine[2] * from[k + 1]! + affine[4] - to[k]!;
    const y = affine[1] * from[k]! + affine[3] * from[k + 1]! + affine[5] - to[k + 1]!;
    largest = Math.max(largest, Math.hypot(x, y));
  }
  return { affine, largest };
}
