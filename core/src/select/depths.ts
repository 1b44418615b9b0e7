import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';

/** A view of the model: where things are in it, in px. */
export interface ModelView {
  /** Column-major 4 × 4: projection · view. */
  matrix: ArrayLike<number>;
  width: number;
  height: number;
}

/** A window of a view, in whole px; ends excluded. */
export interface PxWindow {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

/** Places as a view shows them: px across and down, and nearness. */
export interface Projected {
  px: Float64Array;
  py: Float64Array;
  /**
   * What grows towards the eye and is linear over the picture; −1 behind the eye. For views that narrow 1 / w (w: the fourth coordinate
   * after projection), for parallel ones lengths of the model, shifted above 0 within the depth range.
   */
  near: Float64Array;
}

const isParallel = (m: ArrayLike<number>) => m[3] === 0 && m[7] === 0 && m[11] === 0;

/** Projects places (3 numbers each). O(places). */
export function projectPlaces(places: Float64Array, view: ModelView): Projected {
  const count = Math.floor(places.length / 3);
  const px = new Float64Array(count);
  const py = new Float64Array(count);
  const near = new Float64Array(count);
  type Column = [number, number, number, number];
  const column = (k: number) => Array.from({ length: 4 }, (_, row) => view.matrix[k * 4 + row]!) as Column;
  const [[m0, m1, m2, m3], [m4, m5, m6, m7], [m8, m9, m10, m11], [m12, m13, m14, m15]] = [0, 1, 2, 3].map(column) as [Column, Column, Column, Column];
  const parallel = isParallel(view.matrix);
  const nearScale = 1 / (Math.hypot(m2, m6, m10) || 1);
  const halfWidth = view.width / 2;
  const halfHeight = view.height / 2;
  for (let p = 0, k = 0; p < count; p++, k += 3) {
    const x = places[k]!;
    const y = places[k + 1]!;
    const z = places[k + 2]!;
    const w = m3 * x + m7 * y + m11 * z + m15;
    px[p] = ((m0 * x + m4 * y + m8 * z + m12) / w + 1) * halfWidth;
    py[p] = (1 - (m1 * x + m5 * y + m9 * z + m13) / w) * halfHeight;
    near[p] = !(w > 0) ? -1 : parallel ? (2 - (m2 * x + m6 * y + m10 * z + m14)) * nearScale : 1 / w;
  }
  return { px, py, near };
}

/**
 * How far each px of a window of a view sees: the nearness of the nearest surface at the middle of the px, from either side; 0 is empty.
 * O(triangles + px covered). No graphics processor is asked, so that it runs in a worker.
 */
export class Depths {
  readonly near: Float32Array;
  /** 1 for each face that shows its back to the eye. */
  readonly away: Uint8Array;
  private readonly columns: number;
  private readonly rows: number;

  constructor(
    mesh: Mesh,
    readonly view: ModelView,
    readonly window: PxWindow,
    hidden: Uint8Array | null = null,
    projected: Projected = projectPlaces(mesh.points, view),
  ) {
    this.columns = Math.max(0, window.right - window.left);
    this.rows = Math.max(0, window.bottom - window.top);
    this.near = new Float32Array(this.columns * this.rows);
    this.away = new Uint8Array(mesh.faceStart.length - 1);
    this.draw(mesh, projected, hidden);
  }

