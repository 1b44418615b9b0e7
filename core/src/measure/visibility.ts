import type { Mesh } from '../mesh/mesh.ts';
import { ownFrame } from '../mesh/ownFrame.ts';
import { trianglesOf } from '../mesh/triangles.ts';

/**
 * Directions from the model to the eye, one of each pair of opposite ones, spread evenly: what makes these two by any order and sign of their parts, 48 in
 * all, so that they are the same however the axes are named or point. Found by letting them push each other off, as charges would; no source.
 */
const directions: readonly (readonly [number, number, number])[] = [
  [0.93567, 0.24941],
  [0.26893, 0.68105],
].flatMap(([one, two]) =>
  [1, -1].flatMap((u) =>
    [1, -1].flatMap((v) => [[one!, u * two!, v * two!] as const, [two!, u * one!, v * two!] as const, [two!, u * two!, v * one!] as const]),
  ),
);
/** How far above and below the horizon directions count partly as from above and partly as from below: sine of the angle. */
const horizon = 0.1;

type Vector = [number, number, number];

export interface VisibilityOptions {
  /** Cells along each side of the depth raster; default 192. */
  size?: number;
  /** Other parts that stand before it. */
  blockers?: readonly Mesh[];
  /** Seen from here most: directions count by how near they are to this one. Default: all alike. */
  towards?: readonly [number, number, number] | null;
  /** What directions from below count against those from above, with nothing to look from most; default 1: alike. */
  below?: number;
}

/**
 * How often places of the mesh are seen: for each, the share of 0 … 1 of 48 directions round the model from which nothing stands
 * before it. The directions go with the mesh: turning it changes nothing but by `towards` and `below`. Found with a depth raster a direction, so places
 * within about a 200th of the model's size count as one.
 *
 * @param places 3 numbers a place
 * @returns a share a place; an open, flat one is seen from half of all directions
 * O(T + places + raster cells covered).
 */
export function visibleShare(mesh: Mesh, places: Float64Array, options: VisibilityOptions = {}): Float64Array {
  const { size = 192, blockers = [], towards = null, below = 1 } = options;
  const share = new Float64Array(places.length / 3);
  const { axes, centre, radius } = ownFrame(mesh);
  const turned = (x: number, y: number, z: number) => [0, 1, 2].map((d) => x * axes[0][d]! + y * axes[1][d]! + z * axes[2][d]!) as Vector;
  const looked = towards && Math.hypot(...towards) > 0 ? towards.map((x) => x / Math.hypot(...towards)) : null;
  const weightOf = ([x, y, z]: Vector) => {
    if (looked) return 0.02 + Math.max(0, x * looked[0]! + y * looked[1]! + z * looked[2]!) ** 2;
    return below + (1 - below) * Math.max(0, Math.min(1, (y / horizon + 1) / 2));
  };
  // of each direction, then of its opposite
  const weights = directions.flatMap(([x, y, z]) => [weightOf(turned(x, y, z)), weightOf(turned(-x, -y, -z))]);
  const whole = weights.reduce((sum, w) => sum + w, 0);
  const nearest = new Float32Array(size * size);
  const farthest = new Float32Array(size * size);
  const scale = (size - 2) / (2 * radius);
  const bias = 3 / scale;
  const solids = [mesh, ...blockers].map((one) => ({ points: one.points, at: triangleOffsets(one), flat: new Float64Array(one.points.length) }));
  const seen = new Float64Array(places.length);
  for (const [d, [x, y, z]] of directions.entries()) {
    const own = frameOf(x, y, z);
    const frame = [0, 3, 6].flatMap((k) => turned(own[k]!, own[k + 1]!, own[k + 2]!));
    nearest.fill(-Infinity);
    farthest.fill(Infinity);
    for (const { points, at, flat } of solids) {
      project(points, centre, radius, scale, frame, flat);
      fillDepths(at, flat, nearest, farthest, size);
    }
    project(places, centre, radius, scale, frame, seen);
    const [towardsEye, away] = [weights[d * 2]! / whole, weights[d * 2 + 1]! / whole];
    for (let k = 0; k < share.length; k++) {
      const x = Math.max(0, Math.min(size - 1, Math.floor(seen[k * 3]!)));
      const y = Math.max(0, Math.min(size - 1, Math.floor(seen[k * 3 + 1]!)));
      const z = seen[k * 3 + 2]!;
      if (z >= nearest[y * size + x]! - bias) share[k]! += towardsEye;
      if (z <= farthest[y * size + x]! + bias) share[k]! += away;
    }
  }
  return share;
}

