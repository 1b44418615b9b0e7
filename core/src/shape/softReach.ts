import Flatbush from 'flatbush';
import TinyQueue from 'tinyqueue';
import { faceCount, nextCorner, type Mesh } from '../mesh/mesh.ts';
import type { UvSet } from '../uv/uvSet.ts';

/** Shares fall off with the distance on the sheet, or only where one gets from what is moved over faces of its own island. */
export const softWays = ['sheet', 'island'] as const;
export type SoftWay = (typeof softWays)[number];

/** 1 at distance 0, 0 from the radius on, level at both ends. */
const shareAt = (d: number, radius: number) => (d >= radius ? 0 : (1 - (d / radius) ** 2) ** 2);

/**
 * UV points that go along with others, and their share of the way.
 * @param points what is moved whole
 * @param radius in heights of the sheet
 * @param aspect width over height of the sheet
 * O((points + those near) log points)
 */
export function softReach(
  mesh: Mesh,
  set: UvSet,
  points: ArrayLike<number>,
  radius: number,
  way: SoftWay,
  aspect: number,
): { points: Uint32Array; share: Float64Array } {
  const distance = way === 'sheet' ? overSheet(mesh, set, points, radius, aspect) : overIsland(mesh, set, points, radius, aspect);
  const found = [...distance].filter(([, d]) => d < radius).sort((a, b) => a[0] - b[0]);
  return { points: Uint32Array.from(found, ([p]) => p), share: Float64Array.from(found, ([, d]) => shareAt(d, radius)) };
}

function overSheet(mesh: Mesh, set: UvSet, points: ArrayLike<number>, radius: number, aspect: number): Map<number, number> {
  const out = new Map<number, number>();
  if (points.length === 0) return out;
  const tree = new Flatbush(points.length);
  for (let k = 0; k < points.length; k++) tree.add(set.uv[points[k]! * 2]! * aspect, set.uv[points[k]! * 2 + 1]!);
  tree.finish();
  for (let f = 0; f < faceCount(mesh); f++) {
    if (set.unplaced[f]) continue;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const p = set.cornerUv[c]!;
      if (out.has(p)) continue;
      const [x, y] = [set.uv[p * 2]! * aspect, set.uv[p * 2 + 1]!];
      const [near] = tree.neighbors(x, y, 1, radius);
      out.set(p, near === undefined ? Infinity : Math.hypot(set.uv[points[near]! * 2]! * aspect - x, set.uv[points[near]! * 2 + 1]! - y));
    }
  }
  return out;
}

function overIsland(mesh: Mesh, set: UvSet, points: ArrayLike<number>, radius: number, aspect: number): Map<number, number> {
  const next = new Map<number, number[]>();
  const link = (a: number, b: number) => (next.get(a) ?? next.set(a, []).get(a)!).push(b);
  for (let f = 0; f < faceCount(mesh); f++) {
    if (set.unplaced[f]) continue;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const [a, b] = [set.cornerUv[c]!, set.cornerUv[nextCorner(mesh, c, f)]!];
      link(a, b);
      link(b, a);
    }
  }
  const out = new Map<number, number>();
  const queue = new TinyQueue<{ d: number; p: number }>(
    Array.from(points, (p) => ({ d: 0, p })),
    (a, b) => a.d - b.d || a.p - b.p,
  );
  for (let item = queue.pop(); item; item = queue.pop()) {
    const { d, p } = item;
    if (out.has(p)) continue;
    out.set(p, d);
    for (const q of next.get(p) ?? []) {
      const to = d + Math.hypot((set.uv[q * 2]! - set.uv[p * 2]!) * aspect, set.uv[q * 2 + 1]! - set.uv[p * 2 + 1]!);
      if (to < radius && !out.has(q)) queue.push({ d: to, p: q });
    }
  }
  return out;
}
