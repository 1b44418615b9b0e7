import type { LayerMask } from '../images/surface/layer.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { activeSet, type Part } from './job.ts';
import { carriedSet, facesToWork, matchMeshes, reshapedFaces, type MeshMatch } from './newerMesh.ts';
import { facesKey } from './versions.ts';

export interface NewerMeshReport {
  name: string;
  /** Only points moved: no UV changed. */
  onlyMoved: boolean;
  /** Faces that are the same as before, that lie on the old surface, and that are new. */
  same: number;
  carried: number;
  fresh: number;
  /** New faces that were laid flat beside their neighbours, these held. */
  filled: number;
  /** The newer mesh is a mirror image. */
  mirrored: boolean;
  /** Faces that need a look: of another shape where only points moved; else without a place, turned over or off in scale. */
  work: Uint32Array;
}

/** A part with a newer mesh, its layout and everything that is said of its faces carried over. */
export function withNewerMesh(
  part: Part,
  mesh: Mesh,
  origin: Part['origin'],
  up: Part['up'],
): { part: Part; report: NewerMeshReport; match: MeshMatch | null } {
  const { form: _, up: __, ...rest } = part;
  const plain = { ...rest, origin, ...(up ? { up } : {}) };
  if (facesKey(part.mesh) === facesKey(mesh)) {
    const faces = mesh.faceStart.length - 1;
    return {
      part: { ...plain, mesh },
      report: { name: part.name, onlyMoved: true, same: faces, carried: 0, fresh: 0, filled: 0, mirrored: false, work: reshapedFaces(part.mesh, mesh) },
      match: null,
    };
  }
  const match = matchMeshes(part.mesh, mesh);
  const { faceFrom, isSame } = match;
  const uvSets = part.uvSets.map((set) => carriedSet(part.mesh, mesh, set, match));
  const bytes = (list: Uint8Array | undefined) => list && Uint8Array.from(faceFrom, (f) => (f < 0 ? 0 : list[f]!));
  const { hidden, done, seamMarks, grain, layers, ...others } = plain;
  const some = <K extends string>(key: K, list: Uint8Array | undefined) => (list?.some((x) => x > 0) ? ({ [key]: list } as Record<K, Uint8Array>) : {});
  const next: Part = {
    ...others,
    mesh,
    uvSets,
    ...some('hidden', bytes(hidden)),
    ...some('done', bytes(done)),
    ...some('seamMarks', bytes(seamMarks)),
    ...(grain
      ? {
          grain: Float64Array.from({ length: faceFrom.length * 3 }, (_, k) =>
            faceFrom[Math.floor(k / 3)]! < 0 ? 0 : grain[faceFrom[Math.floor(k / 3)]! * 3 + (k % 3)]!,
          ),
        }
      : {}),
    ...(layers ? { layers: layers.map((layer) => ({ ...layer, masks: layer.masks.map((mask) => carriedMask(mask, faceFrom)) })) } : {}),
  };
  const same = isSame.reduce((sum, x) => sum + x, 0);
  const fresh = faceFrom.reduce((sum, f) => sum + (f < 0 ? 1 : 0), 0);
  return {
    part: next,
    report: {
      name: part.name,
      onlyMoved: false,
      same,
      carried: isSame.length - same - fresh,
      fresh,
      filled: 0,
      mirrored: match.scale.some((x) => x < 0),
      work: facesToWork(mesh, activeSet(next), isSame),
    },
    match,
  };
}

function carriedMask(mask: LayerMask, faceFrom: Int32Array): LayerMask {
  if (mask.kind !== 'faces') return mask;
  const had = new Set(mask.faces);
  return { ...mask, faces: [...faceFrom.keys()].filter((f) => had.has(faceFrom[f]!)) };
}
