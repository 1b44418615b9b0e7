import { beforeAll, describe, expect, it } from 'vitest';
import { edgeLoop } from '../select/loop.ts';
import { heightField } from '../mesh/starterForms.ts';
import { topologyOf } from '../mesh/topology.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { cut } from '../seams/cut.ts';
import { emptyUvSet, type UvSet } from '../uv/uvSet.ts';
import { uncut } from '../seams/uncut.ts';
import { quietContext, type Context } from '../context.ts';
import { flipCount, solveIsland, type IslandTask } from './solveIsland.ts';
import { pieceOf } from './piece.ts';
import { openPatch } from './openPatch.ts';
import { unwrapIslands } from './unwrapIslands.ts';

// a hill: cut from its top down it opens
const mesh = heightField(80, 80, (u, v) => [u, v, 0.5 * Math.exp(-12 * ((u - 0.5) ** 2 + (v - 0.5) ** 2))]);
const { edgePoints, pointStart, pointCorners, cornerFace } = topologyOf(mesh);
/** Edges along v = 0.5 from u to u. */
const row = (from: number, to: number) =>
  Array.from({ length: edgePoints.length / 2 }, (_, e) => e).filter((e) => {
    const [p, q] = [edgePoints[e * 2]! * 3, edgePoints[e * 2 + 1]! * 3];
    const [x, y] = [mesh.points[p]!, mesh.points[q]!];
    return (
      Math.abs(mesh.points[p + 1]! - 0.5) < 1e-9 && Math.abs(mesh.points[q + 1]! - 0.5) < 1e-9 && Math.min(x, y) >= from - 1e-9 && Math.max(x, y) <= to + 1e-9
    );
  });
let flat: UvSet;
beforeAll(async () => {
  flat = (await unwrapIslands(mesh, emptyUvSet(mesh), 'all', 'isometric')).set;
});

/** How far the ends of edges lie from where another layout of the same UV points has them. */
function farthest(a: UvSet, b: UvSet, edges: number[]): number {
  let most = 0;
  for (const e of edges)
    for (const p of [edgePoints[e * 2]!, edgePoints[e * 2 + 1]!])
      for (let k = pointStart[p]!; k < pointStart[p + 1]!; k++) {
        const id = a.cornerUv[pointCorners[k]!]! * 2;
        most = Math.max(most, Math.hypot(a.uv[id]! - b.uv[id]!, a.uv[id + 1]! - b.uv[id + 1]!));
      }
  return most;
}

