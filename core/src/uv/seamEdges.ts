import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import type { UvSet } from './uvSet.ts';

/** How an edge stands in a layout. */
export const EdgeState = {
  /** Both sides share their UV points: the island runs across. */
  joined: 0,
  /** A seam: cut on purpose or split by its UV points. */
  seam: 1,
  /** The mesh ends here, is non-manifold here, or its winding disagrees: never crossed. */
  border: 2,
} as const;

/** The state of every edge, one byte each. O(edges). */
export function edgeStates(mesh: Mesh, set: UvSet): Uint8Array {
  const { edgeCount, edgeCorners, edgeStart, twin, cornerFace } = topologyOf(mesh);
  const { cornerUv } = set;
  const states = new Uint8Array(edgeCount);
  for (let e = 0; e < edgeCount; e++) {
    const c = edgeCorners[edgeStart[e]!]!;
    const t = twin[c]!;
    if (t < 0) states[e] = EdgeState.border;
    else {
      const joined = cornerUv[c] === cornerUv[nextCorner(mesh, t, cornerFace[t]!)] && cornerUv[nextCorner(mesh, c, cornerFace[c]!)] === cornerUv[t];
      states[e] = joined ? EdgeState.joined : EdgeState.seam;
    }
  }
  for (const e of set.slits) states[e] = EdgeState.seam;
  return states;
}

/** Do corner c's half edge and its twin use the same UV points at both ends? c must have a twin. */
export function sharesBothEnds(mesh: Mesh, set: UvSet, c: number): boolean {
  const { twin, cornerFace } = topologyOf(mesh);
  const t = twin[c]!;
  const { cornerUv } = set;
  return cornerUv[c] === cornerUv[nextCorner(mesh, t, cornerFace[t]!)] && cornerUv[nextCorner(mesh, c, cornerFace[c]!)] === cornerUv[t];
}

/** Edges in a given state, rising. */
export function edgesInState(states: Uint8Array, state: number): number[] {
  const edges: number[] = [];
  for (let e = 0; e < states.length; e++) if (states[e] === state) edges.push(e);
  return edges;
}
