import type { Mesh } from '../mesh/mesh.ts';
import { faceAreas, faceNormals } from '../mesh/normals.ts';
import { topologyOf } from '../mesh/topology.ts';
import { minCut } from '../numeric/minCut.ts';
import type { Symmetry } from '../select/symmetry.ts';
import { foldAngles } from '../seams/crease.ts';
import { pointEdges, shortestPaths } from '../seams/shortestPaths.ts';
import type { Prices } from './coarseSeams.ts';

/** What sticks out of a form: a limb, a head, a handle's end. */
export interface Limb {
  /** Its faces. */
  faces: Uint32Array;
  /** Edges of the ring that parts it from the rest. */
  ring: number[];
  /** Length of the ring, units. */
  girth: number;
  area: number;
  /** The point farthest out. */
  tip: number;
}

/** Places from which distances are taken. */
const sampleCount = 32;
/** How far a limb reaches out beyond where it leaves the form, of the whole reach, at least. */
const leastReach = 0.12;
/** Area over that of a disk with the ring's length round it: a half ball has 2, a tube as long as it is wide 5. */
const leastBulk = 2.2;
/**
 * How much the form widens next to a ring, against a tube, at so many girths of a round tube's width from it. A form with three ends and more branches
 * somewhere; one with two may be a plain tube, an egg or a cone, and has limbs only where it widens behind both.
 */
const branching = { widening: 1.05, widths: [1.25, 2, 3] };
const twoEnded = { widening: 1.3, widths: [1.25, 2] };
/** Rings in concave folds cost so much less, from so many degrees of a fold on. */
const concavePrice = 0.35;
const concaveFold = 25;

/**
 * Limbs of a form, found from how far its places are from all others: they end where that is largest and leave the form where such places meet. Each is
 * parted by the cheapest closed ring there is about its root, concave folds being cheap; what is only a bump, or goes on as wide beyond the ring as
 * before it, is no limb.
 *
 * The mean distance over the surface: M. Hilaga and others, "Topology Matching for Fully Automatic Similarity Estimation of 3D Shapes", SIGGRAPH 2001.
 * Cheapest cuts with concave folds: S. Katz, A. Tal, "Hierarchical Mesh Decomposition Using Fuzzy Clustering and Cuts", SIGGRAPH 2003. The tests of a limb are our own.
 * O(samples · E log E) and one cut a limb.
 *
 * @param symmetry limbs and rings come alike on both sides of it
 * @returns the largest first; limbs do not overlap
 */
export function findLimbs(mesh: Mesh, prices: Prices, symmetry: Symmetry | null = null): Limb[] {
  const { edgePoints } = topologyOf(mesh);
  const far = meanDistance(mesh, prices.length, symmetry);
  const { low, high } = range(far);
  if (!(high > low)) return [];
  const found: Limb[] = [];
  const price = ringPrices(mesh, prices, symmetry);
  const areas = faceAreas(mesh);
  const faceFar = perFace(mesh, far);
  const ends = branches(mesh, far, edgePoints, leastReach * (high - low));
  const test = ends.length > 2 ? branching : twoEnded;
  for (const { tip, members, root } of ends) {
    const limb = ringed(mesh, { tip, members, root, top: far[tip]!, faceFar, price, length: prices.length, areas, test });
    if (limb && limb.area < 0.5 * total(areas)) found.push(limb);
  }
  if (test === twoEnded && found.length < 2) return [];
  found.sort((a, b) => b.area - a.area || a.tip - b.tip);
  const taken = new Uint8Array(areas.length);
  return found.filter(({ faces }) => {
    if (faces.some((f) => taken[f])) return false;
    for (const f of faces) taken[f] = 1;
    return true;
  });
}

const total = (list: Float64Array) => list.reduce((sum, x) => sum + x, 0);

function range(values: Float64Array): { low: number; high: number } {
  let [low, high] = [Infinity, -Infinity];
  for (const x of values) {
    if (!Number.isFinite(x)) continue;
    low = Math.min(low, x);
    high = Math.max(high, x);
  }
  return { low, high };
}

