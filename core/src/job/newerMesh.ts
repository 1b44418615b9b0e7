import { bounds, type Mesh } from '../mesh/mesh.ts';
import { faceAreas, faceNormals } from '../mesh/normals.ts';
import { topologyOf } from '../mesh/topology.ts';
import { TriangleTree } from '../mesh/triangleTree.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { faceMarksOf } from '../uv/faceMarks.ts';
import { islandsOf } from '../uv/islands.ts';
import { carriedStraight } from '../uv/straight.ts';
import type { UvSet } from '../uv/uvSet.ts';

/* What becomes of a layout when the mesh is another one. */

/** Where faces and corners of a newer mesh come from. */
export interface MeshMatch {
  /** The old face that each is, or lies on; −1 where there is none near. */
  faceFrom: Int32Array;
  /** 1 for each face that is an old one: the same places, in whatever order. */
  isSame: Uint8Array;
  /** The old corner of each corner of such a face; −1 of others. */
  cornerFrom: Int32Array;
  /** What the newer mesh was multiplied by along each axis, and moved by then, to lie on the old one. */
  scale: readonly [number, number, number];
  shift: readonly [number, number, number];
}

/** Places are the same within this, and a face lies on the old surface within that, of the mesh's size. */
const samePlace = 1e-5;
const onSurface = 0.02;
/** With fewer faces found in place than this share another size and mirror images are tried; one is taken that finds so many, and clearly more than where it stands. */
const mostFound = 0.5;
const fewFound = 0.1;
const clearly = 1.5;

/**
 * Finds what of an older mesh is still there in a newer one: faces with the same places, whatever the order of points and faces; others by the nearest
 * place of the old surface. A mesh that was moved or sized as a whole is found by its box. O(n log n).
 */
export function matchMeshes(old: Mesh, mesh: Mesh): MeshMatch {
  const plain = matchAt(old, mesh, [1, 1, 1], [0, 0, 0]);
  const found = plain.isSame.reduce((sum, x) => sum + x, 0);
  if (found >= mostFound * plain.isSame.length) return withNearest(old, mesh, plain);
  const [a, b] = [bounds(old), bounds(mesh)];
  const size = (box: readonly number[]) => Math.hypot(box[3]! - box[0]!, box[4]! - box[1]!, box[5]! - box[2]!);
  const factor = size(b) > 0 ? size(a) / size(b) : 1;
  let best = { match: plain, found };
  // as it stands; else as a mirror image
  for (const signs of [
    [1, 1, 1],
    [-1, 1, 1],
    [1, 1, -1],
    [1, -1, 1],
  ] as const) {
    const scale = signs.map((x) => x * factor) as [number, number, number];
    // a mirror image of the same size stands as far on the other side, or about its own middle
    const middle = [0, 1, 2].map((d) => (a[d]! + a[d + 3]!) / 2 - (scale[d]! * (b[d]! + b[d + 3]!)) / 2) as [number, number, number];
    const sized = matchAt(old, mesh, scale, middle);
    const own = sized.isSame.reduce((sum, x) => sum + x, 0);
    if (own > clearly * best.found && own >= fewFound * plain.isSame.length) best = { match: sized, found: own };
    if (best.found >= mostFound * plain.isSame.length) break;
  }
  return withNearest(old, mesh, best.match);
}

