import TinyQueue from 'tinyqueue';
import { asItLies, placementMatrix, type ImagePlacement } from '../images/placement.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf } from '../uv/islands.ts';
import { lockedIslands } from '../uv/locked.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { sidesOf, similarityOf, type GoOnWay, type PairedPlace } from './continuity.ts';

/** Sweeps over all islands that spread what is left at most, of many seams fewer, and the move in sheet heights below which it is done. */
const mostSweeps = 400;
const leastSweeps = 30;
const sweptEnds = 1e6;
const still = 1e-7;

/** What is off by more than this share of the picture where it does not repeat is a picture that ends, not a ring that does not close. */
const mostSpread = 0.1;

/** Cosine of the turn between both sides of a seam from which on it is no small error, 20°. */
const leastCos = 0.94;

/** A seam between two islands: ends of its edges on both sides, square places. */
interface Seam {
  islands: readonly [number, number];
  length: number;
  /** 5 numbers each: place on the first side, on the second, weight. */
  ends: number[];
}

export interface AllGoOn {
  set: UvSet;
  /** Islands that were placed. */
  placed: number;
}

/**
 * Islands placed so that the picture goes on over all seams as well as it can: each from the neighbour that it has the longest seam with, beginning at locked
 * islands or else the largest of each piece; then, where that is asked for, what is left round rings of islands is spread over all their seams, by least squares, whole repeats of the
 * picture left out of account. Where the picture ends instead, one seam is left as it is. Locked islands and those without a place stay. Null where no two
 * islands have a seam in common.
 *
 * O(edges · log + sweeps · seam edges): 30 to 400 sweeps, each island in turn laid on all its neighbours.
 *
 * @param aspect width of the sheet over its height
 * @throws what `throwIfCancelled` throws, looked at for each island and sweep
 */
