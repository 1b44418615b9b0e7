import { decode } from 'fast-png';
import { describe, expect, it } from 'vitest';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { activeSet, newJob, partOf, type Job } from '../job/job.ts';
import { mostVersions } from '../job/versions.ts';
import { checkLayout } from '../measure/check.ts';
import { box, cylinder } from '../mesh/starterForms.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { islandsOf } from '../uv/islands.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { runOperation, type ReportOf } from './registry.ts';

const jobOf = (...meshes: Mesh[]): Job =>
  newJob(
    'j',
    'j',
    meshes.map((mesh, k) => ({
      id: `p${k}`,
      name: `part ${k}`,
      mesh,
      uvSets: [emptyUvSet(mesh)],
      activeUv: 0,
      imageId: null,
      origin: { kind: 'made' as const },
    })),
  );
const run = async (job: Job, name: string, params: Record<string, unknown> = {}) => (await runOperation(job, name, params)).job;
const laid = async () => {
  let job = await run(jobOf(box(1, 2, 3), cylinder(1, 2, 12, 1)), 'firstLayout', { part: 'p0', by: 'crease' });
  job = await run(job, 'firstLayout', { part: 'p1', by: 'crease' });
  return run(job, 'keepVersion', { name: 'First', note: 'as unwrapped', time: 5 });
};
const islandsSelected = (part: string, ids: number[]) => ({ part, kind: 'islands', ids });
const changes = async (job: Job, params: Record<string, unknown> = {}) =>
  ((await runOperation(job, 'compareVersions', params)).report as ReportOf<'compareVersions'>).parts;

