import FlatQueue from 'flatqueue';
import { pointCount, plainMesh, type Mesh } from './mesh.ts';
import { topologyOf } from './topology.ts';
import { trianglesOf } from './triangles.ts';

export interface SimplifyOptions {
  /** 1 for each edge of the mesh that must stay a line: points on it move along it only. Borders and non-manifold edges always do. */
  lines?: Uint8Array;
  /** The point across a plane of symmetry for each point, −1 where there is none: both sides are simplified alike. */
  across?: Int32Array | null;
}

/** A coarser mesh over some of the points of a mesh. */
export interface Simplified {
  /** Triangles. */
  mesh: Mesh;
  /** The point of the given mesh for each point of the coarse one. */
  pointOf: Uint32Array;
  /** The coarse point that stands for each point of the given mesh; −1 for points without faces. */
  standsFor: Int32Array;
  /** A face of the given mesh for each coarse triangle: it lies on the same side of all lines. */
  faceOf: Uint32Array;
  /** Points (of the given mesh) next to a standing one along lines. */
  lineTo(point: number): readonly number[];
}

/**
 * A mesh of about `target` triangles, made by merging points into neighbours, the least harm to the form first. Its points are points of the given
 * mesh, its handles and borders are the same.
 *
 * Cost of a merge: M. Garland, P. Heckbert, "Surface Simplification Using Quadric Error Metrics", SIGGRAPH 1997, with a small share for the way that the
 * point goes, so that flat places get even triangles. Which merges keep the topology: T. Dey et al., "Topology Preserving Edge Contraction", 1999.
 * A merge that would turn a triangle round or make a needle of it is passed over.
 * O(T log T).
 */
export function simplify(mesh: Mesh, target: number, { lines, across = null }: SimplifyOptions = {}): Simplified {
  const work = merging(mesh, lines);
  mergeDownTo(work, target, across);
  return resultOf(mesh, work);
}

/** Merges points, the cheapest first, until about `target` triangles are left or none may be merged. @param check called now and then; may throw to stop */
export function mergeDownTo(work: Merging, target: number, across: Int32Array | null = null, check: () => void = () => {}): void {
  const queue = new FlatQueue<number>();
  // what each point would cost now, and where it would go: other entries of the queue are old
  const cost = new Float64Array(work.into.length).fill(NaN);
  const goal = new Int32Array(cost.length);
  const offer = (from: number, checked = false) => {
    const to = work.best(from, across, checked);
    cost[from] = to < 0 ? NaN : work.costOf(from, to);
    goal[from] = to;
    if (to >= 0) queue.push(from, cost[from]!);
  };
  const merge = (from: number, to: number) => {
    work.merge(from, to);
    offer(to);
    for (const p of work.neighbours(to)) {
      if (goal[p] === from || goal[p] === to || goal[p]! < 0) {
        offer(p);
        continue;
      }
      // only what going there costs has changed
      if (!work.mayGo(p, to, across)) continue;
      const price = work.costOf(p, to);
      if (!(price < cost[p]!)) continue;
      cost[p] = price;
      goal[p] = to;
      queue.push(p, price);
    }
  };
  for (let p = 0; p < cost.length; p++) if (work.around[p]!.length > 0) offer(p);
  let pops = 0;
  while (work.count > target && queue.length > 0) {
    if ((++pops & 1023) === 0) check();
    const price = queue.peekValue()!;
    const from = queue.pop()!;
    if (work.into[from]! >= 0 || price !== cost[from]) continue;
    const to = goal[from]!;
    if (work.into[to]! >= 0 || !work.allowed(from, to)) {
      offer(from, true);
      continue;
    }
    merge(from, to);
    // the same on the other side
    const a = across ? across[from]! : -1;
    const b = across ? across[to]! : -1;
    if (a >= 0 && a !== from && b >= 0 && work.into[a]! < 0 && work.into[b]! < 0 && work.neighbours(a).includes(b) && work.allowed(a, b)) merge(a, b);
  }
}

function merging(mesh: Mesh, lines: Uint8Array | undefined): Merging {
  const { edgeCount, edgePoints, edgeStart, edgeCorners, twin, cornerFace } = topologyOf(mesh);
  const triangles = trianglesOf(mesh);
  const work = new Merging(
    mesh.points,
    Int32Array.from(triangles.corners, (c) => mesh.corners[c]!),
  );
  for (let e = 0; e < edgeCount; e++) {
    const c = edgeCorners[edgeStart[e]!]!;
    const t = triangles.faceStart[cornerFace[c]!]!;
    if ((lines?.[e] || twin[c]! < 0) && t < triangles.count) work.addLine(edgePoints[e * 2]!, edgePoints[e * 2 + 1]!, t);
  }
  return work;
}

