import 'fake-indexeddb/auto';
import { encode } from 'fast-png';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { box, emptyUvSet, History, newJob, runOperation, type HistoryEntry, type Part } from '@jig-peel/core';
import { binJob, binTime, deleteJob, emptyOldBin, pinnedKey, putBackJob } from './bin.ts';
import { JobDatabase, Keeper, listJobs, restoreJob, sizeOf, TakenOverError } from './db.ts';

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
    expect([kept.index, kept.missing]).toEqual([1, 2]);
  });

  it('removing a job leaves nothing of it and all of the others', async () => {
    const history = await steps();
    await new Keeper('job', db).save(history.entries, history.index);
    await new Keeper('other', db).save(history.entries, history.index);
    const pins = new Map([pinnedKey('job'), pinnedKey('other')].map((key) => [key, '{}']));
    vi.stubGlobal('localStorage', { removeItem: (key: string) => pins.delete(key) });
    await deleteJob('job', db);
    vi.unstubAllGlobals();
    expect([...pins.keys()]).toEqual([pinnedKey('other')]);
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
    await deleteJob('one', db);
    const two = (await new Keeper('two', db).load())!;
    expect([...two.entries.at(-1)!.job.images[0]!.bytes]).toEqual([...picture(7)]);
    await deleteJob('two', db);
    await deleteJob('three', db);
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

  /** Lets the table's next writes fail as a full disk does. */
  function failing(times: number): () => void {
    let left = times;
    const hook = () => {
      if (left-- > 0) throw new DOMException('full', 'QuotaExceededError');
    };
    db.steps.hook('creating', hook);
    return () => db.steps.hook('creating').unsubscribe(hook);
  }

  it('a save that fails forgets what it would have kept: the next one keeps all of it', async () => {
    const history = await steps();
    const keeper = new Keeper('job', db);
    const stop = failing(1);
    await expect(keeper.save(history.entries, history.index)).rejects.toThrow();
    expect([await db.jobs.count(), await db.steps.count(), await db.arrays.count()]).toEqual([0, 0, 0]);
    stop();
    history.push({ ...(await runOperation(history.present, 'renameJob', { name: 'New' })), operation: 'renameJob', time: 3 });
    await keeper.save(history.entries, history.index);
    const kept = (await new Keeper('job', db).load())!;
    expect(plain(kept.entries)).toEqual(plain(history.entries));
    expect(kept.missing).toBe(0);
  });

  it('a save that fails in the middle of a job costs no step either', async () => {
    const history = await steps();
    const keeper = new Keeper('job', db);
    await keeper.save(history.entries.slice(0, 2), 1);
    const stop = failing(2);
    await expect(keeper.save(history.entries.slice(0, 3), 2)).rejects.toThrow();
    await expect(keeper.save(history.entries, 3)).rejects.toThrow();
    stop();
    await keeper.save(history.entries, 3);
    expect(plain((await new Keeper('job', db).load())!.entries)).toEqual(plain(history.entries));
  });

  it('of two sessions only the one that took the job last writes', async () => {
    const history = await steps();
    const first = new Keeper('job', db, 'first');
    await first.save(history.entries, 2);
    const second = new Keeper('job', db, 'second');
    await second.claim();
    await expect(first.save(history.entries, 0)).rejects.toThrow(TakenOverError);
    expect((await second.load())!.index).toBe(2);
    await second.save((await second.load())!.entries, 1);
    expect((await db.jobs.get('job'))!.index).toBe(1);
  });

  it('a keeper that reads again uses the steps and arrays it has', async () => {
    const history = await steps();
    await new Keeper('job', db).save(history.entries, history.index);
    const keeper = new Keeper('job', db);
    const one = (await keeper.load())!;
    const two = (await keeper.load())!;
    expect(two.entries.every((entry, k) => entry === one.entries[k])).toBe(true);
  });

  describe('the bin', () => {
    it('keeps all of a job, its pictures too, and gives it back', async () => {
      const history = await withPicture('one', picture(11));
      await binJob('one', db);
      expect((await listJobs(db))[0]).toMatchObject({ kind: 'sound', row: { id: 'one', removed: expect.any(Number) as number } });
      await putBackJob('one', db);
      const kept = (await new Keeper('one', db).load())!;
      expect(plain(kept.entries)).toEqual(plain(history.entries));
      expect([...kept.entries.at(-1)!.job.images[0]!.bytes]).toEqual([...picture(11)]);
      expect((await db.jobs.get('one'))!.removed).toBeUndefined();
    });

    it('lets a job go after its time and none before', async () => {
      await withPicture('old', picture(12));
      await withPicture('new', picture(13));
      await binJob('old', db);
      await binJob('new', db);
      await db.jobs.update('old', { removed: Date.now() - binTime - 1 });
      expect(await emptyOldBin(db)).toBe(1);
      expect((await db.jobs.toArray()).map(({ id }) => id)).toEqual(['new']);
      expect(await db.images.count()).toBe(1);
    });

    it('says how large a job is, and the row keeps up with it', async () => {
      await withPicture('one', picture(14));
      const size = await sizeOf('one', db);
      expect(size).toBeGreaterThan(picture(14).length);
      expect((await db.jobs.get('one'))!.bytes).toBe(size);
      await db.jobs.update('one', { bytes: undefined });
      const keeper = new Keeper('one', db);
      const kept = (await keeper.load())!;
      const history = History.restore(kept.entries, kept.index);
      history.push({ ...(await runOperation(history.present, 'seams', {})), operation: 'seams', time: 3 });
      await keeper.save(history.entries, history.index);
      expect((await db.jobs.get('one'))!.bytes).toBe(await sizeOf('one', db));
    });
  });

  describe('damaged rows', () => {
    it.each<[string, object]>([
      ['no parts', { parts: undefined }],
      ['null faces', { faces: null }],
      ['null steps', { steps: null }],
      ['images that are no list', { images: 7 }],
    ])('%s: listed as damaged, the other as it is, and what is left can be saved', async (_name, change) => {
      const history = await steps();
      await new Keeper('job', db).save(history.entries, history.index);
      await new Keeper('other', db).save(history.entries, history.index);
      await db.jobs.update('job', change as never);
      const rows = await listJobs(db);
      expect(rows.map((row) => row.kind).sort()).toEqual(['damaged', 'sound']);
      await expect(new Keeper('job', db).load()).rejects.toThrow(/damaged/);
      expect(await restoreJob('job', db)).toBe(4);
      const kept = (await new Keeper('job', db).load())!;
      expect(plain(kept.entries)).toEqual(plain(history.entries));
    });

    it('a row with nothing but an id is listed, and one with nothing left says so', async () => {
      await db.jobs.put({ id: 'bare' } as never);
      expect(await listJobs(db)).toEqual([{ kind: 'damaged', id: 'bare', name: '', removed: null }]);
      await expect(restoreJob('bare', db)).rejects.toThrow(/Nothing of this job is left/);
      await deleteJob('bare', db);
      expect(await listJobs(db)).toEqual([]);
    });

    it('a step that is no whole job any more is left out and counted', async () => {
      const history = await steps();
      await new Keeper('job', db).save(history.entries, history.index);
      const last = (await db.jobs.get('job'))!.steps.at(-1)!;
      await db.steps.update(last, { job: { parts: null } });
      const kept = (await new Keeper('job', db).load())!;
      expect([kept.entries.length, kept.index, kept.missing]).toEqual([3, 2, 1]);
    });

    it('removing a job beside a damaged row goes well', async () => {
      await withPicture('one', picture(15));
      await db.jobs.put({ id: 'bad', images: 'none' } as never);
      await deleteJob('one', db);
      expect(await db.images.count()).toBe(0);
    });
  });
});
