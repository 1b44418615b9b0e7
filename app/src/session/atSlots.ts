import { spreadValues } from '@jig-peel/core/uv/smooth';

/** How the corners of the triangles of a form lie in the faces of its cage: see `FormView`. */
export interface Slots {
  faceStart: Uint32Array;
  levels: number;
  triCorner: Uint32Array;
  inner: Uint8Array | null;
  shares: Float32Array | null;
}

/** Values at the corners of a cage, at those of each triangle of its form. @param values `size` numbers a corner. O(corners of the form) */
export function atSlots(values: Float32Array, size: number, { faceStart, levels, triCorner, inner, shares }: Slots): Float32Array {
  const own = inner && shares ? values : spreadValues(values, size, faceStart, levels);
  const inside = inner && shares ? insideFaces(values, size, faceStart, shares) : own;
  const out = new Float32Array(triCorner.length * size);
  for (let k = 0; k < triCorner.length; k++) {
    const from = inner?.[k] ? inside : own;
    for (let d = 0; d < size; d++) out[k * size + d] = from[triCorner[k]! * size + d]!;
  }
  return out;
}

/** Values at the points inside of faces that `roundedEdges` gives. */
function insideFaces(values: Float32Array, size: number, faceStart: Uint32Array, shares: Float32Array): Float32Array {
  const out = new Float32Array(values.length);
  for (let f = 0; f + 1 < faceStart.length; f++) {
    const [from, to] = [faceStart[f]!, faceStart[f + 1]!];
    for (let d = 0; d < size; d++) {
      let middle = 0;
      for (let c = from; c < to; c++) middle += values[c * size + d]! / (to - from);
      for (let c = from; c < to; c++) {
        const own = values[c * size + d]!;
        const after = values[(c + 1 === to ? from : c + 1) * size + d]!;
        const before = values[(c === from ? to - 1 : c - 1) * size + d]!;
        out[c * size + d] = own + shares[c * 3]! * (after - own) + shares[c * 3 + 1]! * (before - own) + shares[c * 3 + 2]! * (middle - own);
      }
    }
  }
  return out;
}
