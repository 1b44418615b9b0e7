import type { Context } from '../context.ts';
import TinyQueue from 'tinyqueue';
import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { axisNames, withMirrored, type Symmetry } from '../select/symmetry.ts';
import { cut, separateFans } from '../seams/cut.ts';
import { openIslands } from '../seams/cutGraph.ts';
import { pathTo, shortestPaths } from '../seams/shortestPaths.ts';
import { openAlike } from './openAlike.ts';
import { runsOf } from '../seams/seamRuns.ts';
import { uncut } from '../seams/uncut.ts';
import { islandsOf, type Islands } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { flatTriangles } from '../unwrap/flatTriangles.ts';
import { pieceOf, type Piece } from '../unwrap/piece.ts';
import type { IslandTask } from '../unwrap/solveIsland.ts';
import { solveIsland } from '../unwrap/solveIsland.ts';
import { borderCrossings } from '../unwrap/borderCrossings.ts';
import type { Prices } from './coarseSeams.ts';

/** An island as it lies, in units of the model. */
interface Laid {
  faces: Uint32Array;
  /** Stretch beyond none of each face, times its area. */
  excess: Float64Array;
  area: number;
  /** The sum of the excess, and what it comes to with the border held apart. */
  free: number;
  sum: number;
  /** Where its border crosses itself when laid freely: the two faces furthest from one another, or null; undefined until looked for. */
  crossing?: [number, number] | null;
  /** Held apart; or that was tried, and it still lies over itself. */
  held?: 'apart' | 'over';
}

/**
 * Where so many places of a border cross, and so large a share of it, the island is parted without trying to hold it apart: on real meshes with up to a
 * tenth of the border crossing that cost up to 2 of energy, with a sixth 40 and more, and it took longest where nothing came of it.
 */
const tangle = { least: 60, share: 0.12 };

/** A smaller share of the faces than this is no island that anyone would want. */
const crumb = 0.01;

/** Energy that stands for what was not tried. */
const hopeless = 96;

/** Seams in the making: what lies how, and what may be done about it. One round of `stretchSeams` calls some of these. */
export class StretchSearch {
  set: UvSet;
  private laid = new Map<number, Laid>();
  /** Where each corner lies, 2 numbers, NaN before. */
  private flat: Float64Array;
  private readonly startStates: Uint8Array;
  /** Far from the limit a rough layout is enough. */
  private coarse = true;
  private stale = false;
  /** Edges of runs that could not be taken back: not asked again. */
  private readonly refused = new Set<number>();
  /** Place of each mesh point in an order of elimination, −1 before. */
  private readonly ranks: Int32Array;

  constructor(
    private readonly mesh: Mesh,
    given: UvSet,
    private readonly prices: Prices,
    private readonly mirror: Symmetry | null,
  ) {
    this.set = given;
    this.startStates = islandsOf(mesh, given).states;
    this.flat = new Float64Array(mesh.corners.length * 2).fill(NaN);
    this.ranks = new Int32Array(mesh.points.length / 3).fill(-1);
  }

  /** Has anything been laid yet? */
  get begun(): boolean {
    return this.laid.size > 0;
  }

  /** Where each corner lies, 2 numbers, in units of the model and each island by itself; NaN where nothing was laid. */
  get places(): Float64Array {
    return this.flat;
  }

  get triangles(): number {
    return trianglesOf(this.mesh).count;
  }

  /** Of the seams beyond those that were there. */
  seamPrice(): number {
    const { states } = this.islands;
    return this.prices.price.reduce((sum, price, e) => (states[e] === EdgeState.seam && this.startStates[e] !== EdgeState.seam ? sum + price : sum), 0);
  }

  get islandCount(): number {
    return this.islands.count;
  }

  private get islands(): Islands {
    return islandsOf(this.mesh, this.set);
  }