/** The number of the first point at each place, points at one place having one; for a second mesh −1 where the first has none there. */
function places(old: Mesh, mesh: Mesh, scale: readonly number[], shift: readonly number[]): { of: Int32Array; in: Int32Array } {
  const box = bounds(old);
  const near = samePlace * (Math.hypot(box[3] - box[0], box[4] - box[1], box[5] - box[2]) || 1);
  const cell = 4 * near;
  const cells = new Map<number, number[]>();
  const key = (x: number, y: number, z: number) => ((x * 73856093) ^ (y * 19349663) ^ (z * 83492791)) >>> 0;
  const find = (p: readonly number[]): number => {
    const [cx, cy, cz] = p.map((x) => Math.floor(x / cell)) as [number, number, number];
    // within a cell's first or last quarter the next one counts, too
    const beside = p.map((x) => (x / cell - Math.floor(x / cell) < 0.25 ? -1 : x / cell - Math.floor(x / cell) > 0.75 ? 1 : 0));
    for (const dx of beside[0] ? [0, beside[0]] : [0])
      for (const dy of beside[1] ? [0, beside[1]] : [0])
        for (const dz of beside[2] ? [0, beside[2]] : [0])
          for (const q of cells.get(key(cx + dx, cy + dy, cz + dz)) ?? [])
            if (Math.hypot(old.points[q * 3]! - p[0]!, old.points[q * 3 + 1]! - p[1]!, old.points[q * 3 + 2]! - p[2]!) <= near) return q;
    return -1;
  };
  const of = new Int32Array(old.points.length / 3);
  for (let q = 0; q < of.length; q++) {
    const p = [old.points[q * 3]!, old.points[q * 3 + 1]!, old.points[q * 3 + 2]!];
    const known = find(p);
    of[q] = known >= 0 ? known : q;
    if (known >= 0) continue;
    const [x, y, z] = p.map((v) => Math.floor(v / cell)) as [number, number, number];
    const k = key(x, y, z);
    const list = cells.get(k);
    if (list) list.push(q);
    else cells.set(k, [q]);
  }
  const within = Int32Array.from({ length: mesh.points.length / 3 }, (_, p) => find([0, 1, 2].map((d) => mesh.points[p * 3 + d]! * scale[d]! + shift[d]!)));
  return { of, in: within };
}

function matchAt(old: Mesh, mesh: Mesh, scale: readonly [number, number, number], shift: [number, number, number]): MeshMatch {
  const { of, in: within } = places(old, mesh, scale, shift);
  const faces = mesh.faceStart.length - 1;
  const match: MeshMatch = {
    faceFrom: new Int32Array(faces).fill(-1),
    isSame: new Uint8Array(faces),
    cornerFrom: new Int32Array(mesh.corners.length).fill(-1),
    scale,
    shift,
  };
  const keyOf = (list: number[]) => list.sort((x, y) => x - y).join();
  const known = new Map<string, number>();
  for (let f = 0; f + 1 < old.faceStart.length; f++)
    known.set(keyOf([...old.corners.subarray(old.faceStart[f]!, old.faceStart[f + 1]!)].map((p) => of[p]!)), f);
  for (let f = 0; f < faces; f++) {
    const [from, to] = [mesh.faceStart[f]!, mesh.faceStart[f + 1]!];
    const own = [...mesh.corners.subarray(from, to)].map((p) => within[p]!);
    if (own.includes(-1)) continue;
    const g = known.get(keyOf([...own]));
    if (g === undefined) continue;
    match.faceFrom[f] = g;
    match.isSame[f] = 1;
    for (let c = from; c < to; c++)
      for (let d = old.faceStart[g]!; d < old.faceStart[g + 1]!; d++) if (of[old.corners[d]!] === own[c - from]) match.cornerFrom[c] = d;
  }
  return match;
}

/** Faces that are no old ones by the nearest place of the old surface that looks the same way. */
function withNearest(old: Mesh, mesh: Mesh, match: MeshMatch): MeshMatch {
  if (!match.isSame.includes(0)) return match;
  const { scale, shift, faceFrom, isSame } = match;
  const tree = new TriangleTree(old);
  const { face } = trianglesOf(old);
  const [was, now] = [faceNormals(old), faceNormals(mesh)];
  const box = bounds(old);
  const reach = onSurface * Math.hypot(box[3] - box[0], box[4] - box[1], box[5] - box[2]);
  // a mirror image is wound the other way where its maker turned its faces back
  const turned = mirrorKeepsWinding(old, mesh, match) ? -1 : 1;
  for (let f = 0; f < isSame.length; f++) {
    if (isSame[f]) continue;
    const p = middleOf(mesh, f).map((x, d) => x * scale[d]! + shift[d]!) as [number, number, number];
    const alike = (t: number) => [0, 1, 2].reduce((sum, d) => sum + was[face[t]! * 3 + d]! * now[f * 3 + d]! * Math.sign(scale[d]!), 0) * turned > 0.3;
    const found = tree.nearest(...p, reach, alike);
    if (found) faceFrom[f] = face[found.triangle]!;
  }
  return match;
}

