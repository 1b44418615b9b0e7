/*
 * Kills the browser (SIGKILL) or its page at random moments of edits and saves, opens the job again, and looks whether every step is there but the one
 * that was under way.
 *
 *   npm run kills -- [--times 200] [--seed 1]
 *
 * Needs the built app and Chromium. Exit 1 if a step was lost, or a job did not open again.
 */
import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createServer } from 'node:http';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { chromium, type Browser, type Page } from '@playwright/test';
import { seededRandom } from '@jig-peel/core';
import { launchOptions } from '../e2e/playwright.config.ts';
import { makeServer } from '../server/src/server.ts';

const { values } = parseArgs({ options: { times: { type: 'string', default: '5' }, seed: { type: 'string', default: '1' } } });
const times = Number(values.times);
const random = seededRandom(Number(values.seed));

interface Told {
  /** Steps whose answer has come, and sentences of all steps by then. */
  done: string[];
  /** How many steps there were when all of them were last told to be kept. */
  saved: number;
}

const server = createServer(makeServer(fileURLToPath(new URL('../app/dist', import.meta.url))));
await new Promise<void>((ready) => server.listen(0, '127.0.0.1', ready));
const base = `http://localhost:${(server.address() as AddressInfo).port}`;
const profile = mkdtempSync(join(tmpdir(), 'jig-kills-'));

interface Running {
  child: ChildProcess;
  browser: Browser;
  page: Page;
}

/** A browser of its own process group, so that all of it can be killed at once. */
async function start(): Promise<Running> {
  rmSync(join(profile, 'DevToolsActivePort'), { force: true });
  const child = spawn(
    launchOptions.executablePath,
    ['--headless=new', ...launchOptions.args, '--remote-debugging-port=0', '--window-size=640,400', `--user-data-dir=${profile}`, 'about:blank'],
    { detached: true, stdio: 'ignore' },
  );
  let port = '';
  for (let k = 0; k < 200 && !port; k++) {
    await wait(50);
    try {
      port = readFileSync(join(profile, 'DevToolsActivePort'), 'utf8').split('\n')[0]!;
    } catch {
      // not there yet
    }
  }
  const browser = await chromium.connectOverCDP(`http://127.0.0.1:${port}`);
  const context = browser.contexts()[0]!;
  return { child, browser, page: context.pages()[0] ?? (await context.newPage()) };
}

const wait = (ms: number) => new Promise((next) => setTimeout(next, ms));

async function ready(page: Page): Promise<void> {
  await page.waitForFunction(() => (window as unknown as { jigPeel?: { ready(): boolean } }).jigPeel?.ready() === true, null, { timeout: 60_000 });
}

/** Begins edits in the page, one after the other without a rest; what came of them is told as it comes. */
async function edit(page: Page, told: (what: Told) => void, turn: number): Promise<void> {
  await page.exposeFunction(`told${turn}`, told);
  // the loader of TypeScript names functions by this, which the page has not
  await page.evaluate('window.__name = (named) => named');
  await page.evaluate((k) => {
    const { jigPeel } = window as unknown as {
      jigPeel: {
        edit(name: string, params: object): Promise<{ ok: boolean }>;
        /** Until the last step is kept. */
        idle(): Promise<void>;
        state(): { summary: { history: { sentence: string }[]; historyIndex: number } };
      };
    };
    const tell = (window as unknown as Record<string, (what: unknown) => void>)[`told${k}`]!;
    let saved = 0;
    const done: string[] = [];
    const all = () =>
      jigPeel
        .state()
        .summary.history.slice(0, jigPeel.state().summary.historyIndex + 1)
        .map(({ sentence }) => sentence);
    const look = () => tell({ done: [...done], saved });
    done.push(...all());
    void (async () => {
      for (let n = 0; ; n++) {
        // small steps and large ones
        const outcome = await (n % 5 === 4
          ? jigPeel.edit('firstLayout', {})
          : n % 5 === 2
            ? jigPeel.edit('seams', { by: 'crease', angle: 20 + (n % 40) })
            : jigPeel.edit('renameJob', { name: `turn ${k} step ${n}` }));
        if (outcome.ok) done.splice(0, done.length, ...all());
        look();
        // a step more is only begun once the one before is kept; of the others “saved” could be said of an earlier one
        if (n % 3 !== 0) continue;
        await jigPeel.idle();
        saved = done.length;
        look();
      }
    })();
  }, turn);
}

