import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { faceMarksFrom, faceMarksOf } from './faceMarks.ts';
import { withOwnPoints } from './ownPoints.ts';
import type { UvSet } from './uvSet.ts';

/** A mesh that has some faces of another one, with the numbers they have there. */
export interface MeshSubset {
  mesh: Mesh;
  /** Faces and points of the other mesh, in the order of this one. */
  faces: Uint32Array;
  points: Uint32Array;
}

/** The corner of the whole that each corner of a subset is. O(corners) */
export function cornersInWhole(whole: Pick<Mesh, 'faceStart'>, { mesh, faces }: MeshSubset): Uint32Array {
  const out = new Uint32Array(mesh.corners.length);
  for (let f = 0; f < faces.length; f++) {
    const from = whole.faceStart[faces[f]!]!;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) out[c] = from + c - mesh.faceStart[f]!;
  }
  return out;
}

/** Some faces of a mesh, with the points they use, in the order they have there. @param alsoPoints points that come along unused. O(size) */
export function meshSubset(whole: Mesh, faces: Uint32Array, alsoPoints: Iterable<number> = []): MeshSubset {
  const pointHere = new Int32Array(whole.points.length / 3).fill(-1);
  for (const p of alsoPoints) pointHere[p] = 0;
  for (const f of faces) for (let c = whole.faceStart[f]!; c < whole.faceStart[f + 1]!; c++) pointHere[whole.corners[c]!] = 0;
  const points = Uint32Array.from(pointHere.keys()).filter((p) => pointHere[p] === 0);
  points.forEach((p, k) => (pointHere[p] = k));
  const faceStart = new Uint32Array(faces.length + 1);
  faces.forEach((f, k) => (faceStart[k + 1] = faceStart[k]! + whole.faceStart[f + 1]! - whole.faceStart[f]!));
  const named = (of: Int32Array, names: readonly string[]) => {
    const used = names
      .map((_, k) => k)
      .filter(
        (
          (had) => (k: number) =>
            had.has(k)
        )(new Set(Array.from(faces, (f) => of[f]!))),
      );
    return { names: used.map((k) => names[k]!), of: Int32Array.from(faces, (f) => used.indexOf(of[f]!)) };
  };
  const groups = named(whole.faceGroup, whole.groups);
  const materials = named(whole.faceMaterial, whole.materials);
  const triples = (list: Float64Array) => {
    const out = new Float64Array(points.length * 3);
    points.forEach((p, k) => out.set(list.subarray(p * 3, p * 3 + 3), k * 3));
    return out;
  };
  const mesh: Mesh = {
    points: triples(whole.points),
    faceStart,
    corners: new Uint32Array(faceStart[faces.length]!),
    faceGroup: groups.of,
    groups: groups.names,
    faceMaterial: materials.of,
    materials: materials.names,
    faceSmooth: Int32Array.from(faces, (f) => whole.faceSmooth[f]!),
    ...(whole.pointColors ? { pointColors: triples(whole.pointColors) } : {}),
  };
  const subset = { mesh, faces, points };
  const from = cornersInWhole(whole, subset);
  from.forEach((c, k) => (mesh.corners[k] = pointHere[whole.corners[c]!]!));
  if (!whole.normals || !whole.cornerNormal) return subset;
  return { ...subset, mesh: { ...mesh, normals: whole.normals, cornerNormal: Int32Array.from(from, (c) => whole.cornerNormal![c]!) } };
}

/** The layout of some faces, every corner where it was. O(corners) */
export function subsetOfSet(whole: Mesh, set: UvSet, subset: MeshSubset): UvSet {
  const { mesh, faces } = subset;
  const from = cornersInWhole(whole, subset);
  const idHere = new Int32Array(set.uv.length / 2).fill(-1);
  const ids: number[] = [];
  const cornerUv = Uint32Array.from(from, (c) => {
    const id = set.cornerUv[c]!;
    if (idHere[id]! < 0) idHere[id] = ids.push(id) - 1;
    return idHere[id]!;
  });
  const slit = new Set(set.slits);
  const was = topologyOf(whole);
  const now = topologyOf(mesh);
  const slits = new Set<number>();
  for (let c = 0; slit.size > 0 && c < from.length; c++) if (slit.has(was.cornerEdge[from[c]!]!) && now.twin[c]! >= 0) slits.add(now.cornerEdge[c]!);
  const own: UvSet = {
    name: set.name,
    cornerUv,
    uv: Float64Array.from({ length: ids.length * 2 }, (_, k) => set.uv[ids[k >> 1]! * 2 + (k & 1)]!),
    unplaced: takenFrom(set.unplaced, faces),
    slits: Uint32Array.from(slits).sort(),
    pins: Uint8Array.from(ids, (id) => set.pins[id]!),
    ...faceMarksOf(set, faces),
    ...(set.straight ? { straight: takenFrom(set.straight, from) } : {}),
  };
  // an island may be parted by what is not there
  return withOwnPoints(mesh, own).set;
}

