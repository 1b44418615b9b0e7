import type { Mesh } from '../mesh/mesh.ts';
import { faceAreas } from '../mesh/normals.ts';
import { topologyOf } from '../mesh/topology.ts';

/** So many rings of faces are added at the most. */
const mostRings = 8;

/**
 * Faces with rings of their neighbours until these are so wide, at the most eight.
 * @param within faces that may be added; all where it is null
 * @param width units
 * O(faces · rings)
 */
export function widened(mesh: Mesh, faces: readonly number[], within: ArrayLike<number> | null, width: number): number[] {
  const { twin, cornerFace } = topologyOf(mesh);
  const areas = faceAreas(mesh);
  const may = new Uint8Array(mesh.faceStart.length - 1);
  if (!within) may.fill(1);
  else for (let k = 0; k < within.length; k++) may[within[k]!] = 1;
  const taken = new Set(faces);
  let rim = [...taken];
  let wide = 0;
  for (let ring = 0; ring < mostRings && wide < width && rim.length > 0; ring++) {
    const next: number[] = [];
    for (const f of rim)
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        const other = twin[c]! < 0 ? -1 : cornerFace[twin[c]!]!;
        if (other < 0 || taken.has(other) || !may[other]) continue;
        taken.add(other);
        next.push(other);
      }
    wide += next.reduce((all, f) => all + Math.sqrt(areas[f]!), 0) / Math.max(1, next.length);
    rim = next;
  }
  return [...taken].sort((a, b) => a - b);
}
