import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { createServer, type Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Batch } from './batches.ts';
import { makeServer } from './server.ts';
import { beginWork, type RunningWork } from './work.ts';

/* A real Redis (Debian's redis-server), real workers in processes of their own, which are killed. */

const program = '/usr/bin/redis-server';
const isThere = existsSync(program) || Boolean(process.env.CI);
const root = fileURLToPath(new URL('../..', import.meta.url));
const recipe = JSON.stringify({
  jigPeelRecipe: 1,
  name: 'Flat',
  steps: [
    { operation: 'firstLayout', params: {} },
    { operation: 'pack', params: { effort: 0 } },
  ],
});
const strip = (quads: number) =>
  [
    'mtllib m.mtl',
    ...Array.from({ length: quads + 1 }, (_, k) => `v ${k} 0 ${Math.sin(k)}\nv ${k} 1 ${Math.sin(k)}`),
    'usemtl Clay',
    ...Array.from({ length: quads }, (_, k) => `f ${2 * k + 1} ${2 * k + 3} ${2 * k + 4} ${2 * k + 2}`),
  ].join('\n');

const children = new Set<ChildProcess>();
const pause = (ms: number) => new Promise((go) => setTimeout(go, ms));
async function until<T>(what: () => T | Promise<T>, seconds = 60): Promise<NonNullable<T>> {
  for (const start = Date.now(); Date.now() - start < seconds * 1000; await pause(100)) {
    const found = await what();
    if (found) return found;
  }
  throw new Error('It did not come.');
}

describe.runIf(isThere)('a queue in Redis', () => {
  let address = '';
  let redis: ChildProcess;
  const folder = mkdtempSync(join(tmpdir(), 'jig-peel-redis-'));

  async function begin(): Promise<{ work: RunningWork; server: Server; base: string; end(): Promise<void> }> {
    const work = await beginWork({ JIG_BATCHES: folder, JIG_QUEUE: address });
    const server = createServer(makeServer('.', { ...work, token: 'none' }));
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    const end = async () => {
      server.closeAllConnections();
      await new Promise<void>((done) => server.close(() => done()));
      await work.end();
    };
    return { work, server, base, end };
  }

  async function worker(server: string, ...more: string[]): Promise<ChildProcess> {
    const args = ['cli/bin.mjs', 'worker', '--queue', address, '--server', server, '--parallel', '1', '--patience', '2', ...more];
    const child = spawn(process.execPath, args, { cwd: root, stdio: ['ignore', 'pipe', 'inherit'] });
    children.add(child);
    let said = '';
    child.stdout!.on('data', (chunk: Buffer) => (said += chunk.toString()));
    await until(() => said.includes('Takes files of'));
    return child;
  }
  const get = async (base: string, id: string) => (await (await fetch(`${base}/api/batches/${id}`)).json()) as Batch;
  async function post(base: string, files: [name: string, text: string][]): Promise<Batch> {
    const form = new FormData();
    form.append('recipe', recipe);
    for (const [name, text] of files) form.append('files', new Blob([text]), name);
    return (await (await fetch(`${base}/api/batches`, { method: 'POST', body: form })).json()) as Batch;
  }
  const count = ({ files }: Batch) => files.filter(({ state }) => state === 'done').length;

  beforeAll(async () => {
    const port = await new Promise<number>((done) => {
      const probe = createServer().listen(0, '127.0.0.1', () => {
        const { port: free } = probe.address() as AddressInfo;
        probe.close(() => done(free));
      });
    });
    address = `redis://127.0.0.1:${port}`;
    redis = spawn(program, ['--port', String(port), '--bind', '127.0.0.1', '--save', ''], { cwd: folder, stdio: 'ignore' });
    const { lookFor } = await import('@jig-peel/batch/redisQueue');
    await until(() =>
      lookFor(address).then(
        () => true,
        () => false,
      ),
    );
  });
  afterAll(() => {
    for (const child of children) child.kill('SIGKILL');
    redis.kill();
  });

  it('is worked by workers elsewhere; one that is killed loses its file to another; the server may end and come back; none is lost or done twice', async () => {
    const begun = await begin();
    const { base } = begun;
    let { end, work } = begun;
    const first = await worker(base);
    const second = await worker(base);
    const files = Array.from({ length: 16 }, (_, k): [string, string] => [`strip${k}.obj`, strip(400 + 10 * k)]);
    const { id } = await post(base, [...files, ['m.mtl', 'newmtl Clay\nKd 0.6 0.3 0.2\n'], ['broken.ply', 'ply\nnonsense']]);
    await until(async () => count(await get(base, id)) >= 2 && (await get(base, id)).files.filter(({ state }) => state === 'working').length === 2);
    first.kill('SIGKILL');
    // told while the server listens: what happens while it is away is known by its end alone
    await until(async () => (await get(base, id)).files.some(({ lost }) => lost > 0));
    await until(async () => count(await get(base, id)) >= 5);
    // the server goes away and comes back at the same place
    const { port } = new URL(base);
    await end();
    await pause(1500);
    work = await beginWork({ JIG_BATCHES: folder, JIG_QUEUE: address });
    const server = createServer(makeServer('.', { ...work, token: 'none' }));
    await new Promise<void>((done) => server.listen(Number(port), '127.0.0.1', done));
    end = async () => {
      server.closeAllConnections();
      await new Promise<void>((done) => server.close(() => done()));
      await work.end();
    };
    const batch = await until(async () => {
      const now = await get(base, id);
      return now.files.every(({ state }) => state === 'done' || state === 'failed') ? now : null;
    }, 120);
    expect(batch.files.map(({ state }) => state)).toEqual([...files.map(() => 'done'), 'failed']);
    expect(batch.files.some(({ lost }) => lost > 0)).toBe(true);
    await work.batches.settled();
    const done = readFileSync(join(folder, id, 'happened.ndjson'), 'utf8')
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as { file: number; done?: unknown })
      .filter((line) => line.done)
      .map(({ file }) => file);
    expect([...done].sort((a, b) => a - b)).toEqual(batch.files.map((_, k) => k));
    const text = await (await fetch(`${base}/api/batches/${id}/files/0/strip0.obj`)).text();
    expect(text).toMatch(/^vt /m);
    expect(await work.queue.counts()).toEqual({ waiting: 0, working: 0 });
    second.kill('SIGTERM');
    await until(() => second.exitCode === 0);
    await end();
  }, 240_000);

  it('works files in a folder that server and worker share, and no file goes over HTTP', async () => {
    const { base, end } = await begin();
    await worker(base, '--shared', folder);
    const { id } = await post(base, [['strip.obj', strip(20)]]);
    const batch = await until(async () => {
      const now = await get(base, id);
      return count(now) === 1 ? now : null;
    });
    expect(readFileSync(join(folder, id, 'out', '0', batch.files[0]!.outputs[0]!), 'utf8')).toMatch(/^vt /m);
    await end();
  }, 120_000);

  it('that does not answer is said before the server starts', async () => {
    await expect(beginWork({ JIG_BATCHES: folder, JIG_QUEUE: 'redis://127.0.0.1:1' })).rejects.toThrow(/no Redis answers at redis:/);
    await expect(beginWork({ JIG_BATCHES: folder, JIG_QUEUE: 'http://x' })).rejects.toThrow(/should be redis:/);
  });
});