/** Of a mirror image: are its faces wound as before, so that their normals look inwards now? By the first face that is the same. */
function mirrorKeepsWinding(old: Mesh, mesh: Mesh, { isSame, faceFrom, scale }: MeshMatch): boolean {
  if (!scale.some((x) => x < 0)) return false;
  const f = isSame.indexOf(1);
  if (f < 0) return false;
  const [was, now] = [faceNormals(old), faceNormals(mesh)];
  return [0, 1, 2].reduce((sum, d) => sum + was[faceFrom[f]! * 3 + d]! * now[f * 3 + d]! * Math.sign(scale[d]!), 0) < 0;
}

function middleOf(mesh: Mesh, f: number): number[] {
  const [from, to] = [mesh.faceStart[f]!, mesh.faceStart[f + 1]!];
  return [0, 1, 2].map((d) => {
    let sum = 0;
    for (let c = from; c < to; c++) sum += mesh.points[mesh.corners[c]! * 3 + d]!;
    return sum / (to - from);
  });
}

/** Corners of one point whose UVs are nearer than this share of their face on the sheet are one UV point. */
const together = 0.2;
/** How far a corner is drawn in towards the middle of its face to see on which side of a seam it lies. */
const inward = 0.05;

/**
 * A UV set on the newer mesh: what is the same keeps its UVs bit for bit, what lies on the old surface gets those of its place there, what lies on none has no
 * place yet. Seams stay where they were; pins and marks go along. O(n log n).
 */
export function carriedSet(old: Mesh, mesh: Mesh, set: UvSet, match: MeshMatch): UvSet {
  const { faceFrom, isSame, cornerFrom, scale, shift } = match;
  const { ofFace } = islandsOf(old, set);
  const faces = isSame.length;
  const unplaced = Uint8Array.from(faceFrom, (g) => (g < 0 || set.unplaced[g] ? 1 : 0));
  const uv = new Float64Array(mesh.corners.length * 2);
  const tree = isSame.includes(0) ? new TriangleTree(old, (f) => set.unplaced[f] === 1) : null;
  const { face, corners } = trianglesOf(old);
  const box = bounds(old);
  const reach = 3 * onSurface * Math.hypot(box[3] - box[0], box[4] - box[1], box[5] - box[2]);
  for (let f = 0; f < faces; f++) {
    if (unplaced[f]) continue;
    const middle = isSame[f] ? [] : middleOf(mesh, f).map((x, d) => x * scale[d]! + shift[d]!);
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      if (isSame[f]) {
        const id = set.cornerUv[cornerFrom[c]!]! * 2;
        uv[c * 2] = set.uv[id]!;
        uv[c * 2 + 1] = set.uv[id + 1]!;
        continue;
      }
      const at = [0, 1, 2].map((d) => mesh.points[mesh.corners[c]! * 3 + d]! * scale[d]! + shift[d]!);
      const [x, y, z] = at.map((v, d) => v + inward * (middle[d]! - v)) as [number, number, number];
      const found = tree!.nearest(x, y, z, reach, (t) => ofFace[face[t]!] === ofFace[faceFrom[f]!]);
      if (!found) {
        unplaced[f] = 1;
        break;
      }
      const weights = sharesAt(old, corners, found.triangle, at);
      for (let k = 0; k < 3; k++) {
        const id = set.cornerUv[corners[found.triangle * 3 + k]!]! * 2;
        uv[c * 2]! += weights[k]! * set.uv[id]!;
        uv[c * 2 + 1]! += weights[k]! * set.uv[id + 1]!;
      }
    }
  }
  return joined(old, mesh, set, match, uv, unplaced);
}

