import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['{core,cli,server,demo,app}/src/**/*.test.{ts,tsx}'],
    environment: 'node',
    testTimeout: 30_000,
    maxWorkers: 2,
    setupFiles: ['scripts/propertySeed.ts'],
  },
});
