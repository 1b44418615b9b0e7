import earcut from 'earcut';
import { faceCount, type Mesh } from './mesh.ts';
import { faceNormals } from './normals.ts';

/** The triangles of a mesh: 3 corner numbers each, and the face each came from. Triangles of a face lie together. */
export interface Triangles {
  readonly count: number;
  readonly corners: Uint32Array;
  readonly face: Uint32Array;
  /** Triangles of face f: faceStart[f] … faceStart[f + 1] − 1. */
  readonly faceStart: Uint32Array;
}

const cache = new WeakMap<Mesh, Triangles>();

/** Triangles as they stand; quads are split along the diagonal that keeps both halves upright, else the shorter; n-gons by ear cutting. */
export function trianglesOf(mesh: Mesh): Triangles {
  let triangles = cache.get(mesh);
  if (!triangles) {
    triangles = triangulate(mesh);
    cache.set(mesh, triangles);
  }
  return triangles;
}

function triangulate(mesh: Mesh): Triangles {
  const faces = faceCount(mesh);
  const { faceStart, points, corners } = mesh;
  const starts = new Uint32Array(faces + 1);
  for (let f = 0; f < faces; f++) starts[f + 1] = starts[f]! + Math.max(0, faceStart[f + 1]! - faceStart[f]! - 2);
  const count = starts[faces]!;
  const out = new Uint32Array(count * 3);
  const face = new Uint32Array(count);
  const normals = faceNormals(mesh);
  for (let f = 0; f < faces; f++) {
    const first = faceStart[f]!;
    const sides = faceStart[f + 1]! - first;
    let at = starts[f]! * 3;
    face.fill(f, starts[f]!, starts[f + 1]!);
    if (sides < 3) continue;
    if (sides === 3) {
      out[at] = first;
      out[at + 1] = first + 1;
      out[at + 2] = first + 2;
    } else if (sides === 4) {
      const split02 = splitAlong02(points, corners, first, normals, f);
      const order = split02 ? [0, 1, 2, 0, 2, 3] : [0, 1, 3, 1, 2, 3];
      for (let k = 0; k < 6; k++) out[at + k] = first + order[k]!;
    } else {
      const cut = cutEars(points, corners, first, sides, normals, f);
      for (let k = 0; k < cut.length; k++) out[at++] = first + cut[k]!;
    }
  }
  return { count, corners: out, face, faceStart: starts };
}

function splitAlong02(points: Float64Array, corners: Uint32Array, first: number, normals: Float64Array, f: number): boolean {
  const good02 = turnsLeft(points, corners, first, 0, 1, 2, normals, f) && turnsLeft(points, corners, first, 0, 2, 3, normals, f);
  const good13 = turnsLeft(points, corners, first, 0, 1, 3, normals, f) && turnsLeft(points, corners, first, 1, 2, 3, normals, f);
  if (good02 !== good13) return good02;
  return squared(points, corners[first]!, corners[first + 2]!) <= squared(points, corners[first + 1]!, corners[first + 3]!) * (1 + 1e-9);
}

function squared(points: Float64Array, a: number, b: number) {
  const x = points[a * 3]! - points[b * 3]!;
  const y = points[a * 3 + 1]! - points[b * 3 + 1]!;
  const z = points[a * 3 + 2]! - points[b * 3 + 2]!;
  return x * x + y * y + z * z;
}

function turnsLeft(points: Float64Array, corners: Uint32Array, first: number, i: number, j: number, k: number, normals: Float64Array, f: number) {
  const a = corners[first + i]! * 3;
  const b = corners[first + j]! * 3;
  const c = corners[first + k]! * 3;
  const ux = points[b]! - points[a]!;
  const uy = points[b + 1]! - points[a + 1]!;
  const uz = points[b + 2]! - points[a + 2]!;
  const vx = points[c]! - points[a]!;
  const vy = points[c + 1]! - points[a + 1]!;
  const vz = points[c + 2]! - points[a + 2]!;
  return (uy * vz - uz * vy) * normals[f * 3]! + (uz * vx - ux * vz) * normals[f * 3 + 1]! + (ux * vy - uy * vx) * normals[f * 3 + 2]! > 0;
}

/** Ear cutting in the face's plane; falls back to a fan where that leaves too few triangles (folded or flat faces). */
function cutEars(points: Float64Array, corners: Uint32Array, first: number, sides: number, normals: Float64Array, f: number): number[] {
  const ax = Math.abs(normals[f * 3]!);
  const ay = Math.abs(normals[f * 3 + 1]!);
  const az = Math.abs(normals[f * 3 + 2]!);
  // drop the axis that the face looks along; keep the sense of turning
  const drop = az >= ax && az >= ay ? 2 : ay >= ax ? 1 : 0;
  const first2 = (drop + 1) % 3;
  const second2 = (drop + 2) % 3;
  const sign = normals[f * 3 + drop]! < 0 ? -1 : 1;
  const flat: number[] = [];
  for (let k = 0; k < sides; k++) {
    const p = corners[first + k]! * 3;
    flat.push(points[p + first2]! * sign, points[p + second2]!);
  }
  const cut = earcut(flat);
  if (cut.length !== (sides - 2) * 3) {
    const fan: number[] = [];
    for (let k = 1; k + 1 < sides; k++) fan.push(0, k, k + 1);
    return fan;
  }
  // ear cutting may turn triangles either way round: put them as the face is
  for (let t = 0; t < cut.length; t += 3) {
    const [i, j, k] = [cut[t]!, cut[t + 1]!, cut[t + 2]!];
    const area = (flat[j * 2]! - flat[i * 2]!) * (flat[k * 2 + 1]! - flat[i * 2 + 1]!) - (flat[k * 2]! - flat[i * 2]!) * (flat[j * 2 + 1]! - flat[i * 2 + 1]!);
    if (area < 0) {
      cut[t + 1] = k;
      cut[t + 2] = j;
    }
  }
  return cut;
}