let [lost, opened, pages, steps] = [0, 0, 0, 0];
const everyTurns = 25;
/** A new job in the page; its address. */
async function newJob(page: Page): Promise<string> {
  await page.goto(base);
  await page.getByRole('button', { name: 'Sphere', exact: true }).click();
  await page.waitForURL(/bench/);
  await ready(page);
  return page.url();
}

let running = await start();
let job = await newJob(running.page);
const began = Date.now();

for (let turn = 0; turn < times; turn++) {
  let last: Told = { done: [], saved: 0 };
  await edit(running.page, (what) => (last = what), turn);
  while (last.done.length === 0) await wait(5);
  await wait(150 + random() * 1500);
  const killsPage = random() < 0.5;
  const before = last;
  if (killsPage) {
    pages++;
    const session = await running.page.context().newCDPSession(running.page);
    // never answered: the page is gone
    void session.send('Page.crash').catch(() => {});
    await wait(300);
    const page = await running.page.context().newPage();
    await running.page.close({ runBeforeUnload: false }).catch(() => {});
    running = { ...running, page };
  } else {
    process.kill(-running.child.pid!, 'SIGKILL');
    await running.browser.close().catch(() => {});
    await wait(200);
    running = await start();
  }
  // what had been told before the kill, and a little that was on its way to this process
  const known = last.done.length > before.done.length ? before : last;
  try {
    await running.page.goto(job);
    await ready(running.page);
    opened++;
  } catch (error) {
    lost++;
    console.log(
      `turn ${turn} (${killsPage ? 'page' : 'browser'}): the job did not open again (${error instanceof Error ? error.message.split('\n')[0] : String(error)})`,
    );
    const shown = await running.page.evaluate(() => document.body.innerText.slice(0, 400)).catch(() => 'nothing');
    console.log(`it shows: ${shown.replaceAll('\n', ' | ')}`);
    break;
  }
  const { kept, missing } = await running.page.evaluate(() => {
    const { jigPeel } = window as unknown as { jigPeel: { state(): { notices: { text: string }[]; summary: { history: { sentence: string }[] } } } };
    const { notices, summary } = jigPeel.state();
    return { kept: summary.history.map(({ sentence }) => sentence), missing: notices.filter(({ text }) => /could not be read/.test(text)).length };
  });
  steps += known.done.length;
  const must = Math.max(known.saved, known.done.length - 1);
  const first = known.done.slice(0, must).findIndex((sentence, k) => kept[k] !== sentence);
  if (first >= 0 || missing > 0) {
    lost++;
    console.log(
      `turn ${turn} (${killsPage ? 'page' : 'browser'}): step ${first} is lost; ${known.done.length} were done, ${known.saved} told as saved, ${kept.length} are kept`,
    );
  }
  if ((turn + 1) % everyTurns === 0) console.log(`${turn + 1} of ${times}, lost: ${lost}`);
  // a history holds 300 steps: before the oldest go, another job begins
  if (kept.length > 150) job = await newJob(running.page);
}
process.kill(-running.child.pid!, 'SIGKILL');
await wait(200);
rmSync(profile, { recursive: true, force: true });
server.close();
console.log(
  `${opened} kills (${opened - pages} of the browser, ${pages} of the page) in ${Math.round((Date.now() - began) / 1000)} s, ${steps} steps looked for, lost: ${lost}`,
);
process.exit(lost > 0 || opened < times ? 1 : 0);