export function goOnAll(
  mesh: Mesh,
  set: UvSet,
  { way, spreads, aspect, placement = asItLies }: { way: GoOnWay; spreads: boolean; aspect: number; placement?: ImagePlacement | undefined },
  throwIfCancelled: () => void = () => {},
): AllGoOn | null {
  const islands = islandsOf(mesh, set);
  const seams = seamsOf(mesh, set, aspect);
  if (seams.length === 0) return null;
  const [a, b, , d, e] = placementMatrix(placement);
  const det = a * e - b * d;
  const repeats = [placement.outsideU === 'repeat', placement.outsideV === 'repeat'] as const;
  /** By how many whole repeats of the picture two places are apart, as a way on the sheet. */
  const wholeRepeats = (x: number, y: number): [number, number] => {
    const [u, v] = [x / aspect, y];
    const [i, j] = [a * u + b * v, d * u + e * v].map((way_, k) => (repeats[k] ? Math.round(way_) : 0)) as [number, number];
    return [((e * i - b * j) / det) * aspect, (a * j - d * i) / det];
  };
  const beside: Seam[][] = Array.from({ length: islands.count }, () => []);
  for (const seam of seams) for (const i of seam.islands) beside[i]!.push(seam);
  /** Places of the islands: u′ = a u − b v + c, v′ = b u + a v + d. */
  const moves = Array.from({ length: islands.count }, () => ({ a: 1, b: 0, c: 0, d: 0 }));
  const moved = (i: number, x: number, y: number): [number, number] => {
    const m = moves[i]!;
    return [m.a * x - m.b * y + m.c, m.b * x + m.a * y + m.d];
  };
  /** An island's side of some seams, as it was, beside the other side as it is now. */
  const pairsOf = (island: number, own: readonly Seam[], isWrapped: boolean): PairedPlace[] =>
    own.flatMap((seam) => {
      const [mine, other] = seam.islands[0] === island ? [0, 2] : [2, 0];
      const neighbour = seam.islands[mine === 0 ? 1 : 0];
      const pairs: PairedPlace[] = [];
      let [dx, dy] = [0, 0];
      for (let k = 0; k < seam.ends.length; k += 5) {
        const [u, v, w] = [seam.ends[k + mine]!, seam.ends[k + mine + 1]!, seam.ends[k + 4]!];
        const [x, y] = moved(neighbour, seam.ends[k + other]!, seam.ends[k + other + 1]!);
        const [p, q] = moved(island, u, v);
        dx += (x - p) * w;
        dy += (y - q) * w;
        pairs.push({ u, v, x, y, w });
      }
      const all = pairs.reduce((sum, { w }) => sum + w, 0);
      const [rx, ry] = isWrapped ? wholeRepeats(dx / all, dy / all) : [0, 0];
      return pairs.map((pair) => ({ ...pair, x: pair.x - rx, y: pair.y - ry }));
    });

  const locked = lockedIslands(mesh, set);
  const size = (i: number) => islands.start[i + 1]! - islands.start[i]!;
  const isPlaced = new Uint8Array(islands.count);
  const free: number[] = [];
  /** Seams of what is placed, the longest first. */
  const queue = new TinyQueue<Seam>([], (x, y) => y.length - x.length);
  const place = (island: number) => {
    isPlaced[island] = 1;
    for (const seam of beside[island]!) queue.push(seam);
  };
  /** Places the island at the longest seam that only one side of is placed; −1: there is none. */
  const reach = (): number => {
    for (let seam = queue.pop(); seam; seam = queue.pop()) {
      const [i, j] = seam.islands;
      if (isPlaced[i] && isPlaced[j]) continue;
      const island = isPlaced[i] ? j : i;
      const from = similarityOf(pairsOf(island, [seam], false), way);
      if (from) moves[island] = from;
      place(island);
      return island;
    }
    return -1;
  };
  for (let i = 0; i < islands.count; i++) if (beside[i]!.length > 0 && locked[i]) place(i);
  for (;;) {
    throwIfCancelled();
    const island = reach();
    if (island >= 0) {
      free.push(island);
      continue;
    }
    const rest = beside.map((_, i) => i).filter((i) => beside[i]!.length > 0 && !isPlaced[i]);
    if (rest.length === 0) break;
    // the largest of a piece stays
    place(rest.reduce((most, i) => (size(i) > size(most) ? i : most)));
  }
  /** Whether a seam is off by so little that it can be spread: round a corner of the model a picture turns, and no spreading helps. */
  const isSpread = (seam: Seam): boolean => {
    const pairs = pairsOf(seam.islands[0], [seam], true).map((pair) => {
      const [u, v] = moved(seam.islands[0], pair.u, pair.v);
      return { ...pair, u, v };
    });
    const turn = similarityOf(pairs, 'turn');
    if (!turn || turn.a < leastCos) return false;
    const all = pairs.reduce((sum, { w }) => sum + w, 0);
    const [x, y] = [
      pairs.reduce((sum, { x: to, u, w }) => sum + (to - u) * w, 0) / all / aspect,
      pairs.reduce((sum, { y: to, v, w }) => sum + (to - v) * w, 0) / all,
    ];
    return [a * x + b * y, d * x + e * y].every((off, k) => repeats[k] || Math.abs(off) < mostSpread);
  };
  const spread = spreads ? beside.map((own) => own.filter(isSpread)) : [];
  const ends = seams.reduce((sum, seam) => sum + seam.ends.length / 5, 0);
  const sweeps = spreads ? Math.max(leastSweeps, Math.min(mostSweeps, sweptEnds / ends)) : 0;
  for (let sweep = 0; sweep < sweeps; sweep++) {
    throwIfCancelled();
    let farthest = 0;
    for (const i of free) {
      const before = moves[i]!;
      const scale = Math.hypot(before.a, before.b);
      // sizes stay as they were found: all together could shrink
      const own = pairsOf(i, spread[i]!, true).map((pair) => ({ ...pair, u: pair.u * scale, v: pair.v * scale }));
      const next = similarityOf(own, way === 'size' ? 'turn' : way);
      if (!next) continue;
      const now = { a: next.a * scale, b: next.b * scale, c: next.c, d: next.d };
      const { u, v } = pairsOf(i, [beside[i]![0]!], false)[0]!;
      const [x, y] = moved(i, u, v);
      moves[i] = now;
      const [p, q] = moved(i, u, v);
      farthest = Math.max(farthest, Math.hypot(p - x, q - y));
    }
    if (farthest < still) break;
  }
  const uv = set.uv.slice();
  const done = new Uint8Array(uv.length / 2);
  for (const i of free)
    for (const f of islands.faces.subarray(islands.start[i]!, islands.start[i + 1]!))
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        const p = set.cornerUv[c]!;
        if (done[p]) continue;
        done[p] = 1;
        const [x, y] = moved(i, set.uv[p * 2]! * aspect, set.uv[p * 2 + 1]!);
        uv[p * 2] = x / aspect;
        uv[p * 2 + 1] = y;
      }
  return { set: { ...set, uv }, placed: free.length };
}

/** Seams between two islands that have a place. O(edges) */
function seamsOf(mesh: Mesh, set: UvSet, aspect: number): Seam[] {
  const { edgeCount } = topologyOf(mesh);
  const islands = islandsOf(mesh, set);
  const found = new Map<string, Seam>();
  const place = (c: number): [number, number] => [set.uv[set.cornerUv[c]! * 2]! * aspect, set.uv[set.cornerUv[c]! * 2 + 1]!];
  for (let e = 0; e < edgeCount; e++) {
    if (islands.states[e] !== 1) continue;
    const sides = sidesOf(mesh, e);
    if (!sides || sides.some(({ face }) => set.unplaced[face] === 1)) continue;
    const sorted = [...sides].sort((x, y) => islands.ofFace[x.face]! - islands.ofFace[y.face]!);
    const [i, j] = sorted.map(({ face }) => islands.ofFace[face]!) as [number, number];
    if (i === j) continue;
    const key = `${i} ${j}`;
    const seam = found.get(key) ?? { islands: [i, j] as const, length: 0, ends: [] };
    found.set(key, seam);
    const [p, q] = [mesh.corners[sorted[0]!.a]! * 3, mesh.corners[sorted[0]!.b]! * 3];
    const length = Math.hypot(mesh.points[p]! - mesh.points[q]!, mesh.points[p + 1]! - mesh.points[q + 1]!, mesh.points[p + 2]! - mesh.points[q + 2]!);
    // an edge without length says no more than that
    if (!(length > 0)) continue;
    seam.length += length;
    for (const end of ['a', 'b'] as const) seam.ends.push(...place(sorted[0]![end]), ...place(sorted[1]![end]), length);
  }
  return [...found.values()].filter(({ length }) => length > 0);
}
