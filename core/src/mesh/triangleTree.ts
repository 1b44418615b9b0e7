import type { Mesh } from './mesh.ts';
import { trianglesOf } from './triangles.ts';

/** A place on a mesh: its triangle, the shares of the triangle's corners, and how far away it is. */
export interface NearPlace {
  triangle: number;
  w0: number;
  w1: number;
  w2: number;
  distance: number;
}

const leafSize = 4;

/** A tree of boxes over a mesh's triangles, split at the middle of their centres along the longest side: nearest places and rays. Made in O(n log n). */
export class TriangleTree {
  private readonly order: Uint32Array;
  /** Six numbers a node: the least and the largest corner of its box. */
  private readonly boxes: Float64Array;
  /** First triangle and count of a leaf; of others the second child and 0. */
  private readonly first: Uint32Array;
  private readonly counts: Uint32Array;
  private readonly corners: Float64Array;
  /** Along which side a node is split. */
  private readonly axes: Uint8Array;
  private nodes = 0;

  constructor(mesh: Mesh, skip: (face: number) => boolean = () => false) {
    const { count, corners, face } = trianglesOf(mesh);
    this.corners = new Float64Array(count * 9);
    const kept: number[] = [];
    for (let t = 0; t < count; t++) {
      for (let k = 0; k < 3; k++) {
        const p = mesh.corners[corners[t * 3 + k]!]! * 3;
        this.corners.set(mesh.points.subarray(p, p + 3), t * 9 + k * 3);
      }
      if (!skip(face[t]!)) kept.push(t);
    }
    this.order = Uint32Array.from(kept);
    const most = Math.max(1, 2 * kept.length);
    this.boxes = new Float64Array(most * 6);
    this.first = new Uint32Array(most);
    this.counts = new Uint32Array(most);
    this.axes = new Uint8Array(most);
    if (kept.length > 0) this.build(0, kept.length);
  }

  private build(from: number, to: number): number {
    const node = this.nodes++;
    const box = this.boxes.subarray(node * 6, node * 6 + 6);
    box.set([Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity]);
    for (let i = from; i < to; i++)
      for (let k = 0; k < 9; k++) {
        const v = this.corners[this.order[i]! * 9 + k]!;
        const d = k % 3;
        if (v < box[d]!) box[d] = v;
        if (v > box[d + 3]!) box[d + 3] = v;
      }
    if (to - from <= leafSize) {
      this.first[node] = from;
      this.counts[node] = to - from;
      return node;
    }
    const sides = [box[3]! - box[0]!, box[4]! - box[1]!, box[5]! - box[2]!];
    const axis = sides.indexOf(Math.max(...sides));
    this.axes[node] = axis;
    const middle = (t: number) => this.corners[t * 9 + axis]! + this.corners[t * 9 + 3 + axis]! + this.corners[t * 9 + 6 + axis]!;
    const part = this.order.subarray(from, to).sort((a, b) => middle(a) - middle(b));
    const half = from + (part.length >> 1);
    this.build(from, half);
    this.first[node] = this.build(half, to);
    return node;
  }

  /** The nearest place within a distance; null where there is none. @param accepts which triangles count */
  nearest(x: number, y: number, z: number, within: number, accepts: (triangle: number) => boolean = () => true): NearPlace | null {
    let best: NearPlace | null = null;
    let least = within * within;
    const look = (t: number) => {
      if (!accepts(t)) return;
      const squared = this.nearestOn(t, x, y, z);
      if (squared > least || (best && squared === least)) return;
      least = squared;
      best = { triangle: t, w0: this.found[0]!, w1: this.found[1]!, w2: this.found[2]!, distance: Math.sqrt(squared) };
      this.lastNear = t;
    };
    // places are asked for side by side: what was nearest last time is near this time
    if (this.lastNear >= 0) look(this.lastNear);
    const { boxes } = this;
    const away = (node: number) => {
      const k = node * 6;
      const gx = Math.max(boxes[k]! - x, 0, x - boxes[k + 3]!);
      const gy = Math.max(boxes[k + 1]! - y, 0, y - boxes[k + 4]!);
      const gz = Math.max(boxes[k + 2]! - z, 0, z - boxes[k + 5]!);
      return gx * gx + gy * gy + gz * gz;
    };
    const stack: number[] = this.nodes > 0 ? [0] : [];
    while (stack.length > 0) {
      const node = stack.pop()!;
      if (away(node) > least) continue;
      const count = this.counts[node]!;
      if (count === 0) {
        const [a, b] = [node + 1, this.first[node]!];
        if (away(a) < away(b)) stack.push(b, a);
        else stack.push(a, b);
        continue;
      }
      for (let i = 0; i < count; i++) look(this.order[this.first[node]! + i]!);
    }
    return best;
  }

  private lastNear = -1;
  /** Shares of the corners at the place that `nearestOn` found. */
  private readonly found = new Float64Array(3);

