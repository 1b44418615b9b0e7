import { mergeDownTo, Merging, type Merge } from '../mesh/simplify.ts';
import * as portable from '../numeric/portable.ts';

/**
 * A start for least stretch that is near its end: the piece is made coarser, laid flat by `lay`, and its points are put back one by one, each where the
 * triangles round it are stretched least. A point put back next to where it was merged into always has a place where nothing turns over.
 *
 * Putting points back in order: H. Hoppe, "Progressive Meshes", SIGGRAPH 1996; doing so in the flat: K. Hormann, G. Greiner, S. Campagna,
 * "Hierarchical Parametrization of Triangulated Surfaces", VMV 1999.
 *
 * @param target triangles of the coarse piece
 * @param lay the coarse piece flat (2 numbers a vertex), or null if it cannot be
 * @param straight points of the border are put back on the border as it lies, so that it crosses itself nowhere if it did not before
 * @param check called now and then; may throw to stop
 * @returns 2 numbers a vertex without flips, or null
 * O(T log T).
 */
export function coarseStart(
  positions: Float64Array,
  triangles: Uint32Array,
  border: Uint32Array,
  target: number,
  lay: (positions: Float64Array, triangles: Uint32Array) => Float64Array | null,
  straight = false,
  check: () => void = () => {},
): Float64Array | null {
  const work = new Merging(positions, Int32Array.from(triangles), true, straight);
  for (let k = 0; k < border.length; k += 2) {
    const t = work.around[border[k]!]!.find((at) => work.has(at, border[k + 1]!))!;
    work.addLine(border[k]!, border[k + 1]!, t);
  }
  mergeDownTo(work, target, null, check);
  // all border, or so uneven that few points may go: nothing is won
  if (work.count > 0.7 * work.alive.length) return null;
  const coarse = new Int32Array(positions.length / 3).fill(-1);
  const vertices: number[] = [];
  const left: number[] = [];
  for (let t = 0; t < work.alive.length; t++) {
    if (!work.alive[t]) continue;
    for (let k = t * 3; k < t * 3 + 3; k++) {
      const p = work.corners[k]!;
      if (coarse[p]! < 0) coarse[p] = vertices.push(p) - 1;
      left.push(coarse[p]!);
    }
  }
  const places = lay(
    Float64Array.from({ length: vertices.length * 3 }, (_, k) => positions[vertices[Math.floor(k / 3)]! * 3 + (k % 3)]!),
    Uint32Array.from(left),
  );
  if (!places) return null;
  const uv = new Float64Array((positions.length / 3) * 2);
  vertices.forEach((p, v) => uv.set(places.subarray(v * 2, v * 2 + 2), p * 2));
  const putter = new Putter(positions, work, uv, straight ? new Set(border) : null);
  for (let k = work.history.length - 1; k >= 0; k--) {
    if ((k & 1023) === 0) check();
    const merge = work.history[k]!;
    work.undo(merge);
    if (!putter.put(merge)) return null;
  }
  for (let v = 0; v < uv.length / 2; v++) putter.again(v);
  return uv;
}

/** Energy a unit of area above which a place is tight. */
const bad = 12;

/** Puts a vertex where the triangles round it are stretched least. */
class Putter {
  // of each triangle round the vertex: R⁻¹ = [r11 r12; 0 r22], its area, and its two other vertices
  private rest = new Float64Array(64);
  private others = new Int32Array(32);
  private count = 0;
  private area = 0;
  private readonly gradient = new Float64Array(5);

  constructor(
    private readonly positions: Float64Array,
    private readonly work: Merging,
    private readonly uv: Float64Array,
    /** Vertices that stay where they were put. */
    private readonly still: ReadonlySet<number> | null,
  ) {}

