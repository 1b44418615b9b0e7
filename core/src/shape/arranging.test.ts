import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EigenvalueDecomposition, Matrix } from 'ml-matrix';
import { gripOf, wholeIslands } from '../job/grip.ts';
import { activeSet, newJob, partOf, type Job } from '../job/job.ts';
import { box as boxMesh, plane } from '../mesh/starterForms.ts';
import { topologyOf } from '../mesh/topology.ts';
import { runOperation } from '../ops/registry.ts';
import type { Box } from '../uv/box.ts';
import { emptyUvSet, uvSetFrom } from '../uv/uvSet.ts';
import { alignMoves, alignSides, distributeMoves, distributeWays } from './alignBoxes.ts';
import { turnOfIsland } from './islandTurn.ts';
import { lineUp } from './lineUp.ts';

const anyBox = fc
  .tuple(...[0, 1, 2, 3].map(() => fc.double({ min: -1, max: 2, noNaN: true })))
  .map(([a, b, c, d]): Box => [Math.min(a!, c!), Math.min(b!, d!), Math.max(a!, c!) + 0.01, Math.max(b!, d!) + 0.01]);
const moved = (boxes: readonly Box[], by: readonly [number, number][]) =>
  boxes.map(([l, b, r, t], k): Box => [l + by[k]![0], b + by[k]![1], r + by[k]![0], t + by[k]![1]]);

describe('aligning and distributing boxes', () => {
  it('aligned twice is aligned once; all end at one line, the outermost of theirs', () => {
    fc.assert(
      fc.property(fc.array(anyBox, { minLength: 2, maxLength: 7 }), fc.constantFrom(...alignSides), (boxes, side) => {
        const once = moved(boxes, alignMoves(boxes, side));
        for (const [du, dv] of alignMoves(once, side)) expect(Math.hypot(du, dv)).toBeLessThan(1e-12);
        if (side === 'left') for (const [l] of once) expect(l).toBeCloseTo(Math.min(...boxes.map(([x]) => x)), 9);
        if (side === 'top') for (const [, , , t] of once) expect(t).toBeCloseTo(Math.max(...boxes.map(([, , , y]) => y)), 9);
      }),
    );
  });

  it('gaps or middles are even, and the two outermost stay', () => {
    fc.assert(
      fc.property(fc.array(anyBox, { minLength: 3, maxLength: 7 }), fc.constantFrom(...distributeWays), (boxes, way) => {
        const by = distributeMoves(boxes, way);
        const axis = way.endsWith('U') ? 0 : 1;
        const after = moved(boxes, by);
        const middle = (b: Box) => (b[axis] + b[axis + 2]!) / 2;
        const order = [...boxes.keys()].sort((a, b) => middle(boxes[a]!) - middle(boxes[b]!) || a - b);
        expect(by[order[0]!]).toEqual([0, 0]);
        expect(by[order.at(-1)!]).toEqual([0, 0]);
        const steps = order
          .slice(1)
          .map((k, n) => (way.startsWith('gaps') ? after[k]![axis] - after[order[n]!]![axis + 2]! : middle(after[k]!) - middle(after[order[n]!]!)));
        for (const step of steps) expect(step).toBeCloseTo(steps[0]!, 9);
      }),
    );
  });
});

describe('turning islands', () => {
  const square = (width: number, height: number, turn: number) =>
    Float64Array.from(
      [
        [0, 0],
        [width, 0],
        [width, height],
        [0, height],
      ].flatMap(([x, y]) => [x! * Math.cos(turn) - y! * Math.sin(turn), x! * Math.sin(turn) + y! * Math.cos(turn)]),
    );
  const quad = { positions: Float64Array.from([0, 0, 0, 3, 0, 0, 3, 1, 0, 0, 1, 0]), triangles: Uint32Array.of(0, 1, 2, 0, 2, 3), vertices: 4 };

  it('the least box and the longest border of an askew rectangle are level or upright again', () => {
    for (const turn of [0.2, -0.3, 1.2, 2.9])
      for (const to of ['leastBox', 'longestEdge'] as const) {
        const angle = turnOfIsland(quad, square(3, 1, turn), to) + turn;
        expect(Math.abs(Math.sin(2 * angle))).toBeLessThan(1e-9);
      }
  });

  it('the model’s up runs up the sheet', () => {
    // its positions stand in the xy plane, y up: laid turned by any angle, that angle is taken back
    for (const turn of [0.4, -2, 3]) expect(Math.cos(turnOfIsland(quad, square(3, 1, turn), 'up') + turn)).toBeCloseTo(1, 9);
  });
});

