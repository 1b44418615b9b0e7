import { describe, expect, it } from 'vitest';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { joinParts } from '../job/joinParts.ts';
import { activeSet, newJob, partOf, type Job, type Part } from '../job/job.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { cylinder } from '../mesh/starterForms.ts';
import { topologyOf } from '../mesh/topology.ts';
import { figuresOfPieces, selectionFigures, type SelectionFigures } from '../measure/selectionFigures.ts';
import { islandsOf } from '../uv/islands.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { makeRecipe } from './recipe.ts';
import { runOperation } from './registry.ts';

const part = (id: string, mesh: Mesh): Part => ({
  id,
  name: id,
  mesh,
  uvSets: [emptyUvSet(mesh)],
  activeUv: 0,
  imageId: null,
  origin: { kind: 'made' },
});
const run = async (job: Job, name: string, params: Record<string, unknown> = {}) => (await runOperation(job, name, params)).job;
/** Two cylinders on one sheet, laid flat. */
async function laid(): Promise<Job> {
  let job = newJob('job', 'two', [part('pole', cylinder(0.7, 1, 10, 4, true)), part('tube', cylinder(0.5, 2, 12, 3, true))]);
  for (const id of ['pole', 'tube']) job = await run(job, 'firstLayout', { part: id });
  return run(job, 'activatePart', { part: 'pole' });
}
const whole = (job: Job, id: string) => {
  const { mesh } = partOf(job, id);
  const { states } = islandsOf(mesh, activeSet(partOf(job, id)));
  return [...states.keys()].filter((e) => states[e] === 0);
};
const both = async (job: Job, kind: string, own: number[], beside: number[], corners?: number[]) =>
  run(job, 'select', { part: 'pole', kind, ids: own, also: [{ part: 'tube', ids: beside, ...(corners ? { corners } : {}) }] });
const chosen = ({ selection }: Job) => [selection.kind, [...selection.ids], (selection.also ?? []).map((one) => [one.part, [...one.ids]])];

