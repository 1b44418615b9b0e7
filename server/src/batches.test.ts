import { execFileSync, spawn } from 'node:child_process';
import { appendFileSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { createServer, request as httpRequest, type Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterEach, describe, expect, it } from 'vitest';
import { unzipSync } from 'fflate';
import { freshName, safeName, type Batch } from './batches.ts';
import { makeServer } from './server.ts';
import { beginWork, type RunningWork } from './work.ts';

const box = (size: number) => `v 0 0 0
v ${size} 0 0
v ${size} ${size} 0
v 0 ${size} 0
v 0 0 ${size}
v ${size} 0 ${size}
v ${size} ${size} ${size}
v 0 ${size} ${size}
f 1 4 3 2
f 5 6 7 8
f 1 2 6 5
f 2 3 7 6
f 3 4 8 7
f 4 1 5 8
`;
const recipe = JSON.stringify({
  jigPeelRecipe: 1,
  name: 'Flat',
  steps: [
    { operation: 'firstLayout', params: {} },
    { operation: 'pack', params: { gap: 4, effort: 0 } },
  ],
});
const token = 'a-token-of-the-test';

const running: { work: RunningWork; server: Server }[] = [];
async function begin(folder = mkdtempSync(join(tmpdir(), 'jig-peel-batches-')), environment: NodeJS.ProcessEnv = {}) {
  const work = await beginWork({ JIG_BATCHES: folder, JIG_THREADS: '2', ...environment });
  const server = createServer(makeServer('.', { ...work, token }));
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  running.push({ work, server });
  return { folder, work, server, base: `http://127.0.0.1:${(server.address() as AddressInfo).port}/api/batches` };
}
async function end({ work, server }: { work: RunningWork; server: Server }) {
  server.closeAllConnections();
  await new Promise<void>((done) => server.close(() => done()));
  await work.end();
}
afterEach(async () => {
  for (const one of running.splice(0)) await end(one);
});

function form(files: Record<string, string | Uint8Array>, fields: Record<string, string> = { recipe }) {
  const data = new FormData();
  for (const [name, value] of Object.entries(fields)) data.append(name, value);
  for (const [name, text] of Object.entries(files)) data.append('files', new Blob([text as string]), name);
  return data;
}
const post = async (base: string, files: Record<string, string | Uint8Array>, fields?: Record<string, string>) => {
  const response = await fetch(base, { method: 'POST', body: form(files, fields) });
  return { status: response.status, body: (await response.json()) as Batch & { sentence: string } };
};
const get = async (base: string, id: string) => (await (await fetch(`${base}/${id}`)).json()) as Batch;
async function ended(base: string, id: string): Promise<Batch> {
  for (;;) {
    const batch = await get(base, id);
    if (batch.files.every(({ state }) => state !== 'waiting' && state !== 'working')) return batch;
    await new Promise((go) => setTimeout(go, 50));
  }
}

/* Each file is worked in a thread that first reads the whole program: on a busy machine that takes its time. */
describe('a batch', { timeout: 120_000 }, () => {
  it('is worked file by file past a bad one; results are fetched singly or as one zip, and events tell of them', async () => {
    const { base, folder } = await begin();
    const { status, body } = await post(base, {
      'one.obj': box(1),
      'broken.glb': 'glTFnonsense',
      'two.obj': `mtllib m.mtl\n${box(2)}`,
      'm.mtl': 'newmtl Clay\nKd 1 0 0\n',
    });
    expect(status).toBe(201);
    const heard = fetch(`${base}/${body.id}/events`);
    const batch = await ended(base, body.id);
    expect(batch.files.map(({ name, state }) => [name, state])).toEqual([
      ['one.obj', 'done'],
      ['broken.glb', 'failed'],
      ['two.obj', 'done'],
    ]);
    expect(batch.files[1]!.words).toMatch(/GLB|glTF/i);
    const reader = (await heard).body!.getReader();
    let text = '';
    while (!text.includes('"done":2')) text += new TextDecoder().decode((await reader.read()).value);
    await reader.cancel();
    expect(text).toContain('event: files');

    const [name] = batch.files[0]!.outputs;
    const single = await (await fetch(`${base}/${body.id}/files/0/${name}`)).text();
    expect(single.match(/^vt /gm)!.length).toBeGreaterThan(8);
    const zipped = new Uint8Array(await (await fetch(`${base}/${body.id}/zip`)).arrayBuffer());
    const inside = unzipSync(zipped);
    expect(Object.keys(inside)).toEqual(expect.arrayContaining(['one/one.obj', 'one/one.report.json', 'two/two.obj', 'batch.json']));
    expect(new TextDecoder().decode(inside['one/one.obj'])).toBe(single);
    // by another tool
    writeFileSync(join(folder, '..', `${body.id}.zip`), zipped);
    expect(
      execFileSync('python3', ['-c', `import zipfile,sys; print(zipfile.ZipFile(sys.argv[1]).testzip())`, join(folder, '..', `${body.id}.zip`)])
        .toString()
        .trim(),
    ).toBe('None');

    expect((await fetch(`${base}/${body.id}`, { method: 'DELETE' })).status).toBe(204);
    expect(readdirSync(folder)).toEqual([]);
    expect((await fetch(`${base}/${body.id}`)).status).toBe(404);
  });

  it('goes on after the server ended in the middle, with nothing lost and nothing done twice; a torn last line does no harm', async () => {
    const first = await begin(undefined, { JIG_THREADS: '1' });
    const { body } = await post(first.base, Object.fromEntries(Array.from({ length: 12 }, (_, k) => [`b${k}.obj`, box(k + 1)])));
    while ((await get(first.base, body.id)).files.filter(({ state }) => state === 'done').length < 3) await new Promise((go) => setTimeout(go, 20));
    await end(running.pop()!);
    const log = join(first.folder, body.id, 'happened.ndjson');
    const before = readFileSync(log, 'utf8').trim().split('\n').length;
    expect(before).toBeLessThan(12);
    appendFileSync(log, '{"file":11,"done":{"ok":tr');
    const second = await begin(first.folder);
    const batch = await ended(second.base, body.id);
    expect(batch.files.every(({ state }) => state === 'done')).toBe(true);
    await second.work.batches.settled();
    const lines = readFileSync(log, 'utf8').split('\n');
    const done = lines.filter((line) => line.endsWith('}') && line.startsWith('{"file"')).map((line) => (JSON.parse(line) as { file: number }).file);
    expect([...done].sort((a, b) => a - b)).toEqual(Array.from({ length: 12 }, (_, k) => k));
  });

  it('outlives a server that is killed: started again it goes on by itself, with nothing lost and nothing done twice', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'jig-peel-killed-'));
    const start = async (): Promise<{ base: string; kill(): Promise<void> }> => {
      const child = spawn(process.execPath, ['server/bin.mjs'], {
        cwd: fileURLToPath(new URL('../..', import.meta.url)),
        env: { ...process.env, PORT: '0', JIG_BATCHES: folder, JIG_THREADS: '1' },
        stdio: ['ignore', 'pipe', 'inherit'],
      });
      const port = await new Promise<string>((done) => child.stdout.on('data', (chunk: Buffer) => done(/localhost:(\d+)/.exec(chunk.toString())![1]!)));
      const kill = () =>
        new Promise<void>((done) => {
          child.on('exit', () => done());
          child.kill('SIGKILL');
        });
      return { base: `http://127.0.0.1:${port}/api/batches`, kill };
    };
    const first = await start();
    const { body } = await post(first.base, Object.fromEntries(Array.from({ length: 8 }, (_, k) => [`b${k}.obj`, box(k + 1)])));
    while ((await get(first.base, body.id)).files.filter(({ state }) => state === 'done').length < 2) await new Promise((go) => setTimeout(go, 20));
    await first.kill();
    const second = await start();
    const batch = await ended(second.base, body.id);
    expect(batch.files.map(({ state }) => state)).toEqual(Array.from({ length: 8 }, () => 'done'));
    await second.kill();
    const done = readFileSync(join(folder, body.id, 'happened.ndjson'), 'utf8')
      .split('\n')
      .filter((line) => line.includes('"done"'))
      .map((line) => (JSON.parse(line) as { file: number }).file);
    expect([...done].sort((a, b) => a - b)).toEqual([0, 1, 2, 3, 4, 5, 6, 7]);
  }, 120_000);

  it('that is stopped and followed at once by another keeps to its threads, and loses no file of that', async () => {
    const { base, work } = await begin(undefined, { JIG_THREADS: '1' });
    const many = (from: number) => Object.fromEntries(Array.from({ length: 6 }, (_, k) => [`b${k}.obj`, box(from + k)]));
    const { body: first } = await post(base, many(1));
    while (!(await get(base, first.id)).files.some(({ state }) => state === 'working')) await new Promise((go) => setTimeout(go, 5));
    let most = 0;
    const look = setInterval(() => void work.queue.counts().then(({ working }) => (most = Math.max(most, working))), 2);
    // both before the thread that was ended has said so
    const stopping = fetch(`${base}/${first.id}/cancel`, { method: 'POST' });
    const { body: second } = await post(base, many(20));
    await stopping;
    const batch = await ended(base, second.id);
    clearInterval(look);
    expect(batch.files.map(({ state }) => state)).toEqual(Array.from({ length: 6 }, () => 'done'));
    expect(most).toBe(1);
  });

  it('is stopped: what is done stays, the rest is not worked until it is asked for', async () => {
    const { base } = await begin(undefined, { JIG_THREADS: '1' });
    const { body } = await post(base, Object.fromEntries(Array.from({ length: 10 }, (_, k) => [`b${k}.obj`, box(k + 1)])));
    while (!(await get(base, body.id)).files.some(({ state }) => state === 'done')) await new Promise((go) => setTimeout(go, 20));
    await fetch(`${base}/${body.id}/cancel`, { method: 'POST' });
    const stopped = await get(base, body.id);
    expect(stopped.isCancelled).toBe(true);
    const last = stopped.files[9]!;
    expect(last.state).toBe('cancelled');
    expect((await fetch(`${base}/${body.id}/files/9/again`, { method: 'POST' })).status).toBe(200);
    expect((await ended(base, body.id)).files[9]!.state).toBe('done');
    expect((await fetch(`${base}/${body.id}/files/9/again`, { method: 'POST' })).status).toBe(409);
  });

  it.each([
    ['no recipe', { 'a.obj': box(1) }, {}, /no recipe/],
    ['a recipe that is none', { 'a.obj': box(1) }, { recipe: '{' }, /no JSON/],
    [
      'a step for a person',
      { 'a.obj': box(1) },
      { recipe: JSON.stringify({ jigPeelRecipe: 1, name: 'r', steps: [{ operation: 'cut', params: {}, asks: 'Which edges?' }] }) },
      /asks for a person/,
    ],
    ['no model', { 'a.png': 'x' }, { recipe }, /None of the files is a model/],
    ['a format that cannot be written', { 'a.obj': box(1) }, { recipe, to: 'exe' }, /cannot be written/],
    ['limits that are none', { 'a.obj': box(1) }, { recipe, limits: '[]' }, /limits/i],
  ])('with %s is refused, and leaves nothing', async (_, files, fields, words) => {
    const { base, folder } = await begin();
    const { status, body } = await post(base, files as Record<string, string>, fields as unknown as Record<string, string>);
    expect([status, body.sentence]).toEqual([400, expect.stringMatching(words)]);
    expect(readdirSync(folder)).toEqual([]);
  });

  it('is refused over a limit of size, of number, of room', async () => {
    const small = await begin(undefined, { JIG_FILE_MB: '0.001', JIG_BATCH_FILES: '3' });
    expect((await post(small.base, { 'a.obj': box(1).repeat(40) })).body.sentence).toMatch(/larger than/);
    expect((await post(small.base, { 'a.obj': box(1), 'b.obj': box(1), 'c.obj': box(1), 'd.obj': box(1) })).status).toBe(413);
    expect(readdirSync(small.folder)).toEqual([]);
    const full = await begin(undefined, { JIG_BATCHES_KEPT: '1' });
    expect((await post(full.base, { 'a.obj': box(1) })).status).toBe(201);
    const second = await post(full.base, { 'a.obj': box(1) });
    expect([second.status, second.body.sentence]).toEqual([507, expect.stringMatching(/keeps 1 batches/)]);
  });

  it('that breaks off in its upload leaves nothing and holds nobody up', async () => {
    const { base, folder, work } = await begin();
    await new Promise<void>((done) => {
      const call = httpRequest(base, { method: 'POST', headers: { 'content-type': 'multipart/form-data; boundary=x', 'content-length': 100_000 } });
      call.on('error', () => done());
      call.write(`--x\r\ncontent-disposition: form-data; name="files"; filename="a.obj"\r\n\r\n${box(1)}`);
      setTimeout(() => call.destroy(new Error('gone')), 100);
    });
    for (let k = 0; k < 40 && readdirSync(folder).length > 0; k++) await new Promise((go) => setTimeout(go, 50));
    expect([readdirSync(folder), work.batches.list()]).toEqual([[], []]);
  });

  it('that is old and done is removed; one that is young or not done is not', async () => {
    const { base, work } = await begin();
    const { body } = await post(base, { 'a.obj': box(1) });
    await ended(base, body.id);
    await work.batches.removeOld(Date.now() + 13 * 86_400_000);
    expect(work.batches.list()).toHaveLength(1);
    await work.batches.removeOld(Date.now() + 15 * 86_400_000);
    expect(work.batches.list()).toHaveLength(0);
  });
});

