import { describe, expect, it } from 'vitest';
import { newJob, partOf, type Job } from '../job/job.ts';
import { meshFromFaces } from '../mesh/mesh.ts';
import { runOperation } from '../ops/registry.ts';
import { uvSetFrom } from '../uv/uvSet.ts';
import { pictureHeadings } from './pictureHeading.ts';

/** A wall of one unit that looks to the front, turned back by so many degrees; its picture turned by others on the sheet. */
function wall(tilt: number, turn: number, mirror = false) {
  const [c, s] = [Math.cos((tilt * Math.PI) / 180), Math.sin((tilt * Math.PI) / 180)];
  const mesh = meshFromFaces([0, 0, 0, 1, 0, 0, 1, c, -s, 0, c, -s], [[0, 1, 2, 3]]);
  const [ct, st] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
  const uv = [
    [0, 0],
    [1, 0],
    [1, 1],
    [0, 1],
  ].flatMap(([u, v]) => {
    const [x, y] = [(mirror ? -1 : 1) * (u! - 0.5), v! - 0.5];
    return [0.5 + x * ct - y * st, 0.5 + x * st + y * ct];
  });
  return { mesh, set: uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), Float64Array.from(uv)) };
}
const lean = (tilt: number, turn: number, mirror = false) => {
  const { mesh, set } = wall(tilt, turn, mirror);
  return pictureHeadings(mesh, set, 1024, 1024);
};

describe('how a picture stands on the model', () => {
  it('upright where the layout is, leaning the other way by as much as the island is turned on the sheet', () => {
    expect(lean(0, 0)[0]!.lean).toBeCloseTo(0, 9);
    // an island turned counterclockwise lies under the picture, whose up then leans clockwise on it
    expect(lean(0, 30)[0]!.lean).toBeCloseTo(-30, 9);
    expect(lean(0, -90)[0]!.lean).toBeCloseTo(90, 9);
    expect(Math.abs(lean(0, 180)[0]!.lean)).toBeCloseTo(180, 9);
    // mirrored, up stays up
    expect(lean(0, 0, true)[0]!.lean).toBeCloseTo(0, 9);
    expect(lean(0, 0)[0]!.spread).toBeCloseTo(0, 9);
  });

  it('on a slope as on a wall; a floor has no up', () => {
    expect(lean(60, 30)[0]!.lean).toBeCloseTo(-30, 6);
    expect(lean(90, 30)).toEqual([]);
  });

  it('is told of a part by its picture’s own placement; islands that lean are selected', async () => {
    const run = (job: Job, name: string, params: object) => runOperation(job, name, params as Record<string, unknown>);
    let { job } = await run(newJob('j', 'j', []), 'makeForm', { kind: 'box' });
    ({ job } = await run(job, 'place', { kind: 'box' }));
    const plain = (await run(job, 'pictureHeading', {})).report as { islands: number; leaning: { lean: number }[] };
    ({ job } = await run(job, 'select', { kind: 'islands', ids: [0] }));
    ({ job } = await run(job, 'transform', { turn: 90 }));
    const { job: chosen, report } = await run(job, 'pictureHeading', { select: true });
    const { leaning, share } = report as { leaning: { island: number; lean: number }[]; share: number };
    expect(leaning.length).toBeGreaterThanOrEqual(plain.leaning.length);
    expect(share).toBeGreaterThan(0);
    expect(chosen.selection).toMatchObject({ part: partOf(job).id, kind: 'islands' });
    expect([...chosen.selection.ids]).toEqual(leaning.map(({ island }) => island).sort((a, b) => a - b));
  });
});
