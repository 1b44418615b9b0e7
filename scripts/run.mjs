import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));

/** Runs a command in the project's folder, showing its output; ends this process with its code if it fails. */
export function run(command, args, options = {}) {
  const { status, signal, error } = spawnSync(command, args, { stdio: 'inherit', cwd: root, killSignal: 'SIGKILL', ...options });
  if (error?.code === 'ETIMEDOUT')
    console.error(`\n${command} ${args.join(' ')} was stopped after ${options.timeout / 60_000} minutes: something in it hangs.`);
  if (signal || status !== 0) process.exit(status ?? 1);
}
