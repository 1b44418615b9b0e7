import { decode } from 'fast-png';
import { expect, it } from 'vitest';
import { newJob, quietContext, runOperation, type Job } from '@jig-peel/core';
import { withBakedLayers } from './bakedLayers.ts';

const step = async (job: Job, name: string, params: object) => (await runOperation(job, name, params as Record<string, unknown>)).job;

/** Red px of the picture that a part shows. */
function redOn(job: Job, k: number): number {
  const image = job.images.find(({ id }) => id === job.parts[k]!.imageId)!;
  const { data, channels } = decode(image.bytes);
  let red = 0;
  for (let i = 0; i < data.length; i += channels) if (data[i]! > 200 && data[i + 1]! < 60) red++;
  return red;
}

it('a decal that reaches onto another part is in the pictures of both, whichever is baked first', async () => {
  for (const owner of [0, 1]) {
    let job = newJob('j', 'j', []);
    for (let k = 0; k < 2; k++) job = await step(job, 'makeForm', { kind: 'box' });
    // each part on a sheet of its own, so that each is baked by itself
    job = await step(job, 'sheets', { do: 'add', parts: [job.parts[1]!.id] });
    job = { ...job, settings: { ...job.settings, width: 64, height: 64 } };
    job = { ...job, sheets: (job.sheets ?? []).map((sheet) => ({ ...sheet, width: 64, height: 64 })) };
    const driver = { kind: 'decal', centre: [0, 0, 0.5], right: [1, 0, 0], up: [0, 1, 0], size: [0.8, 0.8], depth: 0.1, others: true };
    const layer = { name: 'stamp', source: { kind: 'colour', colour: '#ff0000' }, driver };
    job = await step(job, 'addLayer', { part: job.parts[owner]!.id, layer });
    const { job: baked, notes } = await withBakedLayers(job, [], quietContext);
    expect(notes.filter((note) => note.startsWith('Left out'))).toEqual([]);
    expect(redOn(baked, 0)).toBeGreaterThan(20);
    expect(redOn(baked, 1)).toBe(redOn(baked, 0));
    // the job itself is as it was
    expect(job.parts.map(({ imageId }) => imageId)).toEqual([null, null]);
  }
});
