import { defineConfig } from 'vitest/config';
import { operationFacts } from './app/operationFacts.ts';

/** Tests that change what all code of a thread shares: the engine, modules that they put others in the place of, the page. */
const apart = ['core/src/numeric/fused.test.ts', 'app/src/**/*.test.{ts,tsx}'];

export default defineConfig({
  plugins: [operationFacts()],
  test: {
    environment: 'node',
    testTimeout: 30_000,
    maxWorkers: 2,
    setupFiles: ['scripts/propertySeed.ts'],
    projects: [
      // modules are read once a worker, not once a file: a third less time
      { extends: true, test: { name: 'shared', include: ['{core,cli,server,batch,demo}/src/**/*.test.ts'], exclude: apart, isolate: false } },
      { extends: true, test: { name: 'apart', include: apart } },
    ],
  },
});
