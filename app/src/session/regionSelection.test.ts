import { describe, expect, it } from 'vitest';
import { activeSet, islandsOf, newJob, partOf, runOperation, type Job, type Part, type SelectionKind } from '@jig-peel/core';
import { cylinder } from '@jig-peel/core/mesh/starterForms';
import { emptyUvSet } from '@jig-peel/core/uv/uvSet';
import { alsoMarks } from './alsoMarks.ts';
import type { RegionView } from './messages.ts';
import { regionSelection } from './regionSelection.ts';
import { underPointer } from './underPointer.ts';

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

/** The parts, moved apart in x, seen from the front by an even projection: 100 px a unit, the origin at 300, 200. */
async function standing(moves: Record<string, [number, number, number]>): Promise<Job> {
  const job = await three();
  return {
    ...job,
    parts: job.parts.map((one) => ({ ...one, mesh: { ...one.mesh, points: one.mesh.points.map((x, k) => x + (moves[one.id]?.[k % 3] ?? 0)) } })),
  };
}
const front = (beside: string[]): RegionView => {
  const [width, height] = [600, 400];
  // prettier-ignore
  const matrix = [200 / width, 0, 0, 0, 0, 200 / height, 0, 0, 0, 0, -0.1, 0, 0, 0, 0, 1];
  return { view: 'model', width, height, matrix, beside };
};

describe('a region drawn on the model', () => {
  const all = { shape: 'box' as const, points: [0, 0, 599, 399] as [number, number, number, number] };
  const faces = (mode: 'set' | 'add' | 'take' = 'set', through = true) => ({ region: all, kind: 'faces' as const, through, mode, touched: [] });

  it('takes of the parts that are shown there, and leaves what is selected of the others', async () => {
    const job = await standing({ a: [-2, 0, 0], c: [2, 0, 0] });
    const count = partOf(job).mesh.faceStart.length - 1;
    const counts = (one: Job['selection']) => [one.ids.length, ...(one.also ?? []).map(({ part, ids }) => `${part} ${ids.length}`)];
    expect(counts(regionSelection(job, faces(), front(['a', 'c']))!)).toEqual([count, `a ${count}`, `c ${count}`]);
    expect(counts(regionSelection(job, faces(), front([]))!)).toEqual([count]);
    const before = { part: 'b', kind: 'faces' as const, ids: Uint32Array.of(0), also: [{ part: 'c', ids: Uint32Array.of(1) }] };
    const held = { ...job, selection: before };
    expect(counts(regionSelection(held, faces('add'), front(['a']))!)).toEqual([count, `a ${count}`, 'c 1']);
    expect(counts(regionSelection(held, faces('take'), front(['a', 'c']))!)).toEqual([0]);
    expect(counts(regionSelection(held, faces('set'), front(['a']))!)).toEqual([count, `a ${count}`]);
  });

  it('passes over what the part at work hides of another; the other hides nothing of it', async () => {
    // one right behind the part at work, one right before it, both seen through
    const apart = await standing({ a: [0, 0, -4], c: [0, 0, 2] });
    // the one behind half as large, so that nothing of it looks out at the sides
    const job = {
      ...apart,
      parts: apart.parts.map((one) => (one.id === 'a' ? { ...one, mesh: { ...one.mesh, points: one.mesh.points.map((x) => x / 2) } } : one)),
    };
    const found = regionSelection(job, faces('set', false), front(['a', 'c']))!;
    expect(found.also!.map(({ part }) => part)).toEqual(['c']);
    const alone = regionSelection(job, faces('set', false), front([]))!;
    expect([...found.ids]).toEqual([...alone.ids]);
    expect(found.ids.length).toBeLessThan(partOf(job).mesh.faceStart.length - 1);
  });
});

describe('what is under the pointer of another part', () => {
  it('on the sheet: the island, and the face, edge or point as it is drawn there and on the model', async () => {
    const job = await three();
    const { mesh, uvSets } = partOf(job, 'a');
    const set = uvSets[0]!;
    const corner = mesh.faceStart[3]!;
    const px = (c: number): [number, number] => [set.uv[set.cornerUv[c]! * 2]! * 1000 + 1, 1001 - set.uv[set.cornerUv[c]! * 2 + 1]! * 1000];
    const [[x, y], [nx, ny]] = [px(corner), px(corner + 1)];
    const asked = (kind: SelectionKind, at: [number, number]) => underPointer(job, { part: 'a', kind, view, x: at[0], y: at[1], triangle: -1, corner })!;
    const island = islandsOf(mesh, set).ofFace[3]!;
    expect(asked('points', [x + 2, y + 2])).toMatchObject({ part: 'a', island, sheet: Uint32Array.of(corner) });
    expect([...asked('points', [x + 2, y + 2]).model]).toEqual([0, 1, 2].map((d) => Math.fround(mesh.points[mesh.corners[corner]! * 3 + d]!)));
    const edge = asked('edges', [(x + nx) / 2, (y + ny) / 2]);
    expect([...edge.sheet]).toEqual([corner, corner + 1]);
    expect(edge.model.length).toBe(6);
    expect(asked('faces', [x, y]).sheet.length).toBe((mesh.faceStart[4]! - mesh.faceStart[3]!) * 2);
    // islands are drawn by their number; nothing is near far off
    expect([asked('islands', [x, y]).sheet.length, asked('islands', [x, y]).model.length > 6]).toEqual([0, true]);
    expect(asked('points', [x + 400, y])).toMatchObject({ island, sheet: new Uint32Array(0) });
    expect(underPointer(job, { part: 'gone', kind: 'faces', view, x, y, triangle: -1, corner })).toBeNull();
  });

  it('on the model: triangles are counted among those that are shown', async () => {
    const job = await standing({});
    const count = partOf(job, 'a').mesh.faceStart.length - 1;
    const hidden = new Uint8Array(count);
    hidden[0] = 1;
    const away = { ...job, parts: job.parts.map((one) => (one.id === 'a' ? { ...one, hidden } : one)) };
    const at = { part: 'a', kind: 'faces' as const, view: front(['a']), x: 300, y: 200, corner: -1 };
    const all = underPointer(job, { ...at, triangle: 2 })!;
    // a quad is two triangles: with the first face away the first one shown is of the second face
    expect(underPointer(away, { ...at, triangle: 0 })!.sheet).toEqual(all.sheet);
    expect(all.model.length).toBe(24);
    expect(underPointer(job, { ...at, triangle: 99_999 })).toBeNull();
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
