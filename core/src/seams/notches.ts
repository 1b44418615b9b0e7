import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { seamRuns } from './seamRuns.ts';

/** A mark on both sides of a seam: they meet when the piece is put together. */
export interface Notch {
  /** Number of the seam's letter: 0 is a. */
  letter: number;
  /** One to three short ticks. */
  ticks: 1 | 2 | 3;
  /** The corner whose half edge holds the mark, on either side. */
  corners: [number, number];
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
