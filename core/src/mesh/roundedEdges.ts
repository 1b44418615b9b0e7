import { faceNormals } from './normals.ts';
import { faceCount, nextCorner, type Mesh } from './mesh.ts';

/** Of a face's sides and of the way to its middle at most this share is taken: what is left stays flat. */
const most = 0.45;
/** Sine of a corner below which its two sides count as one straight line. */
const straight = 0.1;

/**
 * Where the flat part of each face begins when its edges are to look rounded by a radius: of each corner the point inside of its face, as shares of the way to the
 * next corner, to the one before, and to the face's middle (3 numbers a corner). Nothing moves; the strip between is shaded from one normal to the other.
 * @param radius units. O(corners)
 */
export function roundedEdges(mesh: Mesh, radius: number): Float32Array {
  const { points, corners, faceStart } = mesh;
  const normals = faceNormals(mesh);
  const out = new Float32Array(corners.length * 3);
  for (let f = 0; f < faceCount(mesh); f++) {
    const [from, to] = [faceStart[f]!, faceStart[f + 1]!];
    const middle = [0, 0, 0];
    for (let c = from; c < to; c++) for (let d = 0; d < 3; d++) middle[d]! += points[corners[c]! * 3 + d]! / (to - from);
    for (let c = from; c < to; c++) {
      const [own, after, before] = [c, nextCorner(mesh, c, f), c === from ? to - 1 : c - 1].map((k) => corners[k]! * 3) as [number, number, number];
      const way = (p: number) => [0, 1, 2].map((d) => points[p + d]! - points[own + d]!) as [number, number, number];
      const [a, b] = [way(after), way(before)];
      const [long, short] = [Math.hypot(...a), Math.hypot(...b)];
      const turn =
        normals[f * 3]! * (a[1] * b[2] - a[2] * b[1]) + normals[f * 3 + 1]! * (a[2] * b[0] - a[0] * b[2]) + normals[f * 3 + 2]! * (a[0] * b[1] - a[1] * b[0]);
      const sine = turn / (long * short);
      if (Math.abs(sine) >= straight) {
        // a corner that points inwards has its flat part on the other side
        out[c * 3] = Math.max(-most, Math.min(most, radius / (sine * long)));
        out[c * 3 + 1] = Math.max(-most, Math.min(most, radius / (sine * short)));
      } else {
        const far = Math.hypot(...[0, 1, 2].map((d) => middle[d]! - points[own + d]!));
        out[c * 3 + 2] = far > 0 ? Math.min(most, radius / far) : 0;
      }
    }
  }
  return out;
}