/** The mean distance over edges from each point to all others of its shell; NaN at points of no face. The samples lie far apart and stand for the area about them. */
function meanDistance(mesh: Mesh, length: Float64Array, symmetry: Symmetry | null): Float64Array {
  const points = mesh.points.length / 3;
  const weight = pointAreas(mesh);
  const out = new Float64Array(points).fill(NaN);
  const done = new Uint8Array(points);
  for (let p = 0; p < points; p++) {
    if (done[p] || weight[p] === 0) continue;
    const first = shortestPaths(mesh, [p], (e) => length[e]!).distance;
    const shell: number[] = [];
    for (let q = 0; q < points; q++)
      if (first[q]! < Infinity) {
        shell.push(q);
        done[q] = 1;
      }
    // from the place farthest from the middle: the same one however the points are numbered
    const middle = [0, 1, 2].map(
      (d) => shell.reduce((sum, q) => sum + weight[q]! * mesh.points[q * 3 + d]!, 0) / shell.reduce((sum, q) => sum + weight[q]!, 0),
    );
    const off = (q: number) => Math.hypot(...middle.map((m, d) => mesh.points[q * 3 + d]! - m));
    let next = shell.reduce((best, q) => (off(q) > off(best) * (1 + 1e-9) ? q : best), shell[0]!);
    const nearest = new Float64Array(points).fill(Infinity);
    const owner = new Int32Array(points).fill(-1);
    const fields: Float64Array[] = [];
    for (let k = 0; k < Math.min(sampleCount, shell.length); k++) {
      const { distance } = shortestPaths(mesh, [next], (e) => length[e]!);
      fields.push(distance);
      for (const q of shell)
        if (distance[q]! < nearest[q]!) {
          nearest[q] = distance[q]!;
          owner[q] = k;
        }
      next = shell.reduce((best, q) => (nearest[q]! > nearest[best]! ? q : best), shell[0]!);
    }
    const share = new Float64Array(fields.length);
    for (const q of shell) share[owner[q]!]! += weight[q]!;
    const all = total(share);
    for (const q of shell) out[q] = fields.reduce((sum, field, k) => sum + field[q]! * share[k]!, 0) / all;
  }
  if (!symmetry) return out;
  return out.map((x, p) => {
    const across = symmetry.points[p]!;
    return across >= 0 ? (x + out[across]!) / 2 : x;
  });
}

function pointAreas(mesh: Mesh): Float64Array {
  const out = new Float64Array(mesh.points.length / 3);
  const areas = faceAreas(mesh);
  for (let f = 0; f < areas.length; f++) {
    const [from, to] = [mesh.faceStart[f]!, mesh.faceStart[f + 1]!];
    for (let c = from; c < to; c++) out[mesh.corners[c]!]! += areas[f]! / (to - from);
  }
  return out;
}

function perFace(mesh: Mesh, values: Float64Array): Float64Array {
  const out = new Float64Array(mesh.faceStart.length - 1);
  for (let f = 0; f < out.length; f++) {
    let sum = 0;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) sum += values[mesh.corners[c]!]!;
    out[f] = sum / (mesh.faceStart[f + 1]! - mesh.faceStart[f]!);
  }
  return out;
}

interface Branch {
  tip: number;
  /** Value where it meets the rest. */
  root: number;
  /** Its points above that value. */
  members: Uint8Array;
}

