import { JigError } from '../jigError.ts';

/**
 * A polygon mesh in flat arrays that are never changed in place. Face f has corners faceStart[f] … faceStart[f + 1] − 1, counter-clockwise
 * seen from outside; corner c is at point corners[c].
 */
export interface Mesh {
  /** 3 numbers a point, in units of the model. */
  readonly points: Float64Array;
  /** faces + 1 numbers. */
  readonly faceStart: Uint32Array;
  /** The point of each corner. */
  readonly corners: Uint32Array;
  /** A number into `groups` for each face, −1 for none. */
  readonly faceGroup: Int32Array;
  readonly groups: readonly string[];
  /** A number into `materials` for each face, −1 for none. */
  readonly faceMaterial: Int32Array;
  readonly materials: readonly string[];
  /** Smoothing group of each face: 0 is off, −1 was not stated. */
  readonly faceSmooth: Int32Array;
  /** 3 numbers a point, if the file had vertex colours. */
  readonly pointColors?: Float64Array;
  /** Normals of the file, 3 numbers each, and which one each corner uses (−1 for none). */
  readonly normals?: Float64Array;
  readonly cornerNormal?: Int32Array;
}

export const pointCount = (mesh: Mesh) => mesh.points.length / 3;
export const faceCount = (mesh: Mesh) => mesh.faceStart.length - 1;

/**
 * A mesh from points and faces, everything else empty.
 * @param points 3 numbers a point
 * @param faces point numbers of each face
 */
export function meshFromFaces(points: ArrayLike<number>, faces: ReadonlyArray<ArrayLike<number>>): Mesh {
  const faceStart = new Uint32Array(faces.length + 1);
  for (let f = 0; f < faces.length; f++) faceStart[f + 1] = faceStart[f]! + faces[f]!.length;
  const corners = new Uint32Array(faceStart[faces.length]!);
  for (let f = 0; f < faces.length; f++) corners.set(faces[f]!, faceStart[f]!);
  return plainMesh(Float64Array.from(points), faceStart, corners);
}

/** A mesh without groups, materials or smoothing. */
export function plainMesh(points: Float64Array, faceStart: Uint32Array, corners: Uint32Array): Mesh {
  const faces = faceStart.length - 1;
  return {
    points,
    faceStart,
    corners,
    faceGroup: new Int32Array(faces).fill(-1),
    groups: [],
    faceMaterial: new Int32Array(faces).fill(-1),
    materials: [],
    faceSmooth: new Int32Array(faces).fill(-1),
  };
}

/** Throws a JigError unless every number is finite and every index is in range. O(n). */
export function assertSound(mesh: Mesh): void {
  const points = pointCount(mesh);
  for (let k = 0; k < mesh.points.length; k++) {
    if (!Number.isFinite(mesh.points[k]!)) {
      throw new JigError('bad-number', 'A coordinate is not a number.', `point ${Math.floor(k / 3) + 1}`, 'Export the model again.');
    }
  }
  for (let c = 0; c < mesh.corners.length; c++) {
    if (mesh.corners[c]! >= points) throw new JigError('bad-index', `A face uses point ${mesh.corners[c]! + 1}, but there are only ${points}.`);
  }
}

const boxes = new WeakMap<Float64Array, { corners: Uint32Array; box: readonly [number, number, number, number, number, number] }>();

/** Smallest and largest coordinate of the points that faces use: [minX, minY, minZ, maxX, maxY, maxZ]; kept while its points live. O(corners). */
export function bounds(mesh: Mesh): readonly [number, number, number, number, number, number] {
  const { points, corners } = mesh;
  const kept = boxes.get(points);
  if (kept?.corners === corners) return kept.box;
  const box: [number, number, number, number, number, number] = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (let c = 0; c < corners.length; c++) {
    for (let k = 0; k < 3; k++) {
      const value = points[corners[c]! * 3 + k]!;
      if (value < box[k]!) box[k] = value;
      if (value > box[k + 3]!) box[k + 3] = value;
    }
  }
  const found = corners.length > 0 ? box : ([0, 0, 0, 0, 0, 0] as const);
  boxes.set(points, { corners, box: found });
  return found;
}

/** Next corner round the face of corner c. `face` is the face of c. */
export const nextCorner = (mesh: Mesh, c: number, face: number) => (c + 1 === mesh.faceStart[face + 1]! ? mesh.faceStart[face]! : c + 1);

/** Corner before c round its face. */
export const previousCorner = (mesh: Mesh, c: number, face: number) => (c === mesh.faceStart[face]! ? mesh.faceStart[face + 1]! - 1 : c - 1);
