// Installs what is missing, builds the app and the samples, serves them.
import { existsSync } from 'node:fs';
import { spawn } from 'node:child_process';
import { run } from './run.mjs';

if (!existsSync('node_modules/.package-lock.json')) run('npm', ['ci']);
run('npm', ['run', '-s', 'build']);
// the server itself, not a wrapper of it: what ends this process ends it, too
const server = spawn(process.execPath, ['server/bin.mjs'], { stdio: 'inherit' });
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => server.kill(signal));
process.on('exit', () => server.kill());
server.on('exit', (code) => process.exit(code ?? 0));
