import { fileURLToPath } from 'node:url';
import { serve } from './serve.ts';

await serve(fileURLToPath(new URL('../../app/dist', import.meta.url)), process.env, {
  say: (words) => console.log(words),
  fail: (words) => {
    console.error(words);
    process.exitCode = 1;
  },
});