  put({ from: v, to: beside, beyond }: Merge): boolean {
    const { uv, work } = this;
    const star = work.around[v]!;
    this.measure(v, star);
    if (this.still && beyond >= 0 && this.putOnBorder(v, beside, beyond)) return true;
    // first where its triangles, in their own shape on their other sides, would have it; else from there towards the point it was merged into
    let mx = 0;
    let my = 0;
    for (let k = 0; k < this.count; k++) {
      const p = this.others[k * 2]! * 2;
      const q = this.others[k * 2 + 1]! * 2;
      const x1 = 1 / this.rest[k * 4]!;
      const y2 = 1 / this.rest[k * 4 + 2]!;
      const ex = -this.rest[k * 4 + 1]! * x1 * y2 - x1;
      // (v − p) / (q − p) of the true triangle, as complex numbers
      const square = ex * ex + y2 * y2;
      const re = (-x1 * ex) / square;
      const im = (x1 * y2) / square;
      const dx = uv[q]! - uv[p]!;
      const dy = uv[q + 1]! - uv[p + 1]!;
      const share = this.rest[k * 4 + 3]! / this.area;
      mx += share * (uv[p]! + re * dx - im * dy);
      my += share * (uv[p + 1]! + re * dy + im * dx);
    }
    const bx = uv[beside * 2]!;
    const by = uv[beside * 2 + 1]!;
    let x = mx;
    let y = my;
    let energy = this.energy(x, y);
    for (let share = 0.5; energy === Infinity && share > 1e-3; share *= 0.5) {
      x = bx + share * (mx - bx);
      y = by + share * (my - by);
      energy = this.energy(x, y);
    }
    if (energy === Infinity) {
      const way = this.opening(beside, star, v);
      if (!way) return false;
      for (let size = 0.5; energy === Infinity && size > 1e-6; size *= 0.5) {
        x = bx + size * way[0];
        y = by + size * way[1];
        energy = this.energy(x, y);
      }
      if (energy === Infinity) return false;
    }
    let left = this.improve(v, x, y, energy);
    if (left <= bad * this.area) return true;
    // a tight place: its neighbours make room
    const around = work.neighbours(v);
    for (let round = 0; round < 6 && left > bad * this.area; round++) {
      for (const p of around) this.again(p);
      left = this.again(v);
    }
    return true;
  }

  /**
   * On the straight line of the border between two neighbours, or a little inside it where something would turn over: either way no border crosses
   * another by it.
   */
  private putOnBorder(v: number, a: number, b: number): boolean {
    const { uv, positions, work } = this;
    const far = (p: number) => Math.hypot(...[0, 1, 2].map((d) => positions[p * 3 + d]! - positions[v * 3 + d]!));
    const share = far(a) / (far(a) + far(b) || 1);
    for (let round = 0; round < 8; round++) {
      if (round > 0) {
        // a tight place: its neighbours make room, and it goes where it is best
        for (const p of work.neighbours(v)) this.again(p);
        this.measure(v, work.around[v]!);
      }
      const dx = uv[b * 2]! - uv[a * 2]!;
      const dy = uv[b * 2 + 1]! - uv[a * 2 + 1]!;
      // inwards the neighbours' triangles go round from the border to the third point of the one that both have
      const turn = this.inwards(v, a, dx, dy);
      let [x, y, least] = [0, 0, Infinity];
      for (const lean of [0, 0.2, 0.5]) {
        const c = portable.cos(lean * turn);
        const s = portable.sin(lean * turn);
        for (let at = share; at > 1e-5; at *= 0.6) {
          const px = uv[a * 2]! + at * (c * dx - s * dy);
          const py = uv[a * 2 + 1]! + at * (c * dy + s * dx);
          const energy = this.energy(px, py);
          if (energy < least) [x, y, least] = [px, py, energy];
        }
        if (least < bad * this.area) break;
      }
      if (least === Infinity) return false;
      uv[v * 2] = x;
      uv[v * 2 + 1] = y;
      if (least < bad * this.area) break;
    }
    return true;
  }

  /** The angle at a border point from the way (x, y) along the border to the third point of the triangle that it shares with `v`, with its sign. */
  private inwards(v: number, a: number, x: number, y: number): number {
    const { uv, work } = this;
    const t = work.around[v]!.find((other) => work.has(other, a))! * 3;
    const third = [0, 1, 2].map((k) => work.corners[t + k]!).find((p) => p !== v && p !== a)!;
    const dx = uv[third * 2]! - uv[a * 2]!;
    const dy = uv[third * 2 + 1]! - uv[a * 2 + 1]!;
    const angle = portable.atan2(x * dy - y * dx, x * dx + y * dy);
    // v follows a or goes before it round the triangle: the piece lies on that side
    const k = work.corners[t] === a ? 0 : work.corners[t + 1] === a ? 1 : 2;
    const left = work.corners[t + ((k + 1) % 3)] === v;
    return left ? (angle < 0 ? angle + 2 * Math.PI : angle) : angle > 0 ? angle - 2 * Math.PI : angle;
  }