  /** Cuts what cannot lie flat; with a plane of symmetry by one half of such a cut and its mirror image. */
  private open(): void {
    const { mesh, mirror, prices } = this;
    if (mirror) this.cutEdges(openAlike(mesh, this.set, prices.price, mirror));
    for (let round = 0; mirror && round < 3; round++) {
      const { cuts } = openIslands(mesh, this.set, 'all', prices.price);
      if (cuts.length === 0) return;
      const before = this.set;
      const count = this.islandCount;
      // one that closes a ring with its image is laid into the plane, where that can be
      for (const edges of [this.longerSide(mirror, cuts), this.inPlane(mirror, cuts)]) {
        this.cutEdges(edges);
        if (this.islandCount <= count) break;
        this.set = before;
      }
      if (this.set === before) break;
    }
    // without a plane, or what seams in pairs have closed off again
    this.set = openIslands(mesh, this.set, 'all', prices.price).set;
  }

  /** The cheapest way within the plane between the two ends of some edges that are on it; none if there is not. */
  private inPlane({ points, edges: across }: Symmetry, edges: number[]): number[] {
    const { edgePoints } = topologyOf(this.mesh);
    const ends = new Map<number, number>();
    for (const e of edges) for (const p of [edgePoints[e * 2]!, edgePoints[e * 2 + 1]!]) ends.set(p, (ends.get(p) ?? 0) + 1);
    const [from, to] = [...ends].filter(([p, count]) => count === 1 && points[p] === p).map(([p]) => p);
    if (from === undefined || to === undefined) return [];
    const tree = shortestPaths(this.mesh, [from], (e) => (across[e] === e ? this.prices.price[e]! : Infinity), to);
    return tree.distance[to]! < Infinity ? pathTo(this.mesh, tree, to) : [];
  }

  /** Of some edges those on one side of the plane, where they are longer, and those in it. */
  private longerSide({ axis, at }: Symmetry, edges: number[]): number[] {
    const { edgePoints } = topologyOf(this.mesh);
    const d = axisNames.indexOf(axis);
    const off = (e: number) => this.mesh.points[edgePoints[e * 2]! * 3 + d]! + this.mesh.points[edgePoints[e * 2 + 1]! * 3 + d]! - 2 * at;
    let balance = 0;
    for (const e of edges) balance += Math.sign(off(e)) * this.prices.length[e]!;
    return edges.filter((e) => (balance >= 0 ? off(e) > -1e-9 * this.prices.length[e]! : off(e) < 1e-9 * this.prices.length[e]!));
  }

  private cutEdges(edges: number[]): void {
    const allowed = withMirrored(this.mirror, edges).filter((e) => this.prices.price[e]! < Infinity);
    if (allowed.length > 0) this.set = cut(this.mesh, this.set, allowed).set;
  }

  /**
   * Lays what is new or changed: an island is known by its lowest face and its number of faces and seams.
   * @param over everything, held apart at once without having seen how it lies freely
   */
  async layAll(context: Context, over = false): Promise<void> {
    const { mesh } = this;
    if (over) this.stale = true;
    this.open();
    this.set = separateFans(
      mesh,
      this.set,
      Array.from({ length: mesh.faceStart.length - 1 }, (_, f) => f),
    );
    const { islands } = this;
    const next = new Map<number, Laid>();
    const changed: number[] = [];
    for (let i = 0; i < islands.count; i++) {
      const key = this.keyOf(this.facesOf(i));
      const known = this.stale ? undefined : this.laid.get(key);
      if (known) next.set(key, known);
      else changed.push(i);
    }
    for (const [i, { piece, uv }] of await this.lay(changed, over, context)) {
      const faces = this.facesOf(i);
      const laid = excessOf(mesh, faces, piece, uv);
      next.set(this.keyOf(faces), over && !this.crossingOf(i) ? { ...laid, held: 'apart' } : laid);
    }
    this.laid = next;
    this.stale = false;
  }

  /** Lays everything once more, nothing held apart. */
  async layFreely(context: Context): Promise<void> {
    this.stale = true;
    await this.layAll(context);
  }

  /** Could all be held apart once, at little cost? Then what lies over itself in many places is tried, too. */
  private isHeld = false;

  /** Did anything, on the way here, lie over itself? */
  crossed = false;

  private facesOf(island: number): Uint32Array {
    const { faces, start } = this.islands;
    return faces.subarray(start[island]!, start[island + 1]!);
  }

