/*
 * Opens damaged files of every format, some thousands a minute, and looks what becomes of each: a sentence, or a job that is sound and comes back
 * from what it is written to; within a time, within a memory.
 *
 *   npm run fuzz -- [--cases 100000] [--seed 1] [--from 0] [--minutes 30]
 *
 * Every case is the same for a seed: `--from N --cases 1` runs one again. Exit 1 if any has a fault.
 */
import { parseArgs } from 'node:util';
import { Worker } from 'node:worker_threads';
import type { Outcome } from './runCase.ts';
import { filesOf } from './runCase.ts';
import { makeSeeds } from './seeds.ts';

const { values } = parseArgs({
  options: {
    cases: { type: 'string', default: '2000' },
    seed: { type: 'string', default: '1' },
    from: { type: 'string', default: '0' },
    minutes: { type: 'string', default: '30' },
  },
});
const [cases, seed, from] = [Number(values.cases), Number(values.seed), Number(values.from)];
const until = Date.now() + Number(values.minutes) * 60_000;
/**
 * Ms that a case may take, of time or of the cores' work, whichever is less (other processes may have the machine, and the engine compiles and
 * collects garbage on other cores), and bytes beyond ten times its files.
 */
const mostMs = 2000;
const mostBytes = 500 * 2 ** 20;
const look = 20;

const counts = new Map<string, number>();
const faults: { n: number; words: string }[] = [];
const count = (key: string) => counts.set(key, (counts.get(key) ?? 0) + 1);
const fault = (n: number, words: string) => {
  faults.push({ n, words });
  if (faults.length <= 30) console.log(`FAULT in case ${n}: ${words.slice(0, 600)}`);
};
/** Ms of cores that this process has had; the main thread only looks on. */
const spent = () => {
  const { user, system } = process.cpuUsage();
  return (user + system) / 1000;
};
/** Cases that took too long once. */
const again = new Set<number>();
let done = 0;
let slowest = { n: -1, ms: 0 };
let largest = { n: -1, bytes: 0 };

const seeds = await makeSeeds();
const sizeOf = (n: number) => filesOf(seeds, seed, n).reduce((sum, { bytes }) => sum + bytes.length, 0);

/** Runs cases in one thread until all are done or one overruns; returns the next to run. */
function stretch(first: number): Promise<number> {
  return new Promise((resolve) => {
    const now = new Int32Array(new SharedArrayBuffer(8));
    now[0] = -1;
    const worker = new Worker(new URL('./worker.mjs', import.meta.url), {
      workerData: { seed, from: first, to: from + cases, now },
    });
    let [seen, began, since, base] = [-1, spent(), performance.now(), process.memoryUsage().rss];
    let finished = false;
    let next = first;
    const stop = (n: number, words: string, mayBeLoad = false) => {
      if (finished) return;
      end();
      // another process may have had the machine: it is run once more, by itself at first
      if (mayBeLoad && !again.has(n)) {
        again.add(n);
        void worker.terminate().then(() => resolve(n));
        return;
      }
      count('fault');
      done++;
      fault(n, words);
      void worker.terminate().then(() => resolve(n + 1));
    };
    const end = () => {
      finished = true;
      clearInterval(timer);
    };
    const timer = setInterval(() => {
      const n = Atomics.load(now, 0);
      const turn = Atomics.load(now, 1);
      const { rss } = process.memoryUsage();
      if (turn !== seen) {
        [seen, began, since, base] = [turn, spent(), performance.now(), Math.min(base + 32 * 2 ** 20, rss)];
        return;
      }
      if (n < 0) return;
      const ms = Math.min(spent() - began, performance.now() - since);
      if (ms > slowest.ms) slowest = { n, ms };
      if (rss - base > largest.bytes) largest = { n, bytes: rss - base };
      if (ms > mostMs) stop(n, `took more than ${mostMs} ms`, true);
      else if (rss - base > mostBytes && rss - base > mostBytes + 10 * sizeOf(n))
        stop(n, `took more than ${Math.round(mostBytes / 2 ** 20)} MB beyond ten times its files`, true);
      else if (Date.now() > until) {
        end();
        void worker.terminate().then(() => resolve(from + cases));
      }
    }, look);
    worker.on('message', ({ n, outcome }: { n: number; outcome: Outcome }) => {
      if (finished) return;
      done++;
      next = n + 1;
      count(outcome.kind === 'refused' ? `refused: ${outcome.code}` : outcome.kind);
      if (outcome.kind === 'fault') fault(n, outcome.words);
      if (done % 5000 === 0) console.log(`${done} of ${cases}, ${faults.length} faults`);
    });
    worker.on('error', (error) => {
      // one that cannot even begin will not begin the next time
      if (seen < 0) throw error;
      stop(next, `ended its thread: ${error.message}`);
    });
    worker.on('exit', () => {
      if (finished) return;
      end();
      resolve(from + cases);
    });
  });
}

const started = Date.now();
for (let n = from; n < from + cases && Date.now() < until;) n = await stretch(n);
console.log(`${done} cases (seed ${seed}, ${seeds.length} files to begin with) in ${Math.round((Date.now() - started) / 1000)} s`);
for (const [key, n] of [...counts].sort((a, b) => b[1] - a[1])) console.log(`  ${key.padEnd(28)} ${n}`);
console.log(`  slowest: case ${slowest.n}, ${slowest.ms} ms; most memory: case ${largest.n}, ${Math.round(largest.bytes / 2 ** 20)} MB`);
if (done < cases) console.log(`stopped after ${values.minutes} minutes: ${cases - done} cases were not run`);
if (faults.length > 0 || done < cases) process.exitCode = 1;
