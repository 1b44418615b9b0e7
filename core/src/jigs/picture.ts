import type { Mesh } from '../mesh/mesh.ts';
import { unit, type Jig, type Vector } from './jig.ts';
import { project } from './project.ts';

/** A small picture, RGBA, first row on top. */
export interface SmallPicture {
  width: number;
  height: number;
  data: Uint8ClampedArray;
}

/**
 * Faces seen from the front, the right and above, with a chequered image thrown on them by jigs: what a projection makes of them, at a glance.
 * O(corners + px).
 */
export function jigPicture(mesh: Mesh, parts: readonly { jig: Jig; faces: ArrayLike<number> }[], size = 72): SmallPicture {
  const out: Vector = unit([0.55, 0.45, 0.75]);
  const right: Vector = unit([out[2], 0, -out[0]]);
  const up: Vector = [out[1] * right[2] - out[2] * right[1], out[2] * right[0] - out[0] * right[2], out[0] * right[1] - out[1] * right[0]];
  const data = new Uint8ClampedArray(size * size * 4);
  const depth = new Float32Array(size * size).fill(-Infinity);
  const { points } = mesh;
  let left = Infinity;
  let low = Infinity;
  let far = -Infinity;
  let high = -Infinity;
  const placed = parts.map(({ jig, faces }) => project(mesh, faces, jig));
  for (const { corners } of placed) {
    for (let k = 0; k < corners.length; k++) {
      const p = mesh.corners[corners[k]!]! * 3;
      const x = points[p]! * right[0] + points[p + 1]! * right[1] + points[p + 2]! * right[2];
      const y = points[p]! * up[0] + points[p + 1]! * up[1] + points[p + 2]! * up[2];
      if (x < left) left = x;
      if (x > far) far = x;
      if (y < low) low = y;
      if (y > high) high = y;
    }
  }
  const scale = (size - 4) / Math.max(far - left, high - low, 1e-12);
  const [dx, dy] = [(size - (far - left) * scale) / 2, (size - (high - low) * scale) / 2];
  /** Cells of the chequer in an image. */
  const cells = 6;
  for (const { corners, start, faces, uv } of placed) {
    const place = (k: number): [number, number, number] => {
      const p = mesh.corners[corners[k]!]! * 3;
      const at = (a: Vector) => points[p]! * a[0] + points[p + 1]! * a[1] + points[p + 2]! * a[2];
      return [(at(right) - left) * scale + dx, size - ((at(up) - low) * scale + dy), at(out)];
    };
    for (let f = 0; f < faces.length; f++) {
      const first = start[f]!;
      const a = place(first);
      for (let k = first + 1; k + 1 < start[f + 1]!; k++) {
        const [b, c] = [place(k), place(k + 1)];
        const twice = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
        if (Math.abs(twice) < 1e-9) continue;
        const light = 0.55 + 0.45 * facing(mesh, corners, first, k);
        for (let y = Math.max(0, Math.ceil(Math.min(a[1], b[1], c[1]) - 0.5)); y <= Math.min(size - 1, Math.max(a[1], b[1], c[1]) - 0.5); y++) {
          for (let x = Math.max(0, Math.ceil(Math.min(a[0], b[0], c[0]) - 0.5)); x <= Math.min(size - 1, Math.max(a[0], b[0], c[0]) - 0.5); x++) {
            const s = ((x + 0.5 - a[0]) * (c[1] - a[1]) - (y + 0.5 - a[1]) * (c[0] - a[0])) / twice;
            const t = ((b[0] - a[0]) * (y + 0.5 - a[1]) - (b[1] - a[1]) * (x + 0.5 - a[0])) / twice;
            if (s < 0 || t < 0 || s + t > 1) continue;
            const z = a[2] + s * (b[2] - a[2]) + t * (c[2] - a[2]);
            const at = y * size + x;
            if (z <= depth[at]!) continue;
            depth[at] = z;
            const u = uv[first * 2]! + s * (uv[k * 2]! - uv[first * 2]!) + t * (uv[k * 2 + 2]! - uv[first * 2]!);
            const v = uv[first * 2 + 1]! + s * (uv[k * 2 + 1]! - uv[first * 2 + 1]!) + t * (uv[k * 2 + 3]! - uv[first * 2 + 1]!);
            const dark = (Math.floor(u * cells) + Math.floor(v * cells)) % 2 === 0;
            data.set(dark ? [47 * light, 79 * light, 100 * light, 255] : [246 * light, 238 * light, 220 * light, 255], at * 4);
          }
        }
      }
    }
  }
  return { width: size, height: size, data };
}

/** How much a triangle looks to the light, 0 … 1. */
function facing(mesh: Mesh, corners: Uint32Array, first: number, k: number): number {
  const p = mesh.points;
  const [a, b, c] = [first, k, k + 1].map((n) => mesh.corners[corners[n]!]! * 3) as [number, number, number];
  const [ux, uy, uz] = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!];
  const [vx, vy, vz] = [p[c]! - p[a]!, p[c + 1]! - p[a + 1]!, p[c + 2]! - p[a + 2]!];
  const n = unit([uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]);
  return Math.abs(n[0] * 0.3 + n[1] * 0.75 + n[2] * 0.58);
}
