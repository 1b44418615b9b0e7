import { topologyOf } from '../mesh/topology.ts';
import type { Jig, Put } from './jig.ts';
import type { ProjectionWork } from './projected.ts';

/** The side of each face by its dominant facing; small patches go with their neighbours where the jig asks for it. */
export function boxSides(work: ProjectionWork, jig: Jig): Int32Array {
  const { normals, faces } = work;
  const sides = new Int32Array(faces.length);
  for (let f = 0; f < sides.length; f++) {
    const n = [normals[f * 3]!, normals[f * 3 + 1]!, normals[f * 3 + 2]!];
    let best = 2;
    // front and back win ties over right and left, these over top and bottom
    for (const d of [0, 1]) if (Math.abs(n[d]!) > Math.abs(n[best]!) * (1 + 1e-9)) best = d;
    sides[f] = best * 2 + (n[best]! < 0 ? 1 : 0);
  }
  if (jig.group > 0) groupSmall(work, sides, jig.group);
  return sides;
}

/** Patches smaller than a share of all go to the side that they share the longest border with, smallest first, until none is left. */
function groupSmall({ mesh, faces, normals, corners, start }: ProjectionWork, sides: Int32Array, share: number): void {
  const { cornerEdge, edgeStart, edgeCorners, cornerFace, edgePoints } = topologyOf(mesh);
  const at = new Map<number, number>();
  faces.forEach((face, k) => at.set(face, k));
  const area = Float64Array.from(faces, (_, k) => Math.hypot(normals[k * 3]!, normals[k * 3 + 1]!, normals[k * 3 + 2]!) / 2);
  const total = area.reduce((sum, x) => sum + x, 0);
  const around = (k: number, visit: (other: number, length: number) => void) => {
    for (let c = start[k]!; c < start[k + 1]!; c++) {
      const e = cornerEdge[corners[c]!]!;
      for (let i = edgeStart[e]!; i < edgeStart[e + 1]!; i++) {
        const other = at.get(cornerFace[edgeCorners[i]!]!);
        if (other === undefined || other === k) continue;
        const [p, q] = [edgePoints[e * 2]! * 3, edgePoints[e * 2 + 1]! * 3];
        visit(other, Math.hypot(...[0, 1, 2].map((d) => mesh.points[p + d]! - mesh.points[q + d]!)));
      }
    }
  };
  for (let round = 0; round < 64; round++) {
    const seen = new Uint8Array(faces.length);
    const patches: { list: number[]; area: number }[] = [];
    for (let k = 0; k < faces.length; k++) {
      if (seen[k]) continue;
      const list = [k];
      seen[k] = 1;
      let sum = 0;
      for (let n = 0; n < list.length; n++) {
        sum += area[list[n]!]!;
        around(list[n]!, (other) => {
          if (seen[other] || sides[other] !== sides[k]) return;
          seen[other] = 1;
          list.push(other);
        });
      }
      if (sum < share * total) patches.push({ list, area: sum });
    }
    patches.sort((a, b) => a.area - b.area);
    let moved = false;
    for (const { list } of patches) {
      const border = new Float64Array(6);
      const mine = sides[list[0]!]!;
      for (const k of list) around(k, (other, length) => sides[other] !== mine && (border[sides[other]!]! += length));
      const best = border.reduce((top, x, side) => (x > border[top]! ? side : top), 0);
      if (!(border[best]! > 0)) continue;
      for (const k of list) sides[k] = best;
      moved = true;
    }
    if (!moved) return;
  }
}

/** Each side sees the image the right way up and round from outside; top and bottom with the front's edge towards the front. */
export function sidePlace({ start, places, uv }: ProjectionWork, { size, imageWidth }: Jig, put: Put, f: number, side: number): void {
  // an image of a given width is that wide on every side; without one each side holds as many repeats as the others
  const deep = imageWidth === null ? size[2] : side < 2 ? size[0] : size[1];
  for (let k = start[f]!; k < start[f + 1]!; k++) {
    const x = places[k * 3]! / size[0];
    const y = places[k * 3 + 1]! / size[1];
    const wide = places[k * 3 + 2]! / deep;
    switch (side) {
      case 0:
        put(uv, k * 2, 0.5 - wide, 0.5 + y);
        break;
      case 1:
        put(uv, k * 2, 0.5 + wide, 0.5 + y);
        break;
      case 2:
        put(uv, k * 2, 0.5 + x, 0.5 - wide);
        break;
      case 3:
        put(uv, k * 2, 0.5 + x, 0.5 + wide);
        break;
      case 4:
        put(uv, k * 2, 0.5 + x, 0.5 + y);
        break;
      default:
        put(uv, k * 2, 0.5 - x, 0.5 + y);
    }
  }
}
