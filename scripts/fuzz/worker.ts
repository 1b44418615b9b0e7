import { parentPort, workerData } from 'node:worker_threads';
import { runCase, runFiles } from './runCase.ts';
import { makeSeeds } from './seeds.ts';

const { seed, from, to, now } = workerData as { seed: number; from: number; to: number; now: Int32Array };
const seeds = await makeSeeds();
// what a new thread has to read and compile first is no case's time
await runFiles([seeds[0]!.file, ...seeds[0]!.beside]);
for (let n = from; n < to; n++) {
  Atomics.store(now, 0, n);
  Atomics.add(now, 1, 1);
  const outcome = await runCase(seeds, seed, n).catch((error: unknown) => ({ kind: 'fault' as const, words: String(error) }));
  parentPort!.postMessage({ n, outcome });
}
Atomics.store(now, 0, -1);