export interface Merge {
  from: number;
  to: number;
  /** The triangles that were at `from`: those that held `to` as well went, the others have `to` in its place. */
  star: number[];
  /** Where the line went on from `from` beyond `to`; −1 off lines. */
  beyond: number;
}

/** Merges of points of a triangle mesh, one by one. */
export class Merging {
  /** Triangles that are left. */
  count: number;
  /** Triangles at each point. */
  readonly around: number[][];
  /** The point that each merged point went into, −1 for those that stand. */
  readonly into: Int32Array;
  /** Which triangles are left. */
  readonly alive: Uint8Array;
  /** Neighbours of each point along lines. */
  readonly along: number[][];
  /** What was merged, in order, if `record`: with it every merge can be undone. */
  readonly history: Merge[] = [];
  /** Ten numbers a point: the upper half of a 4 × 4 matrix. */
  private readonly quadric: Float64Array;
  private readonly area: Float64Array;
  /** What the merges into each point have cost. */
  private readonly own: Float64Array;
  private readonly mark: Uint32Array;
  private readonly moved: Uint32Array;
  private marker = 0;
  private readonly costs: number[] = [];
  private readonly scratch: [Float64Array, Float64Array] = [new Float64Array(4), new Float64Array(4)];

  /**
   * @param points 3 numbers a point
   * @param corners 3 points a triangle; changed in place
   */
  constructor(
    private readonly points: Float64Array,
    readonly corners: Int32Array,
    private readonly record = false,
    /** Triangles with two sides on a line that goes round them stay. */
    private readonly keepEars = false,
  ) {
    const n = points.length / 3;
    this.count = corners.length / 3;
    this.alive = new Uint8Array(this.count).fill(1);
    this.around = Array.from({ length: n }, () => []);
    this.along = Array.from({ length: n }, () => []);
    this.into = new Int32Array(n).fill(-1);
    this.quadric = new Float64Array(n * 10);
    this.area = new Float64Array(n);
    this.own = new Float64Array(n);
    this.mark = new Uint32Array(n);
    this.moved = new Uint32Array(record ? this.count : 0);
    for (let t = 0; t < this.count; t++) {
      const [normal] = this.scratch;
      this.normal(t, normal);
      const twice = Math.hypot(normal[0]!, normal[1]!, normal[2]!);
      for (let k = 0; k < 3; k++) {
        const p = this.corners[t * 3 + k]!;
        this.around[p]!.push(t);
        this.area[p]! += twice / 6;
        if (twice > 0) this.addPlane(p, normal[0]! / twice, normal[1]! / twice, normal[2]! / twice, p, twice / 6);
      }
    }
  }

  /** A line between two points that runs along a triangle: points on lines move along them only. */
  addLine(p: number, q: number, t: number): void {
    const { points } = this;
    this.along[p]!.push(q);
    this.along[q]!.push(p);
    // across the line stands a plane: points near it stay near it
    const [normal] = this.scratch;
    this.normal(t, normal);
    const [nx, ny, nz] = normal as unknown as [number, number, number];
    const [dx, dy, dz] = [0, 1, 2].map((d) => points[q * 3 + d]! - points[p * 3 + d]!) as [number, number, number];
    const [x, y, z] = [dy * nz - dz * ny, dz * nx - dx * nz, dx * ny - dy * nx];
    const length = Math.hypot(x, y, z);
    if (!(length > 0)) return;
    for (const at of [p, q]) this.addPlane(at, x / length, y / length, z / length, p, (dx * dx + dy * dy + dz * dz) / 4);
  }

  /** Twice the area's vector of a triangle, into `out`; of what it would be with `to` in the place of `from`. */
  private normal(t: number, out: Float64Array, from = -1, to = -1): void {
    const { points } = this;
    const { corners } = this;
    const p = corners[t * 3]!;
    const q = corners[t * 3 + 1]!;
    const r = corners[t * 3 + 2]!;
    const a = (p === from ? to : p) * 3;
    const b = (q === from ? to : q) * 3;
    const c = (r === from ? to : r) * 3;
    const ux = points[b]! - points[a]!,
      uy = points[b + 1]! - points[a + 1]!,
      uz = points[b + 2]! - points[a + 2]!;
    const vx = points[c]! - points[a]!,
      vy = points[c + 1]! - points[a + 1]!,
      vz = points[c + 2]! - points[a + 2]!;
    out[0] = uy * vz - uz * vy;
    out[1] = uz * vx - ux * vz;
    out[2] = ux * vy - uy * vx;
    // the longest side, squared
    const wx = ux - vx,
      wy = uy - vy,
      wz = uz - vz;
    out[3] = Math.max(ux * ux + uy * uy + uz * uz, vx * vx + vy * vy + vz * vz, wx * wx + wy * wy + wz * wz);
  }