  private async lay(which: number[], apart: boolean, context: Context): Promise<Map<number, { piece: Piece; uv: Float64Array }>> {
    const { mesh } = this;
    const cornerOf = new Int32Array(this.set.uv.length / 2).fill(-1);
    for (let c = 0; c < mesh.corners.length; c++) cornerOf[this.set.cornerUv[c]!] = c;
    const pieces = which.map((i) => pieceOf(mesh, this.set, i));
    const tasks = pieces.map((piece): IslandTask => {
      const start = new Float64Array(piece.vertices * 2);
      for (let v = 0; v < piece.vertices; v++) {
        const c = cornerOf[piece.uvPoint[v]!]! * 2;
        start[v * 2] = this.flat[c]!;
        start[v * 2 + 1] = this.flat[c + 1]!;
      }
      return {
        positions: piece.positions,
        triangles: piece.triangles,
        method: 'isometric',
        // enough to see where the stretch is, the nearer to the limit the closer: the energy comes out a little too high
        tolerance: this.coarse && !apart ? 4e-2 : 3e-3,
        ...(piece.point.every((p) => this.ranks[p]! >= 0) ? { rank: Int32Array.from(piece.point, (p) => this.ranks[p]!) } : {}),
        apart,
        ...(apart ? { apartSteps: 60, over: true } : {}),
        ...(Number.isNaN(start[0]!) ? {} : { start }),
      };
    });
    const results = context.pool?.solve
      ? await context.pool.solve(tasks, { ...context, progress: () => {} })
      : tasks.map((task) => solveIsland(task, () => context.throwIfCancelled()));
    const out = new Map<number, { piece: Piece; uv: Float64Array }>();
    which.forEach((island, k) => {
      const piece = pieces[k]!;
      const { uv, rank } = results[k]!;
      // cuts change little of a good order of elimination: it is found once
      if (this.ranks[piece.point[0]!]! < 0) piece.point.forEach((p, v) => (this.ranks[p] = rank[v]!));
      const local = new Map<number, number>();
      piece.uvPoint.forEach((p, v) => local.set(p, v));
      for (const f of this.facesOf(island)) {
        for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
          const v = local.get(this.set.cornerUv[c]!)!;
          this.flat[c * 2] = uv[v * 2]!;
          this.flat[c * 2 + 1] = uv[v * 2 + 1]!;
        }
      }
      out.set(island, { piece, uv });
    });
    return out;
  }

  /** Lays islands that lie over themselves once more, with their borders held apart. */
  private async holdApart(context: Context): Promise<void> {
    const over: number[] = [];
    for (let i = 0; i < this.islands.count; i++) {
      const laid = this.laid.get(this.keyOf(this.facesOf(i)))!;
      if (laid.held) continue;
      let isTangled = false;
      if (laid.crossing === undefined) ({ crossing: laid.crossing, isTangled } = this.crossingsOf(i));
      if (isTangled && !this.isHeld) {
        this.crossed = true;
        laid.held = 'over';
        laid.sum += hopeless * laid.area;
      } else if (laid.crossing) over.push(i);
    }
    if (over.length > 0) this.crossed = true;
    for (const [i, { piece, uv }] of await this.lay(over, true, context)) {
      const faces = this.facesOf(i);
      const key = this.keyOf(faces);
      const before = this.laid.get(key)!;
      this.laid.set(key, { ...before, sum: excessOf(this.mesh, faces, piece, uv).sum, held: this.crossingOf(i) ? 'over' : 'apart' });
    }
  }

  /**
   * Sees to it that nothing lies over itself: borders are held apart where the limit allows what that costs, else the islands that it costs most are parted.
   * @param patient where only a little is missing nothing is parted: another cut may do
   * @param mayPart else it says that something would have to be parted
   * @returns kept: nothing lies over itself, within the limit; short: a little is missing; parted: to be laid again; stuck
   */
  async settle(limit: number, patient: boolean, mayPart: boolean, context: Context): Promise<'kept' | 'short' | 'parting' | 'parted' | 'stuck'> {
    await this.holdApart(context);
    if (this.kept(limit)) return 'kept';
    if (patient && this.energy() - limit < (mayPart ? 0.5 : 1) * (limit - 4)) {
      this.isHeld = true;
      return 'short';
    }
    if (!mayPart) return 'parting';
    return this.part() ? 'parted' : 'stuck';
  }

  /** Parts the islands that it costs most to hold apart, where they lie over themselves. Says something only after `settle`. @returns was there one? */
  part(): boolean {
    const cost = ({ sum, free, held }: Laid) => (held === 'over' ? Infinity : sum - free);
    const heldOnes = [...this.laid.values()].filter(({ held }) => held).sort((a, b) => cost(b) - cost(a));
    const before = this.set;
    const least = heldOnes[0] ? Math.min(Number.MAX_VALUE, 0.5 * cost(heldOnes[0])) : 0;
    const partedAt = (leastShare: number) => {
      this.set = before;
      this.cutEdges(
        heldOnes.filter((laid) => cost(laid) >= least).flatMap(({ crossing }) => (crossing ? this.across([crossing[0]], [crossing[1]], leastShare) : [])),
      );
      return this.set !== before && this.joinCrumbs(before);
    };
    if (partedAt(0)) return true;
    const crumbs = this.set;
    // crumbs were all that was parted: rather where it parts more
    if (!partedAt(0.1)) this.set = crumbs;
    return this.set !== before;
  }

  /**
   * Islands of a few faces that new cuts have left beside the pieces they were to part go to the neighbour with the longest common border.
   * @returns whether more than these was parted; else they are left
   */
  private joinCrumbs(before: UvSet): boolean {
    const { mesh } = this;
    const { states: was, count: least } = islandsOf(mesh, before);
    const cutSet = this.set;
    for (let found = true; found;) {
      found = false;
      const { count } = this.islands;
      const borders = this.bordersOfSmall((e) => was[e] === EdgeState.joined);
      for (const { edges } of borders) {
        const joined = uncut(mesh, this.set, withMirrored(this.mirror, edges)).set;
        if (islandsOf(mesh, joined).count >= count) continue;
        this.set = joined;
        found = true;
        break;
      }
    }
    if (this.islandCount > least) return true;
    this.set = cutSet;
    return false;
  }

  /** Is the limit kept, and nothing over itself? Says so only after `settle`. */
  kept(limit: number): boolean {
    return this.energy() <= limit && [...this.laid.values()].every(({ held, crossing }) => held === 'apart' || crossing === null);
  }

  private keyOf(faces: Uint32Array): number {
    const { cornerEdge } = topologyOf(this.mesh);
    const { states } = this.islands;
    let seams = 0;
    for (const f of faces)
      for (let c = this.mesh.faceStart[f]!; c < this.mesh.faceStart[f + 1]!; c++)
        if (states[cornerEdge[c]!] !== EdgeState.joined) seams = (seams * 31 + c) % 1_000_003;
    return (faces[0]! * 1_000_003 + seams) * 4096 + (faces.length % 4096);
  }

  /** From here on everything is laid finely: what has not changed once more, too. */
  layFine(): void {
    if (this.coarse) this.stale = true;
    this.coarse = false;
  }

  /** Of all islands as they lie, or as they would freely. */
  energy(which: 'sum' | 'free' = 'sum'): number {
    let sum = 0;
    let area = 0;
    for (const island of this.laid.values()) {
      sum += island[which];
      area += island.area;
    }
    return area > 0 ? 4 + sum / area : 4;
  }

  /** Cuts where it promises most for its price: up to `count` ways from places where stretch gathers to the border. */
  cutWorst(count: number): boolean {
    const { mesh, prices } = this;
    const { edgePoints } = topologyOf(mesh);
    const { states } = this.islands;
    const border = new Set<number>();
    for (let e = 0; e < states.length; e++) {
      if (states[e] === EdgeState.joined) continue;
      border.add(edgePoints[e * 2]!);
      border.add(edgePoints[e * 2 + 1]!);
    }
    const tree = shortestPaths(mesh, border, (e) => (states[e] === EdgeState.joined ? prices.price[e]! : Infinity));
    const away = shortestPaths(mesh, border, (e) => (states[e] === EdgeState.joined ? prices.length[e]! : Infinity)).distance;
    const list = [...this.laid.values()];
    const at = gathered(mesh, states, list);
    const root = Math.sqrt(list.reduce((sum, { area }) => sum + area, 0));
    // where much stretch lies far from the border, one place for each neighbourhood
    const places: number[] = [];
    const order = [...at.keys()]
      .filter((p) => at[p]! > 0 && away[p]! > 0 && away[p]! < Infinity && tree.distance[p]! < Infinity)
      .sort((p, q) => at[q]! * away[q]! - at[p]! * away[p]!);
    for (const p of order) {
      if (places.length >= 60) break;
      if (!places.some((q) => distance(mesh, p, q) < 0.05 * root)) places.push(p);
    }
    // a cut from there to the border frees what lies as near to it as the border is
    const candidates = places
      .map((p) => ({ p, worth: excessWithin(mesh, list, p, away[p]!) / (0.06 * root + tree.distance[p]!) }))
      .sort((x, y) => y.worth - x.worth);
    const chosen: number[] = [];
    const before = this.set;
    const islands = this.islandCount;
    for (const { p, worth } of candidates) {
      if (chosen.length >= count || worth < 0.3 * candidates[0]!.worth) break;
      if (chosen.some((q) => distance(mesh, p, q) < Math.max(0.1 * root, Math.min(away[p]!, away[q]!)))) continue;
      if (this.mirror) {
        // a way that closes a ring with its image parts more than it frees
        this.set = before;
        this.cutEdges([...chosen, p].flatMap((q) => pathTo(mesh, tree, q)));
        const parts = this.islandCount;
        this.set = before;
        if (parts > islands) continue;
      }
      chosen.push(p);
    }
    // where there are only such ways
    if (chosen.length === 0 && candidates[0]) chosen.push(candidates[0].p);
    if (chosen.length === 0) return false;
    this.cutEdges(chosen.flatMap((p) => pathTo(mesh, tree, p)));
    return true;
  }

  private crossingOf(island: number): [number, number] | null {
    return this.crossingsOf(island).crossing;
  }

  /** Two faces where an island lies over itself, of all such places those furthest from one another; null if it does not; and whether it does so all over. */
  private crossingsOf(island: number): { crossing: [number, number] | null; isTangled: boolean } {
    const { mesh, islands } = this;
    const { cornerEdge } = topologyOf(mesh);
    const segments: number[] = [];
    const at: number[] = [];
    for (const f of this.facesOf(island)) {
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        if (islands.states[cornerEdge[c]!] === EdgeState.joined) continue;
        const n = c + 1 === mesh.faceStart[f + 1]! ? mesh.faceStart[f]! : c + 1;
        segments.push(this.flat[c * 2]!, this.flat[c * 2 + 1]!, this.flat[n * 2]!, this.flat[n * 2 + 1]!);
        at.push(f);
      }
    }
    const crossing = borderCrossings(Float64Array.from(segments));
    const first = (f: number) => mesh.corners[mesh.faceStart[f]!]!;
    let best: [number, number] | null = null;
    let most = -1;
    for (let k = 0; k < crossing.length; k += 2) {
      const pair: [number, number] = [at[crossing[k]!]!, at[crossing[k + 1]!]!];
      const far = distance(mesh, first(pair[0]), first(pair[1]));
      if (pair[0] === pair[1] || far <= most) continue;
      most = far;
      best = pair;
    }
    const count = crossing.length / 2;
    return { crossing: best, isTangled: count > tangle.least && count > tangle.share * (segments.length / 4) };
  }

  /** Distances over the model from faces, over joined edges from middle to middle. */
  private away(from: number[]): Map<number, number> {
    const { mesh } = this;
    const { cornerEdge, cornerFace, twin } = topologyOf(mesh);
    const { states } = this.islands;
    const out = new Map<number, number>(from.map((f) => [f, 0]));
    const done = new Set<number>();
    const queue = new TinyQueue<{ d: number; f: number }>(
      from.map((f) => ({ d: 0, f })),
      (x, y) => x.d - y.d,
    );
    for (let item = queue.pop(); item; item = queue.pop()) {
      const { d, f } = item;
      if (done.has(f)) continue;
      done.add(f);
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        if (states[cornerEdge[c]!] !== EdgeState.joined) continue;
        const g = cornerFace[twin[c]!]!;
        const far = d + distance(mesh, mesh.corners[mesh.faceStart[f]!]!, mesh.corners[mesh.faceStart[g]!]!) + 1e-12;
        if (done.has(g) || far >= (out.get(g) ?? Infinity)) continue;
        out.set(g, far);
        queue.push({ d: far, f: g });
      }
    }
    return out;
  }

  /** The edges of the narrowest, cheapest place between two groups of faces of an island. @param leastShare of its faces on either side */
  private across(from: number[], to: number[], leastShare: number): number[] {
    const { mesh, prices } = this;
    const { cornerEdge, cornerFace, twin, edgePoints } = topologyOf(mesh);
    const { states } = this.islands;
    const of = this.away(from);
    const near = Math.min(...to.map((f) => of.get(f) ?? Infinity));
    if (!(near < Infinity)) return [];
    let best: { edges: number[]; worth: number } | null = null;
    for (let k = 2; k < 20; k++) {
      const limit = (near * k) / 20;
      // what hangs together with the second group beyond this distance
      const beyond = new Set(to);
      const list = [...to];
      const edges: number[] = [];
      let price = 0;
      for (let n = 0; n < list.length; n++) {
        for (let c = mesh.faceStart[list[n]!]!; c < mesh.faceStart[list[n]! + 1]!; c++) {
          const e = cornerEdge[c]!;
          if (states[e] !== EdgeState.joined) continue;
          const g = cornerFace[twin[c]!]!;
          if (beyond.has(g)) continue;
          if ((of.get(g) ?? Infinity) >= limit) {
            beyond.add(g);
            list.push(g);
          } else {
            edges.push(e);
            price += prices.price[e]!;
          }
        }
      }
      // a narrow place, but not one that parts next to nothing
      const share = Math.min(list.length, of.size - list.length) / of.size;
      const worth = (price / Math.max(1e-6, share)) * (share < crumb ? 100 : 1);
      if (price < Infinity && share >= leastShare && (!best || worth < best.worth)) best = { edges, worth };
    }
    if (!best) return [];
    // the same ends, joined along the cheapest way
    const ends = new Map<number, number>();
    for (const e of best.edges) for (const p of [edgePoints[e * 2]!, edgePoints[e * 2 + 1]!]) ends.set(p, (ends.get(p) ?? 0) + 1);
    const loose = [...ends].filter(([, count]) => count % 2 === 1).map(([p]) => p);
    if (loose.length !== 2) return best.edges;
    const tree = shortestPaths(mesh, [loose[0]!], (e) => (states[e] === EdgeState.joined ? prices.price[e]! : Infinity), loose[1]!);
    const path = pathTo(mesh, tree, loose[1]!);
    if (path.length === 0) return best.edges;
    // a cheaper way may take off a corner and leave the two together
    const { ofFace } = islandsOf(mesh, cut(mesh, this.set, path).set);
    return ofFace[from[0]!] === ofFace[to[0]!] ? best.edges : path;
  }

  /** Joins islands of a few faces to the neighbour with the longest common border: all at once where the limit allows that, else by halves, and halves of these. */
  async joinSmall(limit: number, late: () => boolean, context: Context): Promise<void> {
    let left = Math.min(12, this.mostTries);
    const join = async (borders: number[][]): Promise<void> => {
      if (borders.length === 0 || left <= 0 || late()) return;
      left--;
      if ((await this.triedWithout(withMirrored(this.mirror, borders.flat()), limit, context)) || borders.length === 1) return;
      const half = Math.ceil(borders.length / 2);
      await join(borders.slice(0, half));
      await join(borders.slice(half));
    };
    await join(this.smallBorders());
  }

  /** How often it is tried whether a seam is needed: on large parts a try takes long. */
  private get mostTries(): number {
    return Math.max(2, Math.min(24, Math.round(40_000 / (this.mesh.faceStart.length - 1))));
  }

  /** Borders of islands of a few faces with each of their neighbours, the longest first. O(edges) @param isMeant which seams count */
  private bordersOfSmall(isMeant: (edge: number) => boolean): { own: number; isToLarge: boolean; length: number; edges: number[] }[] {
    const { edgeStart, edgeCorners, cornerFace } = topologyOf(this.mesh);
    const { count, start, ofFace, states } = this.islands;
    const isSmall = (i: number) => start[i + 1]! - start[i]! < Math.max(2, crumb * ofFace.length);
    const borders = new Map<number, { own: number; isToLarge: boolean; length: number; edges: number[] }>();
    for (let e = 0; e < states.length; e++) {
      if (states[e] !== EdgeState.seam || !isMeant(e)) continue;
      const [i, j] = [0, 1].map((k) => ofFace[cornerFace[edgeCorners[edgeStart[e]! + k]!]!]!) as [number, number];
      for (const [own, other] of [
        [i, j],
        [j, i],
      ] as const) {
        if (own === other || !isSmall(own)) continue;
        const border = borders.get(own * count + other) ?? { own, isToLarge: !isSmall(other), length: 0, edges: [] };
        borders.set(own * count + other, border);
        border.length += this.prices.length[e]!;
        border.edges.push(e);
      }
    }
    return [...borders.values()].sort((a, b) => b.length - a.length);
  }

  /** Of each island of a few faces the own seams that part it from one neighbour: from a larger one, where there is one. */
  private smallBorders(): number[][] {
    const borders = this.bordersOfSmall((e) => this.startStates[e] === EdgeState.joined);
    const done = new Set<number>();
    return [...borders.filter(({ isToLarge }) => isToLarge), ...borders.filter(({ isToLarge }) => !isToLarge)].flatMap(({ own, edges }) =>
      done.has(own) ? [] : (done.add(own), [edges]),
    );
  }

  /** Makes seams whole again where the limit is kept without them. @returns was it? */
  private async triedWithout(edges: number[], limit: number, context: Context): Promise<boolean> {
    context.throwIfCancelled();
    const keep = { set: this.set, laid: this.laid, flat: this.flat.slice() };
    // one seam fewer seldom makes it much cheaper to hold the rest apart
    const room = limit - 0.7 * (this.energy() - this.energy('free'));
    this.set = uncut(this.mesh, this.set, edges).set;
    await this.layAll(context);
    if (this.energy('free') <= room) await this.holdApart(context);
    if (this.kept(limit)) return true;
    this.set = keep.set;
    this.laid = keep.laid;
    this.flat = keep.flat;
    return false;
  }

  /** Makes runs of seams whole again that the limit does not need, the most expensive first. */
  async takeBack(limit: number, late: () => boolean, context: Context): Promise<void> {
    const { prices } = this;
    let tries = 0;
    while (tries < this.mostTries && !late()) {
      const branches = this.branches()
        .filter((branch) => !branch.some((e) => this.refused.has(e)))
        .map((branch) => ({ branch, price: branch.reduce((sum, e) => sum + prices.price[e]!, 0) }))
        .sort((a, b) => b.price - a.price);
      const next = branches[0];
      // so little room is not worth a solve
      if (!next || this.energy() > limit - 0.01 * (limit - 4)) return;
      tries++;
      const both = withMirrored(this.mirror, next.branch);
      if (await this.triedWithout(both, limit, context)) continue;
      for (const e of both) this.refused.add(e);
    }
  }

  /** Runs of our own seams between ends and junctions: loose at one end, or between two islands. */
  private branches(): number[][] {
    const { mesh, startStates, islands } = this;
    const { edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
    const parts = (e: number) => islands.ofFace[cornerFace[edgeCorners[edgeStart[e]!]!]!] !== islands.ofFace[cornerFace[edgeCorners[edgeStart[e]! + 1]!]!];
    return runsOf(mesh, this.set, (e) => startStates[e] === EdgeState.joined)
      .filter(({ degrees }) => degrees.some((degree) => degree !== 2))
      .filter(({ edges, degrees }) => degrees.includes(1) || edges.every(parts))
      .map(({ edges }) => edges);
  }
}

