import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { pointEdges } from '../seams/shortestPaths.ts';
import { mirrorPoints } from './flood.ts';

export type AxisName = 'x' | 'y' | 'z';
export const axisNames = ['x', 'y', 'z'] as const;

/** The plane across an axis through the middle of the mesh, and what lies across it. */
export interface Symmetry {
  axis: AxisName;
  /** The plane's coordinate on the axis. */
  at: number;
  /** The point across for each point, −1 where there is none. */
  points: Int32Array;
  /** The edge across for each edge, −1 where there is none. */
  edges: Int32Array;
  /** Share of the points that have one. */
  share: number;
}

const cache = new WeakMap<Mesh, Map<AxisName, Symmetry>>();

/** What lies across the plane through the middle of the mesh's box. Kept as long as the mesh. O(points + edges). @param tolerance units; default a thousandth of the size */
export function symmetryOf(mesh: Mesh, axis: AxisName, tolerance?: number): Symmetry {
  const known = tolerance === undefined ? cache.get(mesh)?.get(axis) : undefined;
  if (known) return known;
  const d = axisNames.indexOf(axis) as 0 | 1 | 2;
  let [low, high] = [Infinity, -Infinity];
  for (let k = d; k < mesh.points.length; k += 3) {
    low = Math.min(low, mesh.points[k]!);
    high = Math.max(high, mesh.points[k]!);
  }
  const at = (low + high) / 2;
  const points = mirrorPoints(mesh, d, at, tolerance ?? Math.max(1e-9, (high - low) / 1000));
  const { edgeCount, edgePoints } = topologyOf(mesh);
  const { start, edges: byPoint } = pointEdges(mesh);
  const edges = new Int32Array(edgeCount).fill(-1);
  for (let e = 0; e < edgeCount; e++) {
    const p = points[edgePoints[e * 2]!]!;
    const q = points[edgePoints[e * 2 + 1]!]!;
    if (p < 0 || q < 0) continue;
    for (let k = start[p]!; k < start[p + 1]!; k++) {
      const f = byPoint[k]!;
      if (edgePoints[f * 2] === q || edgePoints[f * 2 + 1] === q) edges[e] = f;
    }
  }
  let matched = 0;
  for (const p of points) if (p >= 0) matched++;
  const found: Symmetry = { axis, at, points, edges, share: points.length > 0 ? matched / points.length : 0 };
  if (tolerance === undefined) {
    const byAxis = cache.get(mesh) ?? new Map<AxisName, Symmetry>();
    byAxis.set(axis, found);
    cache.set(mesh, byAxis);
  }
  return found;
}

/** The plane across which the mesh is alike left and right: of the three the one with most points that have one across, where these are 98 of 100. */
export function findSymmetry(mesh: Mesh): Symmetry | null {
  const best = axisNames.map((axis) => symmetryOf(mesh, axis)).sort((a, b) => b.share - a.share)[0]!;
  return best.share >= 0.98 ? best : null;
}

/** Edges and what lies across from them. */
export function withMirrored(symmetry: Symmetry | null, edges: Iterable<number>): number[] {
  const all = new Set(edges);
  if (symmetry) for (const e of [...all]) if (symmetry.edges[e]! >= 0) all.add(symmetry.edges[e]!);
  return [...all].sort((a, b) => a - b);
}