/** Parts of the surface above a falling level, from the highest point of each to where it meets another one that reaches as high: those of some reach. */
function branches(mesh: Mesh, far: Float64Array, edgePoints: Uint32Array, reach: number): Branch[] {
  const points = far.length;
  const order = Uint32Array.from(far.keys())
    .filter((p) => Number.isFinite(far[p]!))
    .sort((a, b) => far[b]! - far[a]! || a - b);
  const { start, edges } = pointEdges(mesh);
  const parent = new Int32Array(points).fill(-1);
  const rootOf = (p: number): number => {
    let r = p;
    while (parent[r] !== r) r = parent[r]!;
    for (let q = p; parent[q] !== r;) {
      const next = parent[q]!;
      parent[q] = r;
      q = next;
    }
    return r;
  };
  const tip = new Int32Array(points);
  /** Has a limb been told off within it already? */
  const parted = new Uint8Array(points);
  const found: { tip: number; root: number }[] = [];
  for (const p of order) {
    parent[p] = p;
    tip[p] = p;
    const meeting = new Set<number>();
    for (let k = start[p]!; k < start[p + 1]!; k++) {
      const e = edges[k]!;
      const q = edgePoints[e * 2] === p ? edgePoints[e * 2 + 1]! : edgePoints[e * 2]!;
      if (parent[q] !== -1) meeting.add(rootOf(q));
    }
    const list = [...meeting].sort((a, b) => far[tip[b]!]! - far[tip[a]!]! || tip[a]! - tip[b]!);
    if (list.length === 0) continue;
    const long = list.filter((r) => far[tip[r]!]! - far[p]! >= reach);
    // where two of some reach meet, each of them ends that has no limb within it
    if (long.length > 1)
      for (const r of long) {
        if (!parted[r]) found.push({ tip: tip[r]!, root: far[p]! });
        parted[r] = 1;
      }
    const [first] = list;
    for (const r of list.slice(1)) {
      parent[r] = first!;
      if (parted[r]) parted[first!] = 1;
    }
    parent[p] = first!;
  }
  return found.map(({ tip: top, root }) => {
    const members = new Uint8Array(points);
    members[top] = 1;
    const list = [top];
    for (let k = 0; k < list.length; k++) {
      const p = list[k]!;
      for (let i = start[p]!; i < start[p + 1]!; i++) {
        const e = edges[i]!;
        const q = edgePoints[e * 2] === p ? edgePoints[e * 2 + 1]! : edgePoints[e * 2]!;
        if (members[q] || !(far[q]! > root)) continue;
        members[q] = 1;
        list.push(q);
      }
    }
    return { tip: top, root, members };
  });
}

/** What a ring costs along each edge, whole numbers: concave folds are cheap; alike on both sides of a plane of symmetry. */
function ringPrices(mesh: Mesh, { price, length }: Prices, symmetry: Symmetry | null): Float64Array {
  const folds = foldAngles(mesh);
  const concave = concaveEdges(mesh);
  const kept = 1e6;
  const unit = 1e5 / Math.max(1e-300, total(length) / length.length);
  const one = price.map((x, e) => {
    if (x === Infinity) return kept * length[e]! * unit;
    const bent = concave[e] ? Math.min(1, folds[e]! / concaveFold) : 0;
    // mostly short, a little hidden
    return (0.7 * length[e]! + 0.3 * x) * (1 - (1 - concavePrice) * bent) * unit;
  });
  return one.map((x, e) => {
    const across = symmetry ? symmetry.edges[e]! : -1;
    return Math.round(across >= 0 ? (x + one[across]!) / 2 : x);
  });
}

/** 1 for each edge whose two faces fold inwards. */
function concaveEdges(mesh: Mesh): Uint8Array {
  const { edgeCount, edgeStart, edgeCorners, twin, cornerFace } = topologyOf(mesh);
  const normals = faceNormals(mesh);
  const out = new Uint8Array(edgeCount);
  const centre = (f: number, d: number) => {
    let sum = 0;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) sum += mesh.points[mesh.corners[c]! * 3 + d]!;
    return sum / (mesh.faceStart[f + 1]! - mesh.faceStart[f]!);
  };
  for (let e = 0; e < edgeCount; e++) {
    const c = edgeCorners[edgeStart[e]!]!;
    const t = twin[c]!;
    if (t < 0) continue;
    const [f, g] = [cornerFace[c]!, cornerFace[t]!];
    let above = 0;
    for (let d = 0; d < 3; d++) above += normals[f * 3 + d]! * (centre(g, d) - centre(f, d));
    if (above > 0) out[e] = 1;
  }
  return out;
}

