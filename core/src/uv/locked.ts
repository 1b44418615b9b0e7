import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf } from './islands.ts';
import { wayOf } from './straight.ts';
import type { UvSet } from './uvSet.ts';

/** 1 for each island whose heading was set on purpose: all its faces are marked so, or it has edges that are to be straight. O(corners) */
export function headedIslands(mesh: Mesh, set: UvSet): Uint8Array {
  const headed = whollyMarked(mesh, set, set.headed);
  const { ofFace } = islandsOf(mesh, set);
  const { cornerFace } = topologyOf(mesh);
  set.straight?.forEach((mark, c) => {
    if (wayOf(mark)) headed[ofFace[cornerFace[c]!]!] = 1;
  });
  return headed;
}

/** 1 for each island that packing leaves where it is: all its faces are locked. O(faces) */
export const lockedIslands = (mesh: Mesh, set: UvSet): Uint8Array => whollyMarked(mesh, set, set.locked);

function whollyMarked(mesh: Mesh, set: UvSet, marks: Uint8Array | undefined): Uint8Array {
  const { count, start, faces } = islandsOf(mesh, set);
  const out = new Uint8Array(count);
  if (!marks) return out;
  for (let i = 0; i < count; i++) {
    let all = true;
    for (let k = start[i]!; k < start[i + 1]! && all; k++) all = marks[faces[k]!] === 1;
    if (all) out[i] = 1;
  }
  return out;
}
