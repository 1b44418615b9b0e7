import 'fake-indexeddb/auto';
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { validateBytes } from 'gltf-validator';
import { PNG } from 'pngjs';
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
  gltf: false,
  guidePdf: false,
  images: false,
  report: false,
  record: false,
  guideLook: { notches: false, grid: false, bleed: 0 },
  version: '',
  archive: true,
  guideSize: '256',
  parts: [],
  normals: { kind: 'smooth', angle: 40 } as never,
  smoothing: 0,
  bake: false,
  smoothBorders: 'smoothed',
  asItIs: false,
};

/** The JSON chunk of a GLB, by the layout that the glTF 2.0 specification gives. */
function readGlbJson(bytes: Uint8Array): { json: { images?: unknown[]; materials?: unknown[] } } {
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true);
  return { json: JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length))) as { images?: unknown[]; materials?: unknown[] } };
}

async function laidOut(): Promise<Bench> {
  const one = bench();
  await one.session.begin('delivery', 'cylinder');
  await one.session.run('firstLayout', {});
  await one.session.idle();
  return one;
}

it('says of stacks that other programs count them as overlaps', async () => {
  const one = await laidOut();
  await one.session.run('stack', { which: 'sheet' });
  const outcome = await one.session.deliver({ ...everything, guidePng: false, guideSvg: false });
  if (!outcome.ok) throw new Error(outcome.sentence);
  // its two lids
  expect(outcome.report.notes.filter((note) => note.includes('overlap'))).toEqual([
    'A stack of 2 islands lies on one another as meant: model files cannot say so, and other programs count an overlap.',
  ]);
  const alone = await one.session.deliver({ ...nothing, archive: true });
  expect(alone.ok && alone.report.notes).toEqual([]);
});

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

const nothing: DeliverChoice = {
  ...everything,
  obj: false,
  glb: false,
  ply: false,
  guidePng: false,
  guideSvg: false,
  archive: false,
};

it('glTF comes as JSON with its buffer beside it, sound by Khronos’ validator; the record’s hashes are those of another tool', async () => {
  const one = await laidOut();
  const outcome = await one.session.deliver({ ...nothing, gltf: true, report: true, record: true });
  if (!outcome.ok) throw new Error(outcome.sentence);
  const { files, judged } = outcome.report;
  const found = new Map(files.map(({ name, bytes }) => [name, bytes]));
  const gltf = files.find(({ name }) => name.endsWith('.gltf'))!;
  const report = await validateBytes(gltf.bytes, { externalResourceFunction: (uri: string) => Promise.resolve(found.get(uri)!) });
  expect([report.issues.numErrors, report.issues.messages.filter(({ severity }: { severity: number }) => severity === 0)]).toEqual([0, []]);
  const again = await openFiles(
    files.filter(({ name }) => /\.(gltf|bin)$/.test(name)).map(({ name, bytes }) => ({ name, bytes })),
    'again',
  );
  expect(again.parts[0]!.uvSets[0]!.unplaced.every((x) => x === 0)).toBe(true);
  const record = JSON.parse(new TextDecoder().decode(files.at(-1)!.bytes)) as {
    files: { name: string; bytes: number; sha256: string }[];
    check: { verdicts: { passed: boolean }[] }[];
    parts: { faces: number }[];
  };
  expect(record.files.map(({ name }) => name)).toEqual(files.slice(0, -1).map(({ name }) => name));
  for (const { name, sha256 } of record.files) expect(sha256).toBe(createHash('sha256').update(found.get(name)!).digest('hex'));
  // a figure that is said twice is the same
  const verdicts = record.check.flatMap((sheet) => sheet.verdicts);
  expect(judged).toEqual({ limits: verdicts.length, missed: expect.any(Array) });
  expect(judged!.missed).toHaveLength(verdicts.filter(({ passed }) => !passed).length);
});

it('a layout guide as PDF is what another program draws: its borders where the UVs are', async () => {
  const one = await laidOut();
  const outcome = await one.session.deliver({
    ...nothing,
    guidePdf: true,
    guidePng: true,
    guideSize: '512',
    guideLook: { notches: true, grid: true, bleed: 4 },
  });
  if (!outcome.ok) throw new Error(outcome.sentence);
  const [png, pdf] = outcome.report.files;
  const folder = mkdtempSync(join(tmpdir(), 'jig-peel-pdf-'));
  writeFileSync(join(folder, 'guide.pdf'), pdf!.bytes);
  expect(execFileSync('pdfinfo', [join(folder, 'guide.pdf')]).toString()).toMatch(/Pages: +1\nEncrypted: +no\nPage size: +384 x 384 pts/);
  execFileSync('pdftoppm', ['-r', '96', '-png', join(folder, 'guide.pdf'), join(folder, 'drawn')]);
  const drawn = PNG.sync.read(readFileSync(join(folder, 'drawn-1.png')));
  const own = PNG.sync.read(Buffer.from(png!.bytes));
  expect([drawn.width, drawn.height]).toEqual([512, 512]);
  let difference = 0;
  let inked = 0;
  for (let k = 0; k < own.data.length; k += 4) {
    const alpha = own.data[k + 3]! / 255;
    if (alpha > 0.5) inked++;
    for (let c = 0; c < 3; c++) difference += Math.abs(own.data[k + c]! * alpha + 255 * (1 - alpha) - drawn.data[k + c]!) / (512 * 512 * 3);
  }
  expect(inked).toBeGreaterThan(10_000);
  expect(difference).toBeLessThan(6);
});

