import type { Mesh } from '../mesh/mesh.ts';
import { islandsOf } from './islands.ts';
import type { UvSet } from './uvSet.ts';

/** The block of each island: the one that all its faces are marked with, else 0. O(faces) */
export function blockOfIslands(mesh: Mesh, set: UvSet): Uint32Array {
  const { count, start, faces } = islandsOf(mesh, set);
  const out = new Uint32Array(count);
  if (!set.block) return out;
  for (let i = 0; i < count; i++) {
    const own = faces.subarray(start[i]!, start[i + 1]!);
    const block = set.block[own[0]!]!;
    if (own.every((f) => set.block![f] === block)) out[i] = block;
  }
  return out;
}
