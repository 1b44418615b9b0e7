import { faceCount, type Mesh } from '../mesh/mesh.ts';

/**
 * One layout of a mesh. Each corner has a UV point; two corners at one mesh point share it or do not, and that alone says where the
 * layout is split. `slits` holds what cannot be said that way: edges cut on purpose whose ends still hang together all the way
 * round (a first cut in the middle of a face region parts nothing yet).
 */
export interface UvSet {
  readonly name: string;
  /** The UV point of each corner. */
  readonly cornerUv: Uint32Array;
  /** 2 numbers a UV point, v running up; the sheet is 0 to 1. */
  readonly uv: Float64Array;
  /** 1 for each face that has no place on the sheet yet. */
  readonly unplaced: Uint8Array;
  /** Edges (of the mesh's topology, rising) that are cut although the UV points on both sides are still shared. */
  readonly slits: Uint32Array;
  /** 1 for each UV point that stays when its island is unwrapped again. */
  readonly pins: Uint8Array;
  /**
   * The stack that each face's island was laid on, a number that islands of all parts of the job share; 0: none. It holds while the islands really are on one
   * another (see `stacksOf`). Absent: no face has one.
   */
  readonly stack?: Uint32Array;
  /** The block that each face's island is kept together with when it is packed, a number that islands of all parts of the job share; 0: none. Absent: none. */
  readonly block?: Uint32Array;
  /** 1 for each face whose island packing leaves where it is. Absent: none. */
  readonly locked?: Uint8Array;
  /** How many times as dense as others each face is to be: 2 twice as sharp. Absent: 1 for all. */
  readonly weight?: Float64Array;
  /** How many times as much as others each face's stretch counts where the layout is laid by least stretch: a face or lettering more. Absent: 1 for all. */
  readonly care?: Float64Array;
  /**
   * How the edge that begins at each corner is to lie where the layout is made by least stretch: 1 level, 2 upright, 3 whichever of these is nearer, 0 as it
   * comes; 4 more where it keeps its length on the model, and 8 more where it is a seam over which the picture is kept going on. Absent: 0 for all.
   */
  readonly straight?: Uint8Array;
  /** 1 for each face whose heading on the sheet was set on purpose (by a jig, by hand, aligned, straightened, by grain): packing keeps it. Absent: none. */
  readonly headed?: Uint8Array;
}

/** What a mesh without UVs starts with: one UV point a mesh point, no face placed. */
export function emptyUvSet(mesh: Mesh, name = 'UV set 1'): UvSet {
  return {
    name,
    cornerUv: mesh.corners.slice(),
    uv: new Float64Array((mesh.points.length / 3) * 2),
    unplaced: new Uint8Array(faceCount(mesh)).fill(1),
    slits: new Uint32Array(0),
    pins: new Uint8Array(mesh.points.length / 3),
  };
}

/** A set from UV points and the one of each corner, everything placed. */
export function uvSetFrom(mesh: Mesh, name: string, cornerUv: Uint32Array, uv: Float64Array): UvSet {
  return { name, cornerUv, uv, unplaced: new Uint8Array(faceCount(mesh)), slits: new Uint32Array(0), pins: new Uint8Array(uv.length / 2) };
}

/** Number of faces that have no place on the sheet. */
export function unplacedCount(set: UvSet): number {
  let count = 0;
  for (let f = 0; f < set.unplaced.length; f++) count += set.unplaced[f]!;
  return count;
}
