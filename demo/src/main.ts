import { mkdirSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { writeArchive, writeObj } from '@jig-peel/core';
import { demoJob, partFrom, props, sheetNames } from './props.ts';

/** Writes the samples that the app is served with. */
const folder = fileURLToPath(new URL('../../app/public/samples/', import.meta.url));
mkdirSync(folder, { recursive: true });
const list = props();
const files = [...new Set(list.map((prop) => prop.file))].map((file) => ({ file, props: list.filter((prop) => prop.file === file) }));
for (const { file, props: inFile } of files)
  writeFileSync(
    `${folder}${file}`,
    writeObj(
      inFile.map((prop, k) => partFrom(prop, k)),
      null,
    ),
  );
const job = await demoJob();
writeFileSync(`${folder}skerry-quay.jigpeel`, writeArchive(job));
for (const image of job.images) writeFileSync(`${folder}${image.name}`, image.bytes);
writeFileSync(
  `${folder}samples.json`,
  JSON.stringify([
    {
      file: 'skerry-quay.jigpeel',
      name: 'Skerry Quay',
      kind: 'job',
      about:
        'Harbour props: a seal half seamed, a lens with its pattern, a punt with faults to find, flags, a lamp, a kiosk, a net float, kerbs to straighten, planks to stack.',
    },
    ...files.map(({ file, props: inFile }) => ({
      file,
      name: sheetNames[file] ?? inFile[0]!.name,
      kind: 'model',
      about: `${inFile.reduce((sum, prop) => sum + prop.mesh.faceStart.length - 1, 0).toLocaleString('en')} faces${inFile.length > 1 ? ` in ${inFile.length} parts` : ''}`,
    })),
  ]),
);
console.log(`samples: ${list.map((prop) => `${prop.name} (${prop.mesh.faceStart.length - 1} faces)`).join(', ')}`);