interface Rooted extends Branch {
  top: number;
  faceFar: Float64Array;
  price: Float64Array;
  length: Float64Array;
  areas: Float64Array;
  test: typeof branching;
}

/** The limb within the cheapest ring about the root of a branch; null where that makes none. */
function ringed(mesh: Mesh, { tip, members, root, top, faceFar, price, length, areas, test }: Rooted): Limb | null {
  const { edgeCount, edgeStart, edgeCorners, twin, cornerFace } = topologyOf(mesh);
  const faces = faceFar.length;
  const reach = top - root;
  const ends = new Uint8Array(faces);
  let outer = 0;
  let others = 0;
  for (let f = 0; f < faces; f++) {
    const from = mesh.faceStart[f]!;
    let inside = 0;
    for (let c = from; c < mesh.faceStart[f + 1]!; c++) inside += members[mesh.corners[c]!]!;
    const count = mesh.faceStart[f + 1]! - from;
    if (inside === count && faceFar[f]! > root + 0.45 * reach) {
      ends[f] = 1;
      outer += areas[f]!;
    } else if ((inside === 0 && faceFar[f]! > root + 0.05 * reach) || faceFar[f]! < root - 0.2 * reach) {
      ends[f] = 2;
      others += areas[f]!;
    }
  }
  if (outer === 0 || others === 0) return null;
  const links: number[] = [];
  const cost: number[] = [];
  for (let e = 0; e < edgeCount; e++) {
    const c = edgeCorners[edgeStart[e]!]!;
    if (twin[c]! < 0) continue;
    links.push(cornerFace[c]!, cornerFace[twin[c]!]!);
    cost.push(price[e]!);
  }
  const side = minCut(faces, Uint32Array.from(links), Float64Array.from(cost), ends);
  const ring: number[] = [];
  let girth = 0;
  for (let e = 0; e < edgeCount; e++) {
    const c = edgeCorners[edgeStart[e]!]!;
    if (twin[c]! < 0 || side[cornerFace[c]!] === side[cornerFace[twin[c]!]!]) continue;
    ring.push(e);
    girth += length[e]!;
  }
  const own = Uint32Array.from(side.keys()).filter((f) => side[f] === 1);
  const area = own.reduce((sum, f) => sum + areas[f]!, 0);
  if (ring.length === 0 || (area * 4 * Math.PI) / girth ** 2 < leastBulk) return null;
  const width = girth / Math.PI;
  const widens = test.widths.some((times) =>
    [1, 0].some((which) => areaNear(mesh, ring, length, side, which, areas, times * width) >= test.widening * times * width * girth),
  );
  return widens ? { faces: own, ring, girth, area, tip } : null;
}

/** Area within a distance of a ring, on one side of it. */
function areaNear(mesh: Mesh, ring: number[], length: Float64Array, side: Uint8Array, which: number, areas: Float64Array, reach: number): number {
  const { edgePoints, edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
  const from = new Set(ring.flatMap((e) => [edgePoints[e * 2]!, edgePoints[e * 2 + 1]!]));
  const edgeSide = (e: number) => {
    for (let i = edgeStart[e]!; i < edgeStart[e + 1]!; i++) if (side[cornerFace[edgeCorners[i]!]!] === which) return true;
    return false;
  };
  const { distance } = shortestPaths(mesh, from, (e) => (edgeSide(e) ? length[e]! : Infinity));
  let sum = 0;
  for (let f = 0; f < areas.length; f++) {
    if (side[f] !== which) continue;
    let mean = 0;
    const [a, b] = [mesh.faceStart[f]!, mesh.faceStart[f + 1]!];
    for (let c = a; c < b; c++) mean += Math.min(distance[mesh.corners[c]!]!, 4 * reach);
    if (mean / (b - a) <= reach) sum += areas[f]!;
  }
  return sum;
}
