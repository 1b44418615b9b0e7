import Flatbush from 'flatbush';
import type { Prepared } from './prepared.ts';
import type { ExtraEnergy } from './isometric.ts';

/** Numbers of pairs that are kept from one step for its energies: some 16 MB. */
const mostKept = 4e6;

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

  /** Vertices and edges that may come near one another, 2 numbers a pair, while each vertex stays within its box (left, low, right, high). */
  let pairs = new Int32Array(0);
  const boxes = new Float64Array(vertices.length * 4).fill(NaN);
  const find = (uv: Float64Array, direction: Float64Array | null, step: number, each?: (v: number, edge: number) => void) => {
    const index = new Flatbush(Math.max(1, edges));
    const to = (k: number) => uv[k]! + (direction ? step * direction[k]! : 0);
    for (let k = 0; k < edges; k++) {
      const a = border[k * 2]! * 2;
      const b = border[k * 2 + 1]! * 2;
      index.add(
        Math.min(uv[a]!, uv[b]!, to(a), to(b)) - reach,
        Math.min(uv[a + 1]!, uv[b + 1]!, to(a + 1), to(b + 1)) - reach,
        Math.max(uv[a]!, uv[b]!, to(a), to(b)) + reach,
        Math.max(uv[a + 1]!, uv[b + 1]!, to(a + 1), to(b + 1)) + reach,
      );
    }
    if (edges === 0) index.add(0, 0, 0, 0);
    index.finish();
    const found: number[] = [];
    let vertex = 0;
    const take = (k: number) => {
      if (border[k * 2] === vertex || border[k * 2 + 1] === vertex) return false;
      if (found.length < mostKept) found.push(vertex, k);
      each?.(vertex, k);
      return false;
    };
    for (let i = 0; i < vertices.length && edges > 0; i++) {
      vertex = vertices[i]!;
      const x = uv[vertex * 2]!;
      const y = uv[vertex * 2 + 1]!;
      const box = [Math.min(x, to(vertex * 2)), Math.min(y, to(vertex * 2 + 1)), Math.max(x, to(vertex * 2)), Math.max(y, to(vertex * 2 + 1))] as const;
      boxes.set(box, i * 4);
      index.search(...box, take);
    }
    pairs = Int32Array.from(found);
    // of a wild step they are not kept
    if (found.length >= mostKept) boxes.fill(NaN);
  };
  /** Pairs of the last step serve as long as the map lies on its way. */
  const within = (uv: Float64Array) => {
    for (let i = 0; i < vertices.length; i++) {
      const x = uv[vertices[i]! * 2]!;
      const y = uv[vertices[i]! * 2 + 1]!;
      if (!(x >= boxes[i * 4]! && y >= boxes[i * 4 + 1]! && x <= boxes[i * 4 + 2]! && y <= boxes[i * 4 + 3]!)) return false;
    }
    return true;
  };

  const eachPair = (uv: Float64Array, visit: (v: number, a: number, b: number, d: number, t: number, nx: number, ny: number) => void) => {
    if (!within(uv)) find(uv, null, 0);
    for (let k = 0; k < pairs.length; k += 2) {
      const v = pairs[k]!;
      const a = border[pairs[k + 1]! * 2]!;
      const b = border[pairs[k + 1]! * 2 + 1]!;
      const { t, d, nx, ny } = nearest(uv, v, a, b);
      if (d < reach) visit(v, a, b, d, t, nx, ny);
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
    largestStep(uv, direction, most) {
      let least = most;
      find(uv, direction, most, (v, edge) => {
        const s = meeting(uv, direction, v, border[edge * 2]!, border[edge * 2 + 1]!, least);
        if (s < least) least = s;
      });
      return least < most ? 0.8 * least : Infinity;
    },
    obstacles(uv, direction, most, slow) {
      find(uv, direction, most, (v, edge) => {
        const a = border[edge * 2]!;
        const b = border[edge * 2 + 1]!;
        if (!(meeting(uv, direction, v, a, b, most) <= most)) return;
        const { t, d, nx, ny } = nearest(uv, v, a, b);
        const along = (w: number) => direction[w * 2]! * nx + direction[w * 2 + 1]! * ny;
        // both sides give way alike, so that most of what is between them is left
        const less = -(0.2 * d) / most - (along(v) - (1 - t) * along(a) - t * along(b));
        if (!(less > 0)) return;
        slow(v, nx, ny, along(v) + less / 2, 1);
        slow(a, nx, ny, along(a) - less / 2, 1 - t);
        slow(b, nx, ny, along(b) - less / 2, t);
      });
    },
  };
}

/** Where along a segment a point is nearest to it (0 … 1), how near, and the direction from there to the point. */
function nearest(uv: Float64Array, v: number, a: number, b: number): { t: number; d: number; nx: number; ny: number } {
  const x = uv[v * 2]!;
  const y = uv[v * 2 + 1]!;
  const ax = uv[a * 2]!;
  const ay = uv[a * 2 + 1]!;
  const ex = uv[b * 2]! - ax;
  const ey = uv[b * 2 + 1]! - ay;
  const t = Math.max(0, Math.min(1, ((x - ax) * ex + (y - ay) * ey) / (ex * ex + ey * ey || 1)));
  const dx = x - ax - t * ex;
  const dy = y - ay - t * ey;
  const d = Math.sqrt(dx * dx + dy * dy);
  return { t, d, nx: d > 0 ? dx / d : 0, ny: d > 0 ? dy / d : 0 };
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