/** Where the corners of each triangle begin in the list of points; of a damaged mesh with far more triangles than points, each triangle once. */
function triangleOffsets(mesh: Mesh): Uint32Array {
  const { corners, count } = trianglesOf(mesh);
  const all = Uint32Array.from(corners, (c) => mesh.corners[c]! * 3);
  if (count < mesh.points.length) return all;
  const met = new Set<string>();
  const once: number[] = [];
  for (let t = 0; t < all.length; t += 3) {
    const three = all.slice(t, t + 3);
    const key = three.toSorted().join(' ');
    if (met.has(key)) continue;
    met.add(key);
    once.push(...three);
  }
  return Uint32Array.from(once);
}

/** Places as a view sees them: cells to the right, cells up, units towards the eye. */
function project(
  points: ArrayLike<number>,
  centre: readonly [number, number, number],
  radius: number,
  scale: number,
  frame: number[],
  out: Float64Array,
): void {
  const [a, b, c, d, e, f, g, h, i] = frame as [number, number, number, number, number, number, number, number, number];
  const [cx, cy, cz] = centre;
  for (let k = 0; k < out.length; k += 3) {
    const x = points[k]! - cx;
    const y = points[k + 1]! - cy;
    const z = points[k + 2]! - cz;
    out[k] = (a * x + b * y + c * z + radius) * scale + 1;
    out[k + 1] = (d * x + e * y + f * z + radius) * scale + 1;
    out[k + 2] = g * x + h * y + i * z;
  }
}

/** Right, up and towards-the-eye axes of a view along a direction. */
function frameOf(x: number, y: number, z: number): number[] {
  const helper = Math.abs(y) < 0.9 ? [0, 1, 0] : [1, 0, 0];
  let r = [helper[1]! * z - helper[2]! * y, helper[2]! * x - helper[0]! * z, helper[0]! * y - helper[1]! * x];
  const length = Math.hypot(...r);
  r = r.map((k) => k / length);
  const u = [y * r[2]! - z * r[1]!, z * r[0]! - x * r[2]!, x * r[1]! - y * r[0]!];
  return [...r, ...u, x, y, z];
}

/** The depth nearest to the eye in each cell, and the one nearest to an eye on the other side. */
function fillDepths(at: Uint32Array, flat: Float64Array, nearest: Float32Array, farthest: Float32Array, size: number): void {
  for (let t = 0; t < at.length; t += 3) {
    const a = at[t]!;
    const b = at[t + 1]!;
    const c = at[t + 2]!;
    const ax = flat[a]!,
      ay = flat[a + 1]!,
      bx = flat[b]!,
      by = flat[b + 1]!,
      cx = flat[c]!,
      cy = flat[c + 1]!;
    const twice = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    if (twice === 0) continue;
    const minX = Math.max(0, Math.floor(Math.min(ax, bx, cx)));
    const maxX = Math.min(size - 1, Math.floor(Math.max(ax, bx, cx)));
    const minY = Math.max(0, Math.floor(Math.min(ay, by, cy)));
    const maxY = Math.min(size - 1, Math.floor(Math.max(ay, by, cy)));
    // shares of the corners b and c, from cell to cell
    const bRight = (cy - ay) / twice;
    const bUp = (ax - cx) / twice;
    const cRight = (ay - by) / twice;
    const cUp = (bx - ax) / twice;
    const za = flat[a + 2]!;
    const zb = flat[b + 2]! - za;
    const zc = flat[c + 2]! - za;
    // where a wide one begins and ends in a row, by its three sides, a cell to spare
    const wide = maxX - minX > 8;
    const bothRight = bRight + cRight;
    for (let y = minY; y <= maxY; y++) {
      const fromY = y + 0.5 - ay;
      let first = minX;
      let last = maxX;
      if (wide) {
        const bZero = ax - 0.5 - (bUp * fromY) / bRight;
        const cZero = ax - 0.5 - (cUp * fromY) / cRight;
        const bothOne = ax - 0.5 + (1 - (bUp + cUp) * fromY) / bothRight;
        if (bRight > 0) first = Math.max(first, Math.floor(bZero) - 1);
        else if (bRight < 0) last = Math.min(last, Math.ceil(bZero) + 1);
        if (cRight > 0) first = Math.max(first, Math.floor(cZero) - 1);
        else if (cRight < 0) last = Math.min(last, Math.ceil(cZero) + 1);
        if (bothRight > 0) last = Math.min(last, Math.ceil(bothOne) + 1);
        else if (bothRight < 0) first = Math.max(first, Math.floor(bothOne) - 1);
      }
      for (let x = first; x <= last; x++) {
        const fromX = x + 0.5 - ax;
        const wb = bRight * fromX + bUp * fromY;
        const wc = cRight * fromX + cUp * fromY;
        if (wb < 0 || wc < 0 || wb + wc > 1) continue;
        const z = za + wb * zb + wc * zc;
        const cell = y * size + x;
        if (z > nearest[cell]!) nearest[cell] = z;
        if (z < farthest[cell]!) farthest[cell] = z;
      }
    }
  }
}
