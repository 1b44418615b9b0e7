import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { createServer, type Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
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