  /** Moves a vertex from where it is. @returns the energy left */
  again(v: number): number {
    if (this.still?.has(v)) return 0;
    const { uv, work } = this;
    this.measure(v, work.around[v]!);
    return this.improve(v, uv[v * 2]!, uv[v * 2 + 1]!, this.energy(uv[v * 2]!, uv[v * 2 + 1]!));
  }

  /** Newton's steps from a place without flips. @returns the energy left */
  private improve(v: number, x: number, y: number, energy: number): number {
    const { uv } = this;
    for (let step = 0; step < 4; step++) {
      this.derivatives(x, y);
      const gx = this.gradient[0]!;
      const gy = this.gradient[1]!;
      const hxx = this.gradient[2]!;
      const hxy = this.gradient[3]!;
      const hyy = this.gradient[4]!;
      // the smaller eigenvalue is kept from zero
      const half = (hxx + hyy) / 2;
      const least = half - Math.sqrt(((hxx - hyy) / 2) ** 2 + hxy * hxy);
      const lift = Math.max(0, 0.05 * Math.abs(half) - least);
      const a = hxx + lift;
      const c = hyy + lift;
      const det = a * c - hxy * hxy;
      if (!(det > 0)) break;
      const dx = (-gx * c + gy * hxy) / det;
      const dy = (-gy * a + gx * hxy) / det;
      const slope = gx * dx + gy * dy;
      if (!(-slope > 1e-2 * energy)) break;
      let length = 1;
      let next = Infinity;
      for (let tries = 0; tries < 8; tries++) {
        next = this.energy(x + length * dx, y + length * dy);
        if (next < energy + 1e-4 * length * slope) break;
        length *= 0.4;
        next = Infinity;
      }
      if (next === Infinity) break;
      x += length * dx;
      y += length * dy;
      const gain = energy - next;
      energy = next;
      if (gain < 0.02 * energy) break;
    }
    uv[v * 2] = x;
    uv[v * 2 + 1] = y;
    return energy;
  }

  private measure(v: number, star: readonly number[]): void {
    const { positions } = this;
    const { corners } = this.work;
    if (star.length * 4 > this.rest.length) {
      this.rest = new Float64Array(star.length * 8);
      this.others = new Int32Array(star.length * 4);
    }
    const { rest, others } = this;
    this.count = star.length;
    this.area = 0;
    const vx = positions[v * 3]!;
    const vy = positions[v * 3 + 1]!;
    const vz = positions[v * 3 + 2]!;
    for (let k = 0; k < star.length; k++) {
      const t = star[k]! * 3;
      const first = corners[t] === v;
      const second = !first && corners[t + 1] === v;
      const p = corners[first ? t + 1 : second ? t + 2 : t]!;
      const q = corners[first ? t + 2 : second ? t : t + 1]!;
      const ux = positions[p * 3]! - vx,
        uy = positions[p * 3 + 1]! - vy,
        uz = positions[p * 3 + 2]! - vz;
      const wx = positions[q * 3]! - vx,
        wy = positions[q * 3 + 1]! - vy,
        wz = positions[q * 3 + 2]! - vz;
      const uu = ux * ux + uy * uy + uz * uz;
      const ww = wx * wx + wy * wy + wz * wz;
      const longest = Math.sqrt(Math.max(uu, ww)) || 1e-12;
      const x1 = Math.max(Math.sqrt(uu), 1e-5 * longest);
      const x2 = (ux * wx + uy * wy + uz * wz) / x1;
      const y2 = Math.max(Math.sqrt(Math.max(0, ww - x2 * x2)), 1e-5 * longest);
      const r = k * 4;
      rest[r] = 1 / x1;
      rest[r + 1] = -x2 / (x1 * y2);
      rest[r + 2] = 1 / y2;
      rest[r + 3] = (x1 * y2) / 2;
      others[k * 2] = p;
      others[k * 2 + 1] = q;
      this.area += (x1 * y2) / 2;
    }
  }

  private energy(x: number, y: number): number {
    const { rest, others, uv, count } = this;
    let sum = 0;
    for (let k = 0, r = 0; k < count * 2; k += 2, r += 4) {
      const p = others[k]! * 2;
      const q = others[k + 1]! * 2;
      const ux = uv[p]! - x;
      const uy = uv[p + 1]! - y;
      const wx = uv[q]! - x;
      const wy = uv[q + 1]! - y;
      const r11 = rest[r]!;
      const r12 = rest[r + 1]!;
      const r22 = rest[r + 2]!;
      const det = (ux * wy - uy * wx) * r11 * r22;
      if (!(det > 0)) return Infinity;
      const a = ux * r11;
      const c = uy * r11;
      const b = ux * r12 + wx * r22;
      const d = uy * r12 + wy * r22;
      sum += rest[r + 3]! * (a * a + b * b + c * c + d * d) * (1 + 1 / (det * det));
    }
    return sum;
  }

