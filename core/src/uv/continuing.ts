import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf } from './islands.ts';
import { EdgeState } from './seamEdges.ts';
import { goesOnOver } from './straight.ts';
import type { UvSet } from './uvSet.ts';

/**
 * The first island of those that belong together, for each island: islands on both sides of a seam over which the picture is kept going on
 * (a mark of `UvSet.straight`), and so on from these. O(corners)
 */
export function continuingIslands(mesh: Mesh, set: UvSet): Int32Array {
  const { count, ofFace, states } = islandsOf(mesh, set);
  const root = Int32Array.from({ length: count }, (_, i) => i);
  if (!set.straight) return root;
  const { twin, cornerFace, cornerEdge } = topologyOf(mesh);
  const find = (i: number): number => {
    while (root[i] !== i) i = root[i] = root[root[i]!]!;
    return i;
  };
  set.straight.forEach((mark, c) => {
    if (!(mark & goesOnOver) || twin[c]! < 0 || states[cornerEdge[c]!] !== EdgeState.seam) return;
    const [a, b] = [find(ofFace[cornerFace[c]!]!), find(ofFace[cornerFace[twin[c]!]!]!)];
    root[Math.max(a, b)] = Math.min(a, b);
  });
  return root.map((_, i) => find(i));
}

/** Seams over which the picture is kept going on, by their edges, rising. O(corners) */
export function continuingSeams(mesh: Mesh, set: UvSet): number[] {
  if (!set.straight) return [];
  const { cornerEdge } = topologyOf(mesh);
  const { states } = islandsOf(mesh, set);
  const edges = new Set<number>();
  set.straight.forEach((mark, c) => {
    if (mark & goesOnOver && states[cornerEdge[c]!] === EdgeState.seam) edges.add(cornerEdge[c]!);
  });
  return [...edges].sort((a, b) => a - b);
}