describe('the places round a fresh cut', () => {
  it('open as they will in the end, most of the way; what lies farther off stays; no flip', async () => {
    const edges = row(0.5, 0.6);
    const set = cut(mesh, flat, edges).set;
    const patch = openPatch(mesh, set, edges)!;
    const { set: end } = await unwrapIslands(mesh, set, [0], 'isometric', undefined, { warm: true });
    expect(end.cornerUv).toEqual(set.cornerUv);
    const way = farthest(set, end, edges);
    expect(way).toBeGreaterThan(0.001);
    expect(farthest(patch, end, edges)).toBeLessThan(0.5 * way);
    const { triangles, uvPoint, vertices } = pieceOf(mesh, patch, 0);
    expect(
      flipCount(
        triangles,
        Float64Array.from({ length: vertices * 2 }, (_, k) => patch.uv[uvPoint[k >> 1]! * 2 + (k & 1)]!),
      ),
    ).toBe(0);
    let moved = 0;
    for (let k = 0; k < set.uv.length; k += 2) if (set.uv[k] !== patch.uv[k] || set.uv[k + 1] !== patch.uv[k + 1]) moved++;
    expect(moved).toBeGreaterThan(150);
    expect(moved).toBeLessThan(1000);
  });

  it('lie mirrored as they did, and pins do not move', () => {
    const edges = row(0.5, 0.6);
    const mirrored = { ...flat, uv: flat.uv.map((x, k) => (k % 2 === 0 ? 1 - x : x)), pins: flat.pins.slice() };
    const near = flat.cornerUv[pointCorners[pointStart[edgePoints[edges[2]! * 2]!]!]!]!;
    mirrored.pins[near] = 1;
    const a = openPatch(mesh, cut(mesh, mirrored, edges).set, edges)!;
    expect([a.uv[near * 2], a.uv[near * 2 + 1]]).toEqual([mirrored.uv[near * 2], mirrored.uv[near * 2 + 1]]);
    const b = openPatch(mesh, cut(mesh, { ...mirrored, pins: flat.pins }, edges).set, edges)!;
    const straight = openPatch(mesh, cut(mesh, flat, edges).set, edges)!;
    for (let k = 0; k < b.uv.length; k += 2) expect(b.uv[k]).toBeCloseTo(1 - straight.uv[k]!, 6);
  });

  it('are left to the whole solve where edges are many, have no place, or lie turned over', () => {
    const edges = row(0.5, 0.6);
    expect(openPatch(mesh, cut(mesh, flat, row(0, 1)).set, row(0, 1), { triangles: 300 })).toBeNull();
    const bare = cut(mesh, emptyUvSet(mesh), edges).set;
    expect(openPatch(mesh, { ...bare, unplaced: bare.unplaced.map(() => 1) }, edges)).toBeNull();
    const set = cut(mesh, flat, edges).set;
    const uv = set.uv.slice();
    // one point across its neighbours
    const id = set.cornerUv[mesh.faceStart[cornerFace[pointCorners[pointStart[edgePoints[edges[0]! * 2]!]!]!]!]!]!;
    uv[id * 2]! += 0.2;
    expect(openPatch(mesh, { ...set, uv }, edges)).toBeNull();
  });

  it('cost the same on a mesh of any size: no more triangles than asked, about', () => {
    const edges = edgeLoop(mesh, row(0.5, 0.6)[0]!).slice(0, 3);
    const set = cut(mesh, flat, edges).set;
    const patch = openPatch(mesh, set, edges, { triangles: 200 })!;
    const all = trianglesOf(mesh);
    let moved = 0;
    for (let f = 0; f + 1 < all.faceStart.length; f++)
      if ([0, 1, 2, 3].some((k) => patch.uv[set.cornerUv[mesh.faceStart[f]! + k]! * 2] !== set.uv[set.cornerUv[mesh.faceStart[f]! + k]! * 2])) moved += 2;
    expect(moved).toBeLessThan(260);
  });
});

describe('the order of elimination after a change of seams', () => {
  it('is the earlier one after a cut, and found again for what two pieces were joined to', async () => {
    const across = row(0, 1);
    const tasks: IslandTask[] = [];
    const context: Context = {
      ...quietContext,
      pool: {
        solve: (list) => {
          tasks.push(...list);
          return Promise.resolve(list.map((task) => solveIsland(task)));
        },
      },
    };
    const own = { ...mesh };
    const whole = (await unwrapIslands(own, flat, 'all', 'conformal', context)).set;
    const slit = cut(own, whole, row(0.5, 0.6)).set;
    await unwrapIslands(own, slit, 'all', 'conformal', context, { warm: true });
    expect(tasks.at(-1)!.rank).toBeDefined();
    const halves = (await unwrapIslands(own, cut(own, whole, across).set, 'all', 'conformal', context)).set;
    expect(tasks).toHaveLength(4);
    await unwrapIslands(own, cut(own, halves, row(0.5, 0.6)).set, 'all', 'conformal', context, { warm: true });
    expect(tasks.slice(4).map(({ rank }) => rank !== undefined)).toEqual([true, true]);
    await unwrapIslands(own, uncut(own, halves, across).set, 'all', 'conformal', context, { warm: true });
    expect(tasks).toHaveLength(7);
    expect(tasks[6]!.rank).toBeUndefined();
  });
});
