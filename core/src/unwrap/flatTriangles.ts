/**
 * Each triangle laid in its own plane with its true edge lengths: corner 0 at (0, 0), corner 1 at (x1, 0), corner 2 at (x2, y2), 3 numbers
 * a triangle, and the cotangents of its three angles. Needles and triangles without area are given a little height, so that every
 * solver can live with them: that is said by `thin`.
 */
export interface FlatTriangles {
  count: number;
  /** x1, x2, y2 of each triangle. */
  shape: Float64Array;
  /** cot at corner 0, 1, 2 of each triangle. */
  cot: Float64Array;
  /** Area of each triangle as laid. */
  area: Float64Array;
  thin: number;
}

/** Least height of a triangle, as a share of its longest edge. */
const leastHeight = 1e-5;

/** O(T). */
export function flatTriangles(positions: Float64Array, triangles: Uint32Array): FlatTriangles {
  const count = triangles.length / 3;
  const shape = new Float64Array(count * 3);
  const cot = new Float64Array(count * 3);
  const area = new Float64Array(count);
  let thin = 0;
  for (let t = 0; t < count; t++) {
    const a = triangles[t * 3]! * 3;
    const b = triangles[t * 3 + 1]! * 3;
    const c = triangles[t * 3 + 2]! * 3;
    const ux = positions[b]! - positions[a]!;
    const uy = positions[b + 1]! - positions[a + 1]!;
    const uz = positions[b + 2]! - positions[a + 2]!;
    const vx = positions[c]! - positions[a]!;
    const vy = positions[c + 1]! - positions[a + 1]!;
    const vz = positions[c + 2]! - positions[a + 2]!;
    let x1 = Math.sqrt(ux * ux + uy * uy + uz * uz);
    const longest = Math.sqrt(Math.max(x1 * x1, vx * vx + vy * vy + vz * vz, (vx - ux) ** 2 + (vy - uy) ** 2 + (vz - uz) ** 2));
    let x2: number;
    let y2: number;
    if (longest === 0) {
      x1 = 1e-12;
      x2 = 0.5e-12;
      y2 = 0.866e-12;
      thin++;
    } else {
      const nx = uy * vz - uz * vy;
      const ny = uz * vx - ux * vz;
      const nz = ux * vy - uy * vx;
      const twice = Math.sqrt(nx * nx + ny * ny + nz * nz);
      if (x1 < longest * leastHeight) {
        x1 = longest * leastHeight;
        x2 = 0;
        y2 = longest;
        thin++;
      } else {
        x2 = (ux * vx + uy * vy + uz * vz) / x1;
        y2 = twice / x1;
        const least = longest * leastHeight * (longest / x1);
        if (y2 < least) {
          y2 = least;
          thin++;
        }
      }
    }
    shape[t * 3] = x1;
    shape[t * 3 + 1] = x2;
    shape[t * 3 + 2] = y2;
    const twiceArea = x1 * y2;
    area[t] = twiceArea / 2;
    cot[t * 3] = x2 / y2;
    cot[t * 3 + 1] = (x1 - x2) / y2;
    cot[t * 3 + 2] = (x2 * (x2 - x1) + y2 * y2) / twiceArea;
  }
  return { count, shape, cot, area, thin };
}
