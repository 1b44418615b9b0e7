import { readdirSync, readFileSync } from 'node:fs';
import { defineConfig } from 'vitest/config';
import { operationFacts } from './app/operationFacts.ts';

/** What a test file has in it that changes more than itself: modules that others are put in the place of, clocks, the page, a store of the process. */
const changesMore = /\bvi\.\w+\(|@vitest-environment|fake-indexeddb/;
const appTests = readdirSync('app/src', { recursive: true, encoding: 'utf8' })
  .filter((path) => /\.test\.tsx?$/.test(path))
  .map((path) => `app/src/${path}`);
/** Tests that change what a process shares: those, and the engine (threads of the server and the command line, too). */
const apart = [
  'core/src/numeric/fused.test.ts',
  '{cli,server,batch}/src/**/*.test.ts',
  ...appTests.filter((path) => changesMore.test(readFileSync(path, 'utf8'))),
];

export default defineConfig({
  plugins: [operationFacts()],
  test: {
    environment: 'node',
    testTimeout: 30_000,
    maxWorkers: 2,
    setupFiles: ['scripts/propertySeed.ts'],
    projects: [
      // modules are read once a worker, not once a file: a third less time
      { extends: true, test: { name: 'shared', include: ['{core,demo}/src/**/*.test.ts', 'app/src/**/*.test.ts'], exclude: apart, isolate: false } },
      { extends: true, test: { name: 'apart', include: apart } },
    ],
  },
});
