import { faceCount, type Mesh } from '../mesh/mesh.ts';
import type { UvSet } from './uvSet.ts';

/** Corners count as bent inwards from this on, as a share of the mean area of the face's corner triangles: a flat corner is no fault. */
const inwards = 1e-9;

/** Twice the signed area at each corner of a face on the sheet: corner, next and previous one. */
function cornerAreas(set: UvSet, from: number, to: number, out: Float64Array): void {
  const n = to - from;
  for (let k = 0; k < n; k++) {
    const [p, c, q] = [set.cornerUv[from + ((k + n - 1) % n)]! * 2, set.cornerUv[from + k]! * 2, set.cornerUv[from + ((k + 1) % n)]! * 2];
    const { uv } = set;
    out[k] = (uv[q]! - uv[c]!) * (uv[p + 1]! - uv[c + 1]!) - (uv[p]! - uv[c]!) * (uv[q + 1]! - uv[c + 1]!);
  }
}

const convexCache = new WeakMap<Mesh, Uint8Array>();

/**
 * 1 for each face of four corners or more that is convex as seen along its own normal: another program may cut it along any diagonal. O(corners), once a mesh
 */
export function convexFaces(mesh: Mesh): Uint8Array {
  const known = convexCache.get(mesh);
  if (known) return known;
  const faces = faceCount(mesh);
  const out = new Uint8Array(faces);
  const { points, corners, faceStart } = mesh;
  for (let f = 0; f < faces; f++) {
    const [from, n] = [faceStart[f]!, faceStart[f + 1]! - faceStart[f]!];
    if (n < 4) continue;
    const at = (k: number, d: number) => points[corners[from + ((k + n) % n)]! * 3 + d]!;
    // Newell's normal
    const normal = [0, 0, 0];
    for (let k = 0; k < n; k++)
      for (let d = 0; d < 3; d++) {
        const [x, y] = [(d + 1) % 3, (d + 2) % 3];
        normal[d]! += (at(k, x) - at(k + 1, x)) * (at(k, y) + at(k + 1, y));
      }
    // its length is about twice the area times itself
    let size = 0;
    for (const x of normal) size += x * x;
    let convex = size > 0;
    for (let k = 0; k < n && convex; k++) {
      let dot = 0;
      for (let d = 0; d < 3; d++) {
        const [x, y] = [(d + 1) % 3, (d + 2) % 3];
        const cross = (at(k, x) - at(k - 1, x)) * (at(k + 1, y) - at(k, y)) - (at(k, y) - at(k - 1, y)) * (at(k + 1, x) - at(k, x));
        dot += cross * normal[d]!;
      }
      convex = dot > 1e-6 * size;
    }
    if (convex) out[f] = 1;
  }
  convexCache.set(mesh, out);
  return out;
}

export interface ConcaveFaces {
  /** 1 for each face that is convex on the model and not on the sheet. */
  faces: Uint8Array;
  count: number;
  /** Triangles that are turned over when each face is cut as a fan from its first corner, as many programs do. */
  fanFlips: number;
}

/** Faces that another program may turn over in part: concave on the sheet alone. @param sense of each face’s island: below 0 where it lies mirrored. O(corners) */
export function concaveFaces(mesh: Mesh, set: UvSet, senseOf: (face: number) => number): ConcaveFaces {
  const convex = convexFaces(mesh);
  const faces = new Uint8Array(convex.length);
  let [count, fanFlips] = [0, 0];
  let areas = new Float64Array(16);
  for (let f = 0; f < convex.length; f++) {
    if (set.unplaced[f]) continue;
    const [from, to] = [mesh.faceStart[f]!, mesh.faceStart[f + 1]!];
    const n = to - from;
    if (areas.length < n) areas = new Float64Array(n * 2);
    const sense = senseOf(f) < 0 ? -1 : 1;
    if (convex[f]) {
      cornerAreas(set, from, to, areas);
      let mean = 0;
      for (let k = 0; k < n; k++) mean += Math.abs(areas[k]!) / n;
      for (let k = 0; k < n; k++)
        if (areas[k]! * sense < -inwards * mean) {
          faces[f] = 1;
          count++;
          break;
        }
    }
    const first = set.cornerUv[from]! * 2;
    for (let c = from + 1; c + 1 < to; c++) {
      const [p, q] = [set.cornerUv[c]! * 2, set.cornerUv[c + 1]! * 2];
      const { uv } = set;
      const twice = (uv[p]! - uv[first]!) * (uv[q + 1]! - uv[first + 1]!) - (uv[q]! - uv[first]!) * (uv[p + 1]! - uv[first + 1]!);
      if (twice * sense < 0) fanFlips++;
    }
  }
  return { faces, count, fanFlips };
}
