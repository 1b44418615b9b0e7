import type { Mesh } from '../mesh/mesh.ts';
import { islandsOf } from './islands.ts';
import type { UvSet } from './uvSet.ts';

/**
 * Islands that wait in the tray: wholly to the left of the sheet (u below 0), where the open tile numbering has no tile. 1 for each
 * that does. O(corners).
 */
export function trayIslands(mesh: Mesh, set: UvSet): Uint8Array {
  const { count, start, faces } = islandsOf(mesh, set);
  const out = new Uint8Array(count);
  for (let i = 0; i < count; i++) {
    let waits = true;
    for (let k = start[i]!; k < start[i + 1]! && waits; k++) {
      const f = faces[k]!;
      if (set.unplaced[f]) waits = false;
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]! && waits; c++) if (!(set.uv[set.cornerUv[c]! * 2]! < 0)) waits = false;
    }
    if (waits) out[i] = 1;
  }
  return out;
}

/** 1 for each face of an island in the tray. */
export function trayFaces(mesh: Mesh, set: UvSet): Uint8Array {
  const waits = trayIslands(mesh, set);
  return Uint8Array.from(islandsOf(mesh, set).ofFace, (i) => waits[i]!);
}