  private draw(mesh: Mesh, projected: Projected, hidden: Uint8Array | null) {
    const { px, py, near } = projected;
    const { count, corners, face } = trianglesOf(mesh);
    const whole = new Uint32Array(count * 3);
    let used = 0;
    const cut: number[] = [];
    const [x0, y0] = [this.window.left, this.window.top];
    const [x1, y1] = [x0 + this.columns, y0 + this.rows];
    let lastFace = -1;
    for (let t = 0; t < count; t++) {
      const f = face[t]!;
      if (hidden !== null && hidden[f] === 1) continue;
      const a = mesh.corners[corners[t * 3]!]!;
      const b = mesh.corners[corners[t * 3 + 1]!]!;
      const c = mesh.corners[corners[t * 3 + 2]!]!;
      const ax = px[a]!;
      const ay = py[a]!;
      const bx = px[b]!;
      const by = py[b]!;
      const cx = px[c]!;
      const cy = py[c]!;
      // px run down, so that what faces the eye turns the other way round; a face is judged by its first triangle
      if (f !== lastFace) this.away[f] = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax) > 0 ? 1 : 0;
      lastFace = f;
      if (near[a]! > 0 && near[b]! > 0 && near[c]! > 0) {
        if ((ax < x0 && bx < x0 && cx < x0) || (ax > x1 && bx > x1 && cx > x1) || (ay < y0 && by < y0 && cy < y0) || (ay > y1 && by > y1 && cy > y1)) continue;
        whole[used++] = a;
        whole[used++] = b;
        whole[used++] = c;
      } else if (near[a]! > 0 || near[b]! > 0 || near[c]! > 0) cut.push(a, b, c);
    }
    this.fill(projected, whole.subarray(0, used));
    if (cut.length > 0) this.fillCut(mesh.points, cut);
  }

  /** Triangles that reach behind the eye: their parts before the eye. */
  private fillCut(points: Float64Array, ids: number[]) {
    const m = this.view.matrix;
    const places: number[] = [];
    const triangles: number[] = [];
    for (let t = 0; t < ids.length; t += 3) {
      const all = ids.slice(t, t + 3).map((p) => [points[p * 3]!, points[p * 3 + 1]!, points[p * 3 + 2]!] as const);
      const depth = all.map(([x, y, z]) => m[3]! * x + m[7]! * y + m[11]! * z + m[15]!);
      const least = Math.max(...depth) * 1e-3;
      const first = places.length / 3;
      for (let k = 0; k < 3; k++) {
        const n = (k + 1) % 3;
        if (depth[k]! >= least) places.push(...all[k]!);
        if (depth[k]! >= least === depth[n]! >= least) continue;
        const s = (least - depth[k]!) / (depth[n]! - depth[k]!);
        for (let d = 0; d < 3; d++) places.push(all[k]![d]! + s * (all[n]![d]! - all[k]![d]!));
      }
      for (let k = first + 1; k + 1 < places.length / 3; k++) triangles.push(first, k, k + 1);
    }
    this.fill(projectPlaces(Float64Array.from(places), this.view), Uint32Array.from(triangles));
  }

  /** Rows of px between the sides of each triangle. One loop without calls: doubles handed to functions would be boxed, half a million times. */
  private fill({ px, py, near: depth }: Projected, triangles: Uint32Array) {
    const { columns, rows, near } = this;
    // in px of the window, so that the middle of column k is at k
    const left = this.window.left + 0.5;
    const top = this.window.top + 0.5;
    for (let t = 0; t < triangles.length; t += 3) {
      const a = triangles[t]!;
      const b = triangles[t + 1]!;
      const c = triangles[t + 2]!;
      const ay = py[a]! - top;
      const by = py[b]! - top;
      const cy = py[c]! - top;
      const low = ay < by ? (ay < cy ? ay : cy) : by < cy ? by : cy;
      const high = ay > by ? (ay > cy ? ay : cy) : by > cy ? by : cy;
      const first = low > 0 ? Math.ceil(low) : 0;
      const last = high < rows - 1 ? Math.floor(high) : rows - 1;
      if (first > last) continue;
      const ax = px[a]! - left;
      const bx = px[b]! - left;
      const cx = px[c]! - left;
      // most triangles of a dense mesh hold the middle of no px
      const least = ax < bx ? (ax < cx ? ax : cx) : bx < cx ? bx : cx;
      const most = ax > bx ? (ax > cx ? ax : cx) : bx > cx ? bx : cx;
      if (Math.floor(most) < least) continue;
      const twice = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
      if (twice === 0) continue;
      const az = depth[a]!;
      const bz = (depth[b]! - az) / twice;
      const cz = (depth[c]! - az) / twice;
      const gx = bz * (cy - ay) - cz * (by - ay);
      const gy = cz * (bx - ax) - bz * (cx - ax);
      for (let y = first; y <= last; y++) {
        let from = Infinity;
        let to = -Infinity;
        if (ay <= y !== by <= y) {
          from = ax + ((y - ay) / (by - ay)) * (bx - ax);
          to = from;
        }
        if (by <= y !== cy <= y) {
          const x = bx + ((y - by) / (cy - by)) * (cx - bx);
          if (x < from) from = x;
          if (x > to) to = x;
        }
        if (cy <= y !== ay <= y) {
          const x = cx + ((y - cy) / (ay - cy)) * (ax - cx);
          if (x < from) from = x;
          if (x > to) to = x;
        }
        const start = from > 0 ? Math.ceil(from) : 0;
        const end = to < columns - 1 ? Math.floor(to) : columns - 1;
        let z = az + gx * (start - ax) + gy * (y - ay);
        for (let k = y * columns + start, stop = y * columns + end; k <= stop; k++, z += gx) if (z > near[k]!) near[k] = z;
      }
    }
  }

