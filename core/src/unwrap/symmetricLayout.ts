import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import type { Symmetry } from '../select/symmetry.ts';
import { borderCrossings } from './borderCrossings.ts';
import { islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import * as portable from '../numeric/portable.ts';

export interface SymmetricLayout {
  set: UvSet;
  /** Islands astride the plane, now symmetric in themselves and upright. */
  astride: number[];
  /** Islands that are now the mirror image of the one across, beside which they stand. */
  paired: [number, number][];
}

/**
 * Makes a layout symmetric where its islands are: one that is its own image across the plane becomes symmetric about an upright line of the sheet, its
 * top up as on the model; of two that are images of one another the second becomes the mirror image of the first, about its own middle. What would turn a
 * triangle over, or make a border cross itself, is left as it is. Units of the sheet are square. O(corners).
 */
export function symmetricLayout(mesh: Mesh, set: UvSet, symmetry: Symmetry): SymmetricLayout {
  const across = cornersAcross(mesh, symmetry);
  const { cornerFace } = topologyOf(mesh);
  const { count, ofFace, faces, start } = islandsOf(mesh, set);
  const partner = new Int32Array(count).fill(-2);
  for (let c = 0; c < across.length; c++) {
    const i = ofFace[cornerFace[c]!]!;
    const j = across[c]! < 0 ? -1 : ofFace[cornerFace[across[c]!]!]!;
    if (partner[i] === -2) partner[i] = j;
    else if (partner[i] !== j) partner[i] = -1;
  }
  const uv = set.uv.slice();
  const astride: number[] = [];
  const paired: [number, number][] = [];
  const cornersOf = (i: number) => {
    const out: number[] = [];
    for (let k = start[i]!; k < start[i + 1]!; k++) for (let c = mesh.faceStart[faces[k]!]!; c < mesh.faceStart[faces[k]! + 1]!; c++) out.push(c);
    return out;
  };
  for (let i = 0; i < count; i++) {
    const j = partner[i]!;
    if (j < i || (j !== i && partner[j] !== i)) continue;
    const corners = cornersOf(i);
    if (set.unplaced[faces[start[i]!]!] || set.unplaced[faces[start[j]!]!]) continue;
    // the UV point across for each, where that is one
    const image = new Map<number, number>();
    let whole = true;
    for (const c of corners) {
      const [p, q] = [set.cornerUv[c]!, set.cornerUv[across[c]!]!];
      if ((image.get(p) ?? q) !== q) whole = false;
      image.set(p, q);
    }
    if (!whole || new Set(image.values()).size !== image.size) continue;
    const kept = uv.slice();
    if (i === j) makeSymmetric(mesh, uv, set, symmetry, corners, image);
    else mirrorOnto(uv, image);
    const touched = i === j ? corners : [...corners, ...cornersOf(j)];
    if (turnsOver(mesh, set, set.uv, uv, touched) || (crossesItself(mesh, set, uv, corners) && !crossesItself(mesh, set, kept, corners))) uv.set(kept);
    else if (i === j) astride.push(i);
    else paired.push([i, j]);
  }
  return { set: { ...set, uv }, astride, paired };
}

/** The corner across the plane for each, −1 where there is none. O(corners). */
function cornersAcross(mesh: Mesh, { points, edges }: Symmetry): Int32Array {
  const { cornerEdge, cornerFace, edgeStart, edgeCorners } = topologyOf(mesh);
  const out = new Int32Array(mesh.corners.length).fill(-1);
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
    const [from, to] = [mesh.faceStart[f]!, mesh.faceStart[f + 1]!];
    const e = edges[cornerEdge[from]!]!;
    if (e < 0) continue;
    for (let k = edgeStart[e]!; k < edgeStart[e + 1]!; k++) {
      const g = cornerFace[edgeCorners[k]!]!;
      const [a, b] = [mesh.faceStart[g]!, mesh.faceStart[g + 1]!];
      if (b - a !== to - from) continue;
      const found: number[] = [];
      for (let c = from; c < to; c++) {
        const p = points[mesh.corners[c]!]!;
        let at = -1;
        for (let d = a; d < b && at < 0; d++) if (mesh.corners[d] === p) at = d;
        found.push(at);
      }
      if (found.includes(-1)) continue;
      found.forEach((d, n) => (out[from + n] = d));
      break;
    }
  }
  return out;
}

