import { describe, expect, it } from 'vitest';
import { checkLayout } from '../measure/check.ts';
import { box as boxMesh } from '../mesh/starterForms.ts';
import { runOperation } from '../ops/registry.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { islandsOf } from '../uv/islands.ts';
import { tileAt, tileNumber, tilePlace } from '../uv/tiles.ts';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { joinParts } from './joinParts.ts';
import { leftOut } from './leftOut.ts';
import { activeSet, newJob, partOf, type Job } from './job.ts';
import { partsOnSheet, sheetAspect, sheetFor, sheetOfPart, sheetsByMaterial, sheetsOf } from './sheets.ts';

/** Plates, each over the whole sheet. */
async function plates(count: number): Promise<Job> {
  let job = newJob('j', 'j', []);
  for (let k = 0; k < count; k++) ({ job } = await runOperation(job, 'makeForm', { kind: 'plane', segments: 2, rows: 2 }));
  return job;
}
const withMaterial = (job: Job, k: number, name: string): Job => ({
  ...job,
  parts: job.parts.map((part, n) =>
    n === k ? { ...part, mesh: { ...part.mesh, materials: [name], faceMaterial: part.mesh.faceMaterial.map(() => 0) } } : part,
  ),
});

describe('tiles', () => {
  it('are numbered 1001 + column + 10 · row, ten a row', () => {
    // the open tile numbering; values by hand
    expect([0, 1, 9, 10, 23].map(tileNumber)).toEqual([1001, 1002, 1010, 1011, 1024]);
    for (let k = 0; k < 100; k++) {
      const [column, row] = tilePlace(k);
      expect(tileNumber(k)).toBe(1001 + column + 10 * row);
      expect(tileAt(column + 0.5, row + 0.25, 100)).toBe(k);
    }
  });

  it('a place is in one tile or in none; the outermost border is still inside', () => {
    expect([tileAt(0, 0, 1), tileAt(1, 1, 1), tileAt(1.001, 0.5, 1), tileAt(-0.001, 0.5, 1)]).toEqual([0, 0, -1, -1]);
    expect([tileAt(1, 0.5, 2), tileAt(2, 0.5, 2), tileAt(2.01, 0.5, 2), tileAt(0.5, 1.01, 2)]).toEqual([1, 1, -1, -1]);
    // a second row of two tiles only
    expect([tileAt(1.5, 1.5, 12), tileAt(2.5, 1.5, 12), tileAt(9.5, 0.5, 12)]).toEqual([11, -1, 9]);
  });

  it('outside is in no tile: an island moved over into the second is inside where the sheet has two', async () => {
    let job = await plates(1);
    ({ job } = await runOperation(job, 'select', { kind: 'islands', ids: [0] }));
    ({ job } = await runOperation(job, 'transform', { scale: [0.5, 0.5], move: [1, 0] }));
    const part = partOf(job);
    const measured = (tiles: number) => checkLayout(part.mesh, activeSet(part), 1024, 1024, undefined, tiles).report;
    expect(measured(1)).toMatchObject({ coverage: 0 });
    expect(measured(1).outsideArea).toBeCloseTo(0.25, 9);
    expect(measured(2).outsideArea).toBeCloseTo(0, 12);
    // a quarter of one of two tiles, a quarter of a tile from each border
    expect(measured(2).coverage).toBeCloseTo(0.125, 9);
    expect(measured(2).smallestBorderGapPx).toBeCloseTo(256, 6);
    expect(leftOut(job.parts)[0]!.outside).toEqual(['A']);
    expect(leftOut(job.parts, () => 2)).toEqual([]);
  });
});

