import type { Piece } from '../unwrap/piece.ts';
import { uprightTurn } from '../unwrap/heading.ts';
import { borderLoops } from './strip.ts';
import * as portable from '../numeric/portable.ts';

/** What an island is turned by: the model's up runs up the sheet; its box is least; its longest straight border is level. */
export const islandTurns = ['up', 'leastBox', 'longestEdge'] as const;
export type IslandTurn = (typeof islandTurns)[number];

/** Half edges of the border that turn by less than this are one straight run, radians. */
const straightWithin = 0.03;

/**
 * The turn that does it, radians counterclockwise. @param at 2 numbers a vertex of the piece, a unit square on the sheet
 * O(triangles; hull corners² for the least box)
 */
export function turnOfIsland(piece: Pick<Piece, 'positions' | 'triangles' | 'vertices'>, at: Float64Array, to: IslandTurn): number {
  if (to === 'up') {
    const { cos, sin } = uprightTurn(piece, at);
    return portable.atan2(sin, cos);
  }
  return to === 'leastBox' ? leastBoxTurn(at) : longestRunTurn(piece, at);
}

/** Into −45° … 45°: a level line turned by quarters is level or upright. */
const toNearest = (angle: number) => {
  const quarter = Math.PI / 2;
  return -(angle - Math.round(angle / quarter) * quarter);
};

/**
 * The least box has a side along one of the hull's (H. Freeman, R. Shapira, "Determining the Minimum-Area Encasing Rectangle for an Arbitrary Closed Curve",
 * 1975; from memory).
 */
function leastBoxTurn(at: Float64Array): number {
  const hull = hullOf(at);
  let [best, area] = [0, Infinity];
  for (let k = 0; k < hull.length; k++) {
    const [a, b] = [hull[k]!, hull[(k + 1) % hull.length]!];
    const angle = portable.atan2(b[1] - a[1], b[0] - a[0]);
    const [cos, sin] = [portable.cos(angle), portable.sin(angle)];
    let [left, low, right, high] = [Infinity, Infinity, -Infinity, -Infinity];
    for (const [x, y] of hull) {
      const [u, v] = [cos * x + sin * y, -sin * x + cos * y];
      [left, right, low, high] = [Math.min(left, u), Math.max(right, u), Math.min(low, v), Math.max(high, v)];
    }
    const own = (right - left) * (high - low);
    if (own >= area - 1e-15 * Math.abs(area)) continue;
    area = own;
    best = angle;
  }
  return toNearest(best);
}

/** Corners of the convex hull, counterclockwise (A. Andrew's monotone chain, 1979). O(n log n) */
export function hullOf(at: ArrayLike<number>): [number, number][] {
  const points = Array.from({ length: at.length / 2 }, (_, k): [number, number] => [at[k * 2]!, at[k * 2 + 1]!]).sort((a, b) => a[0] - b[0] || a[1] - b[1]);
  const half = (list: [number, number][]) => {
    const out: [number, number][] = [];
    for (const p of list) {
      for (;;) {
        const [a, b] = [out.at(-2), out.at(-1)];
        if (!a || !b || (b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]) > 0) break;
        out.pop();
      }
      out.push(p);
    }
    return out.slice(0, -1);
  };
  return [...half(points), ...half([...points].reverse())];
}

function longestRunTurn(piece: Pick<Piece, 'triangles' | 'vertices'>, at: Float64Array): number {
  let [best, longest] = [0, 0];
  for (const loop of borderLoops(piece)) {
    const angleOf = (k: number) => {
      const [a, b] = [loop[k % loop.length]! * 2, loop[(k + 1) % loop.length]! * 2];
      return portable.atan2(at[b + 1]! - at[a + 1]!, at[b]! - at[a]!);
    };
    const bends = (k: number) =>
      Math.abs(portable.atan2(portable.sin(angleOf(k) - angleOf(k - 1 + loop.length)), portable.cos(angleOf(k) - angleOf(k - 1 + loop.length)))) >
      straightWithin;
    const start = Math.max(0, [...loop.keys()].findIndex(bends));
    let from = start;
    for (let k = start + 1; k <= start + loop.length; k++) {
      if (k < start + loop.length && !bends(k % loop.length)) continue;
      const [a, b] = [loop[from % loop.length]! * 2, loop[k % loop.length]! * 2];
      const [x, y] = [at[b]! - at[a]!, at[b + 1]! - at[a + 1]!];
      if (Math.hypot(x, y) > longest + 1e-12) {
        longest = Math.hypot(x, y);
        best = portable.atan2(y, x);
      }
      from = k;
    }
  }
  return toNearest(best);
}
