import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { quietContext, type Context, type SolverPool } from '../context.ts';
import { overlapFigures } from '../measure/overlap.ts';
import { faceCount } from '../mesh/mesh.ts';
import { cut } from '../seams/cut.ts';
import { solveIsland, type IslandTask } from '../unwrap/solveIsland.ts';
import { unwrapIslands } from '../unwrap/unwrapIslands.ts';
import { islandsOf } from '../uv/islands.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { proposeSeams } from './proposeSeams.ts';
import { seamPrices } from './seamPrices.ts';
import { StretchSearch } from './stretchSearch.ts';
import { realMesh, realMeshes } from '../../../scripts/realMeshes.ts';

/*
 * Meshes that nobody here made, of Debian's libcgal-demo. `npm test` fetches them; without them these tests are passed over.
 */
describe.skipIf(!existsSync(join(realMeshes, 'data')))('seams by a stretch limit on real closed meshes', () => {
  it.each([
    ['pig', 0.5],
    ['head', 0.85],
    ['knot1', 0.1],
    ['rotor', 0.3],
    ['triceratops', 0.55],
    ['bones', 0.45],
  ] as const)(
    '%s: the limit is kept, no flip, nothing over itself, no more than %s of the seams in plain sight',
    async (name, inSight) => {
      const mesh = realMesh(name);
      const proposal = await proposeSeams(mesh, emptyUvSet(mesh), { by: 'stretch', limit: 4.2 });
      expect(proposal.met).toBe(true);
      expect(proposal.energy).toBeLessThan(4.23);
      expect(proposal.flips).toBe(0);
      expect(proposal.seamInSight / proposal.seamLength).toBeLessThan(inSight);
      // laid flat as the app does: nothing over itself, and the limit still kept
      const { set } = cut(mesh, emptyUvSet(mesh), proposal.cuts);
      const { set: laid, report } = await unwrapIslands(mesh, set, 'all', 'isometric', undefined, { apart: true });
      expect(report.energy).toBeLessThan(4.22);
      const { start, faces, count } = islandsOf(mesh, laid);
      for (let i = 0; i < count; i++) {
        const unplaced = new Uint8Array(faceCount(mesh)).fill(1);
        for (let k = start[i]!; k < start[i + 1]!; k++) unplaced[faces[k]!] = 0;
        expect(overlapFigures(mesh, { ...laid, unplaced }).overlapArea).toBeLessThan(1e-9);
      }
    },
    60_000,
  );

  it('the same seams however the mesh stands', async () => {
    const { points, ...hand } = realMesh('hand');
    const turned = new Float64Array(points.length);
    for (let k = 0; k < points.length; k += 3) {
      const [x, y, z] = [points[k]!, points[k + 1]!, points[k + 2]!];
      turned.set([z + 7, 0.8 * x - 0.6 * y, 0.6 * x + 0.8 * y - 3], k);
    }
    const [as, other] = await Promise.all(
      [points, turned].map((own) => proposeSeams({ ...hand, points: own }, emptyUvSet({ ...hand, points: own }), { by: 'stretch', limit: 4.2 })),
    );
    expect(other!.cuts.toSorted()).toEqual(as!.cuts.toSorted());
    expect(other!.seamInSight).toBeCloseTo(as!.seamInSight, 3);
  }, 60_000);

  it('seams in pairs that part off a few faces only: they go elsewhere, or these are joined again (24 islands before, 16 of them of 16 faces and fewer)', async () => {
    // as it is when another axis is up
    const { points, ...coupling } = realMesh('couplingdown');
    const mesh = { ...coupling, points: points.map((_, k) => points[k - (k % 3) + ((k + 2) % 3)]!) };
    const { met, set, islands, symmetry } = await proposeSeams(mesh, emptyUvSet(mesh), { by: 'stretch', limit: 4.2, symmetry: 'auto' });
    expect([met, symmetry]).toEqual([true, 'z']);
    expect(islands).toBeLessThanOrEqual(10);
    const { start } = islandsOf(mesh, set);
    expect(Array.from({ length: islands }, (_, i) => start[i + 1]! - start[i]!).filter((faces) => faces < 17).length).toBeLessThanOrEqual(2);
  }, 60_000);

  /*
   * Where holding apart was judged before it had converged, and where a lower goal on the coarser mesh was followed at any price, the first two came to 2 and
   * 17; where borders jammed that were held apart, the next two to 29 and 3; where the cheapest way took off a corner instead of parting, the last to 26.
   */
  it.each([
    ['polygon_mesh', 1],
    ['dino', 2],
    ['couplingdown', 6],
    ['elephant-with-holes', 1],
    ['elk', 3],
  ] as const)(
    '%s: in few islands',
    async (name, most) => {
      const mesh = realMesh(name);
      const proposal = await proposeSeams(mesh, emptyUvSet(mesh), { by: 'stretch', limit: 4.2 });
      expect(proposal.met).toBe(true);
      expect(proposal.islands).toBeLessThanOrEqual(most);
      const { start, count } = islandsOf(mesh, proposal.set);
      for (let i = 0; i < count; i++) expect(start[i + 1]! - start[i]!).toBeGreaterThan(0.01 * faceCount(mesh));
    },
    60_000,
  );

  it('what is tangled all over is parted without trying to hold it apart', async () => {
    // a block with 133 handles, opened to one island
    const mesh = realMesh('cheese');
    const given = emptyUvSet(mesh);
    let tries = 0;
    const solve = (tasks: readonly IslandTask[]) => {
      tries += tasks.filter(({ apart }) => apart).length;
      return Promise.resolve(tasks.map((task) => solveIsland(task)));
    };
    const search = new StretchSearch(mesh, given, seamPrices(mesh, {}), null);
    const context: Context = { ...quietContext, pool: { solve } as SolverPool };
    await search.layAll(context);
    expect(search.islandCount).toBe(1);
    expect(await search.settle(20, false, true, context)).toBe('parted');
    expect(search.islandCount).toBeGreaterThan(1);
    expect(tries).toBe(0);
  }, 60_000);

  // counted by eye beforehand: body, two legs, two arms and a head; body, four legs, a tail and two horns; body, legs, arms, tail and ears
  it.each([
    ['man', 6],
    ['triceratops', 8],
    ['armadillo', 8],
    ['bear', 5],
  ] as const)(
    '%s: the islands that a person would make, by limbs',
    async (name, wanted) => {
      const mesh = realMesh(name);
      const proposal = await proposeSeams(mesh, emptyUvSet(mesh), { by: 'limbs', limit: 4.2 });
      expect(proposal.met).toBe(true);
      expect(Math.abs(proposal.islands - wanted)).toBeLessThanOrEqual(1);
    },
    60_000,
  );
});
