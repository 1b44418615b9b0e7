import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { createServer, type Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { spawn } from 'node:child_process';
import { connect } from 'node:net';
import { portOf, serve } from './serve.ts';
import { makeServer } from './server.ts';

let server: Server;
let base: string;

beforeAll(async () => {
  const folder = mkdtempSync(join(tmpdir(), 'jig-peel-'));
  mkdirSync(join(folder, 'assets'));
  mkdirSync(join(folder, 'samples'));
  writeFileSync(join(folder, 'index.html'), '<!doctype html><title>Jig Peel</title>');
  writeFileSync(join(folder, 'assets', 'a.js'), 'export const a = 1;'.repeat(200));
  writeFileSync(join(folder, 'samples', 's.obj'), 'v 0 0 0');
  server = createServer(makeServer(folder));
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});

afterAll(() => new Promise<void>((done) => server.close(() => done())));

describe('the server', () => {
  it('isolates every page, so that workers may share memory', async () => {
    for (const path of ['/', '/bench/abc', '/assets/a.js', '/samples/s.obj']) {
      const { headers, status } = await fetch(base + path);
      expect([path, status, headers.get('cross-origin-opener-policy'), headers.get('cross-origin-embedder-policy')]).toEqual([
        path,
        200,
        'same-origin',
        'require-corp',
      ]);
    }
  });

  it('gives the app for its own addresses and a plain 404 for files that are not there', async () => {
    expect(await (await fetch(`${base}/bench/any-job`)).text()).toContain('Jig Peel');
    expect((await fetch(`${base}/samples/none.obj`)).status).toBe(404);
    expect((await fetch(`${base}/assets/none.js`)).status).toBe(404);
  });

  it('does not serve what lies outside its folder', async () => {
    expect((await fetch(`${base}/..%2f..%2fetc%2fpasswd`)).status).not.toBe(500);
    expect(await (await fetch(`${base}/..%2f..%2fetc%2fpasswd`)).text()).not.toContain('root:');
  });

  it('packs what it sends and says that hashed files never change', async () => {
    const { headers } = await fetch(`${base}/assets/a.js`, { headers: { 'accept-encoding': 'gzip' } });
    expect(headers.get('content-encoding')).toBe('gzip');
    expect(headers.get('cache-control')).toContain('immutable');
  });

  it('forbids scripts from elsewhere', async () => {
    expect((await fetch(base)).headers.get('content-security-policy')).toContain("script-src 'self'");
  });
});

describe('addresses that are wrong', () => {
  it.each(['/%', '/assets/nope.js', '/assets/%zz', '/assets/../../package.json'])('%s: a plain line, no path and no code', async (path) => {
    const response = await fetch(base + path);
    expect(response.status).toBeGreaterThanOrEqual(400);
    expect(response.status).toBeLessThan(500);
    const text = await response.text();
    expect(text).not.toMatch(/\n|node_modules|Error:|\/[a-z]+\/[a-z]+\//i);
    expect(text.length).toBeLessThan(60);
  });
});

describe('starting', () => {
  it.each([
    [undefined, null],
    ['', null],
    ['0', 0],
    ['8080', 8080],
    ['abc', 'bad'],
    ['-1', 'bad'],
    ['65536', 'bad'],
    ['80.5', 'bad'],
  ])('PORT=%s', (text, port) => expect(portOf(text)).toBe(port));

  const voice = () => {
    const said: string[] = [];
    const failed: string[] = [];
    return { said, failed, say: (words: string) => void said.push(words), fail: (words: string) => void failed.push(words) };
  };
  const close = (one: Server | null) => new Promise<void>((done) => (one ? one.close(() => done()) : done()));

  it('PORT=0 takes a free port and says which; one that is taken is said once and nothing else', async () => {
    const first = voice();
    const running = await serve('.', { PORT: '0' }, first);
    const port = (running!.address() as AddressInfo).port;
    expect(first.said).toEqual([`Jig Peel is at http://localhost:${port}`]);
    const second = voice();
    expect(await serve('.', { PORT: String(port) }, second)).toBeNull();
    expect([second.said, second.failed]).toEqual([[], [`The server cannot start: port ${port} is taken. Set PORT to another one.`]]);
    await close(running);
  });

  it('without PORT the next free one is taken, and only that address is said', async () => {
    const [one, two] = [voice(), voice()];
    const a = await serve('.', {}, one);
    const b = await serve('.', {}, two);
    expect([one.said.length, two.said.length, one.failed, two.failed]).toEqual([1, 1, [], []]);
    expect(two.said[0]).not.toBe(one.said[0]);
    await close(a);
    await close(b);
  });

  it('a port that is none is said', async () => {
    const heard = voice();
    expect(await serve('.', { PORT: 'abc' }, heard)).toBeNull();
    expect(heard.failed[0]).toMatch(/“abc”, which is no port/);
  });
});

describe('stopping', () => {
  it('goes at once, also while a request that was half sent is open', async () => {
    const child = spawn(process.execPath, ['server/bin.mjs'], {
      env: { ...process.env, PORT: '0' },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    const port = await new Promise<number>((found) => child.stdout.on('data', (text: Buffer) => found(Number(/:(\d+)/.exec(String(text))![1]))));
    const half = connect(port, '127.0.0.1');
    half.on('error', () => {});
    await new Promise<void>((done) => half.write('GET / HTTP/1.1\r\nHost: x\r\n', () => done()));
    const start = Date.now();
    child.kill('SIGTERM');
    const code = await new Promise<number | null>((done) => child.on('exit', done));
    expect(code).toBe(0);
    expect(Date.now() - start).toBeLessThan(6000);
  }, 30_000);
});
