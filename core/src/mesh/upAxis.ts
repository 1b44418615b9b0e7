import { bounds, faceCount, type Mesh } from './mesh.ts';
import { faceAreas, faceNormals } from './normals.ts';

export const upAxes = ['y', 'z'] as const;
export type UpAxis = (typeof upAxes)[number];

/** A place or direction of a file whose z is up, as the bench has it: y up, so that (x, y, z) is (x, z, −y) here. */
function turned(numbers: Float64Array, back: boolean): Float64Array {
  const out = new Float64Array(numbers.length);
  const minus = (x: number) => (x === 0 ? 0 : -x);
  for (let k = 0; k < numbers.length; k += 3) {
    out[k] = numbers[k]!;
    out[k + 1] = back ? minus(numbers[k + 2]!) : numbers[k + 2]!;
    out[k + 2] = back ? numbers[k + 1]! : minus(numbers[k + 1]!);
  }
  return out;
}

/**
 * The mesh turned from a file with z up to y up, or back: exactly, since numbers only change places and signs. Everything else is shared.
 * O(points).
 */
export function turnUp(mesh: Mesh, back = false): Mesh {
  return { ...mesh, points: turned(mesh.points, back), ...(mesh.normals ? { normals: turned(mesh.normals, back) } : {}) };
}

/** The same for one place or direction. */
export const turnVector = ([x, y, z]: readonly [number, number, number], back = false): [number, number, number] => (back ? [x, -z || 0, y] : [x, z, -y || 0]);

/** How near to the lowest point a face must be to be part of a base, as a share of the height; and how steep it may be. */
const nearBase = 0.02;
const level = 0.99;
/** A base has so much of the area at least, and so many times that of the other axis. */
const leastBase = 0.01;
const clearly = 3;

/**
 * Which way a model stands, by the flat base it stands on: the area of faces that look down an axis and are at its lower end. Where no base is
 * clearly the larger, what is usual for the format (STL: z, common practice, no source; anything else: y). O(faces).
 */
export function guessUp(meshes: readonly Mesh[], usual: UpAxis): { up: UpAxis; why: 'base' | 'usual' } {
  let [y, z, all] = [0, 0, 0];
  const box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (const mesh of meshes) {
    const b = bounds(mesh);
    for (let d = 0; d < 3; d++) {
      box[d] = Math.min(box[d]!, b[d]!);
      box[d + 3] = Math.max(box[d + 3]!, b[d + 3]!);
    }
  }
  for (const mesh of meshes) {
    const normals = faceNormals(mesh);
    const areas = faceAreas(mesh);
    for (let f = 0; f < faceCount(mesh); f++) {
      all += areas[f]!;
      for (const d of [1, 2] as const) {
        if (normals[f * 3 + d]! > -level) continue;
        const limit = box[d]! + nearBase * (box[d + 3]! - box[d]!);
        let low = true;
        for (let c = mesh.faceStart[f]!; low && c < mesh.faceStart[f + 1]!; c++) low = mesh.points[mesh.corners[c]! * 3 + d]! <= limit;
        if (!low) continue;
        if (d === 1) y += areas[f]!;
        else z += areas[f]!;
      }
    }
  }
  if (z >= leastBase * all && z > clearly * y) return { up: 'z', why: 'base' };
  if (y >= leastBase * all && y > clearly * z) return { up: 'y', why: 'base' };
  return { up: usual, why: 'usual' };
}
