import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import type { UvSet } from './uvSet.ts';

/** How the sheet's px relate to space on each triangle. Triangles of faces without a place, and those without area, have NaN. */
export interface TriangleStretch {
  /** Larger and smaller singular value of the map from space to px, px per unit. */
  most: Float64Array;
  least: Float64Array;
  /** Signed px area: negative where the triangle is turned over. */
  pxArea: Float64Array;
  /** Area in space. */
  area: Float64Array;
}

/** Several measures of one layout begin with it: the last answers are kept, two since the sheet's and the square's are asked for in turn. */
let kept: { mesh: Mesh; set: UvSet; width: number; height: number; stretch: TriangleStretch }[] = [];

/** Singular values of every triangle's map; not to be written into. O(T). */
export function triangleStretch(mesh: Mesh, set: UvSet, width: number, height: number): TriangleStretch {
  const known = kept.find((one) => one.mesh === mesh && one.set === set && one.width === width && one.height === height);
  if (known) return known.stretch;
  const stretch = stretchOf(mesh, set, width, height);
  kept = [...kept.slice(-1), { mesh, set, width, height, stretch }];
  return stretch;
}

function stretchOf(mesh: Mesh, set: UvSet, width: number, height: number): TriangleStretch {
  const triangles = trianglesOf(mesh);
  const n = triangles.count;
  const most = new Float64Array(n).fill(NaN);
  const least = new Float64Array(n).fill(NaN);
  const pxArea = new Float64Array(n).fill(NaN);
  const area = new Float64Array(n);
  const p = mesh.points;
  for (let t = 0; t < n; t++) {
    const c0 = triangles.corners[t * 3]!,
      c1 = triangles.corners[t * 3 + 1]!,
      c2 = triangles.corners[t * 3 + 2]!;
    const a = mesh.corners[c0]! * 3,
      b = mesh.corners[c1]! * 3,
      c = mesh.corners[c2]! * 3;
    const ux = p[b]! - p[a]!,
      uy = p[b + 1]! - p[a + 1]!,
      uz = p[b + 2]! - p[a + 2]!;
    const vx = p[c]! - p[a]!,
      vy = p[c + 1]! - p[a + 1]!,
      vz = p[c + 2]! - p[a + 2]!;
    const x1 = Math.sqrt(ux * ux + uy * uy + uz * uz);
    const nx = uy * vz - uz * vy,
      ny = uz * vx - ux * vz,
      nz = ux * vy - uy * vx;
    const twice = Math.sqrt(nx * nx + ny * ny + nz * nz);
    area[t] = twice / 2;
    if (set.unplaced[triangles.face[t]!]) continue;
    const i = set.cornerUv[c0]! * 2,
      j = set.cornerUv[c1]! * 2,
      k = set.cornerUv[c2]! * 2;
    const p1 = (set.uv[j]! - set.uv[i]!) * width,
      q1 = (set.uv[j + 1]! - set.uv[i + 1]!) * height;
    const p2 = (set.uv[k]! - set.uv[i]!) * width,
      q2 = (set.uv[k + 1]! - set.uv[i + 1]!) * height;
    pxArea[t] = (p1 * q2 - p2 * q1) / 2;
    if (!(twice > 0)) continue;
    const x2 = (ux * vx + uy * vy + uz * vz) / x1;
    const y2 = twice / x1;
    const ja = p1 / x1,
      jc = q1 / x1;
    const jb = (p2 - ja * x2) / y2,
      jd = (q2 - jc * x2) / y2;
    // singular values of [[ja, jb], [jc, jd]] by sum and difference (a well-conditioned form)
    const s = Math.sqrt((ja + jd) ** 2 + (jc - jb) ** 2) / 2;
    const d = Math.sqrt((ja - jd) ** 2 + (jc + jb) ** 2) / 2;
    most[t] = s + d;
    least[t] = Math.abs(s - d);
  }
  return { most, least, pxArea, area };
}
