import type { Piece } from './piece.ts';

/** A turn, size and move of the plane: (x, y) → (a x − b y + x0, b x + a y + y0). */
export interface Similarity {
  a: number;
  b: number;
  x: number;
  y: number;
}

/**
 * The turn that makes the model's up (+y; for pieces that lie level, away from the viewer of a model that looks to +z) run up the
 * sheet. Each triangle's own up direction, carried over by its map, is weighted by how steep it stands and by its area. O(T).
 */
export function uprightTurn(piece: Pick<Piece, 'positions' | 'triangles'>, uv: Float64Array): { cos: number; sin: number } {
  const upward = meanDirection(piece, uv, 0, 1, 0);
  const inward = meanDirection(piece, uv, 0, 0, -1);
  const use = Math.hypot(...upward) >= 0.35 * Math.hypot(...inward) ? upward : inward;
  const length = Math.hypot(...use);
  if (!(length > 0)) return { cos: 1, sin: 0 };
  // (use) shall become (0, 1)
  return { cos: use[1] / length, sin: use[0] / length };
}

/** The mean image on the sheet of a direction in space. */
export function meanDirection(
  { positions, triangles }: Pick<Piece, 'positions' | 'triangles'>,
  uv: Float64Array,
  dx: number,
  dy: number,
  dz: number,
): [number, number] {
  let sumU = 0;
  let sumV = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const [i, j, k] = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!];
    const ax = positions[j * 3]! - positions[i * 3]!,
      ay = positions[j * 3 + 1]! - positions[i * 3 + 1]!,
      az = positions[j * 3 + 2]! - positions[i * 3 + 2]!;
    const bx = positions[k * 3]! - positions[i * 3]!,
      by = positions[k * 3 + 1]! - positions[i * 3 + 1]!,
      bz = positions[k * 3 + 2]! - positions[i * 3 + 2]!;
    // coordinates of the direction in the basis of the two edges (least squares)
    const aa = ax * ax + ay * ay + az * az;
    const ab = ax * bx + ay * by + az * bz;
    const bb = bx * bx + by * by + bz * bz;
    const area2 = aa * bb - ab * ab;
    if (!(area2 > 1e-30 * aa * bb)) continue;
    const da = ax * dx + ay * dy + az * dz;
    const db = bx * dx + by * dy + bz * dz;
    const s = (da * bb - db * ab) / area2;
    const r = (db * aa - da * ab) / area2;
    const weight = Math.sqrt(area2);
    sumU += weight * (s * (uv[j * 2]! - uv[i * 2]!) + r * (uv[k * 2]! - uv[i * 2]!));
    sumV += weight * (s * (uv[j * 2 + 1]! - uv[i * 2 + 1]!) + r * (uv[k * 2 + 1]! - uv[i * 2 + 1]!));
  }
  return [sumU, sumV];
}

/**
 * The turn and move (size given) that bring `uv` nearest to `target`, vertices weighted by `weight`: least squares in the plane.
 * O(n).
 */
export function nearestPlacement(uv: Float64Array, target: Float64Array, weight: Float64Array, size: number): Similarity {
  const { fx, fy, tx, ty } = middles(uv, target, weight);
  let c = 0;
  let s = 0;
  for (let k = 0; k < weight.length; k++) {
    const px = uv[k * 2]! - fx,
      py = uv[k * 2 + 1]! - fy;
    const qx = target[k * 2]! - tx,
      qy = target[k * 2 + 1]! - ty;
    c += weight[k]! * (px * qx + py * qy);
    s += weight[k]! * (px * qy - py * qx);
  }
  const length = Math.hypot(c, s);
  const a = length > 0 ? (c / length) * size : size;
  const b = length > 0 ? (s / length) * size : 0;
  return { a, b, x: tx - (a * fx - b * fy), y: ty - (b * fx + a * fy) };
}

/** The move that brings the weighted middle of `uv`, turned and sized by (a, b), onto that of `target`. O(n) */
export function placedAt(uv: Float64Array, target: Float64Array, weight: Float64Array, a: number, b: number): Similarity {
  const { fx, fy, tx, ty } = middles(uv, target, weight);
  return { a, b, x: tx - (a * fx - b * fy), y: ty - (b * fx + a * fy) };
}

/** Weighted middles of two maps. O(n) */
function middles(uv: Float64Array, target: Float64Array, weight: Float64Array) {
  let [total, fx, fy, tx, ty] = [0, 0, 0, 0, 0];
  for (let k = 0; k < weight.length; k++) {
    const w = weight[k]!;
    total += w;
    fx += w * uv[k * 2]!;
    fy += w * uv[k * 2 + 1]!;
    tx += w * target[k * 2]!;
    ty += w * target[k * 2 + 1]!;
  }
  return { fx: fx / total, fy: fy / total, tx: tx / total, ty: ty / total };
}
