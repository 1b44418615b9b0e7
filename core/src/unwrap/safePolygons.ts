import { topologyOf } from '../mesh/topology.ts';
import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { concaveFaces, convexFaces } from '../uv/concave.ts';
import { islandsOf, type Islands } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { borderCrossings } from './borderCrossings.ts';

/** Rounds over the vertices of concave faces. */
const mostRounds = 30;
/** A corner keeps at least this share of the area that it has in space. */
const least = 0.25;
/** What a corner that is right keeps at least, if it has as much, while others are put right. */
const keptRight = 0.05;
/** Rounds in which the surroundings take up what was moved. */
const settling = 12;

/** A triangle at a corner: three UV points, and its shape in space. */
interface Corner {
  points: readonly [number, number, number];
  /** Two edges in the plane of the triangle: (x1, 0), (x2, y2), units of the sheet. */
  x1: number;
  x2: number;
  y2: number;
}

/**
 * Puts right faces that are convex on the model and concave on the sheet: the triangles at all corners count, whichever diagonal is cut. Vertices of such faces
 * go to where every corner round them is turned the right way, then those and their neighbours find the least stretch over both diagonals. Pins stay.
 * O(corners), and for each concave face what its neighbours have. @returns the layout, and how many concave faces are left
 */
export function safePolygons(mesh: Mesh, set: UvSet, which: readonly number[]): { set: UvSet; repaired: number; left: number } {
  const islands = islandsOf(mesh, set);
  const sense = senseOfIslands(mesh, set);
  const wanted = new Set(which);
  const found = concaveFaces(mesh, set, (f) => sense[islands.ofFace[f]!]!);
  const bad: number[] = [];
  found.faces.forEach((is, f) => is && wanted.has(islands.ofFace[f]!) && bad.push(f));
  if (bad.length === 0) return { set, repaired: 0, left: 0 };
  const work = new Surroundings(mesh, set, islands.ofFace, sense);
  for (const island of new Set(bad.map((f) => islands.ofFace[f]!))) {
    const own = bad.filter((f) => islands.ofFace[f] === island);
    const border = borderOf(mesh, islands, island);
    const before = crossingsOf(mesh, set, work.uv, border);
    const kept = work.uv.slice();
    work.repair(own, none);
    if (crossingsOf(mesh, set, work.uv, border) <= before) continue;
    // moving its border would lay the island over itself
    work.uv.set(kept);
    work.repair(own, new Set(border.map((c) => set.cornerUv[c]!)));
  }
  const now = { ...set, uv: work.uv };
  const after = concaveFaces(mesh, now, (f) => sense[islands.ofFace[f]!]!);
  const left = bad.filter((f) => after.faces[f]).length;
  // never more than before
  return after.count + after.fanFlips < found.count + found.fanFlips
    ? { set: now, repaired: found.count - after.count, left }
    : { set, repaired: 0, left: bad.length };
}

const none: ReadonlySet<number> = new Set();

/** Corners whose half edges are an island's border. */
function borderOf(mesh: Mesh, { start, faces, states }: Islands, island: number): number[] {
  const { cornerEdge } = topologyOf(mesh);
  const out: number[] = [];
  for (let k = start[island]!; k < start[island + 1]!; k++)
    for (let c = mesh.faceStart[faces[k]!]!; c < mesh.faceStart[faces[k]! + 1]!; c++) if (states[cornerEdge[c]!] !== EdgeState.joined) out.push(c);
  return out;
}

/** How often an island's border crosses itself. */
function crossingsOf(mesh: Mesh, set: UvSet, uv: Float64Array, border: readonly number[]): number {
  const { cornerFace } = topologyOf(mesh);
  const segments = new Float64Array(border.length * 4);
  border.forEach((c, k) => {
    const [p, q] = [set.cornerUv[c]! * 2, set.cornerUv[nextCorner(mesh, c, cornerFace[c]!)]! * 2];
    segments.set([uv[p]!, uv[p + 1]!, uv[q]!, uv[q + 1]!], k * 4);
  });
  return borderCrossings(segments).length / 2;
}

