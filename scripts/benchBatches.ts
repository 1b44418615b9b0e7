/* Two hundred files through a recipe by 1, 2, 4 workers that share a Redis, and with two of four killed. Needs redis-server and the real meshes. */
import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { availableParallelism, tmpdir } from 'node:os';
import { join } from 'node:path';
import { makeServer } from '../server/src/server.ts';
import { beginWork } from '../server/src/work.ts';
import { lookFor } from '../batch/src/redisQueue.ts';

const count = Number(process.env.FILES ?? 200);
const recipe = JSON.stringify({
  jigPeelRecipe: 1,
  name: 'Measured',
  steps: [
    { operation: 'firstLayout', params: { by: 'crease' } },
    { operation: 'pack', params: { effort: 1 } },
  ],
});
const source = '/usr/share/assimp/models/OBJ';
/** Real meshes of a few hundred to a few thousand triangles, under fresh names. */
const models = readdirSync(source)
  .filter((name) => name.endsWith('.obj'))
  .map((name) => ({ name, bytes: readFileSync(join(source, name)) }))
  .filter(({ bytes }) => bytes.length > 2000 && bytes.length < 400_000);
const pause = (ms: number) => new Promise((go) => setTimeout(go, ms));
const freePort = () =>
  new Promise<number>((done) => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as AddressInfo;
      probe.close(() => done(port));
    });
  });

const port = await freePort();
const redis = spawn('redis-server', ['--port', String(port), '--bind', '127.0.0.1', '--save', ''], { stdio: 'ignore', cwd: tmpdir() });
const address = `redis://127.0.0.1:${port}`;
while (
  !(await lookFor(address).then(
    () => true,
    () => false,
  ))
)
  await pause(100);

console.log(
  `${count} files, ${models.length} different real meshes of ${Math.min(...models.map((m) => m.bytes.length))} to ${Math.max(...models.map((m) => m.bytes.length))} bytes; ${availableParallelism()} cores`,
);
console.log('| workers | killed | files | done | failed | tried again | s | files a minute |\n|---:|---:|---:|---:|---:|---:|---:|---:|');
for (const [workers, kills] of [
  [1, 0],
  [2, 0],
  [4, 0],
  [4, 2],
] as const) {
  const folder = mkdtempSync(join(tmpdir(), 'jig-peel-bench-'));
  const work = await beginWork({ JIG_BATCHES: folder, JIG_QUEUE: address });
  const server = createServer(makeServer('.', { ...work, token: 'none' }));
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const children: ChildProcess[] = [];
  for (let k = 0; k < workers; k++) {
    const child = spawn(process.execPath, ['cli/bin.mjs', 'worker', '--queue', address, '--server', base, '--parallel', '1'], {
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    children.push(child);
    await new Promise<void>((done) => child.stdout.on('data', (chunk: Buffer) => chunk.toString().includes('Takes files') && done()));
  }
  const form = new FormData();
  form.append('recipe', recipe);
  for (let k = 0; k < count; k++) {
    const { name, bytes } = models[k % models.length]!;
    form.append('files', new Blob([new Uint8Array(bytes)]), `${k}-${name}`);
  }
  const start = performance.now();
  const { id } = (await (await fetch(`${base}/api/batches`, { method: 'POST', body: form })).json()) as { id: string };
  let killed = 0;
  for (;;) {
    const { files } = work.batches.get(id)!;
    const ended = files.filter(({ state }) => state === 'done' || state === 'failed').length;
    if (killed < kills && ended > ((killed + 1) * count) / (kills + 2)) children[killed++]!.kill('SIGKILL');
    if (ended === count) break;
    await pause(100);
  }
  const seconds = (performance.now() - start) / 1000;
  await work.batches.settled();
  const { files } = work.batches.get(id)!;
  const lines = readFileSync(join(folder, id, 'happened.ndjson'), 'utf8')
    .trim()
    .split('\n')
    .filter((line) => line.includes('"done"'));
  if (lines.length !== count) console.log(`Something was lost or done twice: ${lines.length} results.`);
  const of = (state: string) => files.filter((file) => file.state === state).length;
  console.log(
    `| ${workers} | ${kills} | ${count} | ${of('done')} | ${of('failed')} | ${files.filter(({ lost }) => lost > 0).length} | ${seconds.toFixed(1)} | ${((60 * count) / seconds).toFixed(0)} |`,
  );
  for (const child of children) child.kill('SIGKILL');
  server.closeAllConnections();
  server.close();
  await work.end();
  rmSync(folder, { recursive: true, force: true });
}
redis.kill();
