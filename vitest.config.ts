import { defineConfig } from 'vitest/config';
import { operationFacts } from './app/operationFacts.ts';

export default defineConfig({
  plugins: [operationFacts()],
  test: {
    include: ['{core,cli,server,demo,app}/src/**/*.test.{ts,tsx}'],
    environment: 'node',
    testTimeout: 30_000,
    maxWorkers: 2,
    setupFiles: ['scripts/propertySeed.ts'],
  },
});
