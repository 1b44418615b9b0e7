import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { edgeLengths } from './crease.ts';

/** A mark on both sides of a seam: they meet when the piece is put together. */
export interface Notch {
  /** Number of the seam's letter: 0 is a. */
  letter: number;
  /** One to three short ticks. */
  ticks: 1 | 2 | 3;
  /** The corner whose half edge holds the mark, on either side. */
  corners: [number, number];
}

/** Runs of seam edges from one junction, loose end or border to the next, the longest first. O(seams). */
export function seamRuns(mesh: Mesh, set: UvSet): number[][] {
  const { edgePoints } = topologyOf(mesh);
  const { states } = islandsOf(mesh, set);
  const at = new Map<number, number[]>();
  const seams: number[] = [];
  const ends = new Map<number, number>();
  for (let e = 0; e < states.length; e++) {
    if (states[e] === EdgeState.joined) continue;
    for (let k = 0; k < 2; k++) ends.set(edgePoints[e * 2 + k]!, (ends.get(edgePoints[e * 2 + k]!) ?? 0) + 1);
    if (states[e] !== EdgeState.seam) continue;
    seams.push(e);
    for (let k = 0; k < 2; k++) {
      const p = edgePoints[e * 2 + k]!;
      const list = at.get(p);
      if (list) list.push(e);
      else at.set(p, [e]);
    }
  }
  const through = (p: number) => ends.get(p) === 2 && at.get(p)!.length === 2;
  const seen = new Set<number>();
  const runs: number[][] = [];
  const walk = (start: number, first: number) => {
    const run: number[] = [];
    let [here, edge] = [start, first];
    for (;;) {
      if (seen.has(edge)) break;
      seen.add(edge);
      run.push(edge);
      here = edgePoints[edge * 2] === here ? edgePoints[edge * 2 + 1]! : edgePoints[edge * 2]!;
      if (!through(here)) break;
      const on = at.get(here)!;
      edge = on[0] === edge ? on[1]! : on[0]!;
    }
    if (run.length > 0) runs.push(run);
  };
  for (const [p, list] of at) if (!through(p)) for (const e of list) walk(p, e);
  // closed ones
  for (const e of seams) walk(edgePoints[e * 2]!, e);
  const lengths = edgeLengths(mesh);
  return runs
    .map((run) => ({ run, length: run.reduce((sum, e) => sum + lengths[e]!, 0) }))
    .sort((a, b) => b.length - a.length)
    .map(({ run }) => run);
}

/**
 * Marks along both sides of every seam, so that who paints sees which borders belong together: each run of seam edges has a letter and one to three
 * ticks at its middle, long runs at their quarters too.
 *
 * Matching marks of tailors' patterns: common practice, no source.
 *
 * @param most runs that get marks, the longest first; default 78
 * O(seams).
 */
export function notchesOf(mesh: Mesh, set: UvSet, most = 78): Notch[] {
  const { edgeStart, edgeCorners } = topologyOf(mesh);
  const out: Notch[] = [];
  const runs = seamRuns(mesh, set).slice(0, most);
  runs.forEach((run, k) => {
    const ticks = ((Math.floor(k / 26) % 3) + 1) as 1 | 2 | 3;
    const places = run.length >= 24 ? [0.25, 0.5, 0.75] : [0.5];
    for (const place of places) {
      const e = run[Math.min(run.length - 1, Math.floor(place * run.length))]!;
      out.push({ letter: k % 26, ticks, corners: [edgeCorners[edgeStart[e]!]!, edgeCorners[edgeStart[e]! + 1]!] });
    }
  });
  return out;
}

/** Where a mark stands on the sheet: the middle of its half edge, and the direction into its island, of length 1. */
export function notchPlace(mesh: Mesh, set: UvSet, corner: number): [number, number, number, number] {
  const { cornerFace } = topologyOf(mesh);
  const a = set.cornerUv[corner]! * 2;
  const b = set.cornerUv[nextCorner(mesh, corner, cornerFace[corner]!)]! * 2;
  const [ex, ey] = [set.uv[b]! - set.uv[a]!, set.uv[b + 1]! - set.uv[a + 1]!];
  const length = Math.hypot(ex, ey) || 1;
  // the island lies on the left, but for mirrored ones: towards the face's middle
  let [x, y, n] = [0, 0, 0];
  const f = cornerFace[corner]!;
  for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++, n++) {
    x += set.uv[set.cornerUv[c]! * 2]!;
    y += set.uv[set.cornerUv[c]! * 2 + 1]!;
  }
  const [mx, my] = [(set.uv[a]! + set.uv[b]!) / 2, (set.uv[a + 1]! + set.uv[b + 1]!) / 2];
  const side = -ey * (x / n - mx) + ex * (y / n - my) < 0 ? -1 : 1;
  return [mx, my, (-ey / length) * side, (ex / length) * side];
}
