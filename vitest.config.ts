import { defineConfig } from 'vitest/config';
import { operationFacts } from './app/operationFacts.ts';

/** Tests that change what a process shares: the engine (threads of the server and the command line, too), modules that they put others in the place of, the page. */
const apart = ['core/src/numeric/fused.test.ts', '{cli,server,batch}/src/**/*.test.ts', 'app/src/**/*.test.{ts,tsx}'];

export default defineConfig({
  plugins: [operationFacts()],
  test: {
    environment: 'node',
    testTimeout: 30_000,
    maxWorkers: 2,
    setupFiles: ['scripts/propertySeed.ts'],
    projects: [
      // modules are read once a worker, not once a file: a third less time
      { extends: true, test: { name: 'shared', include: ['{core,demo}/src/**/*.test.ts'], exclude: apart, isolate: false } },
      { extends: true, test: { name: 'apart', include: apart } },
    ],
  },
});
