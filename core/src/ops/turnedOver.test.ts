import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { newJob, type Job } from '../job/job.ts';
import { openIslands } from '../seams/cutGraph.ts';
import { islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { realMesh, realMeshes } from '../../../scripts/realMeshes.ts';
import { runOperation } from './registry.ts';

/** A figure that nobody here made, in one piece: a map that keeps angles turns some of its triangles over. */
function pig(cut: boolean): Job {
  const mesh = realMesh('pig');
  const bare = emptyUvSet(mesh);
  return newJob('pig', 'Pig', [
    { id: 'pig', name: 'Pig', mesh, uvSets: [cut ? openIslands(mesh, bare).set : bare], activeUv: 0, imageId: null, origin: { kind: 'made' } },
  ]);
}

describe.skipIf(!existsSync(join(realMeshes, 'data')))('triangles turned over are told, with what helps', () => {
  it('by unwrap, by a first layout and where proposed seams are taken', async () => {
    const free = { method: 'conformal', apart: false } as const;
    const unwrapped = await runOperation(pig(true), 'unwrap', free);
    const { flips } = unwrapped.report as { flips: number };
    expect(flips).toBeGreaterThan(0);
    const told = `; ${flips} triangles turned over, as keeping angles alone may do: “No island over itself” or least stretch avoids it`;
    expect(unwrapped).toMatchObject({ sentence: `Unwrapped 1 island${told}`, warns: true });
    const first = await runOperation(pig(true), 'firstLayout', free);
    expect(first).toMatchObject({ sentence: `Made a first layout: 1 island, 0 edges cut${told}`, warns: true });
    const edges = seamsOf(pig(true));
    const laid = await runOperation(pig(false), 'laySeams', { edges, ...free });
    expect(laid).toMatchObject({ sentence: expect.stringContaining(told) as string, warns: true });
  });

  it('and by none where nothing is', async () => {
    const held = await runOperation(pig(true), 'unwrap', { method: 'conformal', apart: true });
    expect(held).toMatchObject({ sentence: 'Unwrapped 1 island; held apart, where angles give way', warns: false });
    expect((await runOperation(pig(true), 'firstLayout', { method: 'isometric', apart: true })).sentence).toBe('Made a first layout: 1 island, 0 edges cut');
  });
});

/** Seam edges of the job's only part. */
function seamsOf(job: Job): number[] {
  const part = job.parts[0]!;
  const { states } = islandsOf(part.mesh, part.uvSets[0]!);
  return [...states.keys()].filter((e) => states[e] === EdgeState.seam);
}
