import type { Mesh } from '../mesh/mesh.ts';
import { faceAreas } from '../mesh/normals.ts';
import type { Islands } from './islands.ts';
import type { UvSet } from './uvSet.ts';

/** So many times smaller than in its island's mean, as a length, a place has hardly a px left. */
export const shrunkFrom = 16;

/**
 * Share, by area in space, of faces of some islands on which the picture is `shrunkFrom` times smaller than in the island's mean, or smaller still; 0 to 1.
 * O(corners)
 */
export function shrunkShare(mesh: Mesh, set: UvSet, { start, faces }: Pick<Islands, 'start' | 'faces'>, which: Iterable<number>): number {
  const inSpace = faceAreas(mesh);
  let [all, shrunk] = [0, 0];
  for (const i of which) {
    const own = faces.subarray(start[i], start[i + 1]);
    const onSheet = Float64Array.from(own, (f) => areaOnSheet(mesh, set, f));
    const space = own.reduce((sum, f) => sum + inSpace[f]!, 0);
    const sheet = onSheet.reduce((sum, area) => sum + area, 0);
    all += space;
    own.forEach((f, k) => {
      if (onSheet[k]! * space * shrunkFrom ** 2 <= inSpace[f]! * sheet) shrunk += inSpace[f]!;
    });
  }
  return all > 0 ? shrunk / all : 0;
}

function areaOnSheet({ faceStart }: Mesh, { uv, cornerUv }: UvSet, face: number): number {
  let twice = 0;
  const [first, last] = [faceStart[face]!, faceStart[face + 1]!];
  for (let c = first, before = last - 1; c < last; before = c++) {
    const [a, b] = [cornerUv[before]! * 2, cornerUv[c]! * 2];
    twice += uv[a]! * uv[b + 1]! - uv[b]! * uv[a + 1]!;
  }
  return Math.abs(twice) / 2;
}