  private addPlane(p: number, x: number, y: number, z: number, through: number, weight: number): void {
    const { points } = this;
    const d = -(x * points[through * 3]! + y * points[through * 3 + 1]! + z * points[through * 3 + 2]!);
    const q = this.quadric;
    const at = p * 10;
    q[at]! += weight * x * x;
    q[at + 1]! += weight * x * y;
    q[at + 2]! += weight * x * z;
    q[at + 3]! += weight * x * d;
    q[at + 4]! += weight * y * y;
    q[at + 5]! += weight * y * z;
    q[at + 6]! += weight * y * d;
    q[at + 7]! += weight * z * z;
    q[at + 8]! += weight * z * d;
    q[at + 9]! += weight * d * d;
  }

  /** Weighted squared distance from the planes of point p to where point q lies. */
  private harm(p: number, q: number): number {
    const { points } = this;
    const [x, y, z] = [points[q * 3]!, points[q * 3 + 1]!, points[q * 3 + 2]!];
    const m = this.quadric;
    const at = p * 10;
    return (
      x * (m[at]! * x + 2 * (m[at + 1]! * y + m[at + 2]! * z + m[at + 3]!)) +
      y * (m[at + 4]! * y + 2 * (m[at + 5]! * z + m[at + 6]!)) +
      z * (m[at + 7]! * z + 2 * m[at + 8]!) +
      m[at + 9]!
    );
  }

  neighbours(p: number): number[] {
    const out: number[] = [];
    const mark = ++this.marker;
    this.mark[p] = mark;
    for (const t of this.around[p]!) {
      for (let k = t * 3; k < t * 3 + 3; k++) {
        const q = this.corners[k]!;
        if (this.mark[q] === mark) continue;
        this.mark[q] = mark;
        out.push(q);
      }
    }
    return out;
  }

  costOf(from: number, to: number): number {
    const { points } = this;
    const x = points[from * 3]! - points[to * 3]!;
    const y = points[from * 3 + 1]! - points[to * 3 + 1]!;
    const z = points[from * 3 + 2]! - points[to * 3 + 2]!;
    return this.harm(from, to) + this.own[to]! + 2e-3 * this.area[from]! * (x * x + y * y + z * z);
  }

  /** Points on lines keep to them, on the plane of symmetry to it, beside it to their side. */
  mayGo(from: number, to: number, across: Int32Array | null): boolean {
    const line = this.along[from]!;
    if (line.length > 0 && (line.length !== 2 || (line[0] !== to && line[1] !== to))) return false;
    const image = across ? across[from]! : -1;
    return image < 0 || (image === from ? across![to] === to : to !== image && across![to]! >= 0);
  }

  /** The neighbour into which a point is best merged, −1 where there is none. @param checked only one into which it may go */
  best(from: number, across: Int32Array | null, checked: boolean): number {
    if (this.along[from]!.length !== 0 && this.along[from]!.length !== 2) return -1;
    const to = this.neighbours(from);
    const costs = this.costs;
    for (let k = 0; k < to.length; k++) costs[k] = this.mayGo(from, to[k]!, across) ? this.costOf(from, to[k]!) : Infinity;
    for (;;) {
      let least = -1;
      for (let k = 0; k < to.length; k++) if (costs[k]! < Infinity && (least < 0 || costs[k]! < costs[least]!)) least = k;
      if (least < 0) return -1;
      if (!checked || this.allowed(from, to[least]!)) return to[least]!;
      costs[least] = Infinity;
    }
  }

  /** Does the topology stay, and no triangle turn round? */
  allowed(from: number, to: number): boolean {
    const line = this.along[from]!;
    if (line.length === 2) {
      const other = line[0] === to ? line[1]! : line[1] === to ? line[0]! : -1;
      if (other < 0 || other === to || this.along[other]!.includes(to)) return false;
    }
    if (this.keepEars && this.around[from]!.length === 1) return false;
    const [before, after] = this.scratch;
    let shared = 0;
    for (const t of this.around[from]!) {
      if (this.has(t, to)) {
        shared++;
        continue;
      }
      this.normal(t, before);
      this.normal(t, after, from, to);
      const dot = before[0]! * after[0]! + before[1]! * after[1]! + before[2]! * after[2]!;
      const size = after[0]! ** 2 + after[1]! ** 2 + after[2]! ** 2;
      if (!(dot > 0 && dot * dot > 0.09 * size * (before[0]! ** 2 + before[1]! ** 2 + before[2]! ** 2)) || size < 0.01 * after[3]! ** 2) return false;
    }
    if (shared === 0) return false;
    // neighbours of both lie on the triangles of both only
    const mark = (this.marker += 2);
    for (const t of this.around[to]!) for (let k = t * 3; k < t * 3 + 3; k++) this.mark[this.corners[k]!] = mark - 1;
    this.mark[from] = this.mark[to] = mark;
    let common = 0;
    for (const t of this.around[from]!) {
      for (let k = t * 3; k < t * 3 + 3; k++) {
        const q = this.corners[k]!;
        if (this.mark[q] === mark - 1) common++;
        this.mark[q] = mark;
      }
    }
    return common === shared;
  }

