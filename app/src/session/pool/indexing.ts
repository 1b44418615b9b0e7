import Flatbush from 'flatbush';
import { trianglesOf } from '@jig-peel/core/mesh/triangles';
import type { Mesh } from '@jig-peel/core/mesh/mesh';
import type { UvSet } from '@jig-peel/core/uv/uvSet';
import type { Tasks, Tools } from './tasks.ts';

export const index = ({ set }: Tasks['index']['input'], { mesh }: Tools): ArrayBuffer => indexOfLayout(mesh(), set);

/** A spatial index over the triangles on the sheet. O(triangles · log triangles). */
export function indexOfLayout(mesh: Mesh, set: UvSet): ArrayBuffer {
  return indexOf(trianglesOf(mesh).corners, set.uv, (c) => set.cornerUv[c]!);
}

/** The same of triangles by their corners. @param cornerUv 2 numbers a corner */
export const indexOfPlaces = (cornerUv: Float32Array, triCorner: Uint32Array): ArrayBuffer => indexOf(triCorner, cornerUv, (c) => c);

function indexOf(corners: Uint32Array, uv: Float32Array | Float64Array, placeOf: (corner: number) => number): ArrayBuffer {
  const count = corners.length / 3;
  if (count === 0) return new ArrayBuffer(0);
  const tree = new Flatbush(count, 16, Float32Array);
  for (let t = 0; t < count; t++) {
    let [a, b, c, d] = [Infinity, Infinity, -Infinity, -Infinity];
    for (let k = 0; k < 3; k++) {
      const id = placeOf(corners[t * 3 + k]!) * 2;
      const u = uv[id]!;
      const v = uv[id + 1]!;
      if (u < a) a = u;
      if (v < b) b = v;
      if (u > c) c = u;
      if (v > d) d = v;
    }
    tree.add(a, b, c, d);
  }
  tree.finish();
  return tree.data as ArrayBuffer;
}
