import { topologyOf } from '../mesh/topology.ts';
import { cross, repeatsOf, unit, type Jig, type Vector } from './jig.ts';
import type { ProjectionWork } from './projected.ts';
import * as portable from '../numeric/portable.ts';

/**
 * Each flat region by its own plane at true size, all at one scale: the jig's width is one image (or as many as its repeats say), wherever the region
 * lies and however it leans. Regions hang from the jig's middle, so that neighbours at right angles go on where the other ends.
 */
export function flatRegionPlaces(work: ProjectionWork, jig: Jig): void {
  const { mesh, faces, start, corners, places, normals, uv, patch, put } = work;
  const { cornerEdge, edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
  const at = new Int32Array(mesh.faceStart.length - 1).fill(-1);
  for (let k = 0; k < faces.length; k++) at[faces[k]!] = k;
  const facing = new Float64Array(normals.length);
  for (let k = 0; k < normals.length; k += 3) {
    const length = Math.sqrt(normals[k]! ** 2 + normals[k + 1]! ** 2 + normals[k + 2]! ** 2);
    for (let d = 0; d < 3; d++) facing[k + d] = length > 0 ? normals[k + d]! / length : 0;
  }
  const limit = portable.cos((jig.flatAngle * Math.PI) / 180) - 1e-9;
  patch.fill(-1);
  const [ru, rv] = repeatsOf(jig);
  // true size both ways: the image's proportions are in the repeats where its width is given, else the jig's own are
  const across = ru / jig.size[0];
  const along = jig.imageWidth === null ? across * (rv / ru) : rv / jig.size[1];
  let region = 0;
  for (let seed = 0; seed < faces.length; seed++) {
    if (patch[seed] !== -1) continue;
    const list = [seed];
    patch[seed] = region;
    const sum: [number, number, number] = [0, 0, 0];
    for (let n = 0; n < list.length; n++) {
      const k = list[n]!;
      for (let d = 0; d < 3; d++) sum[d]! += normals[k * 3 + d]!;
      for (let c = start[k]!; c < start[k + 1]!; c++) {
        const e = cornerEdge[corners[c]!]!;
        // a region ends where more or fewer than two faces meet
        if (edgeStart[e + 1]! - edgeStart[e]! !== 2) continue;
        for (let i = edgeStart[e]!; i < edgeStart[e + 1]!; i++) {
          const other = at[cornerFace[edgeCorners[i]!]!]!;
          if (other < 0 || patch[other] !== -1) continue;
          const a = seed * 3;
          const b = other * 3;
          if (facing[a]! * facing[b]! + facing[a + 1]! * facing[b + 1]! + facing[a + 2]! * facing[b + 2]! < limit) continue;
          patch[other] = region;
          list.push(other);
        }
      }
    }
    const out = unit(sum);
    // up on the region; a level one has the back for its up
    const towards: Vector = Math.abs(out[1]) < 0.999 ? [0, 1, 0] : [0, 0, out[1] > 0 ? -1 : 1];
    const right = unit(cross(towards, out), [1, 0, 0]);
    const up = cross(out, right);
    for (const k of list) {
      for (let c = start[k]!; c < start[k + 1]!; c++) {
        const p: Vector = [places[c * 3]!, places[c * 3 + 1]!, places[c * 3 + 2]!];
        const x = right[0] * p[0] + right[1] * p[1] + right[2] * p[2];
        const y = up[0] * p[0] + up[1] * p[1] + up[2] * p[2];
        put(uv, c * 2, (ru / 2 + x * across) / ru, (rv / 2 + y * along) / rv);
      }
    }
    region++;
  }
}