describe('names', () => {
  it.each([
    ['../../etc/passwd', 'passwd'],
    ['a\\b\\c.obj', 'c.obj'],
    ['..', 'file'],
    ['.hidden.obj', 'hidden.obj'],
    ['a:b*c?.obj', 'a_b_c_.obj'],
    ['nul\u0000.obj', 'nul_.obj'],
    ['', 'file'],
  ])('%j becomes %j', (given, safe) => expect(safeName(given)).toBe(safe));
  it('are cut to what file systems hold, between letters', () => {
    const name = safeName(`${'ä'.repeat(300)}.obj`);
    expect(Buffer.byteLength(name)).toBeLessThanOrEqual(200);
    expect(name).toMatch(/^ä+\.obj$/);
  });
  it('of two alike the second gets a number, whatever their case', () => {
    expect(freshName('A.obj', new Set(['a.obj', 'a-2.obj']))).toBe('A-3.obj');
  });
  it('that climb do not get out of the folder', async () => {
    const { base, folder } = await begin();
    const { body } = await post(base, { '../../up.obj': box(1), 'up.obj': box(2) });
    expect(readdirSync(join(folder, body.id, 'in')).sort()).toEqual(['up-2.obj', 'up.obj']);
    expect((await fetch(`${base}/${body.id}/files/0/..%2f..%2fbatch.json`)).status).toBe(404);
    expect((await fetch(`${base}/..%2f..%2fetc`)).status).toBe(404);
  });
});

