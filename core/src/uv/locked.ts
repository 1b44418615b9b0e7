import type { Mesh } from '../mesh/mesh.ts';
import { islandsOf } from './islands.ts';
import type { UvSet } from './uvSet.ts';

/** 1 for each island that packing leaves where it is: all its faces are locked. O(faces) */
export function lockedIslands(mesh: Mesh, set: UvSet): Uint8Array {
  const { count, start, faces } = islandsOf(mesh, set);
  const out = new Uint8Array(count);
  if (!set.locked) return out;
  for (let i = 0; i < count; i++) {
    let all = true;
    for (let k = start[i]!; k < start[i + 1]! && all; k++) all = set.locked[faces[k]!] === 1;
    if (all) out[i] = 1;
  }
  return out;
}
