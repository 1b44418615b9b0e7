import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf } from '../uv/islands.ts';
import { keepsLength, straightCorners } from '../uv/straight.ts';
import type { UvSet } from '../uv/uvSet.ts';

/** Length of the edge that begins at a corner: on the sheet, and on the model. */
function lengthsAt(mesh: Mesh, set: UvSet, c: number): [number, number] {
  const n = nextCorner(mesh, c, topologyOf(mesh).cornerFace[c]!);
  const [a, b] = [set.cornerUv[c]! * 2, set.cornerUv[n]! * 2];
  const [p, q] = [mesh.corners[c]! * 3, mesh.corners[n]! * 3];
  return [
    Math.hypot(set.uv[a]! - set.uv[b]!, set.uv[a + 1]! - set.uv[b + 1]!),
    Math.hypot(mesh.points[p]! - mesh.points[q]!, mesh.points[p + 1]! - mesh.points[q + 1]!, mesh.points[p + 2]! - mesh.points[q + 2]!),
  ];
}

/** Length on the sheet over that on the model, of edges that keep it, by the corners they begin at; null without any that has one. */
export function keptRatio(mesh: Mesh, set: UvSet, corners: Iterable<number>): number | null {
  let [flat, space] = [0, 0];
  for (const c of corners) {
    const [onSheet, inSpace] = lengthsAt(mesh, set, c);
    flat += onSheet;
    space += inSpace;
  }
  return flat > 0 && space > 0 ? flat / space : null;
}

/**
 * Sizes of islands whose edges keep their lengths, UV length a unit of length: the same for all that meet at such seams, as those have it that are not laid now,
 * else as they have had it on the mean. Null: it has no such edges, or none of them has a place yet. O(edges that keep their lengths)
 * @param which islands that are laid now
 */
export function sizesByKept(mesh: Mesh, set: UvSet, which: readonly number[]): (number | null)[] {
  if (!set.straight) return which.map(() => null);
  const { faces, start, ofFace } = islandsOf(mesh, set);
  const { twin, cornerFace } = topologyOf(mesh);
  const at = new Map(which.map((island, k) => [island, k]));
  const group = which.map((_, k) => k);
  const root = (k: number): number => (group[k] === k ? k : (group[k] = root(group[k]!)));
  const own = which.map((island) => straightCorners(mesh, set, faces.subarray(start[island]!, start[island + 1]!), keepsLength));
  /** Of each group: edges of islands that stay, and edges of its own that have a place. */
  const staying = which.map(() => [] as number[]);
  const placed = which.map(() => [] as number[]);
  own.forEach((corners, k) => {
    for (const c of corners) {
      const other = twin[c]! < 0 ? undefined : at.get(ofFace[cornerFace[twin[c]!]!]!);
      if (other !== undefined) group[root(k)] = root(other);
    }
  });
  own.forEach((corners, k) => {
    for (const c of corners) {
      if (!set.unplaced[cornerFace[c]!]) placed[root(k)]!.push(c);
      const t = twin[c]!;
      if (t >= 0 && !at.has(ofFace[cornerFace[t]!]!) && !set.unplaced[cornerFace[t]!]) staying[root(k)]!.push(t);
    }
  });
  return which.map((_, k) => (own[k]!.length === 0 ? null : (keptRatio(mesh, set, staying[root(k)]!) ?? keptRatio(mesh, set, placed[root(k)]!))));
}

/** The largest difference between the two sides of the seams that keep their lengths, as a share of the longer; 0 without such seams. */
export function sidesApart(mesh: Mesh, set: UvSet): number {
  const { twin, cornerFace } = topologyOf(mesh);
  let most = 0;
  set.straight?.forEach((mark, c) => {
    const t = twin[c]!;
    if (!(mark & keepsLength) || t < c || set.unplaced[cornerFace[c]!] || set.unplaced[cornerFace[t]!]) return;
    const [one, other] = [lengthsAt(mesh, set, c)[0], lengthsAt(mesh, set, t)[0]];
    const longer = Math.max(one, other);
    if (longer > 0) most = Math.max(most, Math.abs(one - other) / longer);
  });
  return most;
}
