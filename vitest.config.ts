import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    include: ['{core,cli,server,demo,app}/src/**/*.test.{ts,tsx}'],
    environment: 'node',
    testTimeout: 30_000,
    maxWorkers: 2,
    // the reference for overlaps loops on some needles: it shall give up after this many steps, not after a million
    env: { POLYGON_CLIPPING_MAX_QUEUE_SIZE: '20000', POLYGON_CLIPPING_MAX_SWEEPLINE_SEGMENTS: '20000' },
  },
});