/** The mean of an island and its own image, by the reflection that brings it nearest to itself; then turned so that the line stands upright. */
function makeSymmetric(mesh: Mesh, uv: Float64Array, set: UvSet, symmetry: Symmetry, corners: readonly number[], image: ReadonlyMap<number, number>): void {
  const [mx, my] = middleOf(uv, image.keys());
  let cos = 0;
  let sin = 0;
  for (const [p, q] of image) {
    const [ax, ay, bx, by] = [uv[p * 2]! - mx, uv[p * 2 + 1]! - my, uv[q * 2]! - mx, uv[q * 2 + 1]! - my];
    cos += bx * ax - by * ay;
    sin += bx * ay + by * ax;
  }
  // twice the angle of the line
  const line = portable.atan2(sin, cos) / 2;
  let turn = Math.PI / 2 - line;
  // the model's up, or its front where it is seen from above, goes up
  const up = symmetry.axis === 'y' ? 2 : 1;
  let rises = 0;
  const rise = (c: number) => -(uv[set.cornerUv[c]! * 2]! - mx) * portable.sin(-turn) + (uv[set.cornerUv[c]! * 2 + 1]! - my) * portable.cos(turn);
  let mean = 0;
  for (const c of corners) mean += mesh.points[mesh.corners[c]! * 3 + up]!;
  mean /= corners.length;
  for (const c of corners) rises += rise(c) * (mesh.points[mesh.corners[c]! * 3 + up]! - mean);
  if (rises < 0) turn += Math.PI;
  const [c, s] = [portable.cos(turn), portable.sin(turn)];
  const turned = new Map<number, [number, number]>();
  for (const p of image.keys()) {
    const [x, y] = [uv[p * 2]! - mx, uv[p * 2 + 1]! - my];
    turned.set(p, [c * x - s * y, s * x + c * y]);
  }
  for (const [p, q] of image) {
    if (p > q) continue;
    const [a, b] = [turned.get(p)!, turned.get(q)!];
    const x = (a[0] - b[0]) / 2;
    const y = (a[1] + b[1]) / 2;
    uv[p * 2] = mx + x;
    uv[p * 2 + 1] = uv[q * 2 + 1] = my + y;
    uv[q * 2] = mx - x;
  }
}

/** The second of two islands as the mirror image of the first, about its own middle. */
function mirrorOnto(uv: Float64Array, image: ReadonlyMap<number, number>): void {
  const [ax, ay] = middleOf(uv, image.keys());
  const [bx, by] = middleOf(uv, image.values());
  for (const [p, q] of image) {
    uv[q * 2] = bx - (uv[p * 2]! - ax);
    uv[q * 2 + 1] = by + (uv[p * 2 + 1]! - ay);
  }
}

function middleOf(uv: Float64Array, points: Iterable<number>): [number, number] {
  let [x, y, n] = [0, 0, 0];
  for (const p of points) {
    x += uv[p * 2]!;
    y += uv[p * 2 + 1]!;
    n++;
  }
  return [x / n, y / n];
}

/** Does the border of an island cross itself? */
function crossesItself(mesh: Mesh, set: UvSet, uv: Float64Array, corners: readonly number[]): boolean {
  const { cornerEdge, cornerFace } = topologyOf(mesh);
  const { states } = islandsOf(mesh, set);
  const segments: number[] = [];
  for (const c of corners) {
    if (states[cornerEdge[c]!] === EdgeState.joined) continue;
    const f = cornerFace[c]!;
    const n = c + 1 === mesh.faceStart[f + 1]! ? mesh.faceStart[f]! : c + 1;
    for (const one of [c, n]) segments.push(uv[set.cornerUv[one]! * 2]!, uv[set.cornerUv[one]! * 2 + 1]!);
  }
  return borderCrossings(Float64Array.from(segments)).length > 0;
}

/** Is a triangle of these corners turned over that was not before? */
function turnsOver(mesh: Mesh, set: UvSet, before: Float64Array, after: Float64Array, corners: readonly number[]): boolean {
  const { cornerFace } = topologyOf(mesh);
  const all = trianglesOf(mesh);
  const sense = (uv: Float64Array, t: number) => {
    const [a, b, c] = [0, 1, 2].map((k) => set.cornerUv[all.corners[t * 3 + k]!]! * 2) as [number, number, number];
    return Math.sign((uv[b]! - uv[a]!) * (uv[c + 1]! - uv[a + 1]!) - (uv[b + 1]! - uv[a + 1]!) * (uv[c]! - uv[a]!));
  };
  for (const f of new Set(corners.map((c) => cornerFace[c]!)))
    for (let t = all.faceStart[f]!; t < all.faceStart[f + 1]!; t++) if (sense(before, t) > 0 && sense(after, t) <= 0) return true;
  return false;
}