  private derivatives(x: number, y: number): void {
    const { rest, others, uv, gradient, count } = this;
    let gx = 0;
    let gy = 0;
    let hxx = 0;
    let hxy = 0;
    let hyy = 0;
    for (let k = 0, r = 0; k < count * 2; k += 2, r += 4) {
      const ux = uv[others[k]! * 2]! - x;
      const uy = uv[others[k]! * 2 + 1]! - y;
      const wx = uv[others[k + 1]! * 2]! - x;
      const wy = uv[others[k + 1]! * 2 + 1]! - y;
      const r11 = rest[r]!;
      const r12 = rest[r + 1]!;
      const r22 = rest[r + 2]!;
      const area = rest[r + 3]!;
      const det = (ux * wy - uy * wx) * r11 * r22;
      const a = ux * r11;
      const c = uy * r11;
      const b = ux * r12 + wx * r22;
      const d = uy * r12 + wy * r22;
      // J moves by −(r11, r12 + r22) a unit of x (row 1) and of y (row 2)
      const s0 = r11;
      const s1 = r12 + r22;
      const g = a * a + b * b + c * c + d * d;
      const g1 = -2 * (a * s0 + b * s1);
      const g2 = -2 * (c * s0 + d * s1);
      const d1 = (uy - wy) * r11 * r22;
      const d2 = (wx - ux) * r11 * r22;
      const i2 = 1 / (det * det);
      const i3 = i2 / det;
      const f = 1 + i2;
      const ss = 2 * (s0 * s0 + s1 * s1) * f;
      const m = 6 * g * i2 * i2;
      gx += area * (f * g1 - 2 * g * i3 * d1);
      gy += area * (f * g2 - 2 * g * i3 * d2);
      hxx += area * (ss + m * d1 * d1 - 4 * i3 * g1 * d1);
      hyy += area * (ss + m * d2 * d2 - 4 * i3 * g2 * d2);
      hxy += area * (m * d1 * d2 - 2 * i3 * (g1 * d2 + g2 * d1));
    }
    gradient[0] = gx;
    gradient[1] = gy;
    gradient[2] = hxx;
    gradient[3] = hxy;
    gradient[4] = hyy;
  }

  /** A way from `beside` that turns nothing over at first: between the two neighbours that both have, half the nearer one's distance long. */
  private opening(beside: number, star: readonly number[], v: number): [number, number] | null {
    const { uv } = this;
    const { corners } = this.work;
    // directions a way may lie to the left of, and to the right of
    const left: number[] = [];
    const right: number[] = [];
    for (const t of star) {
      const k = corners[t * 3] === v ? 0 : corners[t * 3 + 1] === v ? 1 : 2;
      const p = corners[t * 3 + ((k + 1) % 3)]!;
      const q = corners[t * 3 + ((k + 2) % 3)]!;
      // triangle (v, beside, q): v lies to the left of beside → q; triangle (v, p, beside): to the right of beside → p
      if (p === beside) left.push(uv[q * 2]! - uv[beside * 2]!, uv[q * 2 + 1]! - uv[beside * 2 + 1]!);
      else if (q === beside) right.push(uv[p * 2]! - uv[beside * 2]!, uv[p * 2 + 1]! - uv[beside * 2 + 1]!);
    }
    const [l, r] = [left.length > 0 ? portable.atan2(left[1]!, left[0]!) : null, right.length > 0 ? portable.atan2(right[1]!, right[0]!) : null];
    const size = Math.min(...[left, right].filter((d) => d.length > 0).map((d) => Math.hypot(d[0]!, d[1]!)));
    if (l === null && r === null) return null;
    let angle: number;
    if (l !== null && r !== null) {
      // counter-clockwise from l to r
      let turn = r - l;
      while (turn <= 0) turn += 2 * Math.PI;
      angle = l + turn / 2;
    } else angle = l !== null ? l + Math.PI / 3 : r! - Math.PI / 3;
    return [size * portable.cos(angle), size * portable.sin(angle)];
  }
}
