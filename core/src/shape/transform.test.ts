import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { runOperation } from '../ops/registry.ts';
import { activeSet, newJob, type Job } from '../job/job.ts';
import { gripOf } from '../job/grip.ts';
import { islandsOf } from '../uv/islands.ts';
import { affineOf, moveBy, unmoved } from './transform.ts';

const apply = (m: ReturnType<typeof affineOf>, at: [number, number]) => {
  const out = Float64Array.from(at);
  moveBy(out, at, [0], m, null);
  return [...out];
};
const near = (a: readonly number[], b: readonly number[], by = 1e-9) => a.forEach((x, k) => expect(Math.abs(x - b[k]!)).toBeLessThan(by));

async function twoForms(): Promise<Job> {
  let { job } = await runOperation(newJob('j', 'j', []), 'makeForm', { kind: 'cylinder' });
  ({ job } = await runOperation(job, 'makeForm', { kind: 'cylinder' }));
  return job;
}

describe('moving, turning and sizing on the sheet', () => {
  it('a turn is a turn in px, whatever the sheet is like', () => {
    // independent: on a sheet of 2:1 a place 0.1 to the right of the pivot is 0.2 heights off; turned left by a quarter it is 0.2 heights above
    near(apply(affineOf({ ...unmoved, turn: 90 }, [0.5, 0.5], 2), [0.6, 0.5]), [0.5, 0.7]);
    near(apply(affineOf({ ...unmoved, turn: -90 }, [0.5, 0.5], 2), [0.6, 0.5]), [0.5, 0.3]);
    // 30° by the well-known cosine and sine
    near(apply(affineOf({ ...unmoved, turn: 30 }, [0, 0], 1), [1, 0]), [Math.sqrt(3) / 2, 0.5]);
  });

  it('goes back by the opposite, and four quarter turns change no bit', () => {
    fc.assert(
      fc.property(
        fc.tuple(fc.double({ min: -3, max: 3, noNaN: true }), fc.double({ min: -3, max: 3, noNaN: true })),
        fc.double({ min: -720, max: 720, noNaN: true }),
        fc.double({ min: 0.2, max: 5, noNaN: true }),
        fc.tuple(fc.double({ min: -1, max: 2, noNaN: true }), fc.double({ min: -1, max: 2, noNaN: true })),
        (move, turn, size, at) => {
          const there = affineOf({ move, turn, scale: [size, size] }, [0.25, 0.75], 1.5);
          const middle: [number, number] = [0.25 + move[0], 0.75 + move[1]];
          const back = affineOf({ move: [-move[0], -move[1]], turn: -turn, scale: [1 / size, 1 / size] }, middle, 1.5);
          near(apply(back, apply(there, at) as [number, number]), at, 1e-8);
        },
      ),
    );
    const quarter = affineOf({ ...unmoved, turn: 90 }, [0.5, 0.5], 1);
    let at: number[] = [0.125, 0.875];
    for (let k = 0; k < 4; k++) at = apply(quarter, at as [number, number]);
    expect(at).toEqual([0.125, 0.875]);
  });

  it('moves islands of two parts at once, and nothing else', async () => {
    let job = await twoForms();
    const [one, two] = job.parts;
    ({ job } = await runOperation(job, 'select', { part: two!.id, kind: 'islands', ids: [1], also: [{ part: one!.id, ids: [0] }] }));
    const before = job.parts.map((part) => activeSet(part).uv);
    const { job: moved, report } = await runOperation(job, 'transform', { move: [0.25, 0] });
    expect(report).toMatchObject({ parts: 2 });
    for (const [k, island] of [
      [0, 0],
      [1, 1],
    ] as const) {
      const { mesh } = job.parts[k]!;
      const set = activeSet(moved.parts[k]!);
      const { ofFace } = islandsOf(mesh, set);
      for (let f = 0; f < ofFace.length; f++)
        for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++)
          expect(set.uv[set.cornerUv[c]! * 2]! - before[k]![activeSet(job.parts[k]!).cornerUv[c]! * 2]!).toBeCloseTo(ofFace[f] === island ? 0.25 : 0, 12);
    }
  });

  it('each island turns about its own middle where that is asked for', async () => {
    let { job } = await runOperation(newJob('j', 'j', []), 'makeForm', { kind: 'cylinder' });
    ({ job } = await runOperation(job, 'select', { kind: 'islands', ids: [0, 1] }));
    const boxes = (of: Job) => gripOf(of, { each: true })[0]!.groups.map(({ box }) => box);
    const middles = (of: Job) => boxes(of).map(([l, b, r, t]) => [(l + r) / 2, (b + t) / 2]);
    const { job: each } = await runOperation(job, 'transform', { turn: 90, pivot: 'each' });
    middles(each).forEach((at, k) => near(at, middles(job)[k]!));
    const { job: all } = await runOperation(job, 'transform', { turn: 90 });
    expect(Math.abs(middles(all)[0]![0]! - middles(job)[0]![0]!)).toBeGreaterThan(0.01);
  });

  it('what was taken on the sheet moves there alone; from the model all places of a point do', async () => {
    let { job } = await runOperation(newJob('j', 'j', []), 'makeForm', { kind: 'cylinder' });
    const part = job.parts[0]!;
    const point = part.mesh.corners[0]!;
    const places = new Set([...part.mesh.corners.keys()].filter((c) => part.mesh.corners[c] === point).map((c) => activeSet(part).cornerUv[c]!));
    expect(places.size).toBeGreaterThan(1);
    ({ job } = await runOperation(job, 'select', { kind: 'points', ids: [point], corners: [0] }));
    expect((await runOperation(job, 'transform', { move: [0.1, 0] })).report).toMatchObject({ points: 1 });
    ({ job } = await runOperation(job, 'select', { kind: 'points', ids: [point] }));
    expect((await runOperation(job, 'transform', { move: [0.1, 0] })).report).toMatchObject({ points: places.size });
  });

  it('points beside go along by their distance, none beyond the radius', async () => {
    let { job } = await runOperation(newJob('j', 'j', []), 'makeForm', { kind: 'plane', segments: 10, rows: 10 });
    const part = job.parts[0]!;
    const set = activeSet(part);
    const corner = [...set.cornerUv.keys()].find((c) => set.uv[set.cornerUv[c]! * 2] === 0.5 && set.uv[set.cornerUv[c]! * 2 + 1] === 0.5)!;
    ({ job } = await runOperation(job, 'select', { kind: 'points', ids: [part.mesh.corners[corner]!] }));
    for (const way of ['sheet', 'island'] as const) {
      const { job: moved } = await runOperation(job, 'transform', { move: [0.01, 0], radius: 0.25, way });
      const by = (u: number, v: number) => {
        const p = [...set.cornerUv].find((q) => Math.abs(set.uv[q * 2]! - u) < 1e-9 && Math.abs(set.uv[q * 2 + 1]! - v) < 1e-9)!;
        return activeSet(moved.parts[0]!).uv[p * 2]! - set.uv[p * 2]!;
      };
      expect(by(0.5, 0.5)).toBeCloseTo(0.01, 12);
      // (1 − (0.1 / 0.25)²)² = 0.7056, by hand
      expect(by(0.6, 0.5)).toBeCloseTo(0.007056, 9);
      expect(by(0.8, 0.5)).toBe(0);
    }
  });
});
