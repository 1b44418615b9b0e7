import 'fake-indexeddb/auto';
import { encode } from 'fast-png';
import { beforeEach, describe, expect, it } from 'vitest';
import { box, emptyUvSet, History, newJob, runOperation, type HistoryEntry, type Part } from '@jig-peel/core';
import { JobDatabase, Keeper, removeJob } from './db.ts';

const part = (): Part => ({ id: 'p', name: 'box', mesh: box(), uvSets: [emptyUvSet(box())], activeUv: 0, imageId: null, origin: { kind: 'made' } });
let db: JobDatabase;
let counter = 0;

beforeEach(() => {
  db = new JobDatabase(`test-${counter++}`);
});

async function steps(): Promise<History> {
  const history = new History({ job: newJob('job', 'Box', [part()]), operation: 'open', params: {}, sentence: 'Opened', time: 1 });
  for (const [name, params] of [
    ['seams', {}],
    ['firstLayout', {}],
    ['settings', { margin: 3 }],
  ] as const) {
    history.push({ ...(await runOperation(history.present, name, params)), operation: name, time: 2 });
  }
  return history;
}

const plain = (entries: readonly HistoryEntry[]) => entries.map(({ job, operation, sentence, time }) => ({ job, operation, sentence, time }));

describe('what is kept in the browser', () => {
  it('a job comes back as it was, with its history and its place in it', async () => {
    const history = await steps();
    history.undo();
    await new Keeper('job', db).save(history.entries, history.index);
    const kept = await new Keeper('job', db).load();
    expect(plain(kept!.entries)).toEqual(plain(history.entries));
    expect(kept!.index).toBe(2);
    const again = History.restore(kept!.entries, kept!.index);
    expect(again.redo().settings.margin).toBe(3);
  });

  it('arrays that steps share are kept once and are shared again after loading', async () => {
    const history = await steps();
    await new Keeper('job', db).save(history.entries, history.index);
    const kept = (await new Keeper('job', db).load())!;
    expect(kept.entries[0]!.job.parts[0]!.mesh.points).toBe(kept.entries[3]!.job.parts[0]!.mesh.points);
    const distinct = new Set(
      history.entries.flatMap(({ job }) =>
        [...Object.values(job.parts[0]!.mesh), ...Object.values(job.parts[0]!.uvSets[0]!), job.selection.ids].filter((v) => ArrayBuffer.isView(v)),
      ),
    );
    expect(await db.arrays.count()).toBe(distinct.size);
  });

  it('a second save writes only what is new', async () => {
    const history = await steps();
    const keeper = new Keeper('job', db);
    await keeper.save(history.entries, history.index);
    const before = new Set(await db.arrays.toCollection().primaryKeys());
    history.push({ ...(await runOperation(history.present, 'renameJob', { name: 'New' })), operation: 'renameJob', time: 3 });
    await keeper.save(history.entries, history.index);
    expect(new Set(await db.arrays.toCollection().primaryKeys())).toEqual(before);
    expect((await db.jobs.get('job'))!.name).toBe('New');
  });

  it('steps that were undone and replaced are dropped with their arrays; the rest still loads', async () => {
    const history = await steps();
    const keeper = new Keeper('job', db);
    await keeper.save(history.entries, history.index);
    const full = await db.arrays.count();
    history.undo();
    history.undo();
    history.undo();
    history.push({ ...(await runOperation(history.present, 'renameJob', { name: 'Other' })), operation: 'renameJob', time: 3 });
    await keeper.save(history.entries, history.index);
    expect(await db.arrays.count()).toBeLessThan(full);
    expect(await db.steps.count()).toBe(2);
    const kept = (await new Keeper('job', db).load())!;
    expect(plain(kept.entries)).toEqual(plain(history.entries));
  });

  it('a step whose arrays are lost is left out, the others come back', async () => {
    const history = await steps();
    await new Keeper('job', db).save(history.entries, history.index);
    const first = (await db.steps.where('jobId').equals('job').toArray()).find((step) => step.operation === 'firstLayout')!;
    const others = new Set((await db.steps.toArray()).filter((step) => step.operation === 'open' || step.operation === 'seams').flatMap((step) => step.arrays));
    await db.arrays.bulkDelete(first.arrays.filter((key) => !others.has(key)));
    const kept = (await new Keeper('job', db).load())!;
    expect(kept.entries.map((entry) => entry.operation)).toEqual(['open', 'seams']);
    expect(kept.index).toBe(1);
  });

  it('removing a job leaves nothing of it and all of the others', async () => {
    const history = await steps();
    await new Keeper('job', db).save(history.entries, history.index);
    await new Keeper('other', db).save(history.entries, history.index);
    await removeJob('job', db);
    expect(await new Keeper('job', db).load()).toBeNull();
    expect(await new Keeper('other', db).load()).not.toBeNull();
    expect(await db.arrays.where('jobId').equals('job').count()).toBe(0);
  });

  const picture = (shade: number) => encode({ width: 2, height: 2, data: new Uint8Array(16).fill(shade), channels: 4, depth: 8 });
  async function withPicture(id: string, bytes: Uint8Array): Promise<History> {
    const history = new History({ job: newJob(id, id, [part()]), operation: 'open', params: {}, sentence: 'Opened', time: 1 });
    const { job } = await runOperation(history.present, 'addImages', { images: [{ name: `${id}.png`, bytes }] });
    history.push({ job, operation: 'addImages', params: {}, sentence: 'Added', time: 2 });
    await new Keeper(id, db).save(history.entries, history.index);
    return history;
  }

  it('the same image in two jobs is kept once, and stays until the last of them goes', async () => {
    await withPicture('one', picture(7));
    await withPicture('two', picture(7));
    await withPicture('three', picture(8));
    expect(await db.images.count()).toBe(2);
    expect((await db.arrays.toArray()).some((row) => row.data.byteLength === picture(7).length)).toBe(false);
    await removeJob('one', db);
    const two = (await new Keeper('two', db).load())!;
    expect([...two.entries.at(-1)!.job.images[0]!.bytes]).toEqual([...picture(7)]);
    await removeJob('two', db);
    await removeJob('three', db);
    expect(await db.images.count()).toBe(0);
  });

  it('an image comes back under its own hash: a save after loading writes none again', async () => {
    await withPicture('one', picture(9));
    const keeper = new Keeper('one', db);
    const kept = (await keeper.load())!;
    const history = History.restore(kept.entries, kept.index);
    history.push({ ...(await runOperation(history.present, 'renameJob', { name: 'New' })), operation: 'renameJob', time: 3 });
    await keeper.save(history.entries, history.index);
    expect([await db.images.count(), (await new Keeper('one', db).load())!.entries.length]).toEqual([1, 3]);
  });

  it('a lost image costs its picture, not the step', async () => {
    await withPicture('one', picture(10));
    await db.images.clear();
    const kept = (await new Keeper('one', db).load())!;
    expect(kept.entries).toHaveLength(2);
    expect(kept.entries[1]!.job.images[0]!.bytes).toHaveLength(0);
  });
});
