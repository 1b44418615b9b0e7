import { describe, expect, it } from 'vitest';
import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { heightField } from '../mesh/starterForms.ts';
import { topologyOf } from '../mesh/topology.ts';
import { carriedStraight } from '../uv/straight.ts';
import { triangleStretch } from '../uv/triangleStretch.ts';
import { emptyUvSet, type UvSet } from '../uv/uvSet.ts';
import { grainAngles, grainFigures, runGrain } from '../shape/grain.ts';
import { straightenIsland } from '../shape/straightenIsland.ts';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { activeSet, newJob, type Job } from '../job/job.ts';
import { runOperation } from '../ops/registry.ts';
import { relaxIslands } from './relax.ts';
import { unwrapIslands } from './unwrapIslands.ts';

/** A flat ring sector of m × n quads: radius 2 inside, 3 outside, two radians wide. */
const [m, n] = [24, 6];
const sector = () => heightField(m, n, (u, v) => [(3 - v) * Math.cos(2 * u), 0, -(3 - v) * Math.sin(2 * u)]);
/** A sheet bent both ways. */
const bowl = () => heightField(12, 12, (u, v) => [u, 0.35 * Math.sin(3 * u) * Math.cos(2.5 * v), v]);

/** Half edges along the border of a mesh whose both ends meet a condition on their place. */
function border(mesh: Mesh, has: (x: number, y: number, z: number) => boolean): number[] {
  const { twin, cornerFace } = topologyOf(mesh);
  const at = (c: number) => [0, 1, 2].map((d) => mesh.points[mesh.corners[c]! * 3 + d]!) as [number, number, number];
  return [...mesh.corners.keys()].filter((c) => twin[c]! < 0 && has(...at(c)) && has(...at(nextCorner(mesh, c, cornerFace[c]!))));
}
const marked = (mesh: Mesh, corners: readonly number[], way: number): UvSet => {
  const straight = new Uint8Array(mesh.corners.length);
  for (const c of corners) straight[c] = way;
  return { ...emptyUvSet(mesh), straight };
};
const values = (set: UvSet, corners: readonly number[], d: 0 | 1) => corners.map((c) => set.uv[set.cornerUv[c]! * 2 + d]!);
const spread = (list: number[]) => Math.max(...list) - Math.min(...list);

