import Flatbush from 'flatbush';
import type { Prepared } from './conformal.ts';
import type { ExtraEnergy } from './isometric.ts';

/**
 * Keeps the border of a piece from crossing itself: each border vertex that comes nearer than a little to a border edge pays (ε/d − 1)², and no step
 * goes so far that one crosses. With a start that lies nowhere over itself, nothing ever does: a map without flips overlaps just where its
 * border does.
 *
 * Source: J. Smith, S. Schaefer, "Bijective Parameterization with Free Boundaries", SIGGRAPH 2015. The second derivatives are bounded by blocks
 * on the diagonal, so that the matrix keeps its pattern.
 *
 * @param options.near ε as a share of the mean border edge; default 0.1
 * @param options.weight price of one vertex at half of ε; default 1e-4 of a mean energy
 * O(B log B) a step for B border edges, beside the pairs that are near.
 */
export function borderBarrier(prepared: Pick<Prepared, 'border'>, start: Float64Array, options: { near?: number; weight?: number } = {}): ExtraEnergy {
  const { near = 0.1, weight = 1e-4 } = options;
  const { border } = prepared;
  const edges = border.length / 2;
  const vertices = [...new Set(border)];
  let length = 0;
  for (let k = 0; k < border.length; k += 2)
    length += Math.hypot(start[border[k]! * 2]! - start[border[k + 1]! * 2]!, start[border[k]! * 2 + 1]! - start[border[k + 1]! * 2 + 1]!);
  const reach = (near * length) / Math.max(1, edges);

  const indexOf = (uv: Float64Array, direction: Float64Array | null, step: number) => {
    const index = new Flatbush(Math.max(1, edges));
    for (let k = 0; k < edges; k++) {
      let [left, low, right, high] = [Infinity, Infinity, -Infinity, -Infinity];
      for (let end = 0; end < 2; end++) {
        const v = border[k * 2 + end]! * 2;
        for (let s = 0; s < (direction ? 2 : 1); s++) {
          const x = uv[v]! + (s ? step * direction![v]! : 0);
          const y = uv[v + 1]! + (s ? step * direction![v + 1]! : 0);
          left = Math.min(left, x);
          right = Math.max(right, x);
          low = Math.min(low, y);
          high = Math.max(high, y);
        }
      }
      index.add(left - reach, low - reach, right + reach, high + reach);
    }
    if (edges === 0) index.add(0, 0, 0, 0);
    index.finish();
    return index;
  };

  const eachPair = (uv: Float64Array, visit: (v: number, a: number, b: number, d: number, t: number, nx: number, ny: number) => void) => {
    if (edges === 0) return;
    const index = indexOf(uv, null, 0);
    for (const v of vertices) {
      const [x, y] = [uv[v * 2]!, uv[v * 2 + 1]!];
      for (const k of index.search(x, y, x, y)) {
        const a = border[k * 2]!;
        const b = border[k * 2 + 1]!;
        if (a === v || b === v) continue;
        const [ax, ay] = [uv[a * 2]!, uv[a * 2 + 1]!];
        const [ex, ey] = [uv[b * 2]! - ax, uv[b * 2 + 1]! - ay];
        const t = Math.max(0, Math.min(1, ((x - ax) * ex + (y - ay) * ey) / (ex * ex + ey * ey || 1)));
        const [dx, dy] = [x - ax - t * ex, y - ay - t * ey];
        const d = Math.sqrt(dx * dx + dy * dy);
        if (d < reach) visit(v, a, b, d, t, d > 0 ? dx / d : 0, d > 0 ? dy / d : 0);
      }
    }
  };

  return {
    value(uv) {
      let sum = 0;
      eachPair(uv, (_v, _a, _b, d) => {
        sum += weight * (reach / d - 1) ** 2;
      });
      return Number.isNaN(sum) ? Infinity : sum;
    },
    derivatives(uv, gradient, diagonal) {
      eachPair(uv, (v, a, b, d, t, nx, ny) => {
        if (d === 0) return;
        const slope = (-2 * weight * (reach / d - 1) * reach) / (d * d);
        const bend = 2 * weight * (reach ** 2 / d ** 4 + (2 * (reach / d - 1) * reach) / d ** 3);
        for (const [w, share] of [
          [v, 1],
          [a, t - 1],
          [b, -t],
        ] as const) {
          gradient[w * 2]! += slope * share * nx;
          gradient[w * 2 + 1]! += slope * share * ny;
          // (Σ cₖ xₖ)² ≤ Σ|c| · Σ |cₖ| xₖ², and Σ|c| = 2
          const most = 2 * bend * Math.abs(share);
          diagonal[w * 3]! += most * nx * nx;
          diagonal[w * 3 + 1]! += most * nx * ny;
          diagonal[w * 3 + 2]! += most * ny * ny;
        }
      });
    },
    largestStep(uv, direction) {
      if (edges === 0) return Infinity;
      let least = 1;
      let hit = false;
      const index = indexOf(uv, direction, 1);
      for (const v of vertices) {
        const [x, y] = [uv[v * 2]!, uv[v * 2 + 1]!];
        const [dx, dy] = [direction[v * 2]!, direction[v * 2 + 1]!];
        for (const k of index.search(Math.min(x, x + dx), Math.min(y, y + dy), Math.max(x, x + dx), Math.max(y, y + dy))) {
          const a = border[k * 2]!;
          const b = border[k * 2 + 1]!;
          if (a === v || b === v) continue;
          const s = meeting(uv, direction, v, a, b, least);
          if (s < least) {
            least = s;
            hit = true;
          }
        }
      }
      return hit ? 0.8 * least : Infinity;
    },
  };
}

/** The first time up to `most` at which a moving point meets a moving segment, or Infinity: roots of their area, the point between the ends. */
function meeting(uv: Float64Array, direction: Float64Array, v: number, a: number, b: number, most: number): number {
  const ax = uv[v * 2]! - uv[a * 2]!;
  const ay = uv[v * 2 + 1]! - uv[a * 2 + 1]!;
  const ex = uv[b * 2]! - uv[a * 2]!;
  const ey = uv[b * 2 + 1]! - uv[a * 2 + 1]!;
  const cx = direction[v * 2]! - direction[a * 2]!;
  const cy = direction[v * 2 + 1]! - direction[a * 2 + 1]!;
  const fx = direction[b * 2]! - direction[a * 2]!;
  const fy = direction[b * 2 + 1]! - direction[a * 2 + 1]!;
  const q = fx * cy - fy * cx;
  const l = ex * cy - ey * cx + fx * ay - fy * ax;
  const o = ex * ay - ey * ax;
  const root = l * l - 4 * q * o;
  if (root < 0) return Infinity;
  const r = -0.5 * (l + (l < 0 ? -1 : 1) * Math.sqrt(root));
  let first = Infinity;
  for (const s of [q !== 0 ? r / q : Infinity, r !== 0 ? o / r : Infinity]) {
    if (!(s >= 0) || s > most || s >= first) continue;
    const gx = ex + s * fx;
    const gy = ey + s * fy;
    const along = ((ax + s * cx) * gx + (ay + s * cy) * gy) / (gx * gx + gy * gy || 1);
    if (along >= -1e-6 && along <= 1 + 1e-6) first = s;
  }
  return first;
}
