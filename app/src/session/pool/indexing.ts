import Flatbush from 'flatbush';
import { trianglesOf } from '@jig-peel/core/mesh/triangles';
import type { Mesh } from '@jig-peel/core/mesh/mesh';
import type { UvSet } from '@jig-peel/core/uv/uvSet';
import type { Tasks, Tools } from './tasks.ts';

export const index = ({ set }: Tasks['index']['input'], { mesh }: Tools): ArrayBuffer => indexOfLayout(mesh(), set);

/** A spatial index over the triangles on the sheet. O(triangles · log triangles). */
export function indexOfLayout(mesh: Mesh, set: UvSet): ArrayBuffer {
  const triangles = trianglesOf(mesh);
  if (triangles.count === 0) return new ArrayBuffer(0);
  const tree = new Flatbush(triangles.count, 16, Float32Array);
  for (let t = 0; t < triangles.count; t++) {
    let [a, b, c, d] = [Infinity, Infinity, -Infinity, -Infinity];
    for (let k = 0; k < 3; k++) {
      const id = set.cornerUv[triangles.corners[t * 3 + k]!]! * 2;
      const u = set.uv[id]!;
      const v = set.uv[id + 1]!;
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
