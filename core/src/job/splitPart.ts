import type { Layer } from '../images/surface/layer.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { joinedSets, meshSubset, subsetOfSet, takenFrom, type MeshSubset } from '../uv/subset.ts';
import { activeSet, type Part, type PartPiece } from './job.ts';
import { originFits } from './originFits.ts';

/** Faces that become a part of their own. */
export interface Split {
  id: string;
  name: string;
  /** Rising. */
  faces: Uint32Array;
}

/** What was said of each face of the part, for some of them. */
function marksOf({ hidden, done, seamMarks, grain }: Part, faces: Uint32Array): Partial<Part> {
  const some = <K extends string>(key: K, list: Uint8Array | undefined) => {
    const own = list && takenFrom(list, faces);
    return own?.some((x) => x > 0) ? ({ [key]: own } as Record<K, Uint8Array>) : {};
  };
  const runs = grain && Float64Array.from({ length: faces.length * 3 }, (_, k) => grain[faces[Math.floor(k / 3)]! * 3 + (k % 3)]!);
  return {
    ...some('hidden', hidden),
    ...some('done', done),
    ...some('seamMarks', seamMarks),
    ...(runs?.some((x) => x !== 0) ? { grain: runs } : {}),
  };
}

/** Masks that name faces, by the numbers these get. */
const withFaces = (layers: readonly Layer[], numberOf: (face: number) => number | undefined): Layer[] =>
  layers.map((layer) => ({
    ...layer,
    masks: layer.masks.map((mask) =>
      mask.kind === 'faces'
        ? {
            ...mask,
            faces: mask.faces
              .map(numberOf)
              .filter((f) => f !== undefined)
              .sort((a, b) => a - b),
          }
        : mask,
    ),
  }));

/** The part as several, each with its share of the layouts and of what was said of faces. All faces have to be in one of the splits. O(size of the part) */
export function splitPart(part: Part, splits: readonly Split[]): Part[] {
  const { mesh, piece: former, form: _, hidden: _h, done: _d, seamMarks: _s, grain: _g, layers, ...rest } = part;
  const used = new Uint8Array(mesh.points.length / 3);
  for (const p of mesh.corners) used[p] = 1;
  // points that no face uses go along with the first
  const loose = Uint32Array.from(used.keys()).filter((p) => !used[p]);
  return splits.map(({ id, name, faces }, k) => {
    const subset = meshSubset(mesh, faces, k === 0 ? loose : []);
    const piece: PartPiece = {
      ...(former ?? { whole: part.id, name: part.name, origin: part.origin, faceCount: mesh.faceStart.length - 1, pointCount: mesh.points.length / 3 }),
      faces: former ? takenFrom(former.faces, subset.faces) : subset.faces,
      points: former ? takenFrom(former.points, subset.points) : subset.points,
    };
    const numbers = new Map(Array.from(faces, (f, n) => [f, n]));
    return {
      ...rest,
      id,
      name,
      mesh: subset.mesh,
      uvSets: part.uvSets.map((set) => subsetOfSet(mesh, set, subset)),
      ...marksOf(part, subset.faces),
      ...(layers ? { layers: withFaces(layers, (f) => numbers.get(f)) } : {}),
      origin: { kind: 'made' },
      piece,
    };
  });
}

/** Whether pieces are all of one whole, and still have the faces and points they had. */
function areWhole(pieces: readonly Part[]): boolean {
  const { faceCount, pointCount } = pieces[0]!.piece!;
  // counts that a damaged archive states are not followed before they were seen to be so
  const stated = (of: (piece: PartPiece) => Uint32Array) => pieces.reduce((sum, { piece }) => sum + of(piece!).length, 0);
  if (stated(({ faces }) => faces) !== faceCount || stated(({ points }) => points) < pointCount) return false;
  const hasFace = new Uint8Array(faceCount);
  const hasPoint = new Uint8Array(pointCount);
  const place = new Float64Array(pointCount * 3);
  for (const { mesh, piece } of pieces) {
    const { faces, points } = piece!;
    if (piece!.faceCount !== faceCount || piece!.pointCount !== pointCount) return false;
    if (faces.length !== mesh.faceStart.length - 1 || points.length * 3 !== mesh.points.length) return false;
    for (const f of faces) {
      if (f >= faceCount || hasFace[f]) return false;
      hasFace[f] = 1;
    }
    for (let k = 0; k < points.length; k++) {
      const p = points[k]!;
      if (p >= pointCount) return false;
      for (let d = 0; d < 3; d++) {
        if (hasPoint[p] && place[p * 3 + d] !== mesh.points[k * 3 + d]) return false;
        place[p * 3 + d] = mesh.points[k * 3 + d]!;
      }
      hasPoint[p] = 1;
    }
  }
  return hasFace.every((x) => x === 1) && hasPoint.every((x) => x === 1);
}

