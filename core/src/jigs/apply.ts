import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import type { UvSet } from '../uv/uvSet.ts';
import type { Jig } from './jig.ts';
import { project } from './project.ts';

/**
 * Writes a jig's UVs into a set: the chosen faces get UV points of their own, everything else keeps its UV points bit for bit. Neighbours within one
 * patch share a UV point where they agree on the place. O(corners).
 */
export function applyJig(mesh: Mesh, set: UvSet, faces: ArrayLike<number>, jig: Jig): UvSet {
  const done = project(mesh, faces, jig);
  const cornerUv = set.cornerUv.slice();
  const added: number[] = [];
  const first = set.uv.length / 2;
  const at = new Map<string, number>();
  const chosen = new Uint8Array(mesh.faceStart.length - 1);
  for (let f = 0; f < done.faces.length; f++) {
    chosen[done.faces[f]!] = 1;
    for (let k = done.start[f]!; k < done.start[f + 1]!; k++) {
      const c = done.corners[k]!;
      const [u, v] = [done.uv[k * 2]!, done.uv[k * 2 + 1]!];
      // places that differ by rounding alone are one
      const key = `${mesh.corners[c]} ${done.patch[f]} ${Math.round(u * 1e9)} ${Math.round(v * 1e9)}`;
      let id = at.get(key);
      if (id === undefined) {
        id = first + added.length / 2;
        at.set(key, id);
        added.push(u, v);
      }
      cornerUv[c] = id;
    }
  }
  const uv = new Float64Array(set.uv.length + added.length);
  uv.set(set.uv);
  uv.set(added, set.uv.length);
  const unplaced = set.unplaced.slice();
  for (let f = 0; f < chosen.length; f++) if (chosen[f]) unplaced[f] = 0;
  const pins = new Uint8Array(uv.length / 2);
  pins.set(set.pins);
  // slits inside the chosen faces are gone: the projection joins what it lays side by side
  const { edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
  const slits = set.slits.filter((e) => {
    for (let i = edgeStart[e]!; i < edgeStart[e + 1]!; i++) if (chosen[cornerFace[edgeCorners[i]!]!]) return false;
    return true;
  });
  return compact({ ...set, cornerUv, uv, unplaced, pins, slits });
}

/** Drops UV points that no corner uses any more; those that stay keep their order and their numbers' bits. */
function compact(set: UvSet): UvSet {
  const used = new Uint8Array(set.uv.length / 2);
  for (let c = 0; c < set.cornerUv.length; c++) used[set.cornerUv[c]!] = 1;
  const number = new Uint32Array(used.length);
  let count = 0;
  for (let i = 0; i < used.length; i++) if (used[i]) number[i] = count++;
  if (count === used.length) return set;
  const uv = new Float64Array(count * 2);
  const pins = new Uint8Array(count);
  for (let i = 0; i < used.length; i++) {
    if (!used[i]) continue;
    uv[number[i]! * 2] = set.uv[i * 2]!;
    uv[number[i]! * 2 + 1] = set.uv[i * 2 + 1]!;
    pins[number[i]!] = set.pins[i]!;
  }
  return { ...set, cornerUv: set.cornerUv.map((id) => number[id]!), uv, pins };
}

/** Length of the edges between chosen faces that the projection parts, units. */
export function partedLength(mesh: Mesh, set: UvSet, faces: ArrayLike<number>): number {
  const { cornerFace, twin, edgePoints, cornerEdge } = topologyOf(mesh);
  const chosen = new Uint8Array(mesh.faceStart.length - 1);
  for (let k = 0; k < faces.length; k++) chosen[faces[k]!] = 1;
  let length = 0;
  for (let c = 0; c < mesh.corners.length; c++) {
    const t = twin[c]!;
    if (t < c || !chosen[cornerFace[c]!] || !chosen[cornerFace[t]!]) continue;
    const [n, m] = [nextCorner(mesh, c, cornerFace[c]!), nextCorner(mesh, t, cornerFace[t]!)];
    if (set.cornerUv[c] === set.cornerUv[m] && set.cornerUv[n] === set.cornerUv[t]) continue;
    const e = cornerEdge[c]!;
    const [p, q] = [edgePoints[e * 2]! * 3, edgePoints[e * 2 + 1]! * 3];
    length += Math.hypot(...[0, 1, 2].map((d) => mesh.points[p + d]! - mesh.points[q + d]!));
  }
  return length;
}
