import type { Context } from '../context.ts';
import { JigError } from '../jigError.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { conformal, prepare } from '../unwrap/conformal.ts';
import { isometric, stretchEnergy } from '../unwrap/isometric.ts';
import { islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';

type Size = { scale: number; side: number } | null;

/** Rounds of averaging that give new points a first place. */
const rounds = 60;
/** Most steps of the solver. */
const steps = 80;

/**
 * Lays new faces flat in place: each connected patch of faces without a place is joined to the island that it shares most of its border with, and laid by least stretch
 * with every point of that island held, which stays bit for bit where it is. A patch beside none, one that would turn faces over, or close its island, is left.
 * @param faces without a place
 * @returns the layout, and the faces that have a place now
 */
export function fillIn(mesh: Mesh, given: UvSet, faces: ArrayLike<number>, context: Context): { set: UvSet; filled: number[] } {
  const { ofFace, states } = islandsOf(mesh, given);
  // an island keeps the size that it had before any patch came to it
  const sizes = new Map<number, Size>();
  const sizeOf = (island: number): Size => {
    if (!sizes.has(island)) sizes.set(island, scaleOf(mesh, given, ofFace, island));
    return sizes.get(island)!;
  };
  let set = given;
  const filled: number[] = [];
  for (const patch of patchesOf(mesh, faces)) {
    context.throwIfCancelled();
    const next = withPatch(mesh, set, patch, ofFace, states, sizeOf, context);
    if (!next) continue;
    set = next;
    filled.push(...patch);
  }
  return { set, filled };
}

/** Connected patches, over edges of two faces. O(faces). */
function patchesOf(mesh: Mesh, faces: ArrayLike<number>): number[][] {
  const { cornerEdge, edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
  const wanted = new Set(Array.from(faces));
  const out: number[][] = [];
  for (const first of wanted) {
    const patch = [first];
    wanted.delete(first);
    for (let k = 0; k < patch.length; k++) {
      const f = patch[k]!;
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        const e = cornerEdge[c]!;
        if (edgeStart[e + 1]! - edgeStart[e]! !== 2) continue;
        for (let n = edgeStart[e]!; n < edgeStart[e + 1]!; n++) {
          const other = cornerFace[edgeCorners[n]!]!;
          if (wanted.delete(other)) patch.push(other);
        }
      }
    }
    out.push(patch);
  }
  return out;
}

const nextOf = (mesh: Mesh, c: number, f: number) => (c + 1 === mesh.faceStart[f + 1]! ? mesh.faceStart[f]! : c + 1);

function withPatch(
  mesh: Mesh,
  set: UvSet,
  patch: readonly number[],
  ofFace: ArrayLike<number>,
  states: ArrayLike<number>,
  sizeOf: (island: number) => Size,
  context: Context,
): UvSet | null {
  const { cornerEdge, edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
  const isIn = new Set(patch);
  /** Shared edges by the island on their other side: pairs of corners at one point, in the patch and in the island. */
  const beside = new Map<number, [number, number][]>();
  for (const f of patch)
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const e = cornerEdge[c]!;
      if (edgeStart[e + 1]! - edgeStart[e]! !== 2) continue;
      const d = edgeCorners[edgeStart[e]!] === c ? edgeCorners[edgeStart[e]! + 1]! : edgeCorners[edgeStart[e]!]!;
      const g = cornerFace[d]!;
      if (isIn.has(g) || set.unplaced[g] || states[e] === EdgeState.border) continue;
      const [n, m] = [nextOf(mesh, c, f), nextOf(mesh, d, g)];
      const pairs: [number, number][] =
        mesh.corners[c] === mesh.corners[m]
          ? [
              [c, m],
              [n, d],
            ]
          : [
              [c, d],
              [n, m],
            ];
      const known = beside.get(ofFace[g]!);
      if (known) known.push(...pairs);
      else beside.set(ofFace[g]!, pairs);
    }
  const [best] = [...beside].sort((a, b) => b[1].length - a[1].length);
  if (!best) return null;
  const idAt = new Map<number, number>();
  for (const [own, other] of best[1]) {
    const [point, id] = [mesh.corners[own]!, set.cornerUv[other]!];
    // a seam of the island ends here: which side is meant cannot be said
    if (idAt.has(point) && idAt.get(point) !== id) return null;
    idAt.set(point, id);
  }
  const old = set.uv.length / 2;
  const cornerUv = set.cornerUv.slice();
  const unplaced = set.unplaced.slice();
  const fresh = new Map<number, number>();
  for (const f of patch) {
    unplaced[f] = 0;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const point = mesh.corners[c]!;
      let id = idAt.get(point) ?? fresh.get(point);
      if (id === undefined) fresh.set(point, (id = old + fresh.size));
      cornerUv[c] = id;
    }
  }
  const uv = new Float64Array(set.uv.length + fresh.size * 2);
  uv.set(set.uv);
  firstPlaces(mesh, patch, cornerUv, uv, old);
  const joined: UvSet = { ...set, cornerUv, uv, unplaced, pins: new Uint8Array(uv.length / 2) };
  const places = patchPlaces(mesh, joined, patch, sizeOf(best[0]), old, context);
  if (!places) return null;
  const kept = new Uint8Array(uv.length / 2);
  kept.set(set.pins);
  return { ...joined, uv: places, pins: kept };
}