const distance = ({ points }: Mesh, a: number, b: number) =>
  Math.hypot(points[a * 3]! - points[b * 3]!, points[a * 3 + 1]! - points[b * 3 + 1]!, points[a * 3 + 2]! - points[b * 3 + 2]!);

function excessOf(mesh: Mesh, faces: Uint32Array, piece: Piece, uv: Float64Array): Laid {
  const flat = flatTriangles(piece.positions, piece.triangles);
  const all = trianglesOf(mesh);
  const excess = new Float64Array(faces.length);
  let area = 0;
  let sum = 0;
  let t = 0;
  for (let k = 0; k < faces.length; k++) {
    const f = faces[k]!;
    for (let n = all.faceStart[f]!; n < all.faceStart[f + 1]!; n++, t++) {
      const i = piece.triangles[t * 3]! * 2;
      const j = piece.triangles[t * 3 + 1]! * 2;
      const m = piece.triangles[t * 3 + 2]! * 2;
      const [x1, x2, y2] = [flat.shape[t * 3]!, flat.shape[t * 3 + 1]!, flat.shape[t * 3 + 2]!];
      const a = (uv[j]! - uv[i]!) / x1;
      const c = (uv[j + 1]! - uv[i + 1]!) / x1;
      const b = (uv[m]! - uv[i]! - a * x2) / y2;
      const d = (uv[m + 1]! - uv[i + 1]! - c * x2) / y2;
      const det = a * d - b * c;
      const e = det > 0 ? (a * a + b * b + c * c + d * d) * (1 + 1 / (det * det)) - 4 : 96;
      excess[k]! += flat.area[t]! * Math.min(e, 96);
      area += flat.area[t]!;
      sum += flat.area[t]! * e;
    }
  }
  return { faces, excess, area, free: sum, sum };
}

