import { quietContext, type Context } from '../context.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandFacts, islandsOf, nextBorderCorner } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { coloured, mirroredPatch, patchOf, waysToMatch, type Coloured } from './patch.ts';
import { rigidFit, type RigidFit } from './rigidFit.ts';

/** An island that is like the first one of its group. */
export interface AlikeIsland {
  readonly island: number;
  /** The mesh's corner of the first island for each of `corners`; null where the triangulations differ and only the outlines are the same. */
  readonly corners: Uint32Array;
  readonly onto: Uint32Array | null;
  /** Lays it on the first one by its outline, where `onto` is null. */
  readonly fit: RigidFit;
  /** Its faces run the other way round than the first one's. */
  readonly mirrored: boolean;
}

/** `shape`: congruent on the sheet; `connections`: faces and edges correspond, the shape differs. */
export type AlikeBy = 'shape' | 'connections';

export interface AlikeGroup {
  readonly first: number;
  readonly others: readonly AlikeIsland[];
  /** Faces of the first one. */
  readonly faces: number;
}

export interface AlikeOptions {
  by: AlikeBy;
  /** Px that congruent islands may differ by at any point. */
  tolerance: number;
  /** Mirrored ones count as alike. */
  mirrored: boolean;
  /** Islands to look at, the first of each group first. */
  islands: readonly number[];
  width: number;
  height: number;
}

/**
 * Groups of two or more islands that are like one another. By shape: faces correspond and no point is off by more than the tolerance after the best turn and
 * shift; or, where faces do not correspond, the outlines' corners do. By connections: faces correspond, whatever their shape; among several ways the one that
 * changes the lengths in space least.
 * O(corners · ways that the connections leave); islands are compared with one of each kind only
 */
export function alikeIslands(mesh: Mesh, set: UvSet, options: AlikeOptions, context: Context = quietContext): AlikeGroup[] {
  const facts = islandFacts(mesh, set);
  const { start, faces, states } = islandsOf(mesh, set);
  const { cornerEdge } = topologyOf(mesh);
  const placed = options.islands.filter((i) => !facts[i]!.unplaced);
  const kinds = new Map<string, Kind[]>();
  const outlines: Kind[] = [];
  for (const [n, island] of placed.entries()) {
    context.throwIfCancelled();
    context.progress(n / placed.length, 'Comparing islands');
    const own = coloured(patchOf(mesh, faces.subarray(start[island]!, start[island + 1]!), (c) => states[cornerEdge[c]!] === EdgeState.joined));
    const back = options.mirrored ? coloured(mirroredPatch(own.patch)) : null;
    const one = new Island(mesh, set, island, own, back, options);
    const found = findKind([...(kinds.get(own.key) ?? []), ...(back ? (kinds.get(back.key) ?? []) : [])], one, (kind) => one.over(kind.first));
    if (found) continue;
    // other faces, the same outline
    if (options.by === 'shape' && findKind(outlines, one, (kind) => one.outlineOver(kind.first))) continue;
    const kind: Kind = { first: one, others: [] };
    if (!kinds.has(own.key)) kinds.set(own.key, []);
    kinds.get(own.key)!.push(kind);
    outlines.push(kind);
  }
  return outlines.filter(({ others }) => others.length > 0).map(({ first, others }) => ({ first: first.island, others, faces: facts[first.island]!.faces }));
}

interface Kind {
  first: Island;
  others: AlikeIsland[];
}

function findKind(kinds: readonly Kind[], one: Island, over: (kind: Kind) => AlikeIsland | null): boolean {
  for (const kind of new Set(kinds)) {
    const found = kind.first === one ? null : over(kind);
    if (!found) continue;
    kind.others.push(found);
    return true;
  }
  return false;
}

class Island {
  constructor(
    private readonly mesh: Mesh,
    private readonly set: UvSet,
    readonly island: number,
    private readonly own: Coloured,
    private readonly back: Coloured | null,
    private readonly options: AlikeOptions,
  ) {}

