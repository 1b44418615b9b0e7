import { mkdirSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { writeArchive, writeObj } from '@jig-peel/core';
import { demoJob, partFrom, props } from './props.ts';

/** Writes the samples that the app is served with. */
const folder = fileURLToPath(new URL('../../app/public/samples/', import.meta.url));
mkdirSync(folder, { recursive: true });
const list = props();
for (const [k, prop] of list.entries()) writeFileSync(`${folder}${prop.file}`, writeObj([partFrom(prop, k)], null));
const job = await demoJob();
writeFileSync(`${folder}skerry-quay.jigpeel`, writeArchive(job));
for (const image of job.images) writeFileSync(`${folder}${image.name}`, image.bytes);
writeFileSync(
  `${folder}samples.json`,
  JSON.stringify([
    { file: 'skerry-quay.jigpeel', name: 'Skerry Quay', kind: 'job', about: 'Three harbour props: a seal half seamed, a lens with its pattern, a bare kiosk.' },
    ...list.map((prop) => ({ file: prop.file, name: prop.name, kind: 'model', about: `${(prop.mesh.faceStart.length - 1).toLocaleString('en')} faces` })),
  ]),
);
console.log(`samples: ${list.map((prop) => `${prop.name} (${prop.mesh.faceStart.length - 1} faces)`).join(', ')}`);
