import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { atOwnScale, triangleStretch } from './distortion.ts';
import * as portable from '../numeric/portable.ts';

/** Distortion of each face against its island's own scale; NaN without a place. Both change continuously with the layout. */
export interface FaceMaps {
  /** Log₂ of how many times the picture is larger (+) or smaller (−) on the face than the island's mean, as a length: half the log of the area ratio. */
  size: Float32Array;
  /** Log₂ of the ratio of the two singular values: how many times longer the picture is one way than across it; 0 keeps angles. */
  shape: Float32Array;
}

/** The map of size and the map of shape; a face's triangles count by their area in space. O(T). */
export function faceMaps(mesh: Mesh, set: UvSet, width: number, height: number): FaceMaps {
  const { most, least, area } = atOwnScale(mesh, set, triangleStretch(mesh, set, width, height));
  const { face } = trianglesOf(mesh);
  const faces = mesh.faceStart.length - 1;
  const size = new Float32Array(faces);
  const shape = new Float32Array(faces);
  const weight = new Float64Array(faces);
  for (let t = 0; t < area.length; t++) {
    if (Number.isNaN(most[t]!)) continue;
    const f = face[t]!;
    // faces shrunk to a line or a point have no end of it: full colour is enough
    const long = Math.max(most[t]!, 1e-3);
    const short = Math.max(least[t]!, 1e-6);
    weight[f]! += area[t]!;
    size[f]! -= (area[t]! * portable.log2(long * short)) / 2;
    shape[f]! += area[t]! * portable.log2(long / short);
  }
  for (let f = 0; f < faces; f++) {
    size[f] = weight[f]! > 0 ? size[f]! / weight[f]! : NaN;
    shape[f] = weight[f]! > 0 ? shape[f]! / weight[f]! : NaN;
  }
  return { size, shape };
}

/**
 * Log₂ of how many times the picture is stretched (+) or squeezed (−) on each face against its island's own scale, the stronger of the two ways and of the face's
 * triangles: what a limit is held against; NaN without a place. O(T).
 */
export function faceStretch(mesh: Mesh, set: UvSet, width: number, height: number): Float32Array {
  const { most, least, area } = atOwnScale(mesh, set, triangleStretch(mesh, set, width, height));
  const triangles = trianglesOf(mesh);
  const out = new Float32Array(mesh.faceStart.length - 1).fill(NaN);
  for (let t = 0; t < area.length; t++) {
    if (Number.isNaN(most[t]!)) continue;
    // few px a unit: the picture is stretched over the surface
    const stretched = portable.log2(1 / Math.max(least[t]!, 1e-3));
    const squeezed = portable.log2(Math.max(most[t]!, 1e-3));
    const value = stretched >= squeezed ? stretched : -squeezed;
    const f = triangles.face[t]!;
    if (Number.isNaN(out[f]!) || Math.abs(value) > Math.abs(out[f]!)) out[f] = value;
  }
  return out;
}

/** Symmetric Dirichlet energy from the two maps: σ₁² + σ₂² + 1/σ₁² + 1/σ₂², 4 without distortion (J. Smith, S. Schaefer, SIGGRAPH 2015). */
export function energyOf(size: number, shape: number): number {
  // σ₁σ₂ = 2^(−2 size), σ₁/σ₂ = 2^shape
  const product = portable.pow(2, -2 * size);
  const ratio = portable.pow(2, shape);
  return product * ratio + product / ratio + 1 / (product * ratio) + ratio / product;
}

/**
 * Short strokes along which the picture is longest on the model: 5 numbers a stroke: u, v of its middle, its direction on the sheet (in px, length 1), log₂ of the
 * ratio. One for a face that is not nearly even, the worst first where there are more than asked for. O(T log T).
 */
export function shapeStrokes(mesh: Mesh, set: UvSet, width: number, height: number, most = 4000): Float32Array {
  const { count, corners, face } = trianglesOf(mesh);
  const { points } = mesh;
  const list: [number, number, number, number, number][] = [];
  for (let t = 0; t < count; t++) {
    if (set.unplaced[face[t]!]) continue;
    const [c0, c1, c2] = [corners[t * 3]!, corners[t * 3 + 1]!, corners[t * 3 + 2]!];
    const [a, b, c] = [mesh.corners[c0]! * 3, mesh.corners[c1]! * 3, mesh.corners[c2]! * 3];
    const u = [0, 1, 2].map((k) => points[b + k]! - points[a + k]!) as [number, number, number];
    const v = [0, 1, 2].map((k) => points[c + k]! - points[a + k]!) as [number, number, number];
    const x1 = Math.hypot(...u);
    const twice = Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]);
    if (!(twice > 0)) continue;
    const x2 = (u[0] * v[0] + u[1] * v[1] + u[2] * v[2]) / x1;
    const y2 = twice / x1;
    const at = (corner: number): [number, number] => [set.uv[set.cornerUv[corner]! * 2]! * width, set.uv[set.cornerUv[corner]! * 2 + 1]! * height];
    const [p, q, r] = [at(c0), at(c1), at(c2)];
    const ja = (q[0] - p[0]) / x1;
    const jc = (q[1] - p[1]) / x1;
    const jb = (r[0] - p[0] - ja * x2) / y2;
    const jd = (r[1] - p[1] - jc * x2) / y2;
    const s = Math.hypot(ja + jd, jc - jb) / 2;
    const d = Math.hypot(ja - jd, jc + jb) / 2;
    const ratio = portable.log2((s + d) / Math.max(Math.abs(s - d), 1e-6 * (s + d)));
    if (!(ratio > 0.1)) continue;
    // the way of the smaller singular value on the sheet: there a px covers most of the model
    const turn = (portable.atan2(jc - jb, ja + jd) + portable.atan2(jc + jb, ja - jd)) / 2 + Math.PI / 2;
    list.push([(p[0] + q[0] + r[0]) / 3 / width, (p[1] + q[1] + r[1]) / 3 / height, portable.cos(turn), portable.sin(turn), ratio]);
  }
  if (list.length > most) list.sort((x, y) => y[4] - x[4]).splice(most);
  return Float32Array.from(list.flat());
}