/** Shares of a triangle's corners at a place, which may lie beside it: by its plane. */
function sharesAt({ points, corners: at }: Mesh, corners: ArrayLike<number>, triangle: number, place: readonly number[]): [number, number, number] {
  const [a, b, c] = [0, 1, 2].map((k) => at[corners[triangle * 3 + k]!]! * 3) as [number, number, number];
  const off = (p: number) => [0, 1, 2].map((d) => points[p + d]! - points[a + d]!);
  const [u, v] = [off(b), off(c)] as [number[], number[]];
  const w = place.map((x, d) => x - points[a + d]!);
  const dot = (p: readonly number[], q: readonly number[]) => p[0]! * q[0]! + p[1]! * q[1]! + p[2]! * q[2]!;
  const [uu, uv, vv, wu, wv] = [dot(u, u), dot(u, v), dot(v, v), dot(w, u), dot(w, v)];
  const det = uu * vv - uv * uv;
  if (!(det > 1e-30)) return [1, 0, 0];
  const s = (wu * vv - wv * uv) / det;
  const t = (wv * uu - wu * uv) / det;
  return [1 - s - t, s, t];
}

/** UV points from the places of corners: those of one point and island that lie together are one. */
function joined(old: Mesh, mesh: Mesh, set: UvSet, { faceFrom, isSame, cornerFrom }: MeshMatch, uv: Float64Array, unplaced: Uint8Array): UvSet {
  const { cornerFace, pointStart, pointCorners } = topologyOf(mesh);
  const { ofFace } = islandsOf(old, set);
  const cornerUv = new Uint32Array(mesh.corners.length);
  const out: number[] = [];
  const pins: number[] = [];
  /** How large a corner's face is on the sheet. */
  const sizeOf = (c: number) => {
    const f = cornerFace[c]!;
    const [from, to] = [mesh.faceStart[f]!, mesh.faceStart[f + 1]!];
    let sum = 0;
    for (let k = from; k < to; k++) {
      const n = k + 1 === to ? from : k + 1;
      sum += Math.hypot(uv[n * 2]! - uv[k * 2]!, uv[n * 2 + 1]! - uv[k * 2 + 1]!);
    }
    return sum / (to - from);
  };
  for (let p = 0; p + 1 < pointStart.length; p++) {
    const groups: { island: number; u: number; v: number; id: number; from: number }[] = [];
    const list = [...pointCorners.subarray(pointStart[p], pointStart[p + 1])].sort((a, b) => isSame[cornerFace[b]!]! - isSame[cornerFace[a]!]! || a - b);
    for (const c of list) {
      const f = cornerFace[c]!;
      const island = unplaced[f] ? -1 : ofFace[faceFrom[f]!]!;
      const from = isSame[f] ? set.cornerUv[cornerFrom[c]!]! : -1;
      const near = together * sizeOf(c);
      const group = groups.find(
        (one) =>
          one.island === island &&
          (island < 0 || (from >= 0 && one.from >= 0 ? from === one.from : Math.hypot(uv[c * 2]! - one.u, uv[c * 2 + 1]! - one.v) <= near)),
      );
      if (group) {
        cornerUv[c] = group.id;
        continue;
      }
      const id = pins.length;
      groups.push({ island, u: uv[c * 2]!, v: uv[c * 2 + 1]!, id, from });
      cornerUv[c] = id;
      out.push(uv[c * 2]!, uv[c * 2 + 1]!);
      pins.push(from >= 0 ? set.pins[from]! : 0);
    }
  }
  const straight = set.straight && carriedStraight(old, mesh, set.straight, cornerFrom);
  return {
    name: set.name,
    cornerUv,
    uv: Float64Array.from(out),
    unplaced,
    slits: carriedSlits(old, mesh, set, cornerFrom),
    pins: Uint8Array.from(pins),
    ...faceMarksOf(set, faceFrom),
    ...(straight ? { straight } : {}),
  };
}