  /** Puts what another mesh shows in the same window of the same view before or behind this. O(px) */
  add({ near }: Depths): void {
    for (let k = 0; k < near.length; k++) if (near[k]! > this.near[k]!) this.near[k] = near[k]!;
  }

  /**
   * Clears the marks of places that are not in sight. The farthest of the nine px around a place counts, so that a slanted surface does
   * not hide itself, and `slack` (in lengths of the model) more. What shows its back is judged strictly: a px that sees nothing does not
   * bring it into sight, and only an eighth of the slack is granted, so that what lies just beyond the horizon of a round form is not
   * taken along. O(marked places).
   * @param away 1 for each place that shows its back
   */
  keepShown(marks: Uint8Array, places: Projected, away: Uint8Array, slack: number): void {
    const { columns, rows, near } = this;
    const parallel = isParallel(this.view.matrix);
    const lenient = farthestAround(near, columns, rows);
    const strict = farthestAround(
      near.map((x) => (x === 0 ? Infinity : x)),
      columns,
      rows,
    );
    const { left, top } = this.window;
    for (let p = 0; p < marks.length; p++) {
      if (marks[p] === 0) continue;
      const k = (Math.floor(places.py[p]!) - top) * columns + Math.floor(places.px[p]!) - left;
      const back = away[p] === 1;
      const farthest = back ? strict[k]! : lenient[k]!;
      if (farthest === 0 || farthest === Infinity) continue;
      const own = places.near[p]!;
      const allowed = back ? slack / 8 : slack;
      if (parallel ? own < farthest - allowed : 1 / own > 1 / farthest + allowed) marks[p] = 0;
    }
  }
}

/** The smallest of each px and its eight neighbours: along the rows, then along the columns. O(px). */
function farthestAround(near: Float32Array, columns: number, rows: number): Float32Array {
  const along = new Float32Array(near.length);
  for (let row = 0; row < rows; row++) {
    for (let k = row * columns, end = k + columns, first = k; k < end; k++) {
      let least = near[k]!;
      if (k > first && near[k - 1]! < least) least = near[k - 1]!;
      if (k + 1 < end && near[k + 1]! < least) least = near[k + 1]!;
      along[k] = least;
    }
  }
  const out = new Float32Array(near.length);
  for (let k = 0; k < near.length; k++) {
    let least = along[k]!;
    if (k >= columns && along[k - columns]! < least) least = along[k - columns]!;
    if (k + columns < near.length && along[k + columns]! < least) least = along[k + columns]!;
    out[k] = least;
  }
  return out;
}
