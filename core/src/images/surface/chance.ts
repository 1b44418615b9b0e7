import type { Mesh } from '../../mesh/mesh.ts';
import { faceComponents } from '../../mesh/topology.ts';
import { seededRandom } from '../../numeric/random.ts';
import { continuingIslands } from '../../uv/continuing.ts';
import { islandsOf } from '../../uv/islands.ts';
import type { UvSet } from '../../uv/uvSet.ts';
import type { LayerMask } from './layer.ts';

/**
 * A value for each face, the same all over its island (and those beside it into which the picture is kept going on), its connected piece or the part. It goes by the group's first face, so that other groups may come and
 * go without changing it.
 * @param part tells parts of the same mesh apart
 * @returns numbers from `low` to `high`
 * O(corners)
 */
export function chanceOfFaces(mesh: Mesh, set: UvSet, { by, seed, low, high }: Extract<LayerMask, { kind: 'each' }>, part: string): Float64Array {
  const group = by === 'island' ? groupsOf(mesh, set) : by === 'piece' ? faceComponents(mesh).ofFace : new Int32Array(mesh.faceStart.length - 1);
  const salt = [...part].reduce((sum, letter) => (Math.imul(sum, 31) + letter.codePointAt(0)!) | 0, Math.imul(seed + 1, 0x9e3779b1));
  const values = new Map<number, number>();
  return Float64Array.from(group, (g, f) => {
    let value = values.get(g);
    if (value === undefined) {
      value = low + (high - low) * seededRandom(salt ^ Math.imul(f + 1, 0x85ebca6b))();
      values.set(g, value);
    }
    return value;
  });
}

function groupsOf(mesh: Mesh, set: UvSet): Int32Array {
  const first = continuingIslands(mesh, set);
  return islandsOf(mesh, set).ofFace.map((i) => first[i]!);
}
