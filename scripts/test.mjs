// Everything that has to hold: installs what tests need, then lint, types, unit tests, end-to-end tests.
import { existsSync } from 'node:fs';
import { spawnSync } from 'node:child_process';
import { run, runBeside } from './run.mjs';

if (!existsSync('node_modules/.package-lock.json')) run('npm', ['ci']);
// the browser without its window is drawn in three quarters of the time; where a Debian has it not, the whole browser does
const shell = 'chromium-headless-shell';
const hasBrowser = [process.env.CHROMIUM, `/usr/bin/${shell}`, '/usr/bin/chromium'].some((path) => path && existsSync(path));
const wanted = [
  !hasBrowser && shell,
  !existsSync('/usr/share/assimp/models') && 'assimp-testmodels',
  !existsSync('/usr/bin/redis-server') && 'redis-server',
  !existsSync('/usr/bin/pdfinfo') && 'poppler-utils',
  !existsSync('/usr/bin/python3') && 'python3-minimal',
].filter(Boolean);
if (wanted.length > 0) {
  const sudo = spawnSync('sudo', ['-n', 'true']).status === 0 ? ['sudo'] : [];
  const apt = (...args) =>
    run([...sudo, 'apt-get'][0], [...sudo.slice(1), ...(sudo.length ? ['apt-get'] : []), '-o', 'DPkg::Lock::Timeout=300', '-qq', ...args]);
  apt('update');
  const hasShell = spawnSync('apt-cache', ['show', shell]).status === 0;
  apt('install', '-y', '--no-install-recommends', ...wanted.map((name) => (name === shell && !hasShell ? 'chromium' : name)));
}
// real meshes for the seams' tests: fetched, not installed; without them these tests are passed over, but not in CI
spawnSync('npx', ['tsx', 'scripts/fetchRealMeshes.ts'], { stdio: 'inherit', timeout: 120_000 });
run('npm', ['run', '-s', 'wasm']);
const npm = (...args) => ['npm', ['run', '-s', ...args]];
// two at a time where each is one thread; stages that could hang say so instead of standing still
await runBeside([
  ['lint', [npm('lint')]],
  ['types, build', [npm('types'), npm('build'), ['node', ['scripts/bundles.mjs']]]],
]);
run('node', ['node_modules/vitest/vitest.mjs', 'run'], { timeout: 15 * 60_000 });
await runBeside([
  ['damaged files', [[...npm('fuzz', '--', '--cases', '2000', '--minutes', '10'), 12]]],
  ['killed browsers', [npm('kills', '--', '--times', '5')]],
]);
run('node', ['node_modules/@playwright/test/cli.js', 'test', '-c', 'e2e/playwright.config.ts'], { timeout: 50 * 60_000 });