  has(t: number, p: number): boolean {
    return this.corners[t * 3] === p || this.corners[t * 3 + 1] === p || this.corners[t * 3 + 2] === p;
  }

  /** Takes the last merge back that has not been taken back; lines stay as they are. */
  undo({ from, to, star }: Merge): void {
    const { around, corners } = this;
    this.around[from] = star;
    const mark = ++this.marker;
    for (const t of star) {
      if (this.alive[t]) {
        for (let c = t * 3; c < t * 3 + 3; c++) if (corners[c] === to) corners[c] = from;
        this.moved[t] = mark;
      } else {
        this.alive[t] = 1;
        this.count++;
        for (let c = t * 3; c < t * 3 + 3; c++) if (corners[c] !== from) around[corners[c]!]!.push(t);
      }
    }
    const there = around[to]!;
    let kept = 0;
    for (let k = 0; k < there.length; k++) if (this.moved[there[k]!] !== mark) there[kept++] = there[k]!;
    there.length = kept;
  }

  merge(from: number, to: number): void {
    const line = this.along[from]!;
    const beyond = line.length === 2 ? (line[0] === to ? line[1]! : line[0]!) : -1;
    if (this.record) this.history.push({ from, to, star: this.around[from]!, beyond });
    for (const t of this.around[from]!) {
      if (this.has(t, to)) {
        this.alive[t] = 0;
        this.count--;
        for (let k = 0; k < 3; k++) {
          const q = this.corners[t * 3 + k]!;
          if (q !== from) drop(this.around[q]!, t);
        }
      } else {
        for (let k = 0; k < 3; k++) if (this.corners[t * 3 + k] === from) this.corners[t * 3 + k] = to;
        this.around[to]!.push(t);
      }
    }
    if (beyond >= 0) {
      this.along[beyond] = this.along[beyond]!.map((q) => (q === from ? to : q));
      this.along[to] = this.along[to]!.map((q) => (q === from ? beyond : q));
    }
    this.around[from] = [];
    this.along[from] = [];
    this.into[from] = to;
    for (let k = 0; k < 10; k++) this.quadric[to * 10 + k]! += this.quadric[from * 10 + k]!;
    this.area[to]! += this.area[from]!;
    this.own[to] = this.harm(to, to);
  }
}

function resultOf(mesh: Mesh, work: Merging): Simplified {
  const { into } = work;
  const n = pointCount(mesh);
  const coarse = new Int32Array(n).fill(-1);
  const pointOf: number[] = [];
  for (let p = 0; p < n; p++) if (into[p]! < 0 && work.around[p]!.length > 0) coarse[p] = pointOf.push(p) - 1;
  const standsFor = new Int32Array(n);
  for (let p = 0; p < n; p++) {
    let at = p;
    while (into[at]! >= 0) at = into[at]!;
    standsFor[p] = coarse[at]!;
  }
  const faces = trianglesOf(mesh).face;
  const faceOf = new Uint32Array(work.count);
  const corners = new Uint32Array(work.count * 3);
  let next = 0;
  for (let t = 0; t < work.alive.length; t++) {
    if (!work.alive[t]) continue;
    for (let k = 0; k < 3; k++) corners[next * 3 + k] = coarse[work.corners[t * 3 + k]!]!;
    faceOf[next++] = faces[t]!;
  }
  const points = new Float64Array(pointOf.length * 3);
  pointOf.forEach((p, k) => points.set(mesh.points.subarray(p * 3, p * 3 + 3), k * 3));
  const faceStart = Uint32Array.from({ length: work.count + 1 }, (_, t) => t * 3);
  return { mesh: plainMesh(points, faceStart, corners), pointOf: Uint32Array.from(pointOf), standsFor, faceOf, lineTo: (p) => work.along[p]! };
}

function drop(list: number[], item: number): void {
  const at = list.indexOf(item);
  list[at] = list[list.length - 1]!;
  list.pop();
}
