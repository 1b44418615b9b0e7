// Everything that has to hold: installs what tests need, then lint, types, unit tests, end-to-end tests.
import { existsSync } from 'node:fs';
import { spawnSync } from 'node:child_process';
import { run } from './run.mjs';

if (!existsSync('node_modules/.package-lock.json')) run('npm', ['ci']);
const chromium = process.env.CHROMIUM ?? '/usr/bin/chromium';
const wanted = [!existsSync(chromium) && 'chromium', !existsSync('/usr/share/assimp/models') && 'assimp-testmodels'].filter(Boolean);
if (wanted.length > 0) {
  const sudo = spawnSync('sudo', ['-n', 'true']).status === 0 ? ['sudo'] : [];
  const apt = (...args) =>
    run([...sudo, 'apt-get'][0], [...sudo.slice(1), ...(sudo.length ? ['apt-get'] : []), '-o', 'DPkg::Lock::Timeout=300', '-qq', ...args]);
  apt('update');
  apt('install', '-y', '--no-install-recommends', ...wanted);
}
// real meshes for the seams' tests: fetched, not installed; without them these tests are passed over
spawnSync('npx', ['tsx', 'scripts/fetchRealMeshes.ts'], { stdio: 'inherit', timeout: 120_000 });
run('npm', ['run', '-s', 'wasm']);
run('npm', ['run', '-s', 'lint']);
run('npm', ['run', '-s', 'types']);
// stages that could hang say so instead of standing still
run('node', ['node_modules/vitest/vitest.mjs', 'run'], { timeout: 15 * 60_000 });
run('npm', ['run', '-s', 'fuzz', '--', '--cases', '2000', '--minutes', '10'], { timeout: 12 * 60_000 });
run('npm', ['run', '-s', 'build']);
run('node', ['scripts/bundles.mjs']);
run('npm', ['run', '-s', 'kills', '--', '--times', '5'], { timeout: 5 * 60_000 });
run('node', ['node_modules/@playwright/test/cli.js', 'test', '-c', 'e2e/playwright.config.ts'], { timeout: 50 * 60_000 });
