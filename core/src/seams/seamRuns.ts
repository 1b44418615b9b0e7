import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { edgeLengths } from './crease.ts';

export interface SeamRun {
  edges: number[];
  /** How many edges that are not joined meet at its two ends: 1 where it is loose, 2 where it goes on as another kind of edge. */
  degrees: [number, number];
}

/** Runs of seam edges from one junction, loose end or border to the next. @param among only these seams; default all. O(edges) */
export function runsOf(mesh: Mesh, set: UvSet, among: (edge: number) => boolean = () => true): SeamRun[] {
  const { edgePoints } = topologyOf(mesh);
  const { states } = islandsOf(mesh, set);
  const at = new Map<number, number[]>();
  const seams: number[] = [];
  const degree = new Map<number, number>();
  for (let e = 0; e < states.length; e++) {
    if (states[e] === EdgeState.joined) continue;
    for (let k = 0; k < 2; k++) degree.set(edgePoints[e * 2 + k]!, (degree.get(edgePoints[e * 2 + k]!) ?? 0) + 1);
    if (states[e] !== EdgeState.seam || !among(e)) continue;
    seams.push(e);
    for (let k = 0; k < 2; k++) {
      const p = edgePoints[e * 2 + k]!;
      const list = at.get(p);
      if (list) list.push(e);
      else at.set(p, [e]);
    }
  }
  const through = (p: number) => degree.get(p) === 2 && at.get(p)!.length === 2;
  const seen = new Set<number>();
  const runs: SeamRun[] = [];
  const walk = (start: number, first: number) => {
    const edges: number[] = [];
    let [here, edge] = [start, first];
    for (;;) {
      if (seen.has(edge)) break;
      seen.add(edge);
      edges.push(edge);
      here = edgePoints[edge * 2] === here ? edgePoints[edge * 2 + 1]! : edgePoints[edge * 2]!;
      if (!through(here)) break;
      const on = at.get(here)!;
      edge = on[0] === edge ? on[1]! : on[0]!;
    }
    if (edges.length > 0) runs.push({ edges, degrees: [degree.get(start)!, degree.get(here)!] });
  };
  for (const [p, list] of at) if (!through(p)) for (const e of list) walk(p, e);
  // closed ones
  for (const e of seams) walk(edgePoints[e * 2]!, e);
  return runs;
}

/** All runs of seam edges, the longest first. */
export function seamRuns(mesh: Mesh, set: UvSet): number[][] {
  const lengths = edgeLengths(mesh);
  return runsOf(mesh, set)
    .map(({ edges }) => ({ edges, length: edges.reduce((sum, e) => sum + lengths[e]!, 0) }))
    .sort((a, b) => b.length - a.length)
    .map(({ edges }) => edges);
}