describe('versions', () => {
  it('keep the layout with its figures and a picture, and give it back bit for bit', async () => {
    const job = await laid();
    const [version] = job.versions!;
    expect(version).toMatchObject({ id: 'version-1', name: 'First', note: 'as unwrapped', made: 5 });
    const { mesh, uvSets } = job.parts[0]!;
    const alone = checkLayout(mesh, uvSets[0]!, 2048, 2048).report;
    expect(version!.figures).toHaveLength(1);
    expect(version!.figures[0]!.islands).toBe(alone.islands + 3);
    const picture = decode(version!.picture);
    expect([picture.width, picture.height]).toEqual([128, 128]);
    expect(picture.data.some((x) => x > 0)).toBe(true);
    let next = await run(job, 'select', islandsSelected('p0', [0, 1]));
    next = await run(next, 'transform', { move: [0.3, 0.1], turn: 20 });
    next = await run(next, 'cut', { part: 'p1', edges: [0, 1, 2, 3] }).catch(() => next);
    expect(activeSet(partOf(next, 'p0')).uv).not.toEqual(activeSet(partOf(job, 'p0')).uv);
    const back = await run(next, 'useVersion');
    for (const id of ['p0', 'p1']) expect(partOf(back, id).uvSets).toEqual(partOf(job, id).uvSets);
    // what was kept stays kept
    expect(back.versions).toBe(job.versions);
  });

  it('one part only; selected pieces only, whole on both sides', async () => {
    const job = await laid();
    let next = job;
    for (const part of ['p0', 'p1']) {
      next = await run(next, 'select', islandsSelected(part, [0, 1]));
      next = await run(next, 'transform', { move: [0.2, 0.2] });
    }
    const one = await run(next, 'useVersion', { what: 'part', part: 'p1' });
    expect(activeSet(partOf(one, 'p1')).uv).toEqual(activeSet(partOf(job, 'p1')).uv);
    expect(activeSet(partOf(one, 'p0')).uv).toEqual(activeSet(partOf(next, 'p0')).uv);
    const chosen = await run(next, 'select', islandsSelected('p0', [1]));
    const some = await run(chosen, 'useVersion', { what: 'selected', part: 'p0' });
    const { mesh } = partOf(job, 'p0');
    const place = (of: Job, c: number) => {
      const set = activeSet(partOf(of, 'p0'));
      return [set.uv[set.cornerUv[c]! * 2], set.uv[set.cornerUv[c]! * 2 + 1]];
    };
    const { ofFace } = islandsOf(mesh, activeSet(partOf(job, 'p0')));
    for (let c = 0; c < mesh.corners.length; c++) expect(place(some, c)).toEqual(place(ofFace[Math.floor(c / 4)] === 1 ? job : next, c));
    // as many pieces as before, none hangs on another
    expect(islandsOf(mesh, activeSet(partOf(some, 'p0'))).count).toBe(6);
  });

  it('what became of the pieces: same, moved with any turn and size, reshaped, cut or joined', async () => {
    const job = await laid();
    const at = async (next: Job) => (await changes(next)).find(({ part }) => part === 'p0')!.islands;
    expect(await at(job)).toEqual({ same: 6, moved: 0, reshaped: 0, recut: 0 });
    let next = await run(job, 'select', islandsSelected('p0', [2]));
    next = await run(next, 'transform', { move: [0.1, 0], turn: 33, scale: [1.5, 1.5] });
    expect(await at(next)).toEqual({ same: 5, moved: 1, reshaped: 0, recut: 0 });
    next = await run(next, 'transform', { scale: [-1, 1] });
    expect(await at(next)).toEqual({ same: 5, moved: 1, reshaped: 0, recut: 0 });
    next = await run(next, 'transform', { scale: [1.2, 1] });
    expect(await at(next)).toEqual({ same: 5, moved: 0, reshaped: 1, recut: 0 });
    const { neighbours } = (await runOperation(next, 'joinAdvice', { part: 'p0', island: 0 })).report as ReportOf<'joinAdvice'>;
    next = await run(next, 'join', { part: 'p0', island: 0, to: neighbours[0]!.to });
    const joined = await at(next);
    expect(joined.recut).toBe(1);
    // between two versions, and marked face by face
    next = await run(next, 'keepVersion');
    expect(next.versions!.map(({ name }) => name)).toEqual(['First', 'Version 2']);
    const [first] = await changes(next, { version: 'version-1', to: 'version-2' });
    expect([...first!.faces!].filter((x) => x === 3)).toHaveLength(2);
    expect(await changes(next, { version: 'version-2' })).toMatchObject([{ islands: { moved: 0, reshaped: 0, recut: 0 } }, {}]);
  });

  it('a part whose faces changed keeps its layout, and is named; where none fits it is said', async () => {
    const job = await laid();
    const other = {
      ...job,
      parts: job.parts.map((part) => (part.id === 'p0' ? { ...part, mesh: cylinder(1, 1, 5, 1), uvSets: [emptyUvSet(cylinder(1, 1, 5, 1))] } : part)),
    };
    const { report } = await runOperation(other, 'useVersion', {});
    expect(report).toMatchObject({ parts: 1, left: ['part 0'] });
    await expect(runOperation(other, 'useVersion', { what: 'part', part: 'p0' })).rejects.toThrow(/no layout that fits part 0/);
    expect((await changes(other))[0]).toMatchObject({ name: 'part 0', faces: null });
    await expect(runOperation(jobOf(box()), 'useVersion', {})).rejects.toThrow(/No version/);
    await expect(runOperation(job, 'useVersion', { version: 'x' })).rejects.toThrow(/no such version/);
  });

  it('are named, noted and removed; their number is limited', async () => {
    let job = await laid();
    job = await run(job, 'editVersion', { name: 'Better', note: 'tight' });
    expect(job.versions![0]).toMatchObject({ name: 'Better', note: 'tight' });
    await expect(runOperation(job, 'editVersion', { name: 'Better' })).rejects.toThrow(/already/);
    expect((await run(job, 'editVersion', { do: 'remove' })).versions).toBeUndefined();
    job = { ...job, versions: Array.from({ length: mostVersions }, (_, k) => ({ ...job.versions![0]!, id: `version-${k + 1}` })) };
    await expect(runOperation(job, 'keepVersion', {})).rejects.toThrow(/up to 50/);
  });

  it('go along in an archive; a damaged one is left out and said', async () => {
    const job = await laid();
    const { job: read } = readArchive(writeArchive(job));
    expect(read.versions).toEqual(job.versions);
    const [version] = job.versions!;
    const broken = version!.layouts.map((layout, k) => (k === 0 ? { ...layout, uvSets: [{ ...layout.uvSets[0]!, cornerUv: new Uint32Array(2) }] } : layout));
    const { job: mended } = readArchive(writeArchive({ ...job, versions: [{ ...version!, layouts: broken }] }));
    expect(mended.versions![0]!.layouts).toHaveLength(1);
    expect(mended.intake.at(-1)).toMatch(/a layout of a version/);
  });
});