it('a version is delivered as it was kept, and the job stays as it is', async () => {
  const one = await laidOut();
  const before = present(one).parts[0]!.uvSets[0]!.uv.slice();
  await one.session.run('keepVersion', { name: 'first' });
  await one.session.run('select', { kind: 'islands', ids: [0, 1] });
  expect(await one.session.run('transform', { move: [0.01, 0.02] })).toMatchObject({ ok: true });
  const after = hashOf(present(one));
  const read = async (version: string) => {
    const outcome = await one.session.deliver({ ...nothing, ply: true, version, asItIs: true });
    if (!outcome.ok) throw new Error(outcome.sentence);
    return (await openFiles([{ name: 'a.ply', bytes: outcome.report.files[0]!.bytes }], 'again')).parts[0]!.uvSets[0]!.uv;
  };
  const uvAt = (uv: Float64Array) => [...uv].map((x) => Math.round(x * 1e5)).sort((a, b) => a - b);
  expect(uvAt(await read(present(one).versions![0]!.id))).toEqual(uvAt(before));
  expect(hashOf(present(one))).toBe(after);
});

it('each tile of a sheet that holds something has its own layout guide', async () => {
  const one = await laidOut();
  await one.session.run('sheets', { do: 'change', tiles: 3 });
  const outcome = await one.session.deliver({ ...nothing, guideSvg: true, asItIs: true });
  if (!outcome.ok) throw new Error(outcome.sentence);
  expect(outcome.report.files.map(({ name }) => name)).toEqual(['delivery.1001-guide.svg'].map((name) => expect.stringContaining(name.slice(-14))));
});

it('layers are baked for OBJ and GLB where that is asked for, also into a glTF that had a picture; the job and its archive keep them', async () => {
  const png = (r: number, g: number, b: number) => {
    const image = new PNG({ width: 8, height: 8 });
    for (let k = 0; k < 64; k++) image.data.set([r, g, b, 255], k * 4);
    return new Uint8Array(PNG.sync.write(image));
  };
  const color = (bytes: Uint8Array) => {
    const { width, height, data } = PNG.sync.read(Buffer.from(bytes));
    const at = ((height >> 1) * width + (width >> 1)) * 4;
    return [...data.subarray(at, at + 3)];
  };
  const text = (words: string) => new TextEncoder().encode(words);
  const quad = 'mtllib a.mtl\nusemtl wall\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nf 1/1 2/2 3/3 4/4\n';
  const obj = [
    { name: 'a.obj', bytes: text(quad) },
    { name: 'a.mtl', bytes: text('newmtl wall\nmap_Kd red.png\n') },
    { name: 'red.png', bytes: png(200, 0, 0) },
  ];
  const first = bench();
  await first.session.open(obj, 'a');
  const plain = await first.session.deliver({ ...everything, obj: false, ply: false, guidePng: false, guideSvg: false, archive: false });
  if (!plain.ok) throw new Error(plain.sentence);
  for (const [files, end] of [
    [obj, '.obj'],
    [[{ name: 'a.glb', bytes: plain.report.files[0]!.bytes }], '.glb'],
  ] as const) {
    const one = bench();
    await one.session.open([...files], 'a');
    await one.session.run('settings', { width: 64, height: 64 } as never);
    const added = await one.session.run('addLayer', { layer: { name: 'paint', source: { kind: 'colour', colour: '#0000c8' } } } as never);
    expect(added.ok).toBe(true);
    await one.session.idle();
    const before = hashOf(present(one));
    const wanted = { ...everything, ply: false, guidePng: false, guideSvg: false };
    const without = await one.session.deliver(wanted);
    const baked = await one.session.deliver({ ...wanted, bake: true });
    if (!without.ok || !baked.ok) throw new Error('not delivered');
    const shown = async ({ files: all }: typeof baked.report, ending: string) => {
      const beside = all.map(({ name, bytes }) => ({ name, bytes })).filter(({ name }) => !/\.(jigpeel|glb|obj)$/.test(name) || name.endsWith(ending));
      const job = await openFiles(beside, 'again');
      return color(job.images.find(({ id }) => id === job.parts[0]!.imageId)!.bytes);
    };
    for (const ending of ['.obj', '.glb']) {
      expect(await shown(without.report, ending), `${end} as it is, to ${ending}`).toEqual([200, 0, 0]);
      expect(await shown(baked.report, ending), `${end} baked, to ${ending}`).toEqual([0, 0, 200]);
    }
    // the picture that was there is gone from the file with its material
    const glb = baked.report.files.find(({ name }) => name.endsWith('.glb'))!;
    const { json } = readGlbJson(glb.bytes);
    expect([json.images?.length, json.materials?.length]).toEqual([1, 1]);
    expect(hashOf(present(one))).toBe(before);
    const archive = baked.report.files.find(({ name }) => name.endsWith('.jigpeel'))!;
    const kept = await openFiles([{ name: archive.name, bytes: archive.bytes }], 'kept');
    expect(kept.parts[0]!.layers?.map(({ isOn }) => isOn)).toEqual([true]);
    expect(kept.images).toHaveLength(1);
  }
});
