import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import * as portable from '../numeric/portable.ts';
import { islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';

/** How a picture stands on an island. */
export interface IslandHeading {
  island: number;
  /** Degrees by which its up leans from the model's up, counterclockwise as one looks at the surface, −180 to 180; the mean by area. */
  lean: number;
  /** How much that differs within the island: 0 not at all, 1 every way alike. */
  spread: number;
  /** Area that stands, square units. */
  area: number;
}

/** Faces that look up or down by more than this (sine of what is left upright) have no up of their own. */
const leastUpright = 0.35;

/**
 * Which way a picture's up runs on each island beside the model's up (y): where faces look up or down, as floors and lids do, there is none, and an island of
 * such faces alone is left out. O(triangles).
 * @param set the layout as the picture lands (see `asImageLands`), and px of the picture
 */
export function pictureHeadings(mesh: Mesh, set: UvSet, width: number, height: number): IslandHeading[] {
  const { ofFace, count } = islandsOf(mesh, set);
  const { corners, face, count: triangles } = trianglesOf(mesh);
  const cos = new Float64Array(count);
  const sin = new Float64Array(count);
  const area = new Float64Array(count);
  const p = mesh.points;
  for (let t = 0; t < triangles; t++) {
    if (set.unplaced[face[t]!]) continue;
    const c = [corners[t * 3]!, corners[t * 3 + 1]!, corners[t * 3 + 2]!];
    const [a, b, d] = c.map((one) => mesh.corners[one]! * 3) as [number, number, number];
    const [q, r, s] = c.map((one) => set.cornerUv[one]! * 2) as [number, number, number];
    const e1 = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!];
    const e2 = [p[d]! - p[a]!, p[d + 1]! - p[a + 1]!, p[d + 2]! - p[a + 2]!];
    const n = [e1[1]! * e2[2]! - e1[2]! * e2[1]!, e1[2]! * e2[0]! - e1[0]! * e2[2]!, e1[0]! * e2[1]! - e1[1]! * e2[0]!];
    const twice = Math.hypot(n[0]!, n[1]!, n[2]!);
    const [x1, y1] = [(set.uv[r]! - set.uv[q]!) * width, (set.uv[r + 1]! - set.uv[q + 1]!) * height];
    const [x2, y2] = [(set.uv[s]! - set.uv[q]!) * width, (set.uv[s + 1]! - set.uv[q + 1]!) * height];
    const det = x1 * y2 - x2 * y1;
    if (!(twice > 0) || !(Math.abs(det) > 1e-18)) continue;
    for (let k = 0; k < 3; k++) n[k]! /= twice;
    // the model's up within the surface
    const up = [-n[1]! * n[0]!, 1 - n[1]! * n[1]!, -n[1]! * n[2]!];
    const upright = Math.hypot(up[0]!, up[1]!, up[2]!);
    if (upright < leastUpright) continue;
    // where the picture's y grows
    const own = [0, 1, 2].map((k) => (e2[k]! * x1 - e1[k]! * x2) / det);
    const length = Math.hypot(own[0]!, own[1]!, own[2]!);
    if (!(length > 0)) continue;
    const dot = own[0]! * up[0]! + own[1]! * up[1]! + own[2]! * up[2]!;
    const cross = n[0]! * (up[1]! * own[2]! - up[2]! * own[1]!) + n[1]! * (up[2]! * own[0]! - up[0]! * own[2]!) + n[2]! * (up[0]! * own[1]! - up[1]! * own[0]!);
    const i = ofFace[face[t]!]!;
    const weight = twice / 2;
    cos[i]! += (weight * dot) / (length * upright);
    sin[i]! += (weight * cross) / (length * upright);
    area[i]! += weight;
  }
  return [...area.keys()]
    .filter((i) => area[i]! > 0)
    .map((island) => ({
      island,
      lean: (portable.atan2(sin[island]!, cos[island]!) * 180) / Math.PI,
      spread: 1 - Math.min(1, Math.hypot(cos[island]!, sin[island]!) / area[island]!),
      area: area[island]!,
    }));
}
