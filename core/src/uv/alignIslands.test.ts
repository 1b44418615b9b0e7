import { describe, expect, it } from 'vitest';
import { box } from '../mesh/starterForms.ts';
import { newJob, activeSet, partOf } from '../job/job.ts';
import { runOperation } from '../ops/registry.ts';
import { alignIslands, alignSides } from './alignIslands.ts';
import { emptyUvSet } from './uvSet.ts';
import { islandsOf } from './islands.ts';

/** A box laid out in six islands. */
async function laidBox() {
  const mesh = box();
  const job = newJob('j', 'j', [{ id: 'p', name: 'p', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } }]);
  return (await runOperation(job, 'firstLayout', { by: 'crease' })).job;
}

describe('islands aligned', () => {
  it.each(alignSides)('%s: their boxes end at one line, sizes and shapes stay', async (side) => {
    const job = await laidBox();
    const { mesh } = partOf(job);
    const given = activeSet(partOf(job));
    // no two of them begin at one line
    const before = { ...given, uv: given.uv.map((x, k) => x * (1 + (k % 2) * 0.1) + 0.01 * Math.floor(given.cornerUv.indexOf(k >> 1) / 4)) };
    const { set, moved } = alignIslands(mesh, before, [0, 1, 2], side);
    expect(moved).toBeGreaterThan(0);
    const islands = islandsOf(mesh, set);
    const axis = ['left', 'right', 'middleU'].includes(side) ? 0 : 1;
    const lines = [0, 1, 2].map((i) => {
      const values: number[] = [];
      for (let k = islands.start[i]!; k < islands.start[i + 1]!; k++)
        for (let c = mesh.faceStart[islands.faces[k]!]!; c < mesh.faceStart[islands.faces[k]! + 1]!; c++) {
          values.push(set.uv[set.cornerUv[c]! * 2 + axis]!);
          // what is across the line stays where it was
          expect(set.uv[set.cornerUv[c]! * 2 + 1 - axis]).toBe(before.uv[before.cornerUv[c]! * 2 + 1 - axis]);
        }
      const [low, high] = [Math.min(...values), Math.max(...values)];
      return side === 'left' || side === 'bottom' ? low : side === 'right' || side === 'top' ? high : (low + high) / 2;
    });
    for (const line of lines) expect(line).toBeCloseTo(lines[0]!, 12);
  });

  it('needs islands to be selected, says how many moved, and leaves the others', async () => {
    const job = await laidBox();
    await expect(runOperation(job, 'alignIslands', { side: 'left' })).rejects.toMatchObject({ code: 'nothing-to-do' });
    const chosen = { ...job, selection: { part: 'p', kind: 'islands' as const, ids: Uint32Array.of(1, 2) } };
    const { sentence, job: after } = await runOperation(chosen, 'alignIslands', { side: 'bottom' });
    expect(sentence).toMatch(/^Aligned 2 islands: bottom/);
    const [a, b] = [activeSet(partOf(job)), activeSet(partOf(after))];
    const { faces, start } = islandsOf(partOf(job).mesh, a);
    for (const c of [0, 1, 2, 3]) expect(b.uv[b.cornerUv[faces[start[0]!]! * 4 + c]! * 2]).toBe(a.uv[a.cornerUv[faces[start[0]!]! * 4 + c]! * 2]);
  });
});
