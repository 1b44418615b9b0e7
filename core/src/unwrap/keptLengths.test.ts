import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { activeSet, newJob, partOf, type Job } from '../job/job.ts';
import { heightField } from '../mesh/starterForms.ts';
import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { runOperation } from '../ops/registry.ts';
import { cut } from '../seams/cut.ts';
import { islandsOf } from '../uv/islands.ts';
import { triangleStretch } from '../uv/triangleStretch.ts';
import { emptyUvSet, type UvSet } from '../uv/uvSet.ts';
import { relaxIslands } from './relax.ts';
import { unwrapIslands } from './unwrapIslands.ts';

const [m, n] = [14, 10];
/** A sheet bent both ways, on which no two halves stretch alike. */
const bowl = (depth: number) => heightField(m, n, (u, v) => [u, depth * Math.sin(2.2 * u + 0.3) * Math.cos(2.6 * v), v]);

/** Edges of a mesh between points of which a condition holds. */
function edgesWhere(mesh: Mesh, has: (x: number, y: number, z: number) => boolean): number[] {
  const { edgePoints, edgeCount } = topologyOf(mesh);
  const at = (p: number) => [0, 1, 2].map((d) => mesh.points[p * 3 + d]!) as [number, number, number];
  return [...Array(edgeCount).keys()].filter((e) => has(...at(edgePoints[e * 2]!)) && has(...at(edgePoints[e * 2 + 1]!)));
}

/** A layout cut in two along the middle, whose seam keeps its length. */
function cutInTwo(mesh: Mesh): { set: UvSet; seam: number[] } {
  const middle = m / 2 / m;
  const seam = edgesWhere(mesh, (x) => Math.abs(x - middle) < 1e-9);
  const { set } = cut(mesh, emptyUvSet(mesh), seam);
  const { edgeStart, edgeCorners } = topologyOf(mesh);
  const straight = new Uint8Array(mesh.corners.length);
  for (const e of seam) for (let k = edgeStart[e]!; k < edgeStart[e + 1]!; k++) straight[edgeCorners[k]!] = 4;
  return { set: { ...set, straight }, seam };
}

