import { trianglesOf } from '../mesh/triangles.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { contours, type Loops } from './contours.ts';

/** A plane in space that things are seen against: its own x along `right`, y along `up`, both from `origin`. */
export interface Plane {
  origin: readonly number[];
  right: readonly number[];
  up: readonly number[];
}

/** Cells of the grid along the longer side, and samples a cell each way: its border is right to about a tenth of a cell. */
const cells = 480;
const fine = 4;

/**
 * The outline of faces as they are seen square to a plane, near and far ones alike: on a fine grid of what they cover. O(triangles + cells they cover)
 * @returns lines in units of the model along the plane's axes
 */
export function silhouette(mesh: Mesh, faces: ArrayLike<number>, { origin, right, up }: Plane): Loops {
  const triangles = trianglesOf(mesh);
  const { points, corners } = mesh;
  const flat = new Float64Array((points.length / 3) * 2);
  const along = (p: number, axis: readonly number[]) =>
    (points[p]! - origin[0]!) * axis[0]! + (points[p + 1]! - origin[1]!) * axis[1]! + (points[p + 2]! - origin[2]!) * axis[2]!;
  let [left, low, far, high] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < faces.length; k++)
    for (let c = mesh.faceStart[faces[k]!]!; c < mesh.faceStart[faces[k]! + 1]!; c++) {
      const p = corners[c]!;
      const [x, y] = [along(p * 3, right), along(p * 3, up)];
      flat[p * 2] = x;
      flat[p * 2 + 1] = y;
      left = Math.min(left, x);
      far = Math.max(far, x);
      low = Math.min(low, y);
      high = Math.max(high, y);
    }
  const size = Math.max(far - left, high - low) / cells;
  if (!(size > 0) || !Number.isFinite(size)) return [];
  const [wide, tall] = [Math.ceil((far - left) / size) + 1, Math.ceil((high - low) / size) + 1];
  const covered = new Uint8Array(wide * fine * tall * fine);
  const step = size / fine;
  for (let k = 0; k < faces.length; k++)
    for (let t = triangles.faceStart[faces[k]!]!; t < triangles.faceStart[faces[k]! + 1]!; t++) {
      const place = (n: number) => {
        const p = corners[triangles.corners[t * 3 + n]!]! * 2;
        return [(flat[p]! - left) / step, (flat[p + 1]! - low) / step] as const;
      };
      fill(covered, wide * fine, tall * fine, place(0), place(1), place(2));
    }
  const share = (x: number, y: number) => {
    let sum = 0;
    for (let dy = 0; dy < fine; dy++) for (let dx = 0; dx < fine; dx++) sum += covered[(y * fine + dy) * wide * fine + x * fine + dx]!;
    return sum;
  };
  return contours(wide, tall, share, (fine * fine) / 2).map((loop) => loop.map((x, k) => x * size + (k % 2 === 0 ? left : low)));
}

type Place = readonly [number, number];

/** Marks the samples whose middles lie in a triangle, or on its border. */
function fill(into: Uint8Array, wide: number, tall: number, a: Place, b: Place, c: Place): void {
  const from = Math.max(0, Math.ceil(Math.min(a[1], b[1], c[1]) - 0.5));
  const to = Math.min(tall - 1, Math.floor(Math.max(a[1], b[1], c[1]) - 0.5));
  for (let y = from; y <= to; y++) {
    let [left, right] = [Infinity, -Infinity];
    for (const [p, q] of [
      [a, b],
      [b, c],
      [c, a],
    ] as const) {
      const [low, high] = p[1] < q[1] ? [p, q] : [q, p];
      const at = y + 0.5;
      if (at < low[1] || at > high[1]) continue;
      const share = high[1] > low[1] ? (at - low[1]) / (high[1] - low[1]) : 0;
      const x = low[0] + share * (high[0] - low[0]);
      left = Math.min(left, x);
      right = Math.max(right, x);
    }
    for (let x = Math.max(0, Math.ceil(left - 0.5)); x <= Math.min(wide - 1, right - 0.5); x++) into[y * wide + x] = 1;
  }
}
