import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';

export interface IslandDensity {
  island: number;
  /** Area in space, square units. */
  area: number;
  /** px per unit: square root of the island's px area over its area in space; 0 without area or place. */
  density: number;
}

/** Texel density of each island on a sheet of the given px size. O(T). */
export function islandDensities(mesh: Mesh, set: UvSet, width: number, height: number): IslandDensity[] {
  const islands = islandsOf(mesh, set);
  const facts = islandFacts(mesh, set);
  const triangles = trianglesOf(mesh);
  const area = new Float64Array(islands.count);
  const flat = new Float64Array(islands.count);
  const p = mesh.points;
  for (let t = 0; t < triangles.count; t++) {
    const i = islands.ofFace[triangles.face[t]!]!;
    const [c0, c1, c2] = [triangles.corners[t * 3]!, triangles.corners[t * 3 + 1]!, triangles.corners[t * 3 + 2]!];
    const a = mesh.corners[c0]! * 3,
      b = mesh.corners[c1]! * 3,
      c = mesh.corners[c2]! * 3;
    const ux = p[b]! - p[a]!,
      uy = p[b + 1]! - p[a + 1]!,
      uz = p[b + 2]! - p[a + 2]!;
    const vx = p[c]! - p[a]!,
      vy = p[c + 1]! - p[a + 1]!,
      vz = p[c + 2]! - p[a + 2]!;
    const nx = uy * vz - uz * vy,
      ny = uz * vx - ux * vz,
      nz = ux * vy - uy * vx;
    area[i]! += Math.sqrt(nx * nx + ny * ny + nz * nz) / 2;
    const q = set.cornerUv[c0]! * 2,
      r = set.cornerUv[c1]! * 2,
      s = set.cornerUv[c2]! * 2;
    flat[i]! += Math.abs((set.uv[r]! - set.uv[q]!) * (set.uv[s + 1]! - set.uv[q + 1]!) - (set.uv[s]! - set.uv[q]!) * (set.uv[r + 1]! - set.uv[q + 1]!)) / 2;
  }
  return facts.map((fact, island) => ({
    island,
    area: area[island]!,
    density: !fact.unplaced && area[island]! > 0 ? Math.sqrt((flat[island]! * width * height) / area[island]!) : 0,
  }));
}

/**
 * Sizes islands about their middle so that all have one density.
 * @param target px per unit; default: the mean that keeps the total px area
 */
export function evenDensity(mesh: Mesh, set: UvSet, width: number, height: number, target?: number): { set: UvSet; density: number; changed: number } {
  const densities = islandDensities(mesh, set, width, height);
  const area = densities.reduce((sum, d) => sum + (d.density > 0 ? d.area : 0), 0);
  const flat = densities.reduce((sum, d) => sum + d.area * d.density ** 2, 0);
  const wanted = target ?? (area > 0 ? Math.sqrt(flat / area) : 0);
  if (!(wanted > 0)) return { set, density: 0, changed: 0 };
  const islands = islandsOf(mesh, set);
  const uv = set.uv.slice();
  let changed = 0;
  for (const { island, density } of densities) {
    if (!(density > 0) || Math.abs(density / wanted - 1) < 1e-12) continue;
    changed++;
    scaleIsland(mesh, set, islands.faces.subarray(islands.start[island]!, islands.start[island + 1]!), wanted / density, uv);
  }
  return { set: changed > 0 ? { ...set, uv } : set, density: wanted, changed };
}

function scaleIsland(mesh: Mesh, set: UvSet, faces: Uint32Array, factor: number, uv: Float64Array) {
  const points = new Set<number>();
  for (const f of faces) for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) points.add(set.cornerUv[c]!);
  let u = 0;
  let v = 0;
  for (const k of points) {
    u += set.uv[k * 2]! / points.size;
    v += set.uv[k * 2 + 1]! / points.size;
  }
  for (const k of points) {
    uv[k * 2] = u + (set.uv[k * 2]! - u) * factor;
    uv[k * 2 + 1] = v + (set.uv[k * 2 + 1]! - v) * factor;
  }
}
