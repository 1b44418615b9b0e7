import { encode } from 'fast-png';
import { activeSet, bakeBands, bakedFile, layerSchema, newJob, partOf, runOperation, surfaceInputOf, type BakeInput, type BakeOptions, type Job } from '@jig-peel/core';
import { createHash } from 'node:crypto';
const size = 1024;
const picture = encode({ width: size, height: size, data: Uint8Array.from({ length: size * size * 3 }, (_, k) => (k * 7919) % 251), channels: 3, depth: 8 });
let job: Job = (await runOperation(newJob('j', 'j', []), 'makeForm', { kind: 'sphere', segments: 320, rows: 158 })).job;
job = (await runOperation(job, 'addImages', { images: [{ name: 'p.png', bytes: picture }], show: true })).job;
const image = job.images[0]!.id;
const stacks: Record<string, object[]> = {
  uv: [
    { blend: 'multiply', opacity: 0.5 },
    { blend: 'overlay', opacity: 0.5 },
    { blend: 'screen', opacity: 0.3 },
  ],
  mixed: [
    { driver: { kind: 'triplanar', size: 0.4 }, opacity: 0.5 },
    { blend: 'multiply', opacity: 0.5, masks: [{ kind: 'noise' }] },
    { blend: 'screen', opacity: 0.3 },
  ],
};
for (const [words, layers] of Object.entries(stacks)) {
  const part = { ...partOf(job), layers: layers.map((layer, k) => layerSchema.parse({ id: `l${k}`, name: 'l', source: { kind: 'image', image }, ...layer })) };
  const withLayers = { ...job, parts: [part] };
  const px = Number(process.argv[2] ?? 1024);
    const options: BakeOptions = { what: 'colour', width: px, height: px, samples: 4, tile: [0, 0], depth: 8, range: 1, reach: 1, rays: 64 };
    const input: BakeInput = { parts: [{ input: surfaceInputOf(withLayers, part), set: activeSet(part) }], around: [], images: job.images, options };
    for (let run = 0; run < 3; run++) {
      const start = process.cpuUsage();
      const bands = await bakeBands(input);
      const made = process.cpuUsage(start);
      const taken = bands.reduce((s, b) => s + b.taken, 0);
      const ms = (made.user + made.system) / 1000;
      const t1 = performance.now();
      if (run === 2) bakedFile(bands, options, 'full');
      const hash = createHash('sha1'); for (const b of bands) hash.update(b.data as Uint8Array);
      console.log(words, px, ms.toFixed(0), 'ms cpu', (ms * 1e6 / taken).toFixed(0), 'ns a sample', taken, hash.digest('hex').slice(0, 10), 'write', (performance.now() - t1).toFixed(0));
    }
}
