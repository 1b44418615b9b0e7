import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { axisNames, withMirrored, type Symmetry } from '../select/symmetry.ts';
import { cut } from '../seams/cut.ts';
import { islandFacts } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import type { Prices } from './coarseSeams.ts';

/**
 * Cuts as one side of the plane has them, and their images, where that makes as many pieces of the same shapes: the way back from a coarser mesh is not
 * quite alike on both sides. Else the cuts as they are. O(edges).
 */
export function madeAlike(mesh: Mesh, given: UvSet, edges: number[], symmetry: Symmetry, { price }: Prices): number[] {
  const { edgePoints } = topologyOf(mesh);
  const d = axisNames.indexOf(symmetry.axis);
  const off = (e: number) => mesh.points[edgePoints[e * 2]! * 3 + d]! + mesh.points[edgePoints[e * 2 + 1]! * 3 + d]! - 2 * symmetry.at;
  const shapes = (cuts: number[]) =>
    islandFacts(mesh, cut(mesh, given, cuts).set)
      .map(({ shape }) => shape)
      .sort()
      .join();
  const wanted = shapes(edges);
  const own = new Set(edges);
  const tries = [
    withMirrored(
      symmetry,
      edges.filter((e) => off(e) >= 0 || symmetry.edges[e] === e),
    ),
    withMirrored(
      symmetry,
      edges.filter((e) => off(e) <= 0 || symmetry.edges[e] === e),
    ),
    // what has none across is not needed, perhaps
    edges.filter((e) => own.has(symmetry.edges[e]!)),
  ];
  for (const both of tries) if (both.every((e) => price[e]! < Infinity) && shapes(both) === wanted) return both;
  return edges;
}
