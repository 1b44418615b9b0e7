import { describe, expect, it } from 'vitest';
import { newJob, type Job } from '../job/job.ts';
import { meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import { heightField, sphere } from '../mesh/starterForms.ts';
import { proposeSeams } from '../propose/proposeSeams.ts';
import { runOperation } from '../ops/registry.ts';
import { edgeLengths } from '../seams/crease.ts';
import { topologyOf } from '../mesh/topology.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { detailFaces } from './meshDetail.ts';

/** A ball whose rows crowd at one side: there its faces are far smaller. */
function ballWithDetail(): { mesh: Mesh; isFine(f: number): boolean } {
  const [rings, around] = [48, 48];
  // half of all rings within a tenth of the way
  const at = (k: number) => (k < rings / 2 ? (k / (rings / 2)) * 0.2 : 0.2 + ((k - rings / 2) / (rings / 2)) * 0.8);
  const points: number[] = [0, 1, 0];
  for (let r = 1; r < rings; r++)
    for (let a = 0; a < around; a++) {
      const [polar, angle] = [at(r) * Math.PI, (a / around) * 2 * Math.PI];
      points.push(Math.sin(polar) * Math.cos(angle), Math.cos(polar), Math.sin(polar) * Math.sin(angle));
    }
  points.push(0, -1, 0);
  const last = points.length / 3 - 1;
  const id = (r: number, a: number) => (r === 0 ? 0 : r === rings ? last : 1 + (r - 1) * around + (a % around));
  const faces: number[][] = [];
  for (let r = 0; r < rings; r++)
    for (let a = 0; a < around; a++)
      faces.push(
        r === 0 ? [0, id(1, a + 1), id(1, a)] : r === rings - 1 ? [id(r, a), id(r, a + 1), last] : [id(r, a), id(r, a + 1), id(r + 1, a + 1), id(r + 1, a)],
      );
  const mesh = meshFromFaces(points, faces);
  return { mesh, isFine: (f) => mesh.corners.slice(mesh.faceStart[f], mesh.faceStart[f + 1]).every((p) => mesh.points[p * 3 + 1]! > Math.cos(0.3 * Math.PI)) };
}

describe('where a mesh is modelled finer', () => {
  it('is the crowded side of a ball, and no more than a sixth of the surface; even meshes have no such place', () => {
    const { mesh, isFine } = ballWithDetail();
    const found = detailFaces(mesh);
    expect(found.length).toBeGreaterThan(400);
    // the two rows round the other pole are small, too
    expect([...found].filter((f) => !isFine(f)).length).toBeLessThanOrEqual(2 * 48);
    expect(found).toEqual(Uint32Array.from(found).sort());
    for (const even of [heightField(30, 30, (u, v) => [u, 0, v]), sphere(1, 40, 20)])
      expect(detailFaces(even).length).toBeLessThan((even.faceStart.length - 1) / 8);
  });

  it('a row of narrow faces is a bevel and no detail', () => {
    // one narrow row in the middle of wide ones
    const mesh = heightField(40, 41, (u, v) => {
      const row = Math.round(v * 41);
      return [u, 0, (row <= 20 ? row : row - 0.98) / 40];
    });
    expect(detailFaces(mesh)).toHaveLength(0);
    expect(detailFaces(meshFromFaces([0, 0, 0, 1, 0, 0, 0, 1, 0], [[0, 1, 2]]))).toHaveLength(0);
  });

  it('marked as looked at, proposed seams keep off it where there is another way', async () => {
    const { mesh } = ballWithDetail();
    const lookedAt = new Uint8Array(mesh.faceStart.length - 1);
    for (const f of detailFaces(mesh)) lookedAt[f] = 1;
    const { edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
    const length = edgeLengths(mesh);
    const across = async (marks: Uint8Array | null) => {
      const { cuts } = await proposeSeams(mesh, emptyUvSet(mesh), { by: 'stretch', limit: 4.3, lookedAt: marks, towards: [0, -1, 0] });
      const on = [...cuts].filter((e) => [...edgeCorners.subarray(edgeStart[e], edgeStart[e + 1])].some((c) => lookedAt[cornerFace[c]!]));
      return on.reduce((sum, e) => sum + length[e]!, 0);
    };
    const [before, after] = [await across(null), await across(lookedAt)];
    // looked at from below, seams would run over the top
    expect(before).toBeGreaterThan(0.3);
    expect(after).toBeLessThan(before / 2);
  });

  it('is selected by a rule; without any it is said', async () => {
    const run = (job: Job, params: object) => runOperation(job, 'selectBy', params as Record<string, unknown>);
    const { mesh } = ballWithDetail();
    const start = (await runOperation(newJob('j', 'j', []), 'makeForm', { kind: 'box' })).job;
    await expect(run(start, { way: 'detail' })).rejects.toThrow('No place of this mesh');
    const fine: Job = { ...start, parts: start.parts.map((part) => ({ ...part, mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0 })) };
    const { job } = await run(fine, { way: 'detail', kind: 'faces' });
    expect(job.selection.ids).toEqual(detailFaces(mesh));
  });
});