  /** Laid over another one by its faces. */
  over(first: Island): AlikeIsland | null {
    let best: { found: AlikeIsland; price: number } | null = null;
    for (const side of [this.own, this.back]) {
      if (!side) continue;
      const mirrored = side === this.back;
      const onto = first.own.patch.corners;
      for (const map of waysToMatch(first.own, side)) {
        const corners = Uint32Array.from(map, (k) => side.patch.corners[k]!);
        const [from, to] = [this.placesAt(corners), first.placesAt(onto)];
        const fit = this.options.by === 'shape' ? this.fits(from, to, mirrored) : rigidFit(from, to, false);
        if (!fit) continue;
        const price = pricesOf(this.mesh, corners, onto) + (mirrored ? 1e-9 : 0);
        if (!best || price < best.price) best = { found: { island: this.island, corners, onto, fit, mirrored }, price };
      }
      if (best) break;
    }
    return best?.found ?? null;
  }

  /** Laid over another one by the corners of its outline. */
  outlineOver(first: Island): AlikeIsland | null {
    const [{ at: from, ...own }, { at: to, ...its }] = [this.outline(), first.outline()];
    if (from.length < 6 || from.length !== to.length) return null;
    const { tolerance } = this.options;
    if (Math.abs(own.round - its.round) > from.length * tolerance || Math.abs(own.area - its.area) > (own.round + its.round) * tolerance) return null;
    const corners = this.own.patch.corners;
    for (const mirrored of this.options.mirrored ? [false, true] : [false]) {
      const base = mirrored ? reversed(from) : from;
      for (let shift = 0; shift < to.length; shift += 2) {
        const turned = Float64Array.from(base, (_, k) => base[(k + shift) % base.length]!);
        const fit = rigidFit(turned, to, mirrored);
        if (fit.largest <= tolerance) return { island: this.island, corners, onto: null, fit, mirrored };
      }
    }
    return null;
  }

  /** @param flipped its faces run the other way round */
  private fits(from: Float64Array, to: Float64Array, flipped: boolean): RigidFit | null {
    // an island laid mirrored is one whose faces run round as the other's but whose places do not
    const ways = this.options.mirrored ? [flipped, !flipped] : [false];
    for (const mirror of ways) {
      const fit = rigidFit(from, to, mirror);
      if (fit.largest <= this.options.tolerance) return fit;
    }
    return null;
  }

  /** Px, 2 numbers a corner. */
  private placesAt(corners: Uint32Array): Float64Array {
    const { width, height } = this.options;
    const out = new Float64Array(corners.length * 2);
    corners.forEach((c, k) => {
      const p = this.set.cornerUv[c]! * 2;
      out[k * 2] = this.set.uv[p]! * width;
      out[k * 2 + 1] = this.set.uv[p + 1]! * height;
    });
    return out;
  }

  private kept: Outline | null = null;

  /** Corners of the one border that bend; nothing where there are several borders, or too many corners. */
  private outline(): Outline {
    this.kept ??= this.findOutline();
    return this.kept;
  }

  private findOutline(): Outline {
    const { states } = islandsOf(this.mesh, this.set);
    const { cornerEdge } = topologyOf(this.mesh);
    const border = [...this.own.patch.corners].filter((c) => states[cornerEdge[c]!] !== EdgeState.joined);
    const loop: number[] = [];
    if (border.length > 0) {
      let at = border[0]!;
      do {
        loop.push(at);
        at = nextBorderCorner(this.mesh, states, at);
      } while (at !== border[0] && loop.length <= border.length);
    }
    if (loop.length !== border.length || loop.length > mostCorners * 8) return noOutline;
    const at = bends(this.placesAt(Uint32Array.from(loop)), this.options.tolerance);
    if (at.length > mostCorners * 2) return noOutline;
    let [round, twice] = [0, 0];
    for (let k = 0; k < at.length; k += 2) {
      const m = (k + 2) % at.length;
      round += Math.hypot(at[m]! - at[k]!, at[m + 1]! - at[k + 1]!);
      twice += at[k]! * at[m + 1]! - at[m]! * at[k + 1]!;
    }
    return { at, round, area: Math.abs(twice) / 2 };
  }
}

