import { spawn, spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));

/** Runs a command in the project's folder, showing its output; ends this process with its code if it fails. */
export function run(command, args, options = {}) {
  const { status, signal, error } = spawnSync(command, args, { stdio: 'inherit', cwd: root, killSignal: 'SIGKILL', ...options });
  if (error?.code === 'ETIMEDOUT')
    console.error(`\n${command} ${args.join(' ')} was stopped after ${options.timeout / 60_000} minutes: something in it hangs.`);
  if (signal || status !== 0) process.exit(status ?? 1);
}

/**
 * Runs lists of commands beside one another, each list in its order; what they say is shown list by list as each ends. Ends this process with the code of the
 * first that fails. @param lists [name, [command, args, minutes][]][]
 */
export async function runBeside(lists) {
  await Promise.all(
    lists.map(async ([name, commands]) => {
      let said = '';
      for (const [command, args, minutes = 10] of commands) {
        const child = spawn(command, args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'], timeout: minutes * 60_000, killSignal: 'SIGKILL' });
        for (const stream of [child.stdout, child.stderr]) stream.on('data', (part) => (said += part));
        const [code, signal] = await new Promise((ended) => child.on('close', (...how) => ended(how)).on('error', () => ended([1, null])));
        if (code === 0) continue;
        console.log(`\n${name}\n${said}`);
        console.error(`${command} ${args.join(' ')} failed${signal ? ` (${signal}; stopped after ${minutes} minutes if it hung)` : ''}`);
        process.exit(code || 1);
      }
      console.log(`\n${name}\n${said.trimEnd()}`);
    }),
  );
}