/** A list's values at the given places. */
export function takenFrom<A extends Uint8Array | Uint32Array | Int32Array | Float64Array>(list: A, at: Uint32Array): A {
  const out = new (list.constructor as new (n: number) => A)(at.length);
  at.forEach((k, n) => (out[n] = list[k]!));
  return out;
}

/**
 * Layouts of pieces as one of the whole. Where two pieces meet, UV points at one mesh point that are bit for bit in one place are one again; all else on
 * the border of pieces is a seam. A piece without a layout has no place. O(corners)
 */
export function joinedSets(whole: Mesh, name: string, pieces: readonly { subset: MeshSubset; set: UvSet | null }[]): UvSet {
  const faces = whole.faceStart.length - 1;
  const cornerUv = new Uint32Array(whole.corners.length);
  const uv: number[] = [];
  const pins: number[] = [];
  const unplaced = new Uint8Array(faces).fill(1);
  const slits = new Set<number>();
  const { cornerEdge } = topologyOf(whole);
  /** The piece that each face is of, and its number there. */
  const pieceOf = new Int32Array(faces).fill(-1);
  const faceOf = new Int32Array(faces);
  /** UV points of earlier pieces by their mesh point and place. */
  const known = new Map<string, number>();
  let straight: Uint8Array | null = null;
  const laid: UvSet[] = [];
  for (const { subset, set } of pieces) {
    const from = cornersInWhole(whole, subset);
    if (!set) {
      const ids = new Map<number, number>();
      from.forEach((c) => {
        const p = whole.corners[c]!;
        if (!ids.has(p)) ids.set(p, uv.push(0, 0) / 2 - 1);
        pins[ids.get(p)!] = 0;
        cornerUv[c] = ids.get(p)!;
      });
      continue;
    }
    const idThere = new Int32Array(set.uv.length / 2).fill(-1);
    const own: [string, number][] = [];
    from.forEach((c, k) => {
      const id = set.cornerUv[k]!;
      if (idThere[id]! < 0) {
        const [u, v] = [set.uv[id * 2]!, set.uv[id * 2 + 1]!];
        const key = `${whole.corners[c]!} ${u} ${v}`;
        idThere[id] = known.get(key) ?? uv.push(u, v) / 2 - 1;
        pins[idThere[id]!] = Math.max(pins[idThere[id]!] ?? 0, set.pins[id]!);
        own.push([key, idThere[id]!]);
      }
      cornerUv[c] = idThere[id]!;
    });
    for (const [key, id] of own) known.set(key, id);
    subset.faces.forEach((f, k) => {
      unplaced[f] = set.unplaced[k]!;
      pieceOf[f] = laid.length;
      faceOf[f] = k;
    });
    laid.push(set);
    const here = topologyOf(subset.mesh);
    const cut = new Set(set.slits);
    for (let c = 0; cut.size > 0 && c < from.length; c++) if (cut.has(here.cornerEdge[c]!)) slits.add(cornerEdge[from[c]!]!);
    if (set.straight) {
      straight ??= new Uint8Array(whole.corners.length);
      from.forEach((c, k) => (straight![c] = set.straight![k]!));
    }
  }
  // pieces that only meet in one place of mesh and sheet are no one island there
  return withOwnPoints(whole, {
    name,
    cornerUv,
    uv: Float64Array.from(uv),
    unplaced,
    slits: Uint32Array.from(slits).sort(),
    pins: Uint8Array.from(pins),
    ...faceMarksFrom(
      laid,
      faces,
      (f) => pieceOf[f]!,
      (f) => faceOf[f]!,
    ),
    ...(straight ? { straight } : {}),
  }).set;
}