/** Corners of a closed line, its length and its area, px. */
interface Outline {
  at: Float64Array;
  round: number;
  area: number;
}
const noOutline: Outline = { at: new Float64Array(0), round: 0, area: 0 };
/** Outlines with more corners are not compared: it takes their square. */
const mostCorners = 500;

/** Places of a closed line that are further from the line between their neighbours than the tolerance. */
function bends(at: Float64Array, tolerance: number): Float64Array {
  const n = at.length / 2;
  const out: number[] = [];
  for (let k = 0; k < n; k++) {
    const [a, b, c] = [((k + n - 1) % n) * 2, k * 2, ((k + 1) % n) * 2];
    const [x, y] = [at[c]! - at[a]!, at[c + 1]! - at[a + 1]!];
    const long = Math.hypot(x, y);
    const off = long > 0 ? Math.abs(x * (at[b + 1]! - at[a + 1]!) - y * (at[b]! - at[a]!)) / long : Infinity;
    if (off > tolerance / 2) out.push(at[b]!, at[b + 1]!);
  }
  return Float64Array.from(out);
}

function reversed(at: Float64Array): Float64Array {
  const out = new Float64Array(at.length);
  for (let k = 0; k < at.length; k += 2) {
    out[k] = at[at.length - 2 - k]!;
    out[k + 1] = at[at.length - 1 - k]!;
  }
  return out;
}

/** How much a way to lay faces over faces changes edges and, much less, where they are in space round their middle: a rectangle has four ways by its edges. */
export function pricesOf(mesh: Mesh, from: ArrayLike<number>, to: ArrayLike<number>, other: Mesh = mesh): number {
  const middle = (m: Mesh, corners: ArrayLike<number>) => {
    const sum = [0, 0, 0];
    for (let k = 0; k < corners.length; k++) for (let d = 0; d < 3; d++) sum[d]! += m.points[m.corners[corners[k]!]! * 3 + d]! / corners.length;
    return sum;
  };
  const [a, b] = [middle(mesh, from), middle(other, to)];
  const [facesA, facesB] = [topologyOf(mesh).cornerFace, topologyOf(other).cornerFace];
  const long = (m: Mesh, c: number, face: number) => {
    const end = c + 1 < m.faceStart[face + 1]! ? c + 1 : m.faceStart[face]!;
    const [p, q] = [m.corners[c]! * 3, m.corners[end]! * 3];
    return Math.hypot(m.points[q]! - m.points[p]!, m.points[q + 1]! - m.points[p + 1]!, m.points[q + 2]! - m.points[p + 2]!);
  };
  const isSameWay = (() => {
    // the other way round, the edge that leaves a corner is the one that reached it
    for (let k = 0; k + 1 < from.length; k++) {
      if (facesA[from[k]!] !== facesA[from[k + 1]!]) continue;
      const step = (m: Mesh, c: number, face: number) => (c + 1 < m.faceStart[face + 1]! ? c + 1 : m.faceStart[face]!);
      return (step(mesh, from[k]!, facesA[from[k]!]!) === from[k + 1]) === (step(other, to[k]!, facesB[to[k]!]!) === to[k + 1]);
    }
    return true;
  })();
  const before = (m: Mesh, c: number, face: number) => (c > m.faceStart[face]! ? c - 1 : m.faceStart[face + 1]! - 1);
  let [edges, places, size] = [0, 0, 0];
  for (let k = 0; k < from.length; k++) {
    const [c, d] = [from[k]!, to[k]!];
    const [f, g] = [facesA[c]!, facesB[d]!];
    const own = long(mesh, c, f);
    const its = isSameWay ? long(other, d, g) : long(other, before(other, d, g), g);
    edges += (own - its) ** 2;
    size += own * own + its * its;
    for (let x = 0; x < 3; x++) places += (mesh.points[mesh.corners[c]! * 3 + x]! - a[x]! - other.points[other.corners[d]! * 3 + x]! + b[x]!) ** 2;
  }
  return size > 0 ? (edges + 1e-6 * places) / size : 0;
}
