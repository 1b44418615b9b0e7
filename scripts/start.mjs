// Installs what is missing, builds the app and the samples, serves them.
import { existsSync } from 'node:fs';
import { run } from './run.mjs';

if (!existsSync('node_modules/.package-lock.json')) run('npm', ['ci']);
run('npm', ['run', '-s', 'build']);
run('npx', ['tsx', 'server/src/main.ts']);
