import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { faceAreas } from '../mesh/normals.ts';
import * as portable from '../numeric/portable.ts';

/** Where faces are so many times smaller than they are by the mean of the surface, a modeller has put detail. Chosen by us, on figures. */
const finer = 3;
/** Detail is the smaller part of a surface: no more of its area than this, the finest. */
const mostOfSurface = 0.15;
/** Rounds of taking the mean over neighbours: what is finer along one row alone is a bevel. */
const rounds = 10;
/** Of a place with detail at least so many faces hang together. */
const leastFaces = 40;
/** And so much of them lies within it, not at its rim: strips do not. */
const leastInside = 0.5;

/**
 * Faces where a mesh is modelled finer than elsewhere: a face, a hand, lettering. By the mean area of the faces round about, beside the mean by area of the whole;
 * bevels and other strips are left out. Rising; empty for an even mesh. O(rounds · faces).
 */
export function detailFaces(mesh: Mesh): Uint32Array {
  const count = mesh.faceStart.length - 1;
  const area = faceAreas(mesh);
  const { edgeStart, edgeCorners, edgeCount, cornerFace } = topologyOf(mesh);
  const pairs: number[] = [];
  for (let e = 0; e < edgeCount; e++)
    if (edgeStart[e + 1]! - edgeStart[e]! === 2) pairs.push(cornerFace[edgeCorners[edgeStart[e]!]!]!, cornerFace[edgeCorners[edgeStart[e]! + 1]!]!);
  let all = 0;
  let mean = 0;
  for (let f = 0; f < count; f++) {
    if (!(area[f]! > 0)) continue;
    all += area[f]!;
    mean += area[f]! * portable.log(area[f]!);
  }
  if (!(all > 0)) return new Uint32Array(0);
  mean /= all;
  let log = Float64Array.from(area, (one) => (one > 0 ? portable.log(one) : mean));
  for (let round = 0; round < rounds; round++) {
    const sum = log.slice();
    const weight = new Float64Array(count).fill(1);
    for (let k = 0; k < pairs.length; k += 2) {
      const [f, g] = [pairs[k]!, pairs[k + 1]!];
      sum[f]! += log[g]!;
      sum[g]! += log[f]!;
      weight[f]!++;
      weight[g]!++;
    }
    log = sum.map((x, f) => x / weight[f]!);
  }
  const isFine = new Uint8Array(count);
  let taken = 0;
  for (const f of Uint32Array.from(area.keys()).sort((a, b) => log[a]! - log[b]!)) {
    taken += area[f]!;
    if (log[f]! >= mean - portable.log(finer) || taken > mostOfSurface * all) break;
    isFine[f] = 1;
  }
  return Uint32Array.from(compact(isFine, pairs)).sort();
}

/** Of marked faces those of pieces that are large enough, and more than a strip. */
function compact(marked: Uint8Array, pairs: readonly number[]): number[] {
  const count = marked.length;
  const root = Int32Array.from({ length: count }, (_, f) => f);
  const find = (f: number): number => {
    let at = f;
    while (root[at] !== at) at = root[at] = root[root[at]!]!;
    return at;
  };
  const atRim = new Uint8Array(count);
  for (let k = 0; k < pairs.length; k += 2) {
    const [f, g] = [pairs[k]!, pairs[k + 1]!];
    if (marked[f] && marked[g]) root[find(f)] = find(g);
    else if (marked[f] !== marked[g]) atRim[marked[f] ? f : g] = 1;
  }
  const size = new Uint32Array(count);
  const inside = new Uint32Array(count);
  for (let f = 0; f < count; f++) {
    if (!marked[f]) continue;
    size[find(f)]!++;
    if (!atRim[f]) inside[find(f)]!++;
  }
  const out: number[] = [];
  for (let f = 0; f < count; f++) if (marked[f] && size[find(f)]! >= leastFaces && inside[find(f)]! >= leastInside * size[find(f)]!) out.push(f);
  return out;
}
