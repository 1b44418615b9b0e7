import Flatbush from 'flatbush';
import { quietContext, type Context } from '../context.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { islandsOf } from '../uv/islands.ts';
import { clearIslands } from './clearIslands.ts';
import { rasterOverlap } from './rasterOverlap.ts';
import { polygonArea, unionArea } from './unionArea.ts';

export interface OverlapFigures {
  /** Area of the sheet (1 = the whole sheet) that is covered more than once. */
  overlapArea: number;
  /** Area covered at least once, inside the sheet or not. */
  coveredArea: number;
  /** 1 for each face that shares area with another. */
  overlapping: Uint8Array;
  /** It lies over itself so many times that the areas are counted on a raster. */
  counted: boolean;
}

/** Pairs of triangles looked at, and of polygons joined, beyond which all is counted on a raster. They take about a quarter of a second. */
const mostWork = 5e5;

/** The same for pairs whose boxes meet and that do not overlap: long slivers have boxes far larger than themselves. */
const mostLooks = 3e7;

/**
 * Exact overlap of a layout. Pairs of triangles come from a spatial index (flatbush: a packed Hilbert R-tree); each pair is cut to its
 * common convex polygon. Islands that surely overlap nothing are left out (see `clearIslands`). A triangle's share of what is covered once, and of what is covered more than once, follows from the union of
 * those polygons, counted at the triangle of lowest number only.
 * O(T log T + pairs); where the pairs would take seconds, all is counted on a raster (see `rasterOverlap`).
 */
export function overlapFigures(mesh: Mesh, set: UvSet, context: Context = quietContext): OverlapFigures {
  const triangles = trianglesOf(mesh);
  const overlapping = new Uint8Array(mesh.faceStart.length - 1);
  const list: number[] = [];
  // most layouts overlap nowhere, which their outlines tell far sooner
  const clear = clearIslands(mesh, set);
  const { ofFace } = islandsOf(mesh, set);
  let clearArea = 0;
  for (let t = 0; t < triangles.count; t++) {
    const f = triangles.face[t]!;
    if (set.unplaced[f]) continue;
    if (clear[ofFace[f]!]) clearArea += Math.abs(twiceArea(set, triangles.corners, t)) / 2;
    else list.push(t);
  }
  if (list.length === 0) return { overlapArea: 0, coveredArea: clearArea, overlapping, counted: false };
  const n = list.length;
  // 6 numbers a triangle, counter-clockwise whatever way it lies
  const xy = new Float64Array(n * 6);
  const ids = new Uint32Array(n * 3);
  const areas = new Float64Array(n);
  const upright = new Uint8Array(n);
  const index = new Flatbush(n);
  for (let k = 0; k < n; k++) {
    const t = list[k]!;
    const [i, j, m] = [0, 1, 2].map((v) => set.cornerUv[triangles.corners[t * 3 + v]!]!) as [number, number, number];
    const twice =
      (set.uv[j * 2]! - set.uv[i * 2]!) * (set.uv[m * 2 + 1]! - set.uv[i * 2 + 1]!) -
      (set.uv[m * 2]! - set.uv[i * 2]!) * (set.uv[j * 2 + 1]! - set.uv[i * 2 + 1]!);
    upright[k] = twice > 0 ? 1 : 0;
    const order = twice >= 0 ? [i, j, m] : [i, m, j];
    areas[k] = Math.abs(twice) / 2;
    let minX = Infinity,
      minY = Infinity,
      maxX = -Infinity,
      maxY = -Infinity;
    for (let v = 0; v < 3; v++) {
      const x = set.uv[order[v]! * 2]!;
      const y = set.uv[order[v]! * 2 + 1]!;
      ids[k * 3 + v] = order[v]!;
      xy[k * 6 + v * 2] = x;
      xy[k * 6 + v * 2 + 1] = y;
      minX = Math.min(minX, x);
      maxX = Math.max(maxX, x);
      minY = Math.min(minY, y);
      maxY = Math.max(maxY, y);
    }
    index.add(minX, minY, maxX, maxY);
  }
  index.finish();

  let overlapArea = 0;
  let coveredArea = clearArea;
  let work = 0;
  let looks = 0;
  const clipped = new Clipper();
  for (let k = 0; k < n; k++) {
    if ((k & 1023) === 0) {
      context.throwIfCancelled();
      context.progress(k / n, 'Looking for overlaps');
    }
    if (!(areas[k]! > 0)) continue;
    const o = k * 6;
    const near = index.search(
      Math.min(xy[o]!, xy[o + 2]!, xy[o + 4]!),
      Math.min(xy[o + 1]!, xy[o + 3]!, xy[o + 5]!),
      Math.max(xy[o]!, xy[o + 2]!, xy[o + 4]!),
      Math.max(xy[o + 1]!, xy[o + 3]!, xy[o + 5]!),
    );
    looks += near.length;
    const lower: Float64Array[] = [];
    const higher: Float64Array[] = [];
    for (const m of near) {
      if (m === k || !(areas[m]! > 0)) continue;
      // two triangles on the two sides of a shared edge, lying the same way, cannot overlap
      if (upright[m] === upright[k] && sharesEdge(ids, k, m)) continue;
      if (apart(xy, k, m)) continue;
      const polygon = clipped.clip(xy, k, m);
      if (!polygon) continue;
      if (polygonArea(polygon) <= 1e-9 * Math.min(areas[k]!, areas[m]!)) continue;
      overlapping[triangles.face[list[k]!]!] = 1;
      overlapping[triangles.face[list[m]!]!] = 1;
      (m < k ? lower : higher).push(polygon);
    }
    const met = Math.min(64, lower.length + higher.length);
    if (met > 0) work += near.length + met * met;
    if (work > mostWork || looks > mostLooks) {
      const found = rasterOverlap(xy);
      for (let i = 0; i < n; i++) if (found.overlapping[i]) overlapping[triangles.face[list[i]!]!] = 1;
      return { overlapArea: found.overlapArea, coveredArea: clearArea + found.coveredArea, overlapping, counted: true };
    }
    if (lower.length === 0 && higher.length === 0) {
      coveredArea += areas[k]!;
      continue;
    }
    const covered = unionArea(lower, areas[k]!);
    coveredArea += areas[k]! - covered;
    overlapArea += Math.max(0, unionArea([...lower, ...higher], areas[k]!) - covered);
  }
  return { overlapArea, coveredArea, overlapping, counted: false };
}

