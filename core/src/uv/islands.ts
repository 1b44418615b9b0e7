import { faceCount, nextCorner, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { edgeStates, EdgeState } from './seamEdges.ts';
import type { UvSet } from './uvSet.ts';

/** The islands of a layout, numbered by their lowest face. */
export interface Islands {
  readonly count: number;
  readonly ofFace: Int32Array;
  /** Faces of island i: faces[start[i]] … faces[start[i + 1] − 1], rising. */
  readonly start: Uint32Array;
  readonly faces: Uint32Array;
  /** The state of every edge (EdgeState). */
  readonly states: Uint8Array;
}

const cache = new WeakMap<Uint32Array, { mesh: Mesh; slits: Uint32Array; islands: Islands }>();

/** The islands of a UV set; kept while its arrays live, since moving UV points changes no island. O(corners). */
export function islandsOf(mesh: Mesh, set: UvSet): Islands {
  const kept = cache.get(set.cornerUv);
  if (kept && kept.mesh === mesh && kept.slits === set.slits) return kept.islands;
  const islands = findIslands(mesh, set);
  cache.set(set.cornerUv, { mesh, slits: set.slits, islands });
  return islands;
}

function findIslands(mesh: Mesh, set: UvSet): Islands {
  const topology = topologyOf(mesh);
  const states = edgeStates(mesh, set);
  const faces = faceCount(mesh);
  const ofFace = new Int32Array(faces).fill(-1);
  const stack = new Uint32Array(faces);
  let count = 0;
  for (let seed = 0; seed < faces; seed++) {
    if (ofFace[seed] !== -1) continue;
    let top = 0;
    stack[top++] = seed;
    ofFace[seed] = count;
    while (top > 0) {
      const f = stack[--top]!;
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        if (states[topology.cornerEdge[c]!] !== EdgeState.joined) continue;
        const g = topology.cornerFace[topology.twin[c]!]!;
        if (ofFace[g] === -1) {
          ofFace[g] = count;
          stack[top++] = g;
        }
      }
    }
    count++;
  }
  const start = new Uint32Array(count + 1);
  for (let f = 0; f < faces; f++) start[ofFace[f]! + 1]!++;
  for (let i = 0; i < count; i++) start[i + 1]! += start[i]!;
  const fill = start.slice(0, count);
  const list = new Uint32Array(faces);
  for (let f = 0; f < faces; f++) list[fill[ofFace[f]!]!++] = f;
  return { count, ofFace, start, faces: list, states };
}

/** Why an island cannot lie flat, or how it will. */
export type IslandShape = 'disk' | 'ring' | 'closed' | 'handle';

export interface IslandFacts {
  shape: IslandShape;
  euler: number;
  loops: number;
  faces: number;
  /** Some face of it has no place on the sheet yet. */
  unplaced: boolean;
}

/** The words for each shape. */
export const shapeWords: Record<IslandShape, string> = {
  disk: 'lies flat',
  ring: 'has a hole in it: lies flat only as a ring; cut from hole to rim to open it',
  closed: 'closed all round: cut it open before it can lie flat',
  handle: 'has a handle or tunnel: cut round or along it before it can lie flat',
};

const factsCache = new WeakMap<Islands, WeakMap<Uint8Array, IslandFacts[]>>();

/** Shape of every island. O(corners). */
export function islandFacts(mesh: Mesh, set: UvSet): IslandFacts[] {
  const islands = islandsOf(mesh, set);
  let byPlaced = factsCache.get(islands);
  if (!byPlaced) factsCache.set(islands, (byPlaced = new WeakMap()));
  const known = byPlaced.get(set.unplaced);
  if (known) return known;
  const facts = findFacts(mesh, set, islands);
  byPlaced.set(set.unplaced, facts);
  return facts;
}

function findFacts(mesh: Mesh, set: UvSet, islands: Islands): IslandFacts[] {
  const topology = topologyOf(mesh);
  const { states, ofFace, count } = islands;
  const vertices = islandVertices(mesh, islands);
  const halfEdges = new Int32Array(count);
  const joinedHalves = new Int32Array(count);
  const loops = new Int32Array(count);
  const faces = new Int32Array(count);
  const unplaced = new Uint8Array(count);
  const borderSeen = new Uint8Array(mesh.corners.length);
  for (let f = 0; f < ofFace.length; f++) {
    const island = ofFace[f]!;
    faces[island]!++;
    if (set.unplaced[f]) unplaced[island] = 1;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      halfEdges[island]!++;
      if (states[topology.cornerEdge[c]!] === EdgeState.joined) joinedHalves[island]!++;
      else if (!borderSeen[c]) {
        loops[island]!++;
        let at = c;
        do {
          borderSeen[at] = 1;
          at = nextBorderCorner(mesh, states, at);
        } while (!borderSeen[at]);
      }
    }
  }
  return Array.from({ length: count }, (_, i) => {
    const edges = joinedHalves[i]! / 2 + (halfEdges[i]! - joinedHalves[i]!);
    const euler = vertices[i]! - edges + faces[i]!;
    // a slit of one edge parts nothing: both its sides have the same two ends
    const open = halfEdges[i]! - joinedHalves[i]! > 2;
    const shape: IslandShape =
      loops[i] === 0 || (loops[i] === 1 && euler === 1 && !open) ? 'closed' : euler + loops[i]! < 2 ? 'handle' : loops[i]! > 1 ? 'ring' : 'disk';
    return { shape, euler, loops: loops[i]!, faces: faces[i]!, unplaced: unplaced[i] === 1 };
  });
}

/**
 * Vertices of each island as a flat piece. A fan of corners is either open, and then exactly one border half edge leaves it, or goes all
 * round its point.
 */
function islandVertices(mesh: Mesh, { states, ofFace, count }: Islands): Int32Array {
  const { cornerEdge, cornerFace, twin } = topologyOf(mesh);
  const vertices = new Int32Array(count);
  const seen = new Uint8Array(mesh.corners.length);
  for (let f = 0; f < ofFace.length; f++) {
    const from = mesh.faceStart[f]!;
    const to = mesh.faceStart[f + 1]!;
    for (let c = from; c < to; c++) {
      if (states[cornerEdge[c]!] !== EdgeState.joined) {
        vertices[ofFace[f]!]!++;
        continue;
      }
      if (seen[c]) continue;
      let at = c;
      // once round the point, from each corner to the one across the edge that leaves it
      do {
        seen[at] = 1;
        if (states[cornerEdge[at]!] !== EdgeState.joined) break;
        const t = twin[at]!;
        at = nextCorner(mesh, t, cornerFace[t]!);
      } while (!seen[at]);
      if (at === c) vertices[ofFace[f]!]!++;
    }
  }
  return vertices;
}

/** The border corner after c, going round the island with the island on the left. c's edge must not be joined. */
export function nextBorderCorner(mesh: Mesh, states: Uint8Array, c: number): number {
  const { twin, cornerFace, cornerEdge } = topologyOf(mesh);
  let at = nextCorner(mesh, c, cornerFace[c]!);
  while (states[cornerEdge[at]!] === EdgeState.joined) {
    const t = twin[at]!;
    at = nextCorner(mesh, t, cornerFace[t]!);
  }
  return at;
}

/** A letter for island i: A … Z, AA, AB … */
export function islandLetter(i: number): string {
  let letters = '';
  for (let k = i; k >= 0; k = Math.floor(k / 26) - 1) letters = String.fromCharCode(65 + (k % 26)) + letters;
  return letters;
}