/** Signed area of each island on the sheet. */
export function senseOfIslands(mesh: Mesh, set: UvSet): Float64Array {
  const { ofFace, count } = islandsOf(mesh, set);
  const sum = new Float64Array(count);
  for (let f = 0; f < ofFace.length; f++) {
    if (set.unplaced[f]) continue;
    const [from, to] = [mesh.faceStart[f]!, mesh.faceStart[f + 1]!];
    for (let c = from; c < to; c++) {
      const [p, q] = [set.cornerUv[c]! * 2, set.cornerUv[c + 1 < to ? c + 1 : from]! * 2];
      sum[ofFace[f]!]! += set.uv[p]! * set.uv[q + 1]! - set.uv[q]! * set.uv[p + 1]!;
    }
  }
  return sum;
}

class Surroundings {
  readonly uv: Float64Array;
  private readonly known = new Map<number, Corner[]>();
  private readonly convex: Uint8Array;
  private readonly scale = new Map<number, number>();

  constructor(
    private readonly mesh: Mesh,
    private readonly set: UvSet,
    private readonly ofFace: Int32Array,
    private readonly sense: Float64Array,
  ) {
    this.uv = set.uv.slice();
    this.convex = convexFaces(mesh);
  }

  /** UV points of the faces round one. */
  neighbours(p: number): Set<number> {
    return new Set(this.cornersAt(p).flatMap(({ points }) => points));
  }

  /** @param held points that stay, beside the pins */
  repair(faces: readonly number[], held: ReadonlySet<number>): void {
    const active = new Set<number>();
    for (const f of faces) for (let c = this.mesh.faceStart[f]!; c < this.mesh.faceStart[f + 1]!; c++) active.add(this.set.cornerUv[c]!);
    const near = new Set(active);
    for (const p of active) for (const q of this.neighbours(p)) near.add(q);
    const free = (p: number) => !this.set.pins[p] && !held.has(p);
    for (let round = 0; round < mostRounds; round++) {
      let moved = false;
      for (const p of active) if (free(p)) moved = this.open(p) || moved;
      if (!moved) break;
    }
    for (let round = 0; round < settling; round++) for (const p of near) if (free(p)) this.settle(p);
  }

  /** Moves a point just far enough that no corner round it is turned over. @returns whether it had to */
  open(p: number): boolean {
    const lines = this.cornersAt(p).map((corner) => this.lineOf(p, corner));
    const at = [this.uv[p * 2]!, this.uv[p * 2 + 1]!] as const;
    const worst = (x: number, y: number) => lines.reduce((least, [a, b, c]) => Math.min(least, a * x + b * y + c), Infinity);
    if (worst(at[0], at[1]) >= least * 0.2) return false;
    const best = deepest(lines);
    if (!best || best[2] <= worst(at[0], at[1]) + 1e-9) return false;
    const [dx, dy] = [best[0] - at[0], best[1] - at[1]];
    // corners that are right stay so, however far others still are from it
    let reach = 1;
    for (const [a, b, c] of lines) {
      const [now, step] = [a * at[0] + b * at[1] + c, a * dx + b * dy];
      if (now > 0 && step < 0) reach = Math.min(reach, (now - Math.min(now, keptRight)) / -step);
    }
    if (reach < 1e-6) return false;
    const goal = Math.min(least, best[2] * 0.7);
    // the worst corner only gets better on the way there
    let [low, high] = [0, reach];
    for (let k = 0; k < 40; k++) {
      const s = (low + high) / 2;
      if (worst(at[0] + s * dx, at[1] + s * dy) >= goal) high = s;
      else low = s;
    }
    this.uv[p * 2] = at[0] + high * dx;
    this.uv[p * 2 + 1] = at[1] + high * dy;
    return true;
  }

