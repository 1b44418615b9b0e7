import { describe, expect, it } from 'vitest';
import { activeSet, islandsOf, newJob, partOf, runOperation, type Job, type Part, type SelectionKind } from '@jig-peel/core';
import { cylinder } from '@jig-peel/core/mesh/starterForms';
import { emptyUvSet } from '@jig-peel/core/uv/uvSet';
import { alsoMarks } from './alsoMarks.ts';
import type { RegionView } from './messages.ts';
import { regionSelection } from './regionSelection.ts';

const part = (id: string): Part => {
  const mesh = cylinder(0.5, 1, 8, 2, true);
  return { id, name: id, mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } };
};
/** A sheet of 1000 px in view. */
const view: RegionView = { view: 'sheet', width: 1002, height: 1002, scaleU: 1000, scaleV: 1000, left: 1, top: 1001 };
const everything = { shape: 'box' as const, points: [0, 0, 1001, 1001] as [number, number, number, number] };
const take = (kind: SelectionKind, mode: 'set' | 'add' | 'take' = 'set', region = everything) => ({ region, kind, through: true, mode, touched: [] });

/** Three parts on one sheet, packed. */
let made: Job | null = null;
async function three(): Promise<Job> {
  if (made) return made;
  let job = newJob('job', 'three', [part('a'), part('b'), part('c')]);
  for (const id of ['a', 'b', 'c']) job = (await runOperation(job, 'firstLayout', { part: id })).job;
  job = (await runOperation(job, 'pack', { effort: 0, parts: 'sheet' })).job;
  return (made = (await runOperation(job, 'activatePart', { part: 'b' })).job);
}

describe('a region drawn on the sheet', () => {
  it.each(['points', 'edges', 'faces', 'islands'] as const)('takes the %s of all parts there', async (kind) => {
    const job = await three();
    const found = regionSelection(job, take(kind), view)!;
    expect([found.part, found.also!.map((one) => one.part)]).toEqual(['b', ['a', 'c']]);
    const { mesh } = partOf(job);
    const count = { points: mesh.points.length / 3, faces: mesh.faceStart.length - 1, islands: islandsOf(mesh, activeSet(partOf(job))).count };
    if (kind !== 'edges') expect(found.ids.length).toBe(count[kind]);
    // alike parts with all they have: the same of each
    for (const one of found.also!) expect([...one.ids]).toEqual([...found.ids]);
    if (kind === 'points') expect(found.also!.every((one) => one.corners!.length === mesh.corners.length)).toBe(true);
    // the same again changes nothing
    expect(regionSelection({ ...job, selection: found }, take(kind), view)).toBeNull();
  });

  it('adds to and takes from each of them, by corners', async () => {
    const job = await three();
    const all = regionSelection(job, take('points'), view)!;
    const half = { shape: 'box' as const, points: [0, 0, 499, 1001] as [number, number, number, number] };
    const left = regionSelection(job, take('points', 'set', half), view)!;
    const rest = regionSelection({ ...job, selection: all }, take('points', 'take', half), view)!;
    const cornersIn = (one: typeof all, id: string) => (one.part === id ? one.corners : one.also?.find((other) => other.part === id)?.corners) ?? [];
    for (const id of ['a', 'b', 'c']) {
      expect(cornersIn(rest, id).length + cornersIn(left, id).length).toBe(cornersIn(all, id).length);
      expect([...cornersIn(rest, id)].filter((c) => [...cornersIn(left, id)].includes(c))).toEqual([]);
    }
    const back = regionSelection({ ...job, selection: rest }, take('points', 'add', half), view)!;
    for (const id of ['a', 'b', 'c']) expect([...cornersIn(back, id)]).toEqual([...cornersIn(all, id)]);
  });

  it('passes over hidden parts and parts of other sheets', async () => {
    let job = (await runOperation(await three(), 'hideParts', { what: 'hide', parts: ['a'] })).job;
    expect(regionSelection(job, take('edges'), view)!.also!.map((one) => one.part)).toEqual(['c']);
    job = (await runOperation(job, 'sheets', { do: 'add', parts: ['c'] })).job;
    expect(regionSelection((await runOperation(job, 'activatePart', { part: 'b' })).job, take('edges'), view)!.also).toBeUndefined();
  });
});

describe('marks of what is selected beside the part at work', () => {
  it('are half edges on the sheet and lines on the model', async () => {
    const job = await three();
    const chosen = regionSelection(job, take('edges'), view)!;
    const marks = alsoMarks({ ...job, selection: chosen });
    expect(marks.map((one) => one.part)).toEqual(['a', 'c']);
    const { mesh } = partOf(job, 'a');
    // each corner of the mesh starts one half edge
    expect(marks[0]!.corners.length).toBe(mesh.corners.length * 2);
    expect(marks[0]!.model.length).toBe(chosen.also![0]!.ids.length * 6);
    expect(alsoMarks(job)).toEqual([]);
  });

  it('are corners of faces, and the outlines of faces and islands on the model', async () => {
    const job = await three();
    const selection = { part: 'b', kind: 'faces' as const, ids: new Uint32Array(0), also: [{ part: 'a', ids: Uint32Array.from([0, 1]) }] };
    const [marks] = alsoMarks({ ...job, selection });
    const { faceStart } = partOf(job, 'a').mesh;
    expect([...marks!.corners]).toEqual(Array.from({ length: faceStart[2]! }, (_, c) => c));
    // two quads side by side: six edges round them
    expect(marks!.model.length).toBe(6 * 6);
    const islands = alsoMarks({ ...job, selection: { ...selection, kind: 'islands', also: [{ part: 'a', ids: Uint32Array.from([0]) }] } });
    expect([islands[0]!.corners.length, islands[0]!.model.length > 0]).toEqual([0, true]);
  });
});
