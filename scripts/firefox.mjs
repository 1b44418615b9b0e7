/*
 * One walk through the demo job in Debian's Firefox, from open to deliver, with its times beside those of Chromium: `npm run e2e:firefox`. Installs the
 * browsers and a screen for them where they are missing; needs the built app.
 */
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import puppeteer from 'puppeteer-core';
import { run } from './run.mjs';

const wanted = [
  ['/usr/bin/firefox-esr', 'firefox-esr'],
  ['/usr/bin/Xvfb', 'xvfb'],
].flatMap(([path, name]) => (existsSync(path) ? [] : [name]));
if (wanted.length > 0) {
  const sudo = spawnSync('sudo', ['-n', 'true']).status === 0 ? ['sudo'] : [];
  run([...sudo, 'apt-get'][0], [...sudo.slice(1), ...(sudo.length ? ['apt-get'] : []), '-qq', 'update']);
  run([...sudo, 'apt-get'][0], [...sudo.slice(1), ...(sudo.length ? ['apt-get'] : []), '-qq', 'install', '-y', '--no-install-recommends', ...wanted]);
}
if (!existsSync('app/dist/index.html')) run('npm', ['run', '-s', 'build']);

const port = 4879;
const folder = mkdtempSync(join(tmpdir(), 'jig-peel-firefox-'));
const server = spawn(process.execPath, ['server/bin.mjs'], {
  env: { ...process.env, PORT: String(port), JIG_BATCHES: folder },
  stdio: 'ignore',
});
const screen = spawn('Xvfb', [':97', '-screen', '0', '1280x800x24', '+extension', 'GLX'], { stdio: 'ignore' });
const base = `http://localhost:${port}`;
for (
  let k = 0;
  k < 100 &&
  !(await fetch(`${base}/health`).then(
    (answer) => answer.ok,
    () => false,
  ));
  k++
)
  await new Promise((go) => setTimeout(go, 200));

const chromium = ['/usr/bin/chromium-headless-shell', '/usr/bin/chromium'].find((path) => existsSync(path));
const browsers = {
  Firefox: {
    browser: 'firefox',
    executablePath: '/usr/bin/firefox-esr',
    headless: false,
    env: { ...process.env, DISPLAY: ':97', MOZ_WEBRENDER: '1', LIBGL_ALWAYS_SOFTWARE: '1' },
    extraPrefsFirefox: { 'webgl.force-enabled': true },
  },
  ...(chromium
    ? {
        Chromium: {
          browser: 'chrome',
          executablePath: chromium,
          headless: 'shell',
          args: ['--no-sandbox', '--use-gl=angle', '--use-angle=swiftshader', '--enable-unsafe-swiftshader', '--disable-gpu-compositing', '--no-first-run'],
        },
      }
    : {}),
};

/** The walk; each step ends when the page shows that it is done. */
async function walk(options) {
  const times = [];
  const faults = [];
  const browser = await puppeteer.launch({ ...options, defaultViewport: { width: 1280, height: 800 } });
  try {
    const page = await browser.newPage();
    page.on('pageerror', (error) => faults.push(`page: ${error.message}`));
    page.on('console', (message) => {
      if (message.type() !== 'error') return;
      const k = faults.push(`console: ${message.text().slice(0, 200)}`) - 1;
      // an error that was logged as such says more by itself
      for (const one of message.args())
        one
          .evaluate((value) => (value instanceof Error ? `${value.message} ${value.stack}` : ''))
          .then((words) => words && (faults[k] += ` ${words.slice(0, 600)}`))
          .catch(() => {});
    });
    const timed = async (label, work) => {
      const start = performance.now();
      await work();
      times.push([label, Math.round(performance.now() - start)]);
    };
    const press = async (role, name) => {
      const found = await page.waitForSelector(`::-p-aria([role="${role}"][name="${name}"])`, { timeout: 60_000 });
      await found.evaluate((element) => element.click());
    };
    /** Presses a button of the station's panel once it is there and can be pressed. */
    const pressIn = async (station, name) => {
      const find = `[...document.querySelectorAll('section[aria-label="Station ${station}"] button')].find((button) => button.textContent.startsWith(${JSON.stringify(name)}) && !button.disabled)`;
      await page.waitForFunction(`Boolean(${find})`, { timeout: 60_000 });
      await page.evaluate(`${find}.click()`);
    };
    const idle = () => page.waitForFunction(() => window.jigPeel?.ready() === true && window.jigPeel.settled?.() !== false, { timeout: 120_000 });
    const settled = () => page.evaluate(() => window.jigPeel.idle());
    await timed('jobs page', async () => {
      await page.goto(base);
      await page.waitForSelector('h1', { timeout: 60_000 });
    });
    await timed('demo job ready', async () => {
      await page.waitForFunction(
        () => [...document.querySelectorAll('button')].some((button) => /Skerry Quay/.test(button.textContent) && /demo job/.test(button.textContent)),
        { timeout: 60_000 },
      );
      await page.evaluate(() =>
        [...document.querySelectorAll('button')].find((button) => /Skerry Quay/.test(button.textContent) && /demo job/.test(button.textContent)).click(),
      );
      await page.waitForFunction(() => location.pathname.startsWith('/bench/'), { timeout: 120_000 });
      await idle();
      await settled();
    });
    const islands = () => page.evaluate(() => Number(/Islands\s*(\d+)/.exec(document.body.textContent)?.[1] ?? NaN));
    const before = await islands();
    await timed('all islands laid flat', async () => {
      await press('button', 'Unwrap all islands');
      await settled();
    });
    await timed('packed', async () => {
      await press('button', 'Pack');
      await pressIn('pack', 'Pack ');
      await settled();
    });
    await timed('delivered', async () => {
      await press('button', 'Deliver');
      await pressIn('deliver', 'Look at the files first');
      await page.waitForFunction(() => /read back and compared/.test(document.querySelector('section[aria-label="Station deliver"]').textContent), {
        timeout: 120_000,
      });
    });
    await timed('reload', async () => {
      await page.reload();
      await idle();
      await settled();
    });
    if ((await islands()) !== before) faults.push(`There were ${before} islands before and are ${await islands()} after the reload.`);
  } finally {
    await browser.close();
  }
  return { times, faults };
}

const results = {};
let failed = false;
try {
  for (const [name, options] of Object.entries(browsers)) {
    try {
      results[name] = await walk(options);
    } catch (error) {
      results[name] = { times: [], faults: [String(error)] };
    }
    for (const fault of results[name].faults) {
      failed = true;
      console.log(`${name}: ${fault}`);
    }
  }
} finally {
  server.kill();
  screen.kill();
  rmSync(folder, { recursive: true, force: true });
}
const names = Object.keys(results);
console.log(`| ms | ${names.join(' | ')} |\n|---|${names.map(() => '---:').join('|')}|`);
for (const [k, [label]] of (results.Firefox?.times ?? []).entries())
  console.log(`| ${label} | ${names.map((name) => results[name].times[k]?.[1] ?? '–').join(' | ')} |`);
process.exit(failed ? 1 : 0);