  /** A step towards the least stretch of the corners round a point (symmetric Dirichlet energy), never turning one over. */
  settle(p: number): void {
    const corners = this.cornersAt(p);
    const [x, y] = [this.uv[p * 2]!, this.uv[p * 2 + 1]!];
    const energyAt = (u: number, v: number) => {
      this.uv[p * 2] = u;
      this.uv[p * 2 + 1] = v;
      return corners.reduce((sum, corner) => sum + this.energy(corner), 0);
    };
    const e = energyAt(x, y);
    if (!Number.isFinite(e)) return;
    const h = 1e-4 * Math.max(...corners.map(({ x1, x2, y2 }) => Math.max(x1, Math.hypot(x2, y2))));
    const [px, mx, py, my, pp] = [energyAt(x + h, y), energyAt(x - h, y), energyAt(x, y + h), energyAt(x, y - h), energyAt(x + h, y + h)];
    const [gx, gy] = [(px - mx) / (2 * h), (py - my) / (2 * h)];
    const [xx, yy, xy] = [(px - 2 * e + mx) / h ** 2, (py - 2 * e + my) / h ** 2, (pp - px - py + e) / h ** 2];
    const det = xx * yy - xy * xy;
    let [dx, dy] = det > 0 && xx > 0 ? [(-yy * gx + xy * gy) / det, (xy * gx - xx * gy) / det] : [-gx * h, -gy * h];
    if (![dx, dy].every(Number.isFinite)) [dx, dy] = [0, 0];
    for (let s = 1; s > 1e-3; s /= 2) {
      const next = energyAt(x + s * dx, y + s * dy);
      if (next < e) return;
    }
    energyAt(x, y);
  }

  /** Area of a corner as a share of what it has in space, as a line: a·u + b·v + c. */
  private lineOf(p: number, { points, x1, y2 }: Corner): [number, number, number] {
    const k = points.indexOf(p);
    const [q, r] = [points[(k + 1) % 3]! * 2, points[(k + 2) % 3]! * 2];
    const { uv } = this;
    const own = x1 * y2;
    const sense = this.signAt(p);
    return [((uv[q + 1]! - uv[r + 1]!) * sense) / own, ((uv[r]! - uv[q]!) * sense) / own, ((uv[q]! * uv[r + 1]! - uv[r]! * uv[q + 1]!) * sense) / own];
  }

  private energy({ points: [a, b, c], x1, x2, y2 }: Corner): number {
    const { uv } = this;
    const sense = this.signAt(a);
    const [ux, uy] = [uv[b * 2]! - uv[a * 2]!, (uv[b * 2 + 1]! - uv[a * 2 + 1]!) * sense];
    const [vx, vy] = [uv[c * 2]! - uv[a * 2]!, (uv[c * 2 + 1]! - uv[a * 2 + 1]!) * sense];
    // columns of the map from space to the sheet
    const [m0, m1] = [ux / x1, uy / x1];
    const [m2, m3] = [(vx - m0 * x2) / y2, (vy - m1 * x2) / y2];
    const det = m0 * m3 - m1 * m2;
    if (!(det > 0)) return Infinity;
    return x1 * y2 * (m0 * m0 + m1 * m1 + m2 * m2 + m3 * m3) * (1 + 1 / det ** 2);
  }

  private readonly signs = new Map<number, number>();
  private signAt(p: number): number {
    return this.signs.get(p) ?? 1;
  }

  /** Triangles at the corners of the faces round a UV point that have it: of convex faces every corner’s, of others their own triangles. */
  private cornersAt(p: number): Corner[] {
    const known = this.known.get(p);
    if (known) return known;
    const { mesh, set } = this;
    const { pointStart, pointCorners, cornerFace } = topologyOf(mesh);
    const start = this.meshPointOf(p);
    const all = trianglesOf(mesh);
    const out: Corner[] = [];
    for (let k = pointStart[start]!; k < pointStart[start + 1]!; k++) {
      const c = pointCorners[k]!;
      if (set.cornerUv[c] !== p) continue;
      const f = cornerFace[c]!;
      this.signs.set(p, this.sense[this.ofFace[f]!]! < 0 ? -1 : 1);
      const [from, n] = [mesh.faceStart[f]!, mesh.faceStart[f + 1]! - mesh.faceStart[f]!];
      const local = c - from;
      if (this.convex[f] || n === 3)
        for (const at of n > 3 ? [local - 1, local, local + 1] : [local])
          out.push(...this.cornerOf(f, from + ((at + n) % n), from + ((at + 1 + n) % n), from + ((at - 1 + n) % n)));
      // others are measured as they are cut
      else
        for (let t = all.faceStart[f]! * 3; t < all.faceStart[f + 1]! * 3; t += 3) {
          const [i, j, m] = [all.corners[t]!, all.corners[t + 1]!, all.corners[t + 2]!];
          if ([i, j, m].includes(c)) out.push(...this.cornerOf(f, i, j, m));
        }
    }
    for (const { points } of out) for (const q of points) if (!this.signs.has(q)) this.signs.set(q, this.signAt(p));
    this.known.set(p, out);
    return out;
  }