describe('lines of edges', () => {
  const line = { points: [0, 1, 2, 3], lengths: [1, 2, 1] };
  const at = (p: number): [number, number] =>
    [
      [0, 0],
      [1, 0.4],
      [2, 0.2],
      [3, 0.6],
    ][p] as [number, number];

  it('level keeps u, upright keeps v', () => {
    const level = lineUp(line, at, 'level');
    expect(level.map(([u]) => u)).toEqual([0, 1, 2, 3]);
    expect(new Set(level.map(([, v]) => v)).size).toBe(1);
    expect(new Set(lineUp(line, at, 'upright').map(([u]) => u)).size).toBe(1);
  });

  it('straight is the line of least squares: the one that ml-matrix finds', () => {
    const places = lineUp(line, at, 'straight');
    const weight = [0.5, 1.5, 1.5, 0.5];
    const mean = [0, 1].map((d) => weight.reduce((sum, w, k) => sum + w * at(k)[d]!, 0) / 4);
    const spread = new Matrix(2, 2);
    weight.forEach((w, k) =>
      [0, 1].forEach((i) => [0, 1].forEach((j) => spread.set(i, j, spread.get(i, j) + w * (at(k)[i]! - mean[i]!) * (at(k)[j]! - mean[j]!)))),
    );
    const { realEigenvalues, eigenvectorMatrix } = new EigenvalueDecomposition(spread);
    const axis = eigenvectorMatrix.getColumn(realEigenvalues.indexOf(Math.max(...realEigenvalues)));
    for (const [u, v] of places) expect(Math.abs((u - mean[0]!) * axis[1]! - (v - mean[1]!) * axis[0]!)).toBeLessThan(1e-12);
  });

  it('spaced evenly: along the line by the lengths on the model, the ends where they were', () => {
    const straight = (p: number): [number, number] => [[0, 1.5, 2, 4][p]!, 0];
    expect(lineUp(line, straight, 'evenly').map(([u]) => u)).toEqual([0, 1, 3, 4]);
  });
});