  /** Nearest place of one triangle (C. Ericson, "Real-Time Collision Detection", 2005, 5.1.5; from memory). @returns its squared distance */
  private nearestOn(t: number, x: number, y: number, z: number): number {
    const q = this.corners;
    const k = t * 9;
    const ax = q[k]!;
    const ay = q[k + 1]!;
    const az = q[k + 2]!;
    const abx = q[k + 3]! - ax;
    const aby = q[k + 4]! - ay;
    const abz = q[k + 5]! - az;
    const acx = q[k + 6]! - ax;
    const acy = q[k + 7]! - ay;
    const acz = q[k + 8]! - az;
    const apx = x - ax;
    const apy = y - ay;
    const apz = z - az;
    const d1 = abx * apx + aby * apy + abz * apz;
    const d2 = acx * apx + acy * apy + acz * apz;
    // from b and from c it is the same less the sides
    const abab = abx * abx + aby * aby + abz * abz;
    const abac = abx * acx + aby * acy + abz * acz;
    const acac = acx * acx + acy * acy + acz * acz;
    const d3 = d1 - abab;
    const d4 = d2 - abac;
    const d5 = d1 - abac;
    const d6 = d2 - acac;
    let v = 0;
    let w = 0;
    const vc = d1 * d4 - d3 * d2;
    const vb = d5 * d2 - d1 * d6;
    const va = d3 * d6 - d5 * d4;
    if (d1 <= 0 && d2 <= 0) v = w = 0;
    else if (d3 >= 0 && d4 <= d3) v = 1;
    else if (vc <= 0 && d1 >= 0 && d3 <= 0) v = d1 / (d1 - d3);
    else if (d6 >= 0 && d5 <= d6) w = 1;
    else if (vb <= 0 && d2 >= 0 && d6 <= 0) w = d2 / (d2 - d6);
    else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
      w = (d4 - d3) / (d4 - d3 + (d5 - d6));
      v = 1 - w;
    } else {
      const sum = va + vb + vc;
      // a triangle without area: its first corner
      v = sum > 0 ? vb / sum : 0;
      w = sum > 0 ? vc / sum : 0;
    }
    this.found[0] = 1 - v - w;
    this.found[1] = v;
    this.found[2] = w;
    const dx = abx * v + acx * w - apx;
    const dy = aby * v + acy * w - apy;
    const dz = abz * v + acz * w - apz;
    return dx * dx + dy * dy + dz * dz;
  }

  /**
   * How far a ray goes until it hits a triangle from either side (T. Möller, B. Trumbore, 1997); Infinity where it hits none within `most`.
   * @param direction of length 1
   * @param any the first hit that is found will do, wherever it is
   */
  cast(x: number, y: number, z: number, dx: number, dy: number, dz: number, most: number, any = false): number {
    const ix = 1 / dx;
    const iy = 1 / dy;
    const iz = 1 / dz;
    let best = most;
    let hit = false;
    const { stack, boxes, counts, first, order } = this;
    let top = 0;
    if (this.nodes > 0) stack[top++] = 0;
    while (top > 0) {
      const node = stack[--top]!;
      const k = node * 6;
      const ax = (boxes[k]! - x) * ix;
      const bx = (boxes[k + 3]! - x) * ix;
      const ay = (boxes[k + 1]! - y) * iy;
      const by = (boxes[k + 4]! - y) * iy;
      const az = (boxes[k + 2]! - z) * iz;
      const bz = (boxes[k + 5]! - z) * iz;
      const enter = Math.max(ax < bx ? ax : bx, ay < by ? ay : by, az < bz ? az : bz);
      const leave = Math.min(ax < bx ? bx : ax, ay < by ? by : ay, az < bz ? bz : az);
      // a ray within a side's plane gives no number there: the box is looked into
      if (enter > leave || leave < 0 || enter > best) continue;
      const count = counts[node]!;
      if (count === 0) {
        // the nearer child first
        const backwards = (this.axes[node] === 0 ? dx : this.axes[node] === 1 ? dy : dz) < 0;
        stack[top++] = backwards ? node + 1 : first[node]!;
        stack[top++] = backwards ? first[node]! : node + 1;
        continue;
      }
      const from = first[node]!;
      for (let i = 0; i < count; i++) {
        const distance = this.along(order[from + i]!, x, y, z, dx, dy, dz);
        if (distance >= best) continue;
        if (any) return distance;
        best = distance;
        hit = true;
      }
    }
    return hit ? best : Infinity;
  }

  private readonly stack = new Uint32Array(128);

  private along(t: number, x: number, y: number, z: number, dx: number, dy: number, dz: number): number {
    const c = this.corners;
    const k = t * 9;
    const e1x = c[k + 3]! - c[k]!;
    const e1y = c[k + 4]! - c[k + 1]!;
    const e1z = c[k + 5]! - c[k + 2]!;
    const e2x = c[k + 6]! - c[k]!;
    const e2y = c[k + 7]! - c[k + 1]!;
    const e2z = c[k + 8]! - c[k + 2]!;
    const px = dy * e2z - dz * e2y;
    const py = dz * e2x - dx * e2z;
    const pz = dx * e2y - dy * e2x;
    const det = e1x * px + e1y * py + e1z * pz;
    if (det === 0) return Infinity;
    const sx = x - c[k]!;
    const sy = y - c[k + 1]!;
    const sz = z - c[k + 2]!;
    const u = (sx * px + sy * py + sz * pz) / det;
    if (u < 0 || u > 1) return Infinity;
    const qx = sy * e1z - sz * e1y;
    const qy = sz * e1x - sx * e1z;
    const qz = sx * e1y - sy * e1x;
    const v = (dx * qx + dy * qy + dz * qz) / det;
    if (v < 0 || u + v > 1) return Infinity;
    const distance = (e2x * qx + e2y * qy + e2z * qz) / det;
    return distance > 0 ? distance : Infinity;
  }
}