  private meshPoints: Int32Array | null = null;
  private meshPointOf(p: number): number {
    if (!this.meshPoints) {
      this.meshPoints = new Int32Array(this.set.uv.length / 2);
      for (let c = 0; c < this.mesh.corners.length; c++) this.meshPoints[this.set.cornerUv[c]!] = this.mesh.corners[c]!;
    }
    return this.meshPoints[p]!;
  }

  /** @param c, q, r corners of the mesh, counterclockwise @returns nothing for a triangle without area */
  private cornerOf(f: number, c: number, q: number, r: number): Corner[] {
    const { mesh, set } = this;
    const at = (corner: number, d: number) => mesh.points[mesh.corners[corner]! * 3 + d]!;
    const [u, v] = [0, 1].map((which) => [0, 1, 2].map((d) => at(which === 0 ? q : r, d) - at(c, d))) as [number[], number[]];
    const x1 = Math.hypot(...u);
    if (!(x1 > 0)) return [];
    const x2 = (u[0]! * v[0]! + u[1]! * v[1]! + u[2]! * v[2]!) / x1;
    const y2 = Math.sqrt(Math.max(0, v[0]! ** 2 + v[1]! ** 2 + v[2]! ** 2 - x2 * x2));
    if (!(y2 > 1e-9 * x1)) return [];
    const s = this.sizeOf(this.ofFace[f]!);
    return [{ points: [set.cornerUv[c]!, set.cornerUv[q]!, set.cornerUv[r]!], x1: x1 * s, x2: x2 * s, y2: y2 * s }];
  }

  /** Lengths on the sheet over those in space, of an island. */
  private sizeOf(island: number): number {
    const known = this.scale.get(island);
    if (known !== undefined) return known;
    const { start, faces } = islandsOf(this.mesh, this.set);
    let [space, flat] = [0, 0];
    const { mesh, set } = this;
    for (let k = start[island]!; k < start[island + 1]!; k++) {
      const [from, to] = [mesh.faceStart[faces[k]!]!, mesh.faceStart[faces[k]! + 1]!];
      for (let c = from; c < to; c++) {
        const next = c + 1 < to ? c + 1 : from;
        const [a, b] = [mesh.corners[c]! * 3, mesh.corners[next]! * 3];
        space += Math.hypot(...[0, 1, 2].map((d) => mesh.points[b + d]! - mesh.points[a + d]!));
        const [p, q] = [set.cornerUv[c]! * 2, set.cornerUv[next]! * 2];
        flat += Math.hypot(set.uv[q]! - set.uv[p]!, set.uv[q + 1]! - set.uv[p + 1]!);
      }
    }
    const size = space > 0 ? flat / space : 1;
    this.scale.set(island, size);
    return size;
  }
}

/** The place where the least of some linear functions is largest, and how large: it is where three of them are equal. O(n³), n about ten */
function deepest(lines: readonly (readonly [number, number, number])[]): [number, number, number] | null {
  let best: [number, number, number] | null = null;
  const n = lines.length;
  for (let i = 0; i < n; i++)
    for (let j = i + 1; j < n; j++)
      for (let k = j + 1; k < n; k++) {
        const [a, b, c] = [lines[i]!, lines[j]!, lines[k]!];
        const [x1, y1, z1, x2, y2, z2] = [a[0] - b[0], a[1] - b[1], b[2] - a[2], a[0] - c[0], a[1] - c[1], c[2] - a[2]];
        const det = x1 * y2 - x2 * y1;
        if (!(Math.abs(det) > 1e-12)) continue;
        const [x, y] = [(z1 * y2 - z2 * y1) / det, (x1 * z2 - x2 * z1) / det];
        const t = a[0] * x + a[1] * y + a[2];
        if ((best && t <= best[2]) || lines.some(([p, q, r]) => p * x + q * y + r < t - 1e-9 * (1 + Math.abs(t)))) continue;
        best = [x, y, t];
      }
  return best;
}