/** Stretch of the faces whose first corner lies within a distance of a point. */
function excessWithin({ points, corners, faceStart }: Mesh, islands: Laid[], p: number, reach: number): number {
  const [x, y, z] = [points[p * 3]!, points[p * 3 + 1]!, points[p * 3 + 2]!];
  let sum = 0;
  for (const { faces, excess } of islands) {
    for (let k = 0; k < faces.length; k++) {
      const q = corners[faceStart[faces[k]!]!]! * 3;
      const d = (points[q]! - x) ** 2 + (points[q + 1]! - y) ** 2 + (points[q + 2]! - z) ** 2;
      if (d < reach * reach) sum += excess[k]!;
    }
  }
  return sum;
}

/** The stretch round each point, spread some steps over joined edges so that a few bad triangles do not outweigh a bad place. */
function gathered(mesh: Mesh, states: Uint8Array, islands: Laid[]): Float64Array {
  const { edgePoints } = topologyOf(mesh);
  const points = mesh.points.length / 3;
  let at = new Float64Array(points);
  for (const { faces, excess } of islands) {
    for (let k = 0; k < faces.length; k++) {
      const f = faces[k]!;
      const from = mesh.faceStart[f]!;
      const to = mesh.faceStart[f + 1]!;
      for (let c = from; c < to; c++) at[mesh.corners[c]!]! += excess[k]! / (to - from);
    }
  }
  // as many steps as a twentieth of the way across takes
  const steps = Math.max(2, Math.round(Math.sqrt(points) / 12));
  const count = new Float64Array(points);
  for (let e = 0; e < states.length; e++) if (states[e] === EdgeState.joined) for (let k = 0; k < 2; k++) count[edgePoints[e * 2 + k]!]!++;
  for (let step = 0; step < steps; step++) {
    const next = new Float64Array(points);
    for (let p = 0; p < points; p++) next[p] = at[p]! * 0.5;
    for (let e = 0; e < states.length; e++) {
      if (states[e] !== EdgeState.joined) continue;
      const p = edgePoints[e * 2]!;
      const q = edgePoints[e * 2 + 1]!;
      // each gives half of what it has to its neighbours
      next[q]! += (0.5 * at[p]!) / count[p]!;
      next[p]! += (0.5 * at[q]!) / count[q]!;
    }
    at = next;
  }
  return at;
}