describe('over a job', () => {
  async function boxes(): Promise<Job> {
    const part = (id: string) => {
      const mesh = boxMesh();
      return { id, name: id, mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' as const } };
    };
    let job = newJob('j', 'j', [part('a'), part('b')]);
    ({ job } = await runOperation(job, 'firstLayout', { part: 'a', by: 'crease' }));
    ({ job } = await runOperation(job, 'firstLayout', { part: 'b', by: 'crease' }));
    return (await runOperation(job, 'select', { part: 'a', kind: 'islands', ids: [0, 1, 2], also: [{ part: 'b', ids: [0, 4] }] })).job;
  }

  it('islands of two parts end at one line; the others stay; nothing selected is said', async () => {
    const job = await boxes();
    const { job: next, sentence } = await runOperation(job, 'alignIslands', { side: 'bottom' });
    expect(sentence).toMatch(/^Aligned 5 islands: bottom/);
    const bottoms = wholeIslands(next).flatMap(({ groups }) => groups.map(({ box }) => box[1]));
    for (const bottom of bottoms) expect(bottom).toBeCloseTo(bottoms[0]!, 12);
    const others = (of: Job) =>
      gripOf({ ...of, selection: { part: 'b', kind: 'islands', ids: Uint32Array.of(1, 2, 3, 5) } }, { each: true })[0]!.groups.map(({ box }) => box);
    expect(others(next)).toEqual(others(job));
    await expect(
      runOperation({ ...job, selection: { ...job.selection, ids: new Uint32Array(0), also: [] } }, 'alignIslands', { side: 'left' }),
    ).rejects.toMatchObject({
      code: 'nothing-to-do',
    });
    // to one of them, which stays
    const anchored = await runOperation(job, 'alignIslands', { side: 'top', one: { part: 'b', island: 0 } });
    const boxesOf = (of: Job) => wholeIslands(of).flatMap(({ part, groups }) => groups.map(({ box }) => ({ part, box })));
    const stays = boxesOf(job).find(({ part }) => part === 'b')!.box;
    expect(boxesOf(anchored.job).find(({ part }) => part === 'b')!.box).toEqual(stays);
    for (const { box } of boxesOf(anchored.job)) expect(box[3]).toBeCloseTo(stays[3], 12);
    await expect(runOperation(job, 'alignIslands', { side: 'top', one: { part: 'b', island: 99 } })).rejects.toThrow(/is not selected/);
    const { report } = await runOperation(next, 'alignIslands', { side: 'bottom', to: 'sheet' });
    expect(report).toMatchObject({ islands: 5 });
  });

  it('edges made level and laid round again: level to the last bit, pins as before', async () => {
    let job = await boxes();
    ({ job } = await runOperation(job, 'select', { part: 'a', kind: 'islands', ids: [0] }));
    ({ job } = await runOperation(job, 'transform', { turn: 20 }));
    const part = partOf(job, 'a');
    const { cornerEdge } = topologyOf(part.mesh);
    ({ job } = await runOperation(job, 'select', { part: 'a', kind: 'edges', ids: [cornerEdge[0]!], corners: [0] }));
    for (const relax of [false, true]) {
      const { job: next, report } = await runOperation(job, 'lineUp', { way: 'level', relax });
      expect(report).toEqual({ lines: 1, points: 2 });
      const set = activeSet(partOf(next, 'a'));
      expect(set.uv[set.cornerUv[0]! * 2 + 1]).toBeCloseTo(set.uv[set.cornerUv[1]! * 2 + 1]!, 12);
      expect(set.pins.every((x) => x === 0)).toBe(true);
    }
  });
});

describe('made like another island', () => {
  /** Two rectangles of 2 × 1 units, the second three times as small on the sheet and turned by 30°. */
  async function two(): Promise<Job> {
    const mesh = plane(2, 1);
    const uv = (size: number, turn: number, u: number, v: number) =>
      Float64Array.from({ length: 8 }, (_, k) => {
        const p = Math.floor(k / 2) * 3;
        const [x, y] = [mesh.points[p]! * size, mesh.points[p + 1]! * size];
        const angle = (turn * Math.PI) / 180;
        return k % 2 === 0 ? u + Math.cos(angle) * x - Math.sin(angle) * y : v + Math.sin(angle) * x + Math.cos(angle) * y;
      });
    const part = (id: string, places: Float64Array) => ({
      id,
      name: id,
      mesh,
      uvSets: [uvSetFrom(mesh, 'a', mesh.corners.slice(), places)],
      activeUv: 0,
      imageId: null,
      origin: { kind: 'made' as const },
    });
    const job = newJob('j', 'two', [part('a', uv(0.15, 0, 0.3, 0.3)), part('b', uv(0.05, 30, 0.7, 0.7))]);
    return (await runOperation(job, 'select', { part: 'b', kind: 'islands', ids: [0] })).job;
  }
  const match = async (job: Job, what: string) => (await runOperation(job, 'matchIslands', { what, to: { part: 'a', island: 0 } })).job;
  const sides = (job: Job, id: string) => {
    const { uv, cornerUv } = activeSet(partOf(job, id));
    return [0, 1].map((k) => {
      const [p, q] = [cornerUv[k]! * 2, cornerUv[k + 1]! * 2];
      return { long: Math.hypot(uv[q]! - uv[p]!, uv[q + 1]! - uv[p + 1]!), angle: (Math.atan2(uv[q + 1]! - uv[p + 1]!, uv[q]! - uv[p]!) * 180) / Math.PI };
    });
  };

  it('as dense: sides as long as the other’s; the other stays, the middle too', async () => {
    const job = await two();
    const next = await match(job, 'density');
    expect(sides(next, 'b').map(({ long }) => long.toFixed(9))).toEqual(sides(job, 'a').map(({ long }) => long.toFixed(9)));
    expect(sides(next, 'b')[0]!.angle).toBeCloseTo(sides(job, 'b')[0]!.angle, 9);
    expect(activeSet(partOf(next, 'a'))).toBe(activeSet(partOf(job, 'a')));
    const middle = (one: Job) => gripOf(one, { each: true })[0]!.groups[0]!.box;
    expect((middle(next)[0] + middle(next)[2]) / 2).toBeCloseTo((middle(job)[0] + middle(job)[2]) / 2, 12);
  });

  it('turned alike and as large', async () => {
    const turned = await match(await two(), 'heading');
    expect(sides(turned, 'b')[0]!.angle).toBeCloseTo(sides(turned, 'a')[0]!.angle, 9);
    const sized = await match(turned, 'size');
    expect(sides(sized, 'b')[0]!.long).toBeCloseTo(sides(sized, 'a')[0]!.long, 9);
  });

  it('says what is missing', async () => {
    const job = await two();
    await expect(runOperation(job, 'matchIslands', { what: 'size', to: { part: 'b', island: 0 } })).rejects.toThrow('No other island is selected.');
    await expect(runOperation(job, 'matchIslands', { what: 'size', to: { part: 'a', island: 7 } })).rejects.toThrow('there no more');
  });
});
