import TinyQueue from 'tinyqueue';
import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { axisNames, type Symmetry } from '../select/symmetry.ts';
import { pointEdges } from '../seams/shortestPaths.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';

/**
 * Cuts that join the border loops of islands astride a plane, so that they lie flat, alike on both sides of it: a loop astride is reached within the plane,
 * one beside it together with the one across, each by the cheapest way that does not cross the plane. An island whose loops are no images of one another,
 * or that cannot be joined so, is left alone. Our own, after Prim's tree.
 *
 * @param price of each edge; Infinity where none may run
 * @returns edges to cut
 * O(loops · E log E) of each island that has more than one loop.
 */
export function openAlike(mesh: Mesh, set: UvSet, price: Float64Array, symmetry: Symmetry): number[] {
  const facts = islandFacts(mesh, set);
  const out: number[] = [];
  for (let i = 0; i < facts.length; i++) if (facts[i]!.loops > 1) out.push(...joinLoops(mesh, set, i, price, symmetry));
  return out;
}

function joinLoops(mesh: Mesh, set: UvSet, island: number, price: Float64Array, { axis, at, points: across, edges: edgeAcross }: Symmetry): number[] {
  const { edgePoints, edgeStart, edgeCorners, cornerFace, cornerEdge } = topologyOf(mesh);
  const { states, ofFace, faces, start } = islandsOf(mesh, set);
  const d = axisNames.indexOf(axis);
  const inside = (e: number) => states[e] === EdgeState.joined && ofFace[cornerFace[edgeCorners[edgeStart[e]!]!]!] === island;
  // border loops: points joined by border edges
  const loopOf = new Map<number, number>();
  const border: number[] = [];
  for (let k = start[island]!; k < start[island + 1]!; k++)
    for (let c = mesh.faceStart[faces[k]!]!; c < mesh.faceStart[faces[k]! + 1]!; c++)
      if (states[cornerEdge[c]!] !== EdgeState.joined) border.push(cornerEdge[c]!);
  const { start: around, edges: byPoint } = pointEdges(mesh);
  const onBorder = new Set(border);
  let loops = 0;
  for (const e of border) {
    const seed = edgePoints[e * 2]!;
    if (loopOf.has(seed)) continue;
    const list = [seed];
    loopOf.set(seed, loops);
    for (let k = 0; k < list.length; k++)
      for (let n = around[list[k]!]!; n < around[list[k]! + 1]!; n++) {
        const f = byPoint[n]!;
        if (!onBorder.has(f)) continue;
        for (let end = 0; end < 2; end++) {
          const q = edgePoints[f * 2 + end]!;
          if (loopOf.has(q)) continue;
          loopOf.set(q, loops);
          list.push(q);
        }
      }
    loops++;
  }
  if (loops < 2) return [];
  const partner = new Int32Array(loops).fill(-2);
  for (const [p, loop] of loopOf) {
    const other = across[p]! < 0 ? -1 : (loopOf.get(across[p]!) ?? -1);
    if (partner[loop] === -2) partner[loop] = other;
    else if (partner[loop] !== other) return [];
  }
  if (partner.includes(-1)) return [];

  const inPlane = (p: number) => across[p] === p;
  const beyond = (p: number) => mesh.points[p * 3 + d]! >= at;
  const reached = new Uint8Array(loops);
  const source = new Set<number>();
  const cuts: number[] = [];
  const take = (loop: number) => {
    for (const l of [loop, partner[loop]!]) {
      reached[l] = 1;
      for (const [p, of] of loopOf) if (of === l) source.add(p);
    }
  };
  const length = new Float64Array(loops);
  for (const [, loop] of loopOf) length[loop]!++;
  const astride = [...length.keys()].filter((l) => partner[l] === l).sort((a, b) => length[b]! - length[a]!);
  if (astride.length > 0) take(astride[0]!);
  while (reached.includes(0)) {
    // without anything to start from: from the plane itself to the nearest pair
    const from = source.size > 0 ? source : new Set([...across.keys()].filter((p) => inPlane(p)));
    const way = cheapest(from, source.size > 0);
    if (!way) return [];
    for (const e of way.edges) {
      cuts.push(e);
      const image = edgeAcross[e]!;
      if (image !== e) cuts.push(image);
      for (const one of [e, image]) for (let end = 0; end < 2; end++) source.add(edgePoints[one * 2 + end]!);
    }
    take(way.loop);
  }
  return [...new Set(cuts)];

  /** The cheapest way on one side of the plane that, once it has left the plane, does not come back to it. */
  function cheapest(from: ReadonlySet<number>, mayFollowPlane: boolean): { edges: number[]; loop: number } | null {
    const best = new Map<number, { cost: number; edge: number }>();
    const done = new Set<number>();
    const queue = new TinyQueue<{ cost: number; p: number }>([], (a, b) => a.cost - b.cost || a.p - b.p);
    for (const p of from) {
      if (!beyond(p) && !inPlane(p)) continue;
      best.set(p, { cost: 0, edge: -1 });
      queue.push({ cost: 0, p });
    }
    for (let item = queue.pop(); item; item = queue.pop()) {
      const { p } = item;
      if (done.has(p)) continue;
      done.add(p);
      const loop = loopOf.get(p);
      if (loop !== undefined && !reached[loop]) {
        const edges: number[] = [];
        for (let q = p; best.get(q)!.edge >= 0;) {
          const { edge } = best.get(q)!;
          edges.push(edge);
          q = edgePoints[edge * 2] === q ? edgePoints[edge * 2 + 1]! : edgePoints[edge * 2]!;
        }
        return { edges, loop };
      }
      for (let n = around[p]!; n < around[p + 1]!; n++) {
        const e = byPoint[n]!;
        const q = edgePoints[e * 2] === p ? edgePoints[e * 2 + 1]! : edgePoints[e * 2]!;
        if (done.has(q) || from.has(q) || !inside(e) || edgeAcross[e]! < 0 || !(price[e]! < Infinity)) continue;
        if (inPlane(q) ? !(mayFollowPlane && inPlane(p) && edgeAcross[e] === e) : !beyond(q)) continue;
        // a loop astride is met within the plane alone
        const meets = loopOf.get(q);
        if (meets !== undefined && partner[meets] === meets && !inPlane(q)) continue;
        const cost = item.cost + price[e]!;
        if (cost >= (best.get(q)?.cost ?? Infinity)) continue;
        best.set(q, { cost, edge: e });
        queue.push({ cost, p: q });
      }
    }
    return null;
  }
}
