import { readFileSync, writeFileSync } from 'node:fs';
import { encode } from 'fast-png';
import { activeSet, bakedFile, layerSchema, newJob, partOf, runOperation, surfaceInputOf, type BakeInput, type BakeOptions, type Job } from '@jig-peel/core';
import { bakeBands } from '@jig-peel/core/images/bakeBands';
import { bakeThreads } from '../cli/src/bakeThreads.ts';

/* How long baking takes: a ball of 100,000 triangles, four layers, two threads. Medians of three. */

const context = { progress: () => {}, throwIfCancelled: () => {} };
const seconds = (ms: number) => (ms / 1000).toFixed(2);
const median = (list: number[]) => list.toSorted((a, b) => a - b)[Math.floor(list.length / 2)]!;

/** A figure of this process, bytes (Linux; NaN elsewhere). */
const memory = (name: 'VmRSS' | 'VmHWM'): number => {
  try {
    return Number(new RegExp(`${name}:\\s+(\\d+)`).exec(readFileSync('/proc/self/status', 'utf8'))![1]) * 1024;
  } catch {
    return NaN;
  }
};
/** From here on `VmHWM` is the most that was taken since. */
const forgetPeak = () => {
  try {
    writeFileSync('/proc/self/clear_refs', '5');
  } catch {
    // no such figure on this system
  }
};

const size = 1024;
const picture = encode({ width: size, height: size, data: Uint8Array.from({ length: size * size * 3 }, (_, k) => (k * 7919) % 251), channels: 3, depth: 8 });
let job: Job = (await runOperation(newJob('j', 'j', []), 'makeForm', { kind: 'sphere', segments: 320, rows: 158 })).job;
job = (await runOperation(job, 'addImages', { images: [{ name: 'p.png', bytes: picture }], show: true })).job;
const image = job.images[0]!.id;
const stacks: Record<string, object[]> = {
  'three pictures by UVs': [
    { blend: 'multiply', opacity: 0.5 },
    { blend: 'overlay', opacity: 0.5 },
    { blend: 'screen', opacity: 0.3 },
  ],
  'one of them by three sides, one masked by noise': [
    { driver: { kind: 'triplanar', size: 0.4 }, opacity: 0.5 },
    { blend: 'multiply', opacity: 0.5, masks: [{ kind: 'noise' }] },
    { blend: 'screen', opacity: 0.3 },
  ],
};
console.log(
  '| layers over the picture | px | samples | bake s | of it a thread’s own half s | fill and write s | most memory beyond before, MB | times the picture |\n|---|---|---|---|---|---|---|---|',
);
for (const [words, layers] of Object.entries(stacks)) {
  const part = { ...partOf(job), layers: layers.map((layer, k) => layerSchema.parse({ id: `l${k}`, name: 'l', source: { kind: 'image', image }, ...layer })) };
  const withLayers = { ...job, parts: [part] };
  for (const [px, samples, runs] of [
    [1024, 1, 3],
    [2048, 1, 3],
    [2048, 4, 3],
    [4096, 4, 1],
  ] as const) {
    const options: BakeOptions = { what: 'colour', width: px, height: px, samples, tile: [0, 0], depth: 8, range: 1, reach: 1, rays: 64 };
    const input: BakeInput = { parts: [{ input: surfaceInputOf(withLayers, part), set: activeSet(part) }], around: [], images: job.images, options };
    const bakes: number[] = [];
    const writes: number[] = [];
    const halves: number[] = [];
    const before = memory('VmRSS');
    forgetPeak();
    let most = 0;
    for (let run = 0; run < runs; run++) {
      const start = performance.now();
      const bands = await bakeThreads.bake!(input, context);
      const made = performance.now();
      await bakeBands({ ...input, share: { of: 2, at: 0 } });
      halves.push(performance.now() - made);
      const filling = performance.now();
      bakedFile(bands, options, 'full');
      bakes.push(made - start);
      writes.push(performance.now() - filling);
      if (run === 0) most = memory('VmHWM') - before;
    }
    console.log(
      `| ${words} | ${px} | ${samples} | ${seconds(median(bakes))} | ${seconds(median(halves))} | ${seconds(median(writes))} | ${Math.round(most / 1e6)} | ${(most / (px * px * 4)).toFixed(1)} |`,
    );
  }
}