/** Positive where the triangle turns counter-clockwise. */
function twiceArea({ uv, cornerUv }: UvSet, corners: Uint32Array, t: number): number {
  const [i, j, m] = [cornerUv[corners[t * 3]!]! * 2, cornerUv[corners[t * 3 + 1]!]! * 2, cornerUv[corners[t * 3 + 2]!]! * 2];
  return (uv[j]! - uv[i]!) * (uv[m + 1]! - uv[i + 1]!) - (uv[m]! - uv[i]!) * (uv[j + 1]! - uv[i + 1]!);
}

function sharesEdge(ids: Uint32Array, k: number, m: number): boolean {
  let shared = 0;
  for (let a = 0; a < 3; a++) for (let b = 0; b < 3; b++) if (ids[k * 3 + a] === ids[m * 3 + b]) shared++;
  return shared === 2;
}

/** Is there a line along an edge of one that has the other wholly on its far side (touching counts as apart)? */
function apart(xy: Float64Array, k: number, m: number): boolean {
  for (let side = 0; side < 2; side++) {
    const p = (side === 0 ? k : m) * 6;
    const q = (side === 0 ? m : k) * 6;
    for (let v = 0; v < 6; v += 2) {
      const ax = xy[p + v]!,
        ay = xy[p + v + 1]!;
      const n = (v + 2) % 6;
      const ex = xy[p + n]! - ax,
        ey = xy[p + n + 1]! - ay;
      let inside = false;
      for (let w = 0; w < 6; w += 2) {
        if (ex * (xy[q + w + 1]! - ay) - ey * (xy[q + w]! - ax) > 0) {
          inside = true;
          break;
        }
      }
      if (!inside) return true;
    }
  }
  return false;
}

/** Twice-reused buffers for cutting one triangle by another (I. Sutherland, G. Hodgman, "Reentrant Polygon Clipping", CACM 17, 1974). */
class Clipper {
  private from = new Float64Array(32);
  private to = new Float64Array(32);

  clip(xy: Float64Array, k: number, m: number): Float64Array | null {
    let count = 3;
    for (let v = 0; v < 6; v++) this.from[v] = xy[k * 6 + v]!;
    for (let v = 0; v < 6 && count > 0; v += 2) {
      const ax = xy[m * 6 + v]!,
        ay = xy[m * 6 + v + 1]!;
      const n = (v + 2) % 6;
      const ex = xy[m * 6 + n]! - ax,
        ey = xy[m * 6 + n + 1]! - ay;
      let out = 0;
      for (let p = 0; p < count; p++) {
        const q = (p + 1) % count;
        const px = this.from[p * 2]!,
          py = this.from[p * 2 + 1]!;
        const qx = this.from[q * 2]!,
          qy = this.from[q * 2 + 1]!;
        const dp = ex * (py - ay) - ey * (px - ax);
        const dq = ex * (qy - ay) - ey * (qx - ax);
        if (dp >= 0) {
          this.to[out++] = px;
          this.to[out++] = py;
        }
        if ((dp > 0 && dq < 0) || (dp < 0 && dq > 0)) {
          const t = dp / (dp - dq);
          this.to[out++] = px + t * (qx - px);
          this.to[out++] = py + t * (qy - py);
        }
      }
      count = out / 2;
      [this.from, this.to] = [this.to, this.from];
    }
    return count >= 3 ? this.from.slice(0, count * 2) : null;
  }
}
