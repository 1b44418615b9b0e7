import { enableFused } from './engine.ts';
import { run } from './program.ts';

enableFused();
process.exitCode = await run(process.argv.slice(2));