describe('edges that are to be straight', () => {
  it('a border of a bent strip comes out exactly level, with less stretch than where its length is kept, too', async () => {
    const mesh = sector();
    const inner = border(mesh, (x, _, z) => Math.hypot(x, z) < 2 + 1e-9);
    expect(inner).toHaveLength(m);
    const { set, report } = await unwrapIslands(mesh, marked(mesh, inner, 1), 'all', 'isometric');
    expect(report.flips).toBe(0);
    expect(spread(values(set, inner, 1))).toBeLessThan(1e-12);
    expect(spread(values(set, inner, 0))).toBeGreaterThan(0.3);
    const free = await unwrapIslands(mesh, emptyUvSet(mesh), 'all', 'isometric');
    // a bound from elsewhere: the same border held straight at its own length
    const held = straightenIsland(mesh, free.set, 0, { keep: 'shorter', far: 'free', spacing: 'lengths' }, 'level').report.energy;
    expect(report.energy).toBeLessThan(held + 1e-6);
    expect(report.energy).toBeGreaterThan(free.report.energy);
  });

  it('all round a bent sheet: four sides, each level or upright as it is nearer, square to one another', async () => {
    const mesh = bowl();
    const all = border(mesh, () => true);
    const { set, report } = await unwrapIslands(mesh, marked(mesh, all, 3), 'all', 'isometric');
    expect(report.flips).toBe(0);
    for (const [side, axis] of [
      [border(mesh, (x) => x < 1e-9), 0],
      [border(mesh, (x) => x > 1 - 1e-9), 0],
      [border(mesh, (_x, _y, z) => z < 1e-9), 1],
      [border(mesh, (_x, _y, z) => z > 1 - 1e-9), 1],
    ] as const) {
      const [along, across] = [spread(values(set, side, axis === 0 ? 1 : 0)), spread(values(set, side, axis))];
      // it may be turned by a quarter as a whole
      expect(Math.min(along, across)).toBeLessThan(1e-12);
      expect(Math.max(along, across)).toBeGreaterThan(0.2);
    }
    // judged by the triangles on the sheet
    const { least, pxArea } = triangleStretch(mesh, set, 1, 1);
    expect(Math.min(...least)).toBeGreaterThan(0);
    expect(Math.min(...pxArea) * Math.max(...pxArea)).toBeGreaterThan(0);
  });

  it('what lies straight without stretch costs nothing: a bent card', async () => {
    const mesh = heightField(10, 6, (u, v) => [Math.sin(2 * u), Math.cos(2 * u), v]);
    const { set, report } = await unwrapIslands(
      mesh,
      marked(
        mesh,
        border(mesh, () => true),
        3,
      ),
      'all',
      'isometric',
    );
    expect(report.energy).toBeCloseTo(4, 4);
    const sides = border(mesh, (_x, _y, z) => z < 1e-9);
    expect(Math.min(spread(values(set, sides, 0)), spread(values(set, sides, 1)))).toBeLessThan(1e-12);
  });

  it('relaxing leaves them straight', async () => {
    const mesh = bowl();
    const inner = border(mesh, (x) => x < 1e-9);
    const { set } = await unwrapIslands(mesh, marked(mesh, inner, 2), 'all', 'isometric');
    // drawn out across, which relaxing takes back
    const drawn = { ...set, uv: set.uv.map((x, k) => (k % 2 === 0 ? x * 1.4 : x)) };
    const { set: relaxed, before, after } = relaxIslands(mesh, drawn, [0]);
    expect(after).toBeLessThan(before - 0.1);
    expect(spread(values(relaxed, inner, 0))).toBeLessThan(1e-9);
    expect(spread(values(relaxed, inner, 1))).toBeGreaterThan(0.2);
  });

  it('place, size and heading are kept but for what straight edges ask, mirrored islands too; pins stay', async () => {
    const mesh = bowl();
    const first = (
      await unwrapIslands(
        mesh,
        marked(
          mesh,
          border(mesh, () => true),
          3,
        ),
        'all',
        'isometric',
      )
    ).set;
    const turned = (angle: number, mirror: number): UvSet => ({
      ...first,
      uv: first.uv.map((_, k) => {
        const [x, y] = [first.uv[k - (k % 2)]! * mirror, first.uv[k - (k % 2) + 1]!];
        return 0.5 * (k % 2 === 0 ? Math.cos(angle) * x - Math.sin(angle) * y : Math.sin(angle) * x + Math.cos(angle) * y);
      }),
    });
    const area = (set: UvSet) => triangleStretch(mesh, set, 1, 1).pxArea.reduce((sum, x) => sum + x, 0);
    for (const mirror of [1, -1]) {
      const given = turned(0.3, mirror);
      const { set } = await unwrapIslands(mesh, given, 'all', 'isometric');
      expect(area(set) / area(given)).toBeCloseTo(1, 2);
      // back to level by the shorter way
      const level = turned(0, mirror);
      for (const c of [0, 100, 400]) {
        const [p, q] = [set.cornerUv[c]! * 2, set.cornerUv[c + 77]! * 2];
        const [a, b] = [
          Math.atan2(set.uv[q + 1]! - set.uv[p + 1]!, set.uv[q]! - set.uv[p]!),
          Math.atan2(level.uv[q + 1]! - level.uv[p + 1]!, level.uv[q]! - level.uv[p]!),
        ];
        expect(Math.cos(a - b)).toBeGreaterThan(0.999);
      }
    }
    const pinned = { ...turned(0.3, 1), pins: first.pins.slice() };
    const held = [pinned.cornerUv[0]!, pinned.cornerUv[300]!];
    for (const p of held) pinned.pins[p] = 1;
    const { set } = await unwrapIslands(mesh, pinned, 'all', 'isometric');
    for (const p of held) for (const d of [0, 1]) expect(set.uv[p * 2 + d]).toBeCloseTo(pinned.uv[p * 2 + d]!, 6);
  });

  it('marked by the selection, kept by packing, archives and a mesh with its faces the other way round, found again, taken off', async () => {
    const mesh = sector();
    let job: Job = newJob('j', 'j', [{ id: 'a', name: 'a', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } }]);
    const { cornerEdge } = topologyOf(mesh);
    const inner = border(mesh, (x, _, z) => Math.hypot(x, z) < 2 + 1e-9);
    const ids = inner.map((c) => cornerEdge[c]!);
    const run = async (name: 'select' | 'straightEdges' | 'unwrap' | 'pack' | 'selectBy', params: object) =>
      (job = (await runOperation(job, name, params as Record<string, unknown>)).job);
    await run('select', { kind: 'edges', ids });
    await run('straightEdges', { way: 'upright' });
    await run('unwrap', {});
    await run('pack', { turns: 'free' });
    // packing keeps the heading
    expect(spread(values(activeSet(job.parts[0]!), inner, 0))).toBeLessThan(1e-6);
    const { straight } = activeSet(job.parts[0]!);
    const kept = readArchive(writeArchive(job)).job;
    expect(activeSet(kept.parts[0]!).straight).toEqual(straight);
    // faces that go round the other way have their edges begin at other corners
    const flipped: Mesh = { ...mesh, corners: mesh.corners.slice() };
    const from = Uint32Array.from(mesh.corners.keys());
    for (let f = 0; f < m * n; f++) {
      flipped.corners.subarray(f * 4, f * 4 + 4).reverse();
      from.subarray(f * 4, f * 4 + 4).reverse();
    }
    const turned = carriedStraight(mesh, flipped, straight!, from)!;
    const edgesOf = (of: Mesh, marks: Uint8Array) =>
      [...marks.keys()]
        .filter((c) => marks[c])
        .map((c) => [of.corners[c]!, of.corners[nextCorner(of, c, topologyOf(of).cornerFace[c]!)]!].sort((a, b) => a - b).join());
    expect(edgesOf(flipped, turned).sort()).toEqual(edgesOf(mesh, straight!).sort());
    await run('select', { kind: 'edges', ids: [] });
    await run('selectBy', { way: 'straight' });
    expect([...job.selection.ids]).toEqual([...ids].sort((a, b) => a - b));
    await run('straightEdges', { way: 'free' });
    expect(activeSet(job.parts[0]!).straight).toBeUndefined();
  });
});