describe('a selection of several parts', () => {
  it('is cut and made whole in all of them in one step', async () => {
    const job = await laid();
    const [own, beside] = [whole(job, 'pole').slice(0, 1), whole(job, 'tube').slice(0, 2)];
    const picked = await both(job, 'edges', own, beside);
    const cut = await runOperation(picked, 'cut', {});
    expect(cut.report).toMatchObject({ edges: 3 });
    expect(cut.sentence).toBe('Cut 3 edges');
    for (const [id, edges] of [['pole', own] as const, ['tube', beside] as const]) for (const e of edges) expect(whole(cut.job, id)).not.toContain(e);
    const back = await runOperation(cut.job, 'uncut', {});
    expect(back.report).toMatchObject({ edges: 3 });
    for (const id of ['pole', 'tube']) expect(whole(back.job, id)).toEqual(whole(job, id));
    // one part named: only its own
    expect((await runOperation(picked, 'cut', { part: 'tube' })).report).toMatchObject({ edges: 2 });
    await expect(run(await both(job, 'faces', [0], [0]), 'cut')).rejects.toThrow(/No edge is selected/);
  });

  it('is cut where only another part than the one at work has some', async () => {
    const job = await laid();
    const [edge] = whole(job, 'tube');
    const cut = await runOperation(await both(job, 'edges', [], [edge!]), 'cut', {});
    expect(cut.report).toMatchObject({ edges: 1 });
    expect(activeSet(partOf(cut.job, 'pole'))).toBe(activeSet(partOf(job, 'pole')));
  });

  it('grows, becomes another kind and is inverted in each of them', async () => {
    const job = await both(await laid(), 'faces', [0], [0]);
    const grown = await run(job, 'selectBy', { way: 'grow' });
    for (const [id, ids] of [['pole', grown.selection.ids] as const, ['tube', grown.selection.also![0]!.ids] as const]) {
      const alone = await run(job, 'select', { part: id, kind: 'faces', ids: [0] });
      expect([...ids]).toEqual([...(await run(alone, 'selectBy', { way: 'grow' })).selection.ids]);
    }
    expect(chosen(await run(job, 'selectBy', { way: 'convert', kind: 'edges' }))[2]).toMatchObject([['tube', expect.any(Array)]]);
    const others = await run(job, 'selectBy', { way: 'invert' });
    expect(others.selection.also![0]!.ids.length).toBe(partOf(job, 'tube').mesh.faceStart.length - 2);
    // more of one part is added to it, and what is of the other stays
    const more = await run(job, 'selectBy', { way: 'all', mode: 'add' });
    expect([more.selection.ids.length, chosen(more)[2]]).toEqual([partOf(job, 'pole').mesh.faceStart.length - 1, [['tube', [0]]]]);
    await expect(run(job, 'selectBy', { way: 'path' })).rejects.toThrow(/one part/);
  });

  it('is all of the sheet, or what is not selected of it, where that is asked for; a part out of sight is not', async () => {
    const job = await laid();
    const counts = (one: Job) => [one.selection.ids.length, ...(one.selection.also ?? []).map(({ ids }) => ids.length)];
    const faces = (id: string) => partOf(job, id).mesh.faceStart.length - 1;
    expect(counts(await run(job, 'selectBy', { way: 'all', kind: 'faces' }))).toEqual([faces('pole')]);
    const all = await run(job, 'selectBy', { way: 'all', kind: 'faces', over: 'sheet' });
    expect(counts(all)).toEqual([faces('pole'), faces('tube')]);
    const some = await both(job, 'faces', [0, 1], []);
    expect(counts(await run(some, 'selectBy', { way: 'invert', over: 'sheet' }))).toEqual([faces('pole') - 2, faces('tube')]);
    expect(counts(await run(some, 'selectBy', { way: 'invert' }))).toEqual([faces('pole') - 2]);
    // what goes on from the selection stays with the parts that have some
    expect(counts(await run(some, 'selectBy', { way: 'connected', over: 'sheet' }))).toEqual([faces('pole')]);
    expect((await run(job, 'selectBy', { way: 'seams', over: 'sheet' })).selection.also).toHaveLength(1);
    const away = await run(job, 'hideParts', { what: 'hide', parts: ['tube'] });
    expect(counts(await run(away, 'selectBy', { way: 'all', kind: 'faces', over: 'sheet' }))).toEqual([faces('pole')]);
    // one part of several may have nothing of the sort; where none has, that is said
    await expect(run(job, 'selectBy', { way: 'straight', over: 'sheet' })).rejects.toThrow(/No edge is kept straight/);
    const kept = await run(await both(job, 'edges', [], [whole(job, 'tube')[0]!]), 'straightEdges');
    expect((await run(kept, 'selectBy', { way: 'straight', over: 'sheet' })).selection.also).toHaveLength(1);
  });

  it('is pinned, marked and marked as done in all of them', async () => {
    const job = await both(await laid(), 'faces', [0], [0, 1]);
    const pins = (now: Job, id: string) => activeSet(partOf(now, id)).pins.reduce((sum, x) => sum + x, 0);
    expect((await runOperation(job, 'pin', {})).report).toMatchObject({ pinned: pins(await run(job, 'pin'), 'pole') + pins(await run(job, 'pin'), 'tube') });
    expect(pins(await run(await both(job, 'faces', [], [0]), 'pin'), 'tube')).toBeGreaterThan(0);
    const marked = await run(job, 'markSeams', { mark: 'lookedAt' });
    expect([...partOf(marked, 'tube').seamMarks!].filter((x) => x === 3).length).toBe(2);
    const done = await runOperation(job, 'markDone', {});
    expect(done.report).toEqual({ changed: 3 });
    expect([...partOf(done.job, 'tube').done!].slice(0, 3)).toEqual([1, 1, 0]);
    expect(partOf(await run(done.job, 'markDone', { done: false }), 'pole').done).toBeUndefined();
    await expect(run(await run(job, 'select', { kind: 'faces', ids: [] }), 'markDone')).rejects.toThrow(/Nothing is selected/);
  });

  it('has its edges put level in all of them', async () => {
    const job = await laid();
    const corner = (id: string) => {
      const { mesh } = partOf(job, id);
      return { corner: 5, edge: topologyOf(mesh).cornerEdge[5]! };
    };
    const picked = await run(job, 'select', {
      part: 'pole',
      kind: 'edges',
      ids: [corner('pole').edge],
      corners: [5],
      also: [{ part: 'tube', ids: [corner('tube').edge], corners: [5] }],
    });
    const turned = await run(picked, 'transform', { turn: 20 });
    const level = await runOperation(turned, 'lineUp', { way: 'level' });
    expect(level.report).toEqual({ lines: 2, points: 4 });
    for (const id of ['pole', 'tube']) {
      const { mesh } = partOf(level.job, id);
      const { uv, cornerUv } = activeSet(partOf(level.job, id));
      const f = topologyOf(mesh).cornerFace[5]!;
      const next = 6 === mesh.faceStart[f + 1]! ? mesh.faceStart[f]! : 6;
      expect(uv[cornerUv[5]! * 2 + 1]).toBeCloseTo(uv[cornerUv[next]! * 2 + 1]!, 12);
    }
  });

  it('moves only the corners that are meant, of each', async () => {
    const job = await run(await laid(), 'select', {
      part: 'pole',
      kind: 'points',
      ids: [partOf(await laid(), 'pole').mesh.corners[3]!],
      corners: [3],
      also: [{ part: 'tube', ids: [partOf(await laid(), 'tube').mesh.corners[7]!], corners: [7] }],
    });
    const moved = await run(job, 'transform', { move: [0.01, 0.02] });
    for (const [id, c] of [
      ['pole', 3],
      ['tube', 7],
    ] as const) {
      const [before, after] = [activeSet(partOf(job, id)), activeSet(partOf(moved, id))];
      const apart = [...after.uv.keys()].filter((k) => k % 2 === 0 && after.uv[k] !== before.uv[k]).map((k) => k / 2);
      expect(apart).toEqual([after.cornerUv[c]]);
    }
  });

  it('is given to a material in all of them', async () => {
    const given = await runOperation(await both(await laid(), 'faces', [0], [1, 2]), 'assignMaterial', { material: 'brass' });
    expect(given.sentence).toBe('Gave 3 faces to “brass”');
    const of = (id: string) =>
      [...partOf(given.job, id).mesh.faceMaterial.keys()].filter((f) => {
        const { mesh } = partOf(given.job, id);
        return mesh.materials[mesh.faceMaterial[f]!] === 'brass';
      });
    expect([of('pole'), of('tube')]).toEqual([[0], [1, 2]]);
  });

  it('has one u or v given to all that is selected', async () => {
    const job = await run(await laid(), 'select', { part: 'pole', kind: 'faces', ids: [], also: [{ part: 'tube', ids: [0] }] });
    const set = await runOperation(await both(job, 'faces', [0], [0]), 'setUv', { v: 0.5 });
    expect(set.report).toEqual({ moved: 8 });
    for (const id of ['pole', 'tube']) {
      const { uv, cornerUv } = activeSet(partOf(set.job, id));
      for (let c = 0; c < 4; c++) expect(uv[cornerUv[c]! * 2 + 1]).toBe(0.5);
    }
    // only another part has some
    expect((await runOperation(job, 'setUv', { u: 0.25 })).report).toEqual({ moved: 4 });
    await expect(run(await run(job, 'select', { kind: 'faces', ids: [] }), 'setUv', { u: 0.25 })).rejects.toThrow(/is selected/);
  });

  it('is kept under a name, by faces where it was islands, and through an archive', async () => {
    const islands = await run(await both(await laid(), 'islands', [0], [1]), 'saveSelection', { name: 'pieces' });
    const edges = await run(await both(islands, 'edges', [2, 3], [4], [topologyOf(partOf(islands, 'tube').mesh).edgeCorners[0]!]), 'saveSelection', {
      name: 'lines',
    });
    const { job } = await readArchive(await writeArchive(edges));
    expect(job.intake).toEqual([]);
    expect(chosen(job)).toEqual(chosen(edges));
    expect([...job.selection.also![0]!.corners!]).toEqual([...edges.selection.also![0]!.corners!]);
    const { mesh } = partOf(job, 'tube');
    const { start, faces } = islandsOf(mesh, activeSet(partOf(job, 'tube')));
    const again = await run(job, 'useSelection', { name: 'pieces' });
    expect(again.selection.kind).toBe('faces');
    expect([...again.selection.also![0]!.ids]).toEqual([...faces.subarray(start[1], start[2])].sort((a, b) => a - b));
    expect(chosen(await run(job, 'useSelection', { name: 'lines' }))).toEqual(['edges', [2, 3], [['tube', [4]]]]);
  });

  it('of a part that is taken out goes with it', async () => {
    const job = await run(await both(await laid(), 'edges', [2], [3]), 'removeParts', { parts: ['tube'] });
    expect(chosen(job)).toEqual(['edges', [2], []]);
    expect((await readArchive(await writeArchive(job))).job.intake).toEqual([]);
  });

  it('says in a recipe that no rule tells it', async () => {
    const job = await both(await laid(), 'edges', whole(await laid(), 'pole').slice(0, 1), whole(await laid(), 'tube').slice(0, 1));
    const cut = await runOperation(job, 'cut', {});
    const entry = (now: Job, operation: string) => ({ job: now, operation, params: {}, sentence: '', time: 0 });
    const recipe = makeRecipe([entry(job, 'open'), entry(cut.job, 'cut')], 'two');
    expect(recipe.steps[0]!.asks).toMatch(/2 selected edges, which no rule tells/);
  });

  it('has the figures of a mesh that holds all of it', async () => {
    const job = await laid();
    const parts = ['pole', 'tube'].map((id) => partOf(job, id));
    const { mesh, set } = joinParts(parts);
    const first = parts[0]!.mesh;
    const pieces = (idsOf: (one: Part) => number[]) => parts.map((one) => ({ mesh: one.mesh, set: activeSet(one), ids: idsOf(one) }));
    const close = (a: SelectionFigures, b: SelectionFigures, names: readonly (keyof SelectionFigures)[]) => {
      for (const name of names) expect(a[name], name).toBeCloseTo(b[name] as number, 9);
      for (let d = 0; d < 3; d++) expect(a.size[d]).toBeCloseTo(b.size[d]!, 9);
    };
    const faces = figuresOfPieces(
      pieces(() => [0, 1, 2]),
      'faces',
      1024,
      512,
    );
    const offset = first.faceStart.length - 1;
    close(faces, selectionFigures(mesh, set, 'faces', [0, 1, 2, offset, offset + 1, offset + 2], 1024, 512), [
      'count',
      'length',
      'lengthPx',
      'area',
      'areaPx',
      'ratio',
      'unplaced',
    ]);
    // edges by a corner that each starts at
    const corners = [2, 9];
    const edges = figuresOfPieces(
      pieces((one) => corners.map((c) => topologyOf(one.mesh).cornerEdge[c]!)),
      'edges',
      1024,
      512,
    );
    const joined = [0, first.corners.length].flatMap((from) => corners.map((c) => topologyOf(mesh).cornerEdge[from + c]!));
    close(edges, selectionFigures(mesh, set, 'edges', joined, 1024, 512), ['count', 'length', 'lengthPx', 'ratio', 'heading', 'headingSpread']);
  });
});