/** A call with headers that fetch does not let through. */
function call(url: string, headers: Record<string, string>, method = 'GET'): Promise<{ status: number; headers: Record<string, unknown> }> {
  return new Promise((resolve, reject) => {
    const asked = httpRequest(url, { method, headers }, (response) => {
      response.resume();
      resolve({ status: response.statusCode!, headers: response.headers });
    });
    asked.on('error', reject);
    asked.end();
  });
}

describe('who is let in', () => {
  it('calls of this machine; others with the token, by header, by cookie, by link', async () => {
    const { base } = await begin();
    const from = { 'x-forwarded-for': '10.0.0.7' };
    expect((await call(base, {})).status).toBe(200);
    expect((await call(base, from)).status).toBe(401);
    expect((await call(base, { host: 'evil.example' })).status).toBe(401);
    expect((await call(base, { ...from, authorization: `Bearer ${token}` })).status).toBe(200);
    expect((await call(base, { ...from, authorization: 'Bearer other' })).status).toBe(401);
    const link = await call(base.replace('/api/batches', `/?token=${token}`), from);
    expect(link.status).toBe(303);
    const [cookie] = link.headers['set-cookie'] as string[];
    expect(cookie).toMatch(/HttpOnly; SameSite=Strict/);
    expect((await call(base, { ...from, cookie: cookie!.split(';')[0]! })).status).toBe(200);
    expect((await call(base.replace('/api/batches', '/?token=guess'), from)).status).toBe(401);
  });
  it('no change by a page of another site', async () => {
    const { base } = await begin();
    expect((await call(`${base}/x`, { origin: 'http://evil.example' }, 'DELETE')).status).toBe(403);
    expect((await call(`${base}/x`, { origin: base.replace('/api/batches', '') }, 'DELETE')).status).toBe(404);
  });
  it('figures are said as text that Prometheus reads', async () => {
    const { base } = await begin();
    const { body } = await post(base, { 'a.obj': box(1) });
    await ended(base, body.id);
    const text = await (await fetch(base.replace('/api/batches', '/metrics'))).text();
    expect(text).toMatch(/^jig_peel_files_total\{state="done"\} 1$/m);
    expect(text).toMatch(/^jig_peel_file_seconds_count 1$/m);
  });
});
