import { bounds, type Mesh } from '../mesh/mesh.ts';
import { faceNormals } from '../mesh/normals.ts';
import { trianglesOf } from '../mesh/triangles.ts';

/** The model's own axes as a view has them: to the right, and up. */
const views = {
  front: { right: [1, 0, 0], up: [0, 1, 0] },
  back: { right: [-1, 0, 0], up: [0, 1, 0] },
  left: { right: [0, 0, 1], up: [0, 1, 0] },
  right: { right: [0, 0, -1], up: [0, 1, 0] },
  above: { right: [1, 0, 0], up: [0, 0, -1] },
  below: { right: [1, 0, 0], up: [0, 0, 1] },
} as const;
export type PictureView = keyof typeof views;
export const pictureViews = Object.keys(views) as PictureView[];

/**
 * A plain picture of models as seen from one side, without perspective: each face in its colour, lit from the eye; what is nearest is seen. For reports,
 * where there is no graphics card. O(triangles + pixels covered).
 *
 * @param colourOf colour of a face, red, green and blue 0 to 255
 * @param size px of each side
 * @returns RGBA, first row on top; transparent where nothing is
 */
export function modelPicture(
  models: readonly { mesh: Mesh; colourOf: (face: number) => readonly [number, number, number] }[],
  view: PictureView,
  size: number,
): Uint8Array {
  const { right, up } = views[view];
  const towards = [right[1] * up[2] - right[2] * up[1], right[2] * up[0] - right[0] * up[2], right[0] * up[1] - right[1] * up[0]] as const;
  const data = new Uint8Array(size * size * 4);
  const depth = new Float32Array(size * size).fill(-Infinity);
  const box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (const { mesh } of models) bounds(mesh).forEach((x, k) => (box[k] = k < 3 ? Math.min(box[k]!, x) : Math.max(box[k]!, x)));
  if (!Number.isFinite(box[0])) return data;
  const centre = [0, 1, 2].map((d) => (box[d]! + box[d + 3]!) / 2);
  const radius = Math.hypot(...[0, 1, 2].map((d) => box[d + 3]! - box[d]!)) / 2 || 1;
  const scale = (size * 0.48) / radius;
  for (const { mesh, colourOf } of models) {
    const { count, corners, face } = trianglesOf(mesh);
    const normals = faceNormals(mesh);
    const place = (p: number, axis: readonly [number, number, number]) =>
      axis[0] * (mesh.points[p]! - centre[0]!) + axis[1] * (mesh.points[p + 1]! - centre[1]!) + axis[2] * (mesh.points[p + 2]! - centre[2]!);
    for (let t = 0; t < count; t++) {
      const [a, b, c] = [0, 1, 2].map((k) => mesh.corners[corners[t * 3 + k]!]! * 3) as [number, number, number];
      const xy = [a, b, c].map((p) => [place(p, right) * scale + size / 2, size / 2 - place(p, up) * scale, place(p, towards)] as const);
      const [A, B, C] = xy as [(typeof xy)[0], (typeof xy)[0], (typeof xy)[0]];
      const twice = (B[0] - A[0]) * (C[1] - A[1]) - (C[0] - A[0]) * (B[1] - A[1]);
      if (twice === 0) continue;
      const f = face[t]!;
      const facing = Math.abs(normals[f * 3]! * towards[0] + normals[f * 3 + 1]! * towards[1] + normals[f * 3 + 2]! * towards[2]);
      const light = 0.45 + 0.55 * facing;
      const colour = colourOf(f).map((x) => Math.round(Math.min(255, x * light)));
      const low = (k: 0 | 1) => Math.max(0, Math.ceil(Math.min(A[k], B[k], C[k]) - 0.5));
      const high = (k: 0 | 1) => Math.min(size - 1, Math.floor(Math.max(A[k], B[k], C[k]) - 0.5));
      for (let y = low(1); y <= high(1); y++)
        for (let x = low(0); x <= high(0); x++) {
          const [px, py] = [x + 0.5 - A[0], y + 0.5 - A[1]];
          const wb = (px * (C[1] - A[1]) - (C[0] - A[0]) * py) / twice;
          const wc = ((B[0] - A[0]) * py - px * (B[1] - A[1])) / twice;
          if (wb < -1e-9 || wc < -1e-9 || wb + wc > 1 + 1e-9) continue;
          const z = A[2] + wb * (B[2] - A[2]) + wc * (C[2] - A[2]);
          const at = y * size + x;
          if (z <= depth[at]!) continue;
          depth[at] = z;
          data.set(colour, at * 4);
          data[at * 4 + 3] = 255;
        }
    }
  }
  return data;
}