/** Cuts in the middle of faces that are still there. */
function carriedSlits(old: Mesh, mesh: Mesh, { slits }: UvSet, cornerFrom: Int32Array): Uint32Array {
  if (slits.length === 0) return slits;
  const was = new Set(slits);
  const [before, now] = [topologyOf(old), topologyOf(mesh)];
  const out = new Set<number>();
  for (let c = 0; c < cornerFrom.length; c++) {
    const f = now.cornerFace[c]!;
    const n = c + 1 === mesh.faceStart[f + 1]! ? mesh.faceStart[f]! : c + 1;
    const [a, b] = [cornerFrom[c]!, cornerFrom[n]!];
    if (a < 0 || b < 0) continue;
    // the same edge of the old face, whichever way round
    for (const d of [a, b]) {
      const e = before.cornerEdge[d]!;
      const ends = [before.edgePoints[e * 2], before.edgePoints[e * 2 + 1]];
      if (was.has(e) && ends.includes(old.corners[a]!) && ends.includes(old.corners[b]!)) out.add(now.cornerEdge[c]!);
    }
  }
  return Uint32Array.from(out).sort();
}

/** How many times a face may be larger or smaller on the sheet than its island is, before it is worth a look. */
const offScale = 1.5;

/** Faces of a carried layout that need work: without a place, turned over against their island, or drawn out or squeezed. O(faces). */
export function facesToWork(mesh: Mesh, set: UvSet, isSame: Uint8Array): Uint32Array {
  const areas = faceAreas(mesh);
  const { ofFace, count } = islandsOf(mesh, set);
  const flat = new Float64Array(areas.length);
  const [sheet, space] = [new Float64Array(count), new Float64Array(count)];
  for (let f = 0; f < areas.length; f++) {
    if (set.unplaced[f]) continue;
    const [from, to] = [mesh.faceStart[f]!, mesh.faceStart[f + 1]!];
    for (let c = from; c < to; c++) {
      const [p, q] = [set.cornerUv[c]! * 2, set.cornerUv[c + 1 === to ? from : c + 1]! * 2];
      flat[f]! += (set.uv[p]! * set.uv[q + 1]! - set.uv[q]! * set.uv[p + 1]!) / 2;
    }
    sheet[ofFace[f]!]! += flat[f]!;
    space[ofFace[f]!]! += areas[f]!;
  }
  const out: number[] = [];
  for (let f = 0; f < areas.length; f++) {
    if (set.unplaced[f]) out.push(f);
    else if (!isSame[f]) {
      const i = ofFace[f]!;
      const ratio = areas[f]! > 0 && space[i]! > 0 && sheet[i] !== 0 ? flat[f]! / areas[f]! / (sheet[i]! / space[i]!) : 1;
      // by area: the square of the length
      if (!(ratio < offScale ** 2 && ratio > offScale ** -2)) out.push(f);
    }
  }
  return Uint32Array.from(out);
}

/** Faces whose shape differs between two meshes of the same faces: an edge is longer or shorter by more than a thousandth. O(corners). */
export function reshapedFaces(old: Mesh, mesh: Mesh): Uint32Array {
  const out: number[] = [];
  const length = ({ points, corners }: Mesh, a: number, b: number) => {
    const [p, q] = [corners[a]! * 3, corners[b]! * 3];
    return Math.hypot(points[p]! - points[q]!, points[p + 1]! - points[q + 1]!, points[p + 2]! - points[q + 2]!);
  };
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
    const [from, to] = [mesh.faceStart[f]!, mesh.faceStart[f + 1]!];
    for (let c = from; c < to; c++) {
      const n = c + 1 === to ? from : c + 1;
      const [was, now] = [length(old, c, n), length(mesh, c, n)];
      if (Math.abs(now - was) <= 1e-3 * Math.max(was, now)) continue;
      out.push(f);
      break;
    }
  }
  return Uint32Array.from(out);
}