describe('sheets', () => {
  it('a job without any has one, as its settings say; parts are put on others and keep their shape in px', async () => {
    let job = await plates(2);
    expect(sheetsOf(job)).toMatchObject([{ id: 'sheet-1', width: 2048, tiles: 1 }]);
    const [one, two] = job.parts.map(({ id }) => id) as [string, string];
    ({ job } = await runOperation(job, 'activatePart', { part: two }));
    ({ job } = await runOperation(job, 'sheets', { do: 'add', name: 'Wide', parts: [two], tiles: 3 }));
    expect(sheetOfPart(job, partOf(job, two))!.name).toBe('Wide');
    // the size is that of the sheet at work alone
    ({ job } = await runOperation(job, 'settings', { width: 4096 }));
    expect([sheetFor(job, one).width, sheetFor(job, two).width]).toEqual([2048, 4096]);
    expect(sheetAspect(job, two)).toBe(2);
    // half as wide in u, as wide in px
    expect(Math.max(...activeSet(partOf(job, two)).uv)).toBeCloseTo(1, 9);
    expect(Math.max(...activeSet(partOf(job, two)).uv.filter((_, k) => k % 2 === 0))).toBeCloseTo(0.5, 9);
    expect(Math.max(...activeSet(partOf(job, one)).uv.filter((_, k) => k % 2 === 0))).toBeCloseTo(1, 9);
    // the settings follow the part at work
    ({ job } = await runOperation(job, 'activatePart', { part: one }));
    expect(job.settings.width).toBe(2048);
    ({ job } = await runOperation(job, 'activatePart', { part: two }));
    expect(job.settings.width).toBe(4096);
    // and back onto the first: as wide in px again
    ({ job } = await runOperation(job, 'sheets', { do: 'assign', sheet: 'sheet-1', parts: [two] }));
    expect(job.settings.width).toBe(2048);
    expect(Math.max(...activeSet(partOf(job, two)).uv.filter((_, k) => k % 2 === 0))).toBeCloseTo(1, 9);
    expect(partsOnSheet(job).map(({ id }) => id)).toEqual([one, two]);
  });

  it('are renamed apart, removed with their parts going to another one, and kept in an archive', async () => {
    let job = await plates(2);
    ({ job } = await runOperation(job, 'sheets', { do: 'add', parts: [job.parts[1]!.id] }));
    ({ job } = await runOperation(job, 'sheets', { do: 'change', sheet: 'sheet-2', name: 'Sheet 1' }));
    expect(sheetsOf(job).map(({ name }) => name)).toEqual(['Sheet 1', 'Sheet 1 2']);
    const again = readArchive(writeArchive(job)).job;
    expect(again.sheets).toEqual(job.sheets);
    expect(again.parts.map((part) => part.sheet)).toEqual(job.parts.map((part) => part.sheet));
    ({ job } = await runOperation(job, 'sheets', { do: 'remove', sheet: 'sheet-2' }));
    expect(job.parts.map((part) => sheetOfPart(job, part)!.id)).toEqual(['sheet-1', 'sheet-1']);
    await expect(runOperation(job, 'sheets', { do: 'remove' })).rejects.toThrow(/keeps one sheet/);
    ({ job } = await runOperation(job, 'sheets', { do: 'takeOff' }));
    expect(sheetOfPart(job, partOf(job))).toBeNull();
    expect(partsOnSheet(job)).toHaveLength(1);
  });

  it('a new job has a sheet for each set of parts that share materials', async () => {
    let job = await plates(4);
    expect(sheetsByMaterial(job).sheets).toBeUndefined();
    job = withMaterial(withMaterial(withMaterial(job, 0, 'brass'), 2, 'brass'), 1, 'wood');
    const sorted = sheetsByMaterial(job);
    expect(sorted.sheets!.map(({ name }) => name)).toEqual(['brass', 'wood', 'Sheet 3']);
    expect(sorted.parts.map((part) => part.sheet)).toEqual(['sheet-1', 'sheet-2', 'sheet-1', 'sheet-3']);
  });

  it('a pack of the sheet packs its parts together and leaves the others', async () => {
    let job = await plates(3);
    ({ job } = await runOperation(job, 'sheets', { do: 'add', parts: [job.parts[2]!.id] }));
    ({ job } = await runOperation(job, 'activatePart', { part: job.parts[0]!.id }));
    const before = activeSet(job.parts[2]!);
    ({ job } = await runOperation(job, 'pack', { parts: 'sheet', effort: 0 }));
    expect(activeSet(job.parts[2]!)).toBe(before);
    const { mesh, set } = joinParts(job.parts.slice(0, 2));
    const { report } = checkLayout(mesh, set, 2048, 2048);
    expect(report).toMatchObject({ islands: 2, overlapArea: 0 });
    expect(report.smallestGapPx!).toBeGreaterThanOrEqual(8 - 1e-6);
  });

  it('a new layout goes into room between the islands of other parts, at their density; else into the tray, apart from what waits there', async () => {
    let job = await plates(1);
    ({ job } = await runOperation(job, 'select', { kind: 'islands', ids: [0] }));
    ({ job } = await runOperation(job, 'transform', { scale: [0.4, 0.4] }));
    for (let k = 0; k < 5; k++) {
      ({ job } = await runOperation(job, 'makeForm', { kind: 'plane', segments: 2, rows: 2, uvs: false }));
      ({ job } = await runOperation(job, 'firstLayout', {}));
    }
    const { mesh, set } = joinParts(job.parts);
    const { report } = checkLayout(mesh, set, 2048, 2048);
    expect(islandsOf(mesh, set).count).toBe(6);
    expect(report.overlapArea).toBe(0);
    expect(report.densityCV!).toBeLessThan(1e-9);
    expect(leftOut(job.parts).some(({ waiting }) => waiting.length > 0)).toBe(true);
    expect(leftOut(job.parts).every(({ outside }) => outside.length === 0)).toBe(true);
  });

  it('islands of several parts are unwrapped and pinned together; hidden parts are left out of a pack', async () => {
    let job = newJob('j', 'j', []);
    for (let k = 0; k < 3; k++) ({ job } = await runOperation(job, 'makeForm', { kind: 'cylinder' }));
    const [one, two, three] = job.parts.map(({ id }) => id) as [string, string, string];
    ({ job } = await runOperation(job, 'select', { part: one, kind: 'islands', ids: [0], also: [{ part: two, ids: [1] }] }));
    const { job: laid, sentence } = await runOperation(job, 'unwrap', { islands: [0], also: [{ part: two, islands: [1] }] });
    expect(sentence).toMatch(/^Unwrapped 2 islands/);
    expect([one, two, three].map((id) => activeSet(partOf(laid, id)) !== activeSet(partOf(job, id)))).toEqual([true, true, false]);
    const { job: pinned } = await runOperation(job, 'pin', { to: 'on' });
    expect([one, two, three].map((id) => activeSet(partOf(pinned, id)).pins.includes(1))).toEqual([true, true, false]);
    ({ job } = await runOperation(job, 'hideParts', { what: 'hide', parts: [three] }));
    const { job: packed } = await runOperation(job, 'pack', { parts: 'sheet', effort: 0 });
    expect([one, two, three].map((id) => activeSet(partOf(packed, id)) !== activeSet(partOf(job, id)))).toEqual([true, true, false]);
  });
});

