import { parentPort, workerData } from 'node:worker_threads';
import { runCase } from './runCase.ts';
import { makeSeeds } from './seeds.ts';

const { seed, from, to, now } = workerData as { seed: number; from: number; to: number; now: Int32Array };
const seeds = await makeSeeds();
for (let n = from; n < to; n++) {
  Atomics.store(now, 0, n);
  Atomics.add(now, 1, 1);
  const outcome = await runCase(seeds, seed, n).catch((error: unknown) => ({ kind: 'fault' as const, words: String(error) }));
  parentPort!.postMessage({ n, outcome });
}
Atomics.store(now, 0, -1);
