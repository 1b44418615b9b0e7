import { triangleStretch } from '../uv/triangleStretch.ts';
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
  /** How many times as dense as others it is to be. */
  weight: number;
}

/** Texel density of each island on a sheet of the given px size. O(T). */
export function islandDensities(mesh: Mesh, set: UvSet, width: number, height: number): IslandDensity[] {
  const islands = islandsOf(mesh, set);
  const facts = islandFacts(mesh, set);
  const triangles = trianglesOf(mesh);
  const area = new Float64Array(islands.count);
  const px = new Float64Array(islands.count);
  const stretch = triangleStretch(mesh, set, width, height);
  for (let t = 0; t < triangles.count; t++) {
    const i = islands.ofFace[triangles.face[t]!]!;
    area[i]! += stretch.area[t]!;
    // without a place it has none on the sheet
    if (!set.unplaced[triangles.face[t]!]) px[i]! += Math.abs(stretch.pxArea[t]!);
  }
  return facts.map((fact, island) => ({
    island,
    area: area[island]!,
    density: !fact.unplaced && area[island]! > 0 ? Math.sqrt(px[island]! / area[island]!) : 0,
    weight: set.weight?.[islands.faces[islands.start[island]!]!] ?? 1,
  }));
}

/**
 * Sizes islands about their middle so that all have one density, or that times their weight.
 * @param target px per unit at weight 1; default: the mean that keeps the total px area
 */
export function evenDensity(mesh: Mesh, set: UvSet, width: number, height: number, target?: number): { set: UvSet; density: number; changed: number } {
  const densities = islandDensities(mesh, set, width, height);
  const area = densities.reduce((sum, d) => sum + (d.density > 0 ? d.area * d.weight ** 2 : 0), 0);
  const flat = densities.reduce((sum, d) => sum + d.area * d.density ** 2, 0);
  const wanted = target ?? (area > 0 ? Math.sqrt(flat / area) : 0);
  if (!(wanted > 0)) return { set, density: 0, changed: 0 };
  const islands = islandsOf(mesh, set);
  const uv = set.uv.slice();
  let changed = 0;
  for (const { island, density, weight } of densities) {
    if (!(density > 0) || Math.abs(density / (wanted * weight) - 1) < 1e-12) continue;
    changed++;
    scaleIsland(mesh, set, islands.faces.subarray(islands.start[island]!, islands.start[island + 1]!), (wanted * weight) / density, uv);
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
