import { readdirSync, readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { activeSet } from '../job/job.ts';
import { checkLayout } from '../measure/check.ts';
import { islandsOf } from '../uv/islands.ts';
import { runOperation } from '../ops/registry.ts';
import { readArchive, writeArchive } from './archive.ts';

/* One archive of a crate as each earlier state of the program wrote it, from the first on: none of them may ever fail to open. */
const folder = new URL('./archives/', import.meta.url);
const names = readdirSync(folder).sort();

describe('job archives of earlier versions', () => {
  it('are there', () => expect(names.length).toBeGreaterThanOrEqual(8));
  it.each(names)('%s opens whole, can be worked on, and is written as archives are now', async (name) => {
    const { job, history, warnings } = readArchive(new Uint8Array(readFileSync(new URL(name, folder)))) as ReturnType<typeof readArchive> & {
      warnings?: string[];
    };
    expect(warnings ?? []).toEqual([]);
    const [part] = job.parts;
    expect([part!.name, part!.mesh.faceStart.length - 1, part!.mesh.materials]).toEqual(['crate', 6, ['Clay']]);
    const { report } = checkLayout(part!.mesh, activeSet(part!), 2048, 2048);
    expect(report).toMatchObject({ islands: 6, flippedTriangles: 0, facesWithoutUv: 0 });
    expect(report.symmetricDirichlet).toBeCloseTo(4, 6);
    const { job: packed } = await runOperation(job, 'pack', { effort: 0 });
    const again = readArchive(writeArchive(packed, history));
    expect([...activeSet(again.job.parts[0]!).uv]).toEqual([...activeSet(packed.parts[0]!).uv]);
    expect(islandsOf(again.job.parts[0]!.mesh, activeSet(again.job.parts[0]!)).count).toBe(6);
  });
});
