import { faceCount, pointCount, type Mesh } from './mesh.ts';

const faceCache = new WeakMap<Mesh, Float64Array>();

/**
 * Unit normal of each face by Newell's method (M. Newell, 1972, as given in Sutherland, Sproull, Schumacker 1974; from memory),
 * 3 numbers a face; zeros where a face has no area. Kept as long as the mesh lives.
 */
export function faceNormals(mesh: Mesh): Float64Array {
  let normals = faceCache.get(mesh);
  if (normals) return normals;
  const faces = faceCount(mesh);
  normals = new Float64Array(faces * 3);
  const { points, corners, faceStart } = mesh;
  for (let f = 0; f < faces; f++) {
    const area = newell(points, corners, faceStart[f]!, faceStart[f + 1]!);
    const length = Math.hypot(area[0], area[1], area[2]);
    if (length > 0) for (let k = 0; k < 3; k++) normals[f * 3 + k] = area[k as 0 | 1 | 2] / length;
  }
  faceCache.set(mesh, normals);
  return normals;
}

/** Area of each face, in square units (half the length of Newell's vector). */
export function faceAreas(mesh: Mesh): Float64Array {
  const faces = faceCount(mesh);
  const areas = new Float64Array(faces);
  for (let f = 0; f < faces; f++) {
    const area = newell(mesh.points, mesh.corners, mesh.faceStart[f]!, mesh.faceStart[f + 1]!);
    areas[f] = Math.hypot(area[0], area[1], area[2]) / 2;
  }
  return areas;
}

const vector: [number, number, number] = [0, 0, 0];

function newell(points: Float64Array, corners: Uint32Array, from: number, to: number): readonly [number, number, number] {
  let x = 0;
  let y = 0;
  let z = 0;
  const o = corners[from]! * 3;
  // relative to the first corner, so that far-away models lose no digits
  for (let c = from + 1; c + 1 < to; c++) {
    const a = corners[c]! * 3;
    const b = corners[c + 1]! * 3;
    const ux = points[a]! - points[o]!;
    const uy = points[a + 1]! - points[o + 1]!;
    const uz = points[a + 2]! - points[o + 2]!;
    const vx = points[b]! - points[o]!;
    const vy = points[b + 1]! - points[o + 1]!;
    const vz = points[b + 2]! - points[o + 2]!;
    x += uy * vz - uz * vy;
    y += uz * vx - ux * vz;
    z += ux * vy - uy * vx;
  }
  vector[0] = x;
  vector[1] = y;
  vector[2] = z;
  return vector;
}

/** Smooth normal of each point: the mean of its faces' normals weighted by area; 3 numbers a point. */
export function pointNormals(mesh: Mesh): Float64Array {
  const normals = new Float64Array(pointCount(mesh) * 3);
  const { points, corners, faceStart } = mesh;
  for (let f = 0; f < faceCount(mesh); f++) {
    const area = newell(points, corners, faceStart[f]!, faceStart[f + 1]!);
    for (let c = faceStart[f]!; c < faceStart[f + 1]!; c++) for (let k = 0; k < 3; k++) normals[corners[c]! * 3 + k]! += area[k as 0 | 1 | 2];
  }
  for (let p = 0; p < normals.length; p += 3) {
    const length = Math.hypot(normals[p]!, normals[p + 1]!, normals[p + 2]!) || 1;
    for (let k = 0; k < 3; k++) normals[p + k]! /= length;
  }
  return normals;
}