describe('gap, border gap and density of a sheet', () => {
  const panels = async (): Promise<Job> => {
    const mesh = boxMesh(1, 0.6, 0.4);
    const job = newJob('j', 'panels', [{ id: 'a', name: 'a', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } }]);
    return (await runOperation(job, 'unwrap', { seams: 'crease' })).job;
  };
  const figures = (job: Job) => checkLayout(job.parts[0]!.mesh, activeSet(job.parts[0]!), 1024, 1024).report;

  it('packing keeps each of its own, and the sheet at work has them', async () => {
    let job = await panels();
    job = (await runOperation(job, 'sheets', { do: 'add', name: 'second', parts: ['a'] })).job;
    job = (await runOperation(job, 'settings', { width: 1024, height: 1024, margin: 6, borderGap: 30 })).job;
    expect(sheetFor(job)).toMatchObject({ margin: 6, borderGap: 30 });
    job = (await runOperation(job, 'pack', { parts: 'sheet', effort: 0 })).job;
    const { smallestGapPx, smallestBorderGapPx } = figures(job);
    expect(smallestGapPx!).toBeGreaterThanOrEqual(6);
    expect(smallestGapPx!).toBeLessThan(12);
    expect(smallestBorderGapPx!).toBeGreaterThanOrEqual(30);
    expect(smallestBorderGapPx!).toBeLessThan(36);
    // new islands keep it too
    const bare = { ...job, parts: [{ ...job.parts[0]!, uvSets: [emptyUvSet(job.parts[0]!.mesh)] }] };
    expect(figures((await runOperation(bare, 'unwrap', { seams: 'crease' })).job).smallestBorderGapPx!).toBeGreaterThanOrEqual(30);
    // back to one figure for both
    job = (await runOperation(job, 'settings', { borderGap: null })).job;
    job = (await runOperation(job, 'pack', { parts: 'sheet', effort: 0 })).job;
    expect(figures(job).smallestBorderGapPx!).toBeLessThan(12);
  });

  it('a stated density: new islands come in at it, all can be brought to it, and none stated is said', async () => {
    let job = await panels();
    await expect(runOperation(job, 'density', { toSheet: true })).rejects.toThrow('The sheet states no density.');
    job = (await runOperation(job, 'settings', { width: 1024, height: 1024 })).job;
    job = (await runOperation(job, 'sheets', { do: 'change', density: 210 })).job;
    job = (await runOperation(job, 'density', { toSheet: true, parts: 'sheet' })).job;
    expect(figures(job).densityMedian).toBeCloseTo(210, 6);
    // a bare part that comes to the sheet
    const bare = { ...job, parts: [{ ...job.parts[0]!, uvSets: [emptyUvSet(job.parts[0]!.mesh)] }] };
    const laid = (await runOperation(bare, 'unwrap', { seams: 'crease' })).job;
    expect(figures(laid).densityMedian).toBeCloseTo(210, 6);
    expect(figures(laid).overlapArea).toBe(0);
  });
});

it('of a job that never had another sheet the one there is can be changed', async () => {
  const job = await plates(1);
  expect(job.sheets).toBeUndefined();
  const { job: next } = await runOperation(job, 'sheets', { do: 'change', tiles: 3, name: 'Deck' });
  expect(sheetsOf(next)).toMatchObject([{ tiles: 3, name: 'Deck' }]);
});
