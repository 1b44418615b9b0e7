import 'fake-indexeddb/auto';
import { unzipSync } from 'fflate';
import { afterEach, expect, it } from 'vitest';
import { emptyUvSet, openFiles, quietContext, sphere, writeObj, type History, type Job, type Part } from '@jig-peel/core';
import type { DeliverChoice } from './delivery.ts';
import { hashOf, openBench, type Bench } from './testing.ts';

const open: Bench[] = [];
const bench = (): Bench => {
  const made = openBench();
  open.push(made);
  return made;
};
afterEach(async () => {
  for (const { session } of open.splice(0)) await session.close();
});
const present = ({ session }: Bench): Job => (session as unknown as { history: History }).history.present;

const everything: DeliverChoice = {
  obj: true,
  glb: true,
  ply: true,
  guidePng: true,
  guideSvg: true,
  archive: true,
  guideSize: '256',
  parts: [],
  normals: { kind: 'smooth', angle: 40 } as never,
  asItIs: false,
};

async function laidOut(): Promise<Bench> {
  const one = bench();
  await one.session.begin('delivery', 'cylinder');
  await one.session.run('firstLayout', {});
  await one.session.idle();
  return one;
}

it('writes each format beside the others; what other readers find in them is the job', async () => {
  const one = await laidOut();
  const outcome = await one.session.deliver(everything);
  if (!outcome.ok) throw new Error(outcome.sentence);
  const { files, bundle, notes } = outcome.report;
  expect(files.map(({ name }) => name.split(/[-.]/).at(-1))).toEqual(
    ['obj', 'mtl', 'glb', 'ply', 'png', 'svg', 'jigpeel'].filter((end) => files.some((f) => f.name.endsWith(end))),
  );
  expect(files.every(({ proof }) => proof.length > 0)).toBe(true);
  expect(notes).toEqual(['Polygons were written as triangles, as glTF asks for.']);
  expect(Object.keys(unzipSync(bundle.bytes)).sort()).toEqual(files.map(({ name }) => name).sort());
  const faces = present(one).parts[0]!.mesh.faceStart.length - 1;
  for (const end of ['.obj', '.ply', '.jigpeel']) {
    const file = files.find(({ name }) => name.endsWith(end))!;
    const again = await openFiles([{ name: file.name, bytes: file.bytes }], 'again', quietContext, {});
    expect(again.parts[0]!.mesh.faceStart.length - 1, end).toBe(faces);
  }
  expect(one.seats.made.reduce((sum, { tasks }) => sum + tasks, 0)).toBeGreaterThanOrEqual(6);
});

it('one file comes as itself, and what would be missing is said first', async () => {
  const one = bench();
  // all of it is beyond the sheet, which a layout guide would not show
  const text = 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0.6 0\nvt 1.6 0\nvt 1.6 1\nvt 0.6 1\nf 1/1 2/2 3/3 4/4\n';
  await one.session.open([{ name: 'beyond.obj', bytes: new TextEncoder().encode(text) }], 'beyond');
  const only = { ...everything, glb: false, ply: false, guideSvg: false, archive: false };
  expect(await one.session.deliver(only)).toMatchObject({ ok: false, code: 'left-out', leftOut: { parts: [present(one).parts[0]!.id] } });
  const outcome = await one.session.deliver({ ...only, obj: false, asItIs: true });
  if (!outcome.ok) throw new Error(outcome.sentence);
  expect(outcome.report.files).toHaveLength(1);
  expect(outcome.report.bundle).toBe(outcome.report.files[0]);
});

it('a delivery that is cancelled gives the session back at once', async () => {
  const one = await laidOut();
  const asked = one.session.deliver(everything);
  await Promise.resolve();
  const start = performance.now();
  one.session.cancel();
  expect(await asked).toMatchObject({ ok: false, code: 'cancelled' });
  expect(performance.now() - start).toBeLessThan(100);
  expect(one.session.isWorking).toBe(false);
  expect(await one.session.run('pack', {})).toMatchObject({ ok: true });
});

it('goes on while something is unwrapped beside it, and a cancel of that is not its own', async () => {
  const one = await laidOut();
  const delivered = one.session.deliver(everything);
  await Promise.resolve();
  const unwrapped = one.session.run('unwrap', {});
  await new Promise((next) => setTimeout(next, 0));
  const slotOfUnwrap = one.board.newest;
  one.session.cancel(slotOfUnwrap);
  await unwrapped;
  // a second press that comes when the unwrap has ended
  one.session.cancel(slotOfUnwrap);
  expect(await delivered).toMatchObject({ ok: true });
});

it('a worker that ends over a delivery is replaced, and the delivery is whole', async () => {
  const one = await laidOut();
  one.seats.killNext = 1;
  const outcome = await one.session.deliver(everything);
  expect(outcome).toMatchObject({ ok: true });
});

it('a large file is read in the pool, to the same job, and can be cancelled', async () => {
  const mesh = sphere(1, 150, 100);
  const part = {
    id: 'ball',
    name: 'ball',
    mesh,
    uvSets: [emptyUvSet(mesh, 'UV set 1')],
    activeUv: 0,
    imageId: null,
    origin: { kind: 'made' },
  } as unknown as Part;
  const bytes = writeObj([part], null);
  expect(bytes.length).toBeGreaterThan(1_000_000);
  const one = bench();
  const before = one.seats.made.length;
  expect(await one.session.open([{ name: 'ball.obj', bytes: bytes.slice() }], 'large')).toMatchObject({ ok: true });
  expect(one.seats.made.length).toBeGreaterThan(before);
  const directly = await openFiles([{ name: 'ball.obj', bytes }], 'large', quietContext, { up: 'guess' });
  expect(hashOf(present(one))).toBe(hashOf(directly));
  const again = bench();
  const asked = again.session.open([{ name: 'ball.obj', bytes: bytes.slice() }], 'other');
  await Promise.resolve();
  again.session.cancel();
  expect(await asked).toMatchObject({ ok: false, code: 'cancelled' });
});
