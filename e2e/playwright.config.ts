import { existsSync } from 'node:fs';
import { defineConfig } from '@playwright/test';

const port = 4871;

/** The browser without its window and menus starts and draws in three quarters of the time. */
const shell = '/usr/bin/chromium-headless-shell';

export const launchOptions = {
  executablePath: process.env.CHROMIUM ?? (existsSync(shell) ? shell : '/usr/bin/chromium'),
  args: [
    '--no-sandbox',
    '--use-gl=angle',
    '--use-angle=swiftshader',
    '--enable-unsafe-swiftshader',
    '--disable-gpu-compositing',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
};

/** Pages that draw coarsely, or in full; see app/src/lowPower.ts. */
export const withPower = (low: 'on' | 'off') => ({
  cookies: [],
  origins: [{ origin: `http://localhost:${port}`, localStorage: [{ name: 'jig-peel low power', value: low }] }],
});

export default defineConfig({
  testDir: './tests',
  outputDir: '../test-results',
  timeout: 120_000,
  expect: { timeout: 20_000 },
  workers: 2,
  retries: process.env.CI ? 1 : 0,
  reporter: [['list'], ['./slowest.ts']],
  use: {
    storageState: withPower('on'),
    baseURL: `http://localhost:${port}`,
    viewport: { width: 1280, height: 800 },
    // code is not compiled in the best way again with each load of the page: that was a third of all work, for what runs for seconds
    launchOptions: { ...launchOptions, args: [...launchOptions.args, '--js-flags=--no-turbofan'] },
    acceptDownloads: true,
    trace: 'off',
    // each test is a browser of its own: keeping the whole app in all of them would take longer than the tests
    serviceWorkers: 'block',
  },
  webServer: {
    command: `node ../server/bin.mjs`,
    env: { PORT: String(port), JIG_BATCHES: '../test-results/batches' },
    url: `http://localhost:${port}/health`,
    reuseExistingServer: !process.env.CI,
    timeout: 60_000,
  },
});