/** Of each edge its length on both sides on the sheet over that in space, measured by hand. */
function ratios(mesh: Mesh, set: UvSet, edges: readonly number[]): [number, number][] {
  const { edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
  const side = (c: number) => {
    const d = nextCorner(mesh, c, cornerFace[c]!);
    const [a, b] = [set.cornerUv[c]! * 2, set.cornerUv[d]! * 2];
    const flat = Math.hypot(set.uv[a]! - set.uv[b]!, set.uv[a + 1]! - set.uv[b + 1]!);
    const space = Math.hypot(...[0, 1, 2].map((k) => mesh.points[mesh.corners[c]! * 3 + k]! - mesh.points[mesh.corners[d]! * 3 + k]!));
    return flat / space;
  };
  return edges.map((e) => [side(edgeCorners[edgeStart[e]!]!), side(edgeCorners[edgeStart[e]! + 1]!)]);
}
const spread = (list: number[]) => Math.max(...list) / Math.min(...list) - 1;

describe('edges that keep their length', () => {
  it('both sides of a seam are equally long on the sheet, edge by edge, which they are not otherwise; nothing turns over', async () => {
    const mesh = bowl(0.45);
    const { set, seam } = cutInTwo(mesh);
    expect(islandsOf(mesh, set).count).toBe(2);
    const { straight: _, ...free } = set;
    const without = await unwrapIslands(mesh, free, 'all', 'isometric');
    const apart = Math.max(...ratios(mesh, without.set, seam).map((pair) => spread(pair)));
    expect(apart).toBeGreaterThan(0.005);
    const { set: laid, report } = await unwrapIslands(mesh, set, 'all', 'isometric');
    expect(report.flips).toBe(0);
    expect(spread(ratios(mesh, laid, seam).flat())).toBeLessThan(1e-4);
    const { pxArea } = triangleStretch(mesh, laid, 1, 1);
    expect(Math.min(...pxArea) * Math.max(...pxArea)).toBeGreaterThan(0);
    // it costs some stretch, not much
    expect(report.energy).toBeGreaterThan(without.report.energy);
    expect(report.energy).toBeLessThan(without.report.energy + 0.05);
  });

  it('also of sheets bent more and less, and again and again: sizes do not creep (property)', async () => {
    await fc.assert(
      fc.asyncProperty(fc.double({ min: 0.05, max: 0.6, noNaN: true }), async (depth) => {
        const mesh = bowl(depth);
        const { set, seam } = cutInTwo(mesh);
        const first = (await unwrapIslands(mesh, set, 'all', 'isometric')).set;
        // one of the two alone, then both, then eased
        const one = (await unwrapIslands(mesh, first, [1], 'isometric')).set;
        const both = (await unwrapIslands(mesh, one, 'all', 'isometric')).set;
        const eased = relaxIslands(mesh, both, [0, 1]).set;
        for (const laid of [first, one, both, eased]) expect(spread(ratios(mesh, laid, seam).flat())).toBeLessThan(2e-4);
        expect(ratios(mesh, eased, seam)[0]![0] / ratios(mesh, first, seam)[0]![0]).toBeCloseTo(1, 3);
      }),
      { numRuns: 12 },
    );
  });

  it('beside edges that are level: both hold', async () => {
    const mesh = bowl(0.3);
    const { set, seam } = cutInTwo(mesh);
    const { edgeStart, edgeCorners } = topologyOf(mesh);
    const straight = set.straight!.slice();
    for (const e of seam) for (let k = edgeStart[e]!; k < edgeStart[e + 1]!; k++) straight[edgeCorners[k]!] = 4 | 2;
    const { set: laid } = await unwrapIslands(mesh, { ...set, straight }, 'all', 'isometric');
    expect(spread(ratios(mesh, laid, seam).flat())).toBeLessThan(1e-3);
    for (const island of [0, 1]) {
      const { cornerFace } = topologyOf(mesh);
      const us = [...straight.keys()]
        .filter((c) => straight[c] && islandsOf(mesh, laid).ofFace[cornerFace[c]!] === island)
        .map((c) => laid.uv[laid.cornerUv[c]! * 2]!);
      expect(Math.max(...us) - Math.min(...us)).toBeLessThan(1e-9);
    }
  });

  it('is a step that says how far sides differ, is selected again, taken off, and kept in archives', async () => {
    const run = (job: Job, name: string, params: object) => runOperation(job, name, params as Record<string, unknown>);
    let { job } = await run(newJob('j', 'j', []), 'makeForm', { kind: 'cylinder' });
    ({ job } = await run(job, 'selectBy', { way: 'seams', kind: 'edges' }));
    const seams = [...job.selection.ids];
    const { job: kept, report, sentence } = await run(job, 'keepLengths', {});
    expect((report as { edges: number }).edges).toBe(seams.length);
    expect(sentence).toContain('sides of seams differ by 0.00 % at most');
    ({ job } = await run(kept, 'select', { kind: 'edges', ids: [] }));
    ({ job } = await run(job, 'selectBy', { way: 'kept', kind: 'edges' }));
    expect([...job.selection.ids]).toEqual(seams);
    await expect(run(job, 'selectBy', { way: 'straight' })).rejects.toThrow('No edge is kept straight');
    const { job: back } = readArchive(writeArchive(job));
    expect(activeSet(partOf(back)).straight).toEqual(activeSet(partOf(job)).straight);
    // level beside it, then free: the length stays
    ({ job } = await run(job, 'straightEdges', { way: 'level' }));
    expect(Math.max(...activeSet(partOf(job)).straight!)).toBe(5);
    ({ job } = await run(job, 'straightEdges', { way: 'free' }));
    expect(Math.max(...activeSet(partOf(job)).straight!)).toBe(4);
    ({ job } = await run(job, 'keepLengths', { keep: false }));
    expect(activeSet(partOf(job)).straight).toBeUndefined();
  });
});
