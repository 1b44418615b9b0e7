import { enableFused } from '@jig-peel/batch/engine';
import { run } from './program.ts';

enableFused();
process.exitCode = await run(process.argv.slice(2));