/** Where the new points come to lie: least angles first, then least stretch, what was there before held. Null where that turns a triangle over. */
function patchPlaces(mesh: Mesh, joined: UvSet, patch: readonly number[], size: Size, old: number, context: Context): Float64Array | null {
  if (!size) return null;
  const { scale, side } = size;
  // the patch alone: what is held stands at its border
  const { corners, faceStart } = trianglesOf(mesh);
  const vertexOf = new Map<number, number>();
  const uvPoint: number[] = [];
  const points: number[] = [];
  const list: number[] = [];
  for (const f of patch)
    for (let t = faceStart[f]! * 3; t < faceStart[f + 1]! * 3; t++) {
      const id = joined.cornerUv[corners[t]!]!;
      let v = vertexOf.get(id);
      if (v === undefined) {
        vertexOf.set(id, (v = uvPoint.length));
        uvPoint.push(id);
        const p = mesh.corners[corners[t]!]! * 3;
        points.push(mesh.points[p]!, mesh.points[p + 1]!, mesh.points[p + 2]!);
      }
      list.push(v);
    }
  const [positions, triangles] = [Float64Array.from(points), Uint32Array.from(list)];
  const held = [...uvPoint.keys()].filter((v) => uvPoint[v]! < old);
  if (held.length < 2) return null;
  const prepared = prepare(positions, triangles);
  const pins = {
    vertices: Uint32Array.from(held),
    places: Float64Array.from(held.flatMap((v) => [joined.uv[uvPoint[v]! * 2]! * scale * side, joined.uv[uvPoint[v]! * 2 + 1]! * scale])),
  };
  try {
    const averaged = Float64Array.from(uvPoint.flatMap((p) => [joined.uv[p * 2]! * scale * side, joined.uv[p * 2 + 1]! * scale]));
    const start = [conformal(prepared, pins), averaged].find((one) => Number.isFinite(stretchEnergy(prepared, one)));
    if (!start) return null;
    const { uv } = isometric(prepared, start, { held: new Set(held), steps, check: () => context.throwIfCancelled() });
    if (!Number.isFinite(stretchEnergy(prepared, uv))) return null;
    const out = joined.uv.slice();
    uvPoint.forEach((p, v) => {
      if (p < old) return;
      out[p * 2] = (uv[v * 2]! / scale) * side;
      out[p * 2 + 1] = uv[v * 2 + 1]! / scale;
    });
    return out;
  } catch (error) {
    if (error instanceof JigError && error.code !== 'cancelled') return null;
    throw error;
  }
}

/** What an island's places are multiplied by to have the size of its faces, and the side it shows. O(triangles). */
function scaleOf(mesh: Mesh, { uv, cornerUv, unplaced }: UvSet, ofFace: ArrayLike<number>, island: number): Size {
  const { corners, face, count } = trianglesOf(mesh);
  let [space, flat] = [0, 0];
  for (let t = 0; t < count; t++) {
    if (ofFace[face[t]!] !== island || unplaced[face[t]!]) continue;
    const [a, b, c] = [0, 1, 2].map((k) => corners[t * 3 + k]!) as [number, number, number];
    const edge = (to: number) =>
      [0, 1, 2].map((d) => mesh.points[mesh.corners[to]! * 3 + d]! - mesh.points[mesh.corners[a]! * 3 + d]!) as [number, number, number];
    const [u, v] = [edge(b), edge(c)];
    space += Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]);
    const at = (to: number, d: number) => uv[cornerUv[to]! * 2 + d]! - uv[cornerUv[a]! * 2 + d]!;
    flat += at(b, 0) * at(c, 1) - at(c, 0) * at(b, 1);
  }
  return space > 0 && flat !== 0 ? { scale: Math.sqrt(space / Math.abs(flat)), side: Math.sign(flat) } : null;
}

/** New points amid their neighbours, from those that are held. */
function firstPlaces(mesh: Mesh, patch: readonly number[], cornerUv: Uint32Array, uv: Float64Array, old: number): void {
  const near = new Map<number, Set<number>>();
  const middle = [0, 0];
  let held = 0;
  for (const f of patch)
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const [a, b] = [cornerUv[c]!, cornerUv[nextOf(mesh, c, f)]!];
      for (const [x, y] of [
        [a, b],
        [b, a],
      ] as const) {
        if (x < old) {
          middle[0]! += uv[x * 2]!;
          middle[1]! += uv[x * 2 + 1]!;
          held++;
        } else near.set(x, (near.get(x) ?? new Set()).add(y));
      }
    }
  for (const id of near.keys()) for (let d = 0; d < 2; d++) uv[id * 2 + d] = middle[d]! / Math.max(1, held);
  for (let k = 0; k < rounds; k++)
    for (const [id, others] of near)
      for (let d = 0; d < 2; d++) {
        let sum = 0;
        for (const other of others) sum += uv[other * 2 + d]!;
        uv[id * 2 + d] = sum / others.size;
      }
}
