import type { Mesh } from './mesh.ts';

const middlesOf = new WeakMap<Float64Array, { corners: Uint32Array; middles: Float64Array }>();

/** The mean of each face's corners, 3 numbers a face; kept while the points live, since each drag asks for it. O(corners) */
export function faceMiddles({ points, corners, faceStart }: Mesh): Float64Array {
  const kept = middlesOf.get(points);
  if (kept?.corners === corners) return kept.middles;
  const out = new Float64Array((faceStart.length - 1) * 3);
  for (let f = 0; f + 1 < faceStart.length; f++) {
    const from = faceStart[f]!;
    const to = faceStart[f + 1]!;
    let x = 0;
    let y = 0;
    let z = 0;
    for (let c = from; c < to; c++) {
      const p = corners[c]! * 3;
      x += points[p]!;
      y += points[p + 1]!;
      z += points[p + 2]!;
    }
    out[f * 3] = x / (to - from);
    out[f * 3 + 1] = y / (to - from);
    out[f * 3 + 2] = z / (to - from);
  }
  middlesOf.set(points, { corners, middles: out });
  return out;
}
