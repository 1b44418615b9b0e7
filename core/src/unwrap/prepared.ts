import type { Symbolic } from '../numeric/symbolic.ts';
import type { FlatTriangles } from './flatTriangles.ts';

/** What the solvers of one piece share: worked out once, used by every method. */
export interface Prepared {
  vertices: number;
  positions: Float64Array;
  triangles: Uint32Array;
  flat: FlatTriangles;
  symbolic: Symbolic;
  /** Directed border edges, 2 vertices each, the piece on the left. */
  border: Uint32Array;
  /** The pattern's entries of each triangle: (0,0) (1,1) (2,2) (0,1) (1,2) (2,0). */
  entries: Int32Array;
}

/** Vertices that stay where they are put. */
export interface Pins {
  vertices: ArrayLike<number>;
  /** 2 numbers a vertex. */
  places: ArrayLike<number>;
}
