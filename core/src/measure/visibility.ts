import { bounds, type Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';

/** Directions spread evenly over the ball (a Fibonacci lattice, common practice), pointing from the model to the eye. */
function directions(count: number): Float64Array {
  const out = new Float64Array(count * 3);
  const golden = Math.PI * (3 - Math.sqrt(5));
  for (let k = 0; k < count; k++) {
    const y = 1 - (2 * (k + 0.5)) / count;
    const r = Math.sqrt(1 - y * y);
    out.set([Math.cos(golden * k) * r, y, Math.sin(golden * k) * r], k * 3);
  }
  return out;
}

export interface VisibilityOptions {
  /** Directions round the model; default 40. */
  views?: number;
  /** Cells along each side of the depth raster; default 192. */
  size?: number;
  /** Other parts that stand before it. */
  blockers?: readonly Mesh[];
  /** Seen from here most: directions count by how near they are to this one. Default: all alike. */
  towards?: readonly [number, number, number] | null;
}

/**
 * How often places of the mesh are seen: for each, the share of 0 … 1 of `views` directions round the model from which nothing stands
 * before it. Found with a depth raster a direction, so places within about a 200th of the model's size count as one.
 *
 * @param places 3 numbers a place
 * @returns a share a place; an open, flat one is seen from half of all directions
 * O(views · (T + places) + raster cells covered).
 */
export function visibleShare(mesh: Mesh, places: Float64Array, options: VisibilityOptions = {}): Float64Array {
  const { views = 40, size = 192, blockers = [], towards = null } = options;
  const share = new Float64Array(places.length / 3);
  const [x0, y0, z0, x1, y1, z1] = bounds(mesh);
  const radius = Math.hypot(x1 - x0, y1 - y0, z1 - z0) / 2 || 1;
  const centre = [(x0 + x1) / 2, (y0 + y1) / 2, (z0 + z1) / 2] as const;
  const dirs = directions(views);
  const weights = Float64Array.from({ length: views }, (_, d) => {
    if (!towards) return 1;
    const length = Math.hypot(...towards) || 1;
    const along = (dirs[d * 3]! * towards[0] + dirs[d * 3 + 1]! * towards[1] + dirs[d * 3 + 2]! * towards[2]) / length;
    return 0.02 + Math.max(0, along) ** 2;
  });
  const whole = weights.reduce((sum, w) => sum + w, 0);
  const depth = new Float32Array(size * size);
  const flat = new Float64Array(mesh.points.length);
  const scale = (size - 2) / (2 * radius);
  const bias = 3 / scale;
  for (let d = 0; d < views; d++) {
    const frame = frameOf(dirs[d * 3]!, dirs[d * 3 + 1]!, dirs[d * 3 + 2]!);
    const project = (p: ArrayLike<number>, k: number, out: Float64Array, at: number) => {
      const x = p[k]! - centre[0],
        y = p[k + 1]! - centre[1],
        z = p[k + 2]! - centre[2];
      out[at] = (frame[0]! * x + frame[1]! * y + frame[2]! * z + radius) * scale + 1;
      out[at + 1] = (frame[3]! * x + frame[4]! * y + frame[5]! * z + radius) * scale + 1;
      out[at + 2] = frame[6]! * x + frame[7]! * y + frame[8]! * z;
    };
    for (let k = 0; k < mesh.points.length; k += 3) project(mesh.points, k, flat, k);
    depth.fill(-Infinity);
    fillDepth(mesh, flat, depth, size);
    for (const other of blockers) {
      const there = new Float64Array(other.points.length);
      for (let k = 0; k < there.length; k += 3) project(other.points, k, there, k);
      fillDepth(other, there, depth, size);
    }
    const q = new Float64Array(3);
    for (let k = 0; k < share.length; k++) {
      project(places, k * 3, q, 0);
      const x = Math.max(0, Math.min(size - 1, Math.floor(q[0]!)));
      const y = Math.max(0, Math.min(size - 1, Math.floor(q[1]!)));
      if (q[2]! >= depth[y * size + x]! - bias) share[k]! += weights[d]! / whole;
    }
  }
  return share;
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

function fillDepth(mesh: Mesh, flat: Float64Array, depth: Float32Array, size: number) {
  const triangles = trianglesOf(mesh);
  for (let t = 0; t < triangles.count; t++) {
    const a = mesh.corners[triangles.corners[t * 3]!]! * 3;
    const b = mesh.corners[triangles.corners[t * 3 + 1]!]! * 3;
    const c = mesh.corners[triangles.corners[t * 3 + 2]!]! * 3;
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
    for (let y = minY; y <= maxY; y++) {
      for (let x = minX; x <= maxX; x++) {
        const px = x + 0.5,
          py = y + 0.5;
        const wb = ((px - ax) * (cy - ay) - (cx - ax) * (py - ay)) / twice;
        const wc = ((bx - ax) * (py - ay) - (px - ax) * (by - ay)) / twice;
        if (wb < 0 || wc < 0 || wb + wc > 1) continue;
        const z = flat[a + 2]! + wb * (flat[b + 2]! - flat[a + 2]!) + wc * (flat[c + 2]! - flat[a + 2]!);
        if (z > depth[y * size + x]!) depth[y * size + x] = z;
      }
    }
  }
}
