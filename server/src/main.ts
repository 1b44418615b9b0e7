import { fileURLToPath } from 'node:url';
import { enableFused } from '@jig-peel/batch/engine';
import { serve } from './serve.ts';

// threads take it over
enableFused();
await serve(
  fileURLToPath(new URL('../../app/dist', import.meta.url)),
  { JIG_BATCHES: fileURLToPath(new URL('../../data/batches', import.meta.url)), ...process.env },
  {
    say: (words) => console.log(words),
    fail: (words) => {
      console.error(words);
      process.exitCode = 1;
    },
  },
);