describe('grain held in the unwrap', () => {
  it('round a bend the picture follows it: the mean error falls to a fifth and less, no flips; without the switch only the heading follows', async () => {
    const mesh = sector();
    const { grain } = runGrain(mesh, 0, [0, 0, 0], []);
    // along the arc, face by face
    for (let f = 0; f < grain.length / 3; f++) {
      let [x, z] = [0, 0];
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        x += mesh.points[mesh.corners[c]! * 3]!;
        z += mesh.points[mesh.corners[c]! * 3 + 2]!;
      }
      const r = Math.hypot(x, z);
      grain.set([z / r, 0, -x / r], f * 3);
    }
    for (const along of ['u', 'v'] as const) {
      let job: Job = newJob('j', 'j', [{ id: 'a', name: 'a', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' }, grain }]);
      job = { ...job, settings: { ...job.settings, grainAlong: along } };
      const off = async (holdGrain: boolean) => {
        const { job: laid, report } = await runOperation({ ...job, settings: { ...job.settings, holdGrain } }, 'unwrap', {});
        expect((report as { flips: number }).flips).toBe(0);
        return grainFigures(mesh, grainAngles(mesh, activeSet(laid.parts[0]!), grain, 1, along), 5)!;
      };
      const [free, held] = [await off(false), await off(true)];
      // an arc of 2 radians is off by half a radian in the mean
      expect(free.mean).toBeGreaterThan(20);
      expect(held.mean).toBeLessThan(free.mean / 5);
    }
  });
});
