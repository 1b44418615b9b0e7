import type { Mesh } from '../mesh/mesh.ts';
import type { Put } from './jig.ts';

export interface Projected {
  /** Faces in the order given. */
  readonly faces: Uint32Array;
  /** First number in `corners` and `uv` of each face, and the end. */
  readonly start: Uint32Array;
  /** The mesh's corners, face by face. */
  readonly corners: Uint32Array;
  /** 2 numbers a corner. */
  readonly uv: Float64Array;
  /** Corners share a UV point only within one patch: side of the box, lid, flat region, single face. A number a face. */
  readonly patch: Int32Array;
}

/** What the kinds work on. */
export interface ProjectionWork extends Projected {
  mesh: Mesh;
  places: Float64Array;
  normals: Float64Array;
  put: Put;
}