function wholeMesh(pieces: readonly Part[]): Mesh {
  const { faceCount, pointCount } = pieces[0]!.piece!;
  const sizes = new Uint32Array(faceCount);
  for (const { mesh, piece } of pieces) piece!.faces.forEach((f, k) => (sizes[f] = mesh.faceStart[k + 1]! - mesh.faceStart[k]!));
  const faceStart = new Uint32Array(faceCount + 1);
  sizes.forEach((n, f) => (faceStart[f + 1] = faceStart[f]! + n));
  const groups = [...new Set(pieces.flatMap(({ mesh }) => mesh.groups))];
  const materials = [...new Set(pieces.flatMap(({ mesh }) => mesh.materials))];
  const hasColors = pieces.every(({ mesh }) => mesh.pointColors);
  const hasNormals = pieces.every(({ mesh }) => mesh.normals && mesh.cornerNormal);
  const out = {
    points: new Float64Array(pointCount * 3),
    faceStart,
    corners: new Uint32Array(faceStart[faceCount]!),
    faceGroup: new Int32Array(faceCount).fill(-1),
    groups,
    faceMaterial: new Int32Array(faceCount).fill(-1),
    materials,
    faceSmooth: new Int32Array(faceCount),
    ...(hasColors ? { pointColors: new Float64Array(pointCount * 3) } : {}),
  };
  const normals: number[] = [];
  const starts = new Map<Float64Array, number>();
  const cornerNormal = new Int32Array(out.corners.length).fill(-1);
  for (const { mesh, piece } of pieces) {
    const { faces, points } = piece!;
    points.forEach((p, k) => {
      out.points.set(mesh.points.subarray(k * 3, k * 3 + 3), p * 3);
      if (hasColors) out.pointColors!.set(mesh.pointColors!.subarray(k * 3, k * 3 + 3), p * 3);
    });
    const list = mesh.normals;
    if (hasNormals && !starts.has(list!)) {
      // pieces keep the normals of the whole; those read from an archive are equal, not the same array
      const equal = [...starts].find(([known]) => known.length === list!.length && known.every((x, k) => x === list![k]));
      starts.set(list!, equal ? equal[1] : normals.length / 3);
      if (!equal) for (const x of list!) normals.push(x);
    }
    faces.forEach((f, k) => {
      out.faceGroup[f] = mesh.faceGroup[k]! < 0 ? -1 : groups.indexOf(mesh.groups[mesh.faceGroup[k]!]!);
      out.faceMaterial[f] = mesh.faceMaterial[k]! < 0 ? -1 : materials.indexOf(mesh.materials[mesh.faceMaterial[k]!]!);
      out.faceSmooth[f] = mesh.faceSmooth[k]!;
      for (let c = mesh.faceStart[k]!; c < mesh.faceStart[k + 1]!; c++) {
        const at = faceStart[f]! + c - mesh.faceStart[k]!;
        out.corners[at] = points[mesh.corners[c]!]!;
        if (hasNormals && mesh.cornerNormal![c]! >= 0) cornerNormal[at] = starts.get(list!)! + mesh.cornerNormal![c]!;
      }
    });
  }
  return hasNormals ? { ...out, normals: Float64Array.from(normals), cornerNormal } : out;
}

