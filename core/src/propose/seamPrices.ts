import { quietContext, type Context } from '../context.ts';
import { edgeSight, type SightOptions } from '../measure/seamSight.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { edgeLengths, foldAngles } from '../seams/crease.ts';
import * as portable from '../numeric/portable.ts';

export interface SeamWishes extends SightOptions {
  /** 1 for each face that no seam may run across. */
  keepWhole?: Uint8Array | null;
  /** 1 for each face where seams may go: they are cheap there. */
  mayGo?: Uint8Array | null;
  /** 1 for each face that is looked at most: seams are costly there. */
  lookedAt?: Uint8Array | null;
  /** Visibility counts; default true. */
  preferHidden?: boolean;
}

/** What a seam along each edge costs, and what it is made of. */
export interface SeamPrices {
  /** Units of length; Infinity where none may run. */
  price: Float64Array;
  length: Float64Array;
  /** Share of directions from which the middle of the edge is seen: 0 hidden … 0.5 in plain sight. */
  seen: Float64Array;
}

/**
 * Prices of hidden and open edges of one length; of creases against flat ones; of places where seams may go; how sharply the hidden half of the
 * edges is told from the other. Common practice, no source: tried on the demo and on real meshes.
 */
const hiddenPrice = 0.03;
const halfSharpness = 16;
/** How much of the price goes by how often a place is seen by itself, not beside the rest of the model. */
const openShare = 0.3;
const creaseOff = 0.4;
const mayGoPrice = 0.25;
const lookedAtPrice = 12;
const lookedAtLeast = 0.3;

/** Short, hidden, creased edges are cheap; edges within faces to keep whole are not to be had. O(T + E). */
export function seamPrices(mesh: Mesh, wishes: SeamWishes = {}, context: Context = quietContext): SeamPrices {
  const { edgeCount, edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
  const { keepWhole, mayGo, lookedAt, preferHidden = true } = wishes;
  const length = edgeLengths(mesh);
  const folds = foldAngles(mesh);
  context.throwIfCancelled();
  const seen = preferHidden ? edgeSight(mesh, wishes) : new Float64Array(edgeCount).fill(0.5);
  // how open a place is by itself, and beside the rest of the model: on round and on technical forms little is hidden, but some is more so
  const share = preferHidden ? shareBelow(seen, length) : null;
  const price = new Float64Array(edgeCount);
  for (let e = 0; e < edgeCount; e++) {
    const half = Math.min(1, 2 * seen[e]!);
    const open = half * half * half;
    const own = share ? openShare * open + (1 - openShare) / (1 + portable.exp(-halfSharpness * (share[e]! - 0.5))) : open;
    let kept = 0;
    let may = 0;
    let looked = 0;
    const count = edgeStart[e + 1]! - edgeStart[e]!;
    for (let i = edgeStart[e]!; i < edgeStart[e + 1]!; i++) {
      const f = cornerFace[edgeCorners[i]!]!;
      if (keepWhole?.[f]) kept++;
      if (mayGo?.[f]) may++;
      if (lookedAt?.[f]) looked++;
    }
    // what is looked at is so, whatever the views round it say
    const worth = looked > 0 ? lookedAtLeast + (1 - lookedAtLeast) * own : own;
    price[e] = length[e]! * (hiddenPrice + (1 - hiddenPrice) * worth) * (1 - creaseOff * Math.min(1, folds[e]! / 60)) + 1e-12;
    if (may === count) price[e]! *= mayGoPrice;
    if (looked > 0) price[e]! *= lookedAtPrice;
    if (kept === count && count > 1) price[e] = Infinity;
  }
  return { price, length, seen };
}

/** Share of the length of all edges that is seen no more than each: 0 the most hidden … 1 the most open. Edges seen alike share their middle. O(E log E). */
function shareBelow(seen: Float64Array, length: Float64Array): Float64Array {
  const order = Uint32Array.from(seen.keys()).sort((a, b) => seen[a]! - seen[b]!);
  const all = length.reduce((sum, x) => sum + x, 0) || 1;
  const out = new Float64Array(seen.length);
  let below = 0;
  for (let k = 0; k < order.length;) {
    let end = k;
    let alike = 0;
    for (; end < order.length && seen[order[end]!] === seen[order[k]!]; end++) alike += length[order[end]!]!;
    for (; k < end; k++) out[order[k]!] = (below + alike / 2) / all;
    below += alike;
  }
  return out;
}
