import { faceCount, type Mesh } from './mesh.ts';
import { faceNormals } from './normals.ts';
import { topologyOf } from './topology.ts';
import * as portable from '../numeric/portable.ts';

/**
 * Where a written file's normals come from. asTheyCame: the file's own, else by smoothing groups, else smooth up to `angle`; smooth: up to
 * `angle` whatever came; flat: each face its own.
 */
export const normalKinds = ['asTheyCame', 'smooth', 'flat'] as const;
export interface NormalChoice {
  kind: (typeof normalKinds)[number];
  /** Degrees: an edge that turns by more is a crease. */
  angle: number;
}
/** 30° is common practice; no source. */
export const usualNormals: NormalChoice = { kind: 'asTheyCame', angle: 30 };

/**
 * A unit normal for each corner: those of one point that are smooth across the edges between them share one, so that a written vertex is
 * parted only at creases. The mean of the faces' normals weighted by their angle at the point (G. Thürmer, C. Wüthrich, Computing vertex normals
 * from polygonal facets, Journal of Graphics Tools 3, 1998; from memory).
 * Smooth is an edge of two faces wound alike that turns by less than the angle; where smoothing groups are stated, one whose faces are in one group.
 * O(corners).
 */
export function cornerNormals(mesh: Mesh, choice: NormalChoice = usualNormals): { normals: Float64Array; cornerNormal: Uint32Array } {
  const corners = mesh.corners.length;
  if (choice.kind === 'asTheyCame' && mesh.normals && mesh.cornerNormal?.every((n) => n >= 0)) return ownNormals(mesh.normals, mesh.cornerNormal);
  const faces = faceNormals(mesh);
  const faceOf = new Uint32Array(corners);
  for (let f = 0; f < faceCount(mesh); f++) faceOf.fill(f, mesh.faceStart[f], mesh.faceStart[f + 1]);
  const groups = choice.kind === 'asTheyCame' && mesh.faceSmooth.some((s) => s >= 0);
  const limit = portable.cos((choice.angle * Math.PI) / 180) - 1e-9;
  const smoothAcross = (f: number, g: number) => {
    if (groups) return mesh.faceSmooth[f]! > 0 && mesh.faceSmooth[f] === mesh.faceSmooth[g];
    return faces[f * 3]! * faces[g * 3]! + faces[f * 3 + 1]! * faces[g * 3 + 1]! + faces[f * 3 + 2]! * faces[g * 3 + 2]! >= limit;
  };
  const parent = Uint32Array.from({ length: corners }, (_, c) => c);
  const root = (c: number) => {
    while (parent[c] !== c) c = parent[c] = parent[parent[c]!]!;
    return c;
  };
  if (choice.kind !== 'flat') {
    const { edgeCount, edgeStart, edgeCorners } = topologyOf(mesh);
    for (let e = 0; e < edgeCount; e++) {
      if (edgeStart[e + 1]! - edgeStart[e]! !== 2) continue;
      const c = edgeCorners[edgeStart[e]!]!;
      const d = edgeCorners[edgeStart[e]! + 1]!;
      const [f, g] = [faceOf[c]!, faceOf[d]!];
      // wound against each other both begin at one point
      if (mesh.corners[c] === mesh.corners[d] || !smoothAcross(f, g)) continue;
      parent[root(c)] = root(after(mesh, d, g));
      parent[root(after(mesh, c, f))] = root(d);
    }
  }
  const at = new Int32Array(corners).fill(-1);
  const cornerNormal = new Uint32Array(corners);
  let count = 0;
  for (let c = 0; c < corners; c++) {
    const r = root(c);
    if (at[r]! < 0) at[r] = count++;
    cornerNormal[c] = at[r]!;
  }
  const normals = new Float64Array(count * 3);
  for (let c = 0; c < corners; c++) {
    const f = faceOf[c]!;
    const weight = angleAt(mesh, c, f);
    for (let k = 0; k < 3; k++) normals[cornerNormal[c]! * 3 + k]! += faces[f * 3 + k]! * weight;
  }
  // the file's own stand where it has some for a corner, though not for all
  if (choice.kind === 'asTheyCame' && mesh.normals && mesh.cornerNormal) return withOwn(mesh.normals, mesh.cornerNormal, normals, cornerNormal);
  return { normals: unit(normals), cornerNormal };
}

/** The parts with normals of their own to be written: as they came where that is the choice, else worked out. */
export function withNormals<P extends { readonly mesh: Mesh }>(parts: readonly P[], choice: NormalChoice): P[] {
  if (choice.kind === 'asTheyCame') return [...parts];
  return parts.map((part) => {
    const { normals, cornerNormal } = cornerNormals(part.mesh, choice);
    return { ...part, mesh: { ...part.mesh, normals, cornerNormal: Int32Array.from(cornerNormal) } };
  });
}

function ownNormals(given: Float64Array, cornerNormal: Int32Array) {
  return { normals: unit(given.slice()), cornerNormal: Uint32Array.from(cornerNormal) };
}

function withOwn(own: Float64Array, ownAt: Int32Array, normals: Float64Array, cornerNormal: Uint32Array) {
  const all = new Float64Array(normals.length + own.length);
  all.set(normals);
  all.set(own, normals.length);
  return { normals: unit(all), cornerNormal: cornerNormal.map((n, c) => (ownAt[c]! >= 0 ? normals.length / 3 + ownAt[c]! : n)) };
}

/** Each of length 1; those of no length (faces without area) look up: a file needs unit normals. */
function unit(normals: Float64Array): Float64Array {
  for (let n = 0; n < normals.length; n += 3) {
    const length = Math.hypot(normals[n]!, normals[n + 1]!, normals[n + 2]!);
    for (let k = 0; k < 3; k++) normals[n + k] = length > 0 && Number.isFinite(length) ? normals[n + k]! / length : k === 1 ? 1 : 0;
  }
  return normals;
}

const after = (mesh: Mesh, c: number, f: number) => (c + 1 === mesh.faceStart[f + 1]! ? mesh.faceStart[f]! : c + 1);
const before = (mesh: Mesh, c: number, f: number) => (c === mesh.faceStart[f]! ? mesh.faceStart[f + 1]! - 1 : c - 1);

/** The face's angle at a corner, radians; 1e-6 at the least, so that a face always counts. */
function angleAt(mesh: Mesh, c: number, f: number): number {
  const { points, corners } = mesh;
  const [o, a, b] = [corners[c]! * 3, corners[after(mesh, c, f)]! * 3, corners[before(mesh, c, f)]! * 3];
  let [dot, aa, bb] = [0, 0, 0];
  for (let k = 0; k < 3; k++) {
    const u = points[a + k]! - points[o + k]!;
    const v = points[b + k]! - points[o + k]!;
    dot += u * v;
    aa += u * u;
    bb += v * v;
  }
  const length = Math.sqrt(aa * bb);
  return length > 0 ? Math.max(1e-6, portable.acos(Math.max(-1, Math.min(1, dot / length)))) : 1e-6;
}