/** Pieces put together again; the UV sets are those of the first piece, and those of the same names of the others. O(size) */
function joinedPieces(pieces: readonly Part[]): Part {
  const first = pieces[0]!;
  const { whole, name, origin } = first.piece!;
  const mesh = wholeMesh(pieces);
  const subsets = pieces.map((part): MeshSubset => ({ mesh: part.mesh, faces: part.piece!.faces, points: part.piece!.points }));
  const names = [...new Set(pieces.flatMap(({ uvSets }) => uvSets.map((set) => set.name)))];
  // the set at work of each piece is that of the whole, whatever its name
  const nameAtWork = activeSet(first).name;
  const setOf = (part: Part, wanted: string) =>
    wanted === nameAtWork ? activeSet(part) : (part.uvSets.find((set, k) => set.name === wanted && k !== part.activeUv) ?? null);
  const wanted = names.filter((one) => pieces.some((part) => setOf(part, one)));
  const marks = <K extends 'hidden' | 'done' | 'seamMarks'>(key: K) => {
    if (!pieces.some((part) => part[key])) return {};
    const all = new Uint8Array(mesh.faceStart.length - 1);
    pieces.forEach((part) => part[key] && part.piece!.faces.forEach((f, k) => (all[f] = part[key]![k]!)));
    return { [key]: all } as Record<K, Uint8Array>;
  };
  const grain = pieces.some((part) => part.grain) ? new Float64Array((mesh.faceStart.length - 1) * 3) : null;
  if (grain) for (const part of pieces) part.piece!.faces.forEach((f, k) => part.grain && grain.set(part.grain.subarray(k * 3, k * 3 + 3), f * 3));
  const { piece: _, hidden: _h, done: _d, seamMarks: _s, grain: _g, isHidden, layers, ...rest } = first;
  const faces = first.piece!.faces;
  return {
    ...rest,
    id: whole,
    name,
    mesh,
    uvSets: wanted.map((one) =>
      joinedSets(
        mesh,
        one,
        subsets.map((subset, k) => ({ subset, set: setOf(pieces[k]!, one) })),
      ),
    ),
    activeUv: wanted.indexOf(nameAtWork),
    ...marks('hidden'),
    ...marks('done'),
    ...marks('seamMarks'),
    ...(grain ? { grain } : {}),
    ...(isHidden && pieces.every((part) => part.isHidden) ? { isHidden } : {}),
    ...(layers ? { layers: withFaces(layers, (f) => faces[f]) } : {}),
    origin: originFits(origin, mesh) ? origin : { kind: 'made' },
    pieces,
  };
}

/**
 * Parts as model files have them: pieces of a part are that part again, in its place, faces and points in their old order. Pieces stay parts of their own where one of
 * them is missing, or its mesh was changed since.
 */
export function wholeParts(parts: readonly Part[]): Part[] {
  const byWhole = new Map<string, Part[]>();
  for (const part of parts) if (part.piece) byWhole.set(part.piece.whole, [...(byWhole.get(part.piece.whole) ?? []), part]);
  const joined = new Map<Part, Part>();
  const gone = new Set<Part>();
  for (const pieces of byWhole.values()) {
    if (!areWhole(pieces)) continue;
    joined.set(pieces[0]!, joinedPieces(pieces));
    pieces.slice(1).forEach((part) => gone.add(part));
  }
  return parts.filter((part) => !gone.has(part)).map((part) => joined.get(part) ?? part);
}

/** The parts that a part of a file is in the job: one, or the pieces it was put together from. */
export const piecesOf = (part: Part): readonly Part[] => part.pieces ?? [part];

/** Faces of a part by what they are grouped by; faces of none are a group of their own. Names in the order of first use, O(faces). */
export function facesByName(part: Part, by: 'material' | 'group'): { name: string; faces: Uint32Array }[] {
  const [names, of] = by === 'material' ? [part.mesh.materials, part.mesh.faceMaterial] : [part.mesh.groups, part.mesh.faceGroup];
  const lists = new Map<number, number[]>();
  of.forEach((k, f) => {
    const list = lists.get(k);
    if (list) list.push(f);
    else lists.set(k, [f]);
  });
  return [...lists].map(([k, faces]) => ({ name: k < 0 ? `no ${by}` : names[k]!, faces: Uint32Array.from(faces) }));
}
