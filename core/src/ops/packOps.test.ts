import { describe, expect, it } from 'vitest';
import { quietContext } from '../context.ts';
import { checkLayout } from '../measure/check.ts';
import { joinParts } from '../job/joinParts.ts';
import { activeSet, newJob, type Job, type Part } from '../job/job.ts';
import { faceMiddles } from '../mesh/faceMiddles.ts';
import { meshFromFaces } from '../mesh/mesh.ts';
import { box } from '../mesh/starterForms.ts';
import { seededRandom } from '../numeric/random.ts';
import { leastDistance } from '../pack/clearance.ts';
import { islandDensities } from '../pack/density.ts';
import { outlinesOf } from '../pack/outline.ts';
import { searchesOf } from '../pack/packAside.ts';
import { packBest } from '../pack/packBest.ts';
import { islandsOf } from '../uv/islands.ts';
import { tileAt } from '../uv/tiles.ts';
import { trayIslands } from '../uv/tray.ts';
import { uvSetFrom } from '../uv/uvSet.ts';
import { runOperation } from './registry.ts';

/** A part of rectangles in the plane, laid on the sheet as they are; u and v are x and y. */
function rectangles(id: string, list: [number, number, number, number][], material = ''): Part {
  const points = list.flatMap(([x, y, w, h]) => [x, y, 0, x + w, y, 0, x + w, y + h, 0, x, y + h, 0]);
  const plain = meshFromFaces(
    points,
    list.map((_, k) => [0, 1, 2, 3].map((c) => k * 4 + c)),
  );
  const mesh = material ? { ...plain, materials: [material], faceMaterial: new Int32Array(list.length) } : plain;
  const uv = Float64Array.from({ length: list.length * 8 }, (_, k) => points[Math.floor(k / 2) * 3 + (k % 2)]!);
  return { id, name: id, mesh, uvSets: [uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), uv)], activeUv: 0, imageId: null, origin: { kind: 'made' } };
}

const four: [number, number, number, number][] = [
  [0, 0, 0.2, 0.1],
  [0.3, 0, 0.1, 0.3],
  [0.5, 0, 0.15, 0.15],
  [0.7, 0, 0.05, 0.2],
];
const boxes = (job: Job, part = 0) => {
  const one = job.parts[part]!;
  return outlinesOf(one.mesh, activeSet(one), 1, 1).map(([loop]) => {
    const xs = loop!.filter((_, k) => k % 2 === 0);
    const ys = loop!.filter((_, k) => k % 2 === 1);
    return { left: Math.min(...xs), right: Math.max(...xs), low: Math.min(...ys), high: Math.max(...ys) };
  });
};
const judge = (job: Job, size = 512) => {
  const { mesh, set } = joinParts(job.parts);
  return checkLayout(mesh, set, size, size, quietContext, job.sheets?.[0]?.tiles ?? 1).report;
};
const pack = async (job: Job, params: object = {}) => runOperation(job, 'pack', { size: '512', margin: 4, effort: 0, ...params });

describe('packing a job', () => {
  it('the selected alone go between the others, which stay where they are, at the size they have', async () => {
    let job = newJob('j', 'j', [rectangles('a', [...four, [0.1, 0.02, 0.1, 0.1]])]);
    job = (await runOperation(job, 'select', { kind: 'islands', ids: [4] })).job;
    const before = boxes(job);
    const { job: next, report } = await pack(job, { into: 'free', turn: 'none' });
    const after = boxes(next);
    expect((report as { packed: number }).packed).toBe(1);
    expect(after.slice(0, 4)).toEqual(before.slice(0, 4));
    expect(after[4]!.right - after[4]!.left).toBeCloseTo(0.1, 9);
    expect(judge(next).overlapArea).toBeLessThan(1e-9);
    await expect(pack((await runOperation(job, 'select', { kind: 'islands', ids: [] })).job, { into: 'free' })).rejects.toThrow('No island is selected.');
  });

  it('pinned islands and those marked as done stay where that is wanted', async () => {
    let job = newJob('j', 'j', [rectangles('a', four)]);
    job = (await runOperation(job, 'select', { kind: 'islands', ids: [2] })).job;
    job = (await runOperation(job, 'markDone', { faces: [2] })).job;
    const held = boxes(job)[2];
    expect(boxes((await pack(job, { keepPinned: true })).job)[2]).toEqual(held);
    expect(boxes((await pack(job, { keepPinned: false })).job)[2]).not.toEqual(held);
    const { report } = await runOperation(job, 'packPlan', { keepPinned: true });
    expect(report).toMatchObject({ moved: 3, stays: 1, locked: 0 });
  });

  it('an island that was turned by hand keeps its heading, others are laid upright; unwrapping frees it', async () => {
    let job = newJob('j', 'j', [rectangles('a', four)]);
    job = (await runOperation(job, 'select', { kind: 'islands', ids: [0] })).job;
    job = (await runOperation(job, 'transform', { turn: 30 })).job;
    expect((await runOperation(job, 'packPlan', {})).report).toMatchObject({ kept: 1, turned: 0 });
    const packed = (await pack(job)).job;
    const { uv } = activeSet(packed.parts[0]!);
    // by quarters it may be told apart from what it was not
    expect(Math.atan2(uv[3]! - uv[1]!, uv[2]! - uv[0]!)).toBeCloseTo(Math.PI / 6, 9);
    const upright = (await pack(job, { keepHeadings: false })).job;
    const other = activeSet(upright.parts[0]!).uv;
    expect(Math.abs(Math.sin(2 * Math.atan2(other[3]! - other[1]!, other[2]! - other[0]!)))).toBeLessThan(1e-9);
    const freed = (await runOperation(job, 'unwrap', {})).job;
    expect((await runOperation(freed, 'packPlan', {})).report).toMatchObject({ kept: 0 });
  });

  it('names the island that sets the scale, and the coverage that nothing can be better than', async () => {
    const strip: [number, number, number, number] = [0, 0, 0.9, 0.02];
    const job = newJob('j', 'j', [
      rectangles('a', [...Array.from({ length: 8 }, (_, k): [number, number, number, number] => [k / 9, 0.5, 0.04, 0.04]), strip]),
    ]);
    // 504 of 512 px for a length of 0.9
    const area = (8 * 0.04 ** 2 + 0.9 * 0.02) * (504 / 512 / 0.9) ** 2;
    const { longest } = (await runOperation(job, 'packPlan', { size: '512', margin: 4, turn: 'quarter' })).report as {
      longest: { island: number; coverage: number };
    };
    expect(longest.island).toBe(8);
    expect(longest.coverage).toBeCloseTo(area, 9);
    const packed = (await pack(job, { turn: 'quarter' })).report as { coverage: number };
    expect(packed.coverage).toBeLessThanOrEqual(area + 1e-9);
    expect(packed.coverage).toBeGreaterThan(area * 0.97);
    expect((await runOperation(newJob('j', 'j', [rectangles('a', four)]), 'packPlan', { size: '512' })).report).toMatchObject({ longest: null });
  });

  it('what finds no room at the size it has is told, and waits in the tray', async () => {
    const job = newJob('j', 'j', [
      rectangles('a', [
        [0, 0, 0.6, 0.6],
        [0, 0, 0.6, 0.6],
        [0, 0, 0.3, 0.3],
      ]),
    ]);
    const { job: next, report, sentence } = await pack(job, { keepScale: true });
    expect(report).toMatchObject({ packed: 2, waiting: 1 });
    expect(sentence).toContain('1 found no room and waits in the tray');
    expect([...trayIslands(next.parts[0]!.mesh, activeSet(next.parts[0]!))].filter((x) => x).length).toBe(1);
    expect(judge(next).overlapArea).toBeLessThan(1e-9);
  });

  it('one whose own slot is just wide enough stays in it, without effort too', async () => {
    // 4 px of 512 between all of them, and to the border
    const [edge, gap] = [4 / 512, 4 / 512];
    const third = (1 - 2 * edge - 2 * gap) / 3;
    const at = (k: number) => edge + k * (third + gap);
    const nine = Array.from({ length: 9 }, (_, k): [number, number, number, number] => [at(k % 3), at(Math.floor(k / 3)), third, third]);
    let job = newJob('j', 'j', [rectangles('a', nine)]);
    job = (await runOperation(job, 'select', { kind: 'islands', ids: [4] })).job;
    const { job: next, report } = await pack(job, { into: 'free', turn: 'none' });
    expect(report).toMatchObject({ packed: 1, waiting: 0 });
    expect((report as { coverage: number }).coverage).toBeCloseTo(third * third, 9);
    expect(boxes(next)).toEqual(boxes(job));
    // where another lies in that slot there is no room
    const crossed = newJob('j', 'j', [rectangles('a', [...nine, [0.4, 0.4, 0.1, 0.1]])]);
    const other = await pack((await runOperation(crossed, 'select', { kind: 'islands', ids: [4] })).job, { into: 'free', turn: 'none' });
    expect(other.report).toMatchObject({ packed: 0, waiting: 1 });
  });

  it('what the first layout at a kept size leaves over, a search finds room for', async () => {
    // a square cut into nine rectangles, each a little smaller than its piece
    const random = seededRandom(2);
    const pieces: [number, number][] = [[1, 1]];
    while (pieces.length < 9) {
      pieces.sort((a, b) => a[0] * a[1] - b[0] * b[1]);
      const [w, h] = pieces.pop()!;
      const share = 0.3 + 0.4 * random();
      if (w > h) pieces.push([w * share, h], [w * (1 - share), h]);
      else pieces.push([w, h * share], [w, h * (1 - share)]);
    }
    const shrunk = pieces.map(([w, h]): [number, number, number, number] => [0, 0, w * 0.95, h * 0.95]);
    const job = newJob('j', 'j', [rectangles('a', shrunk)]);
    const asked = { keepScale: true, margin: 0, turn: 'none' };
    expect((await pack(job, { ...asked, effort: 0 })).report).toMatchObject({ packed: 7, waiting: 2 });
    const { job: next, report } = await pack(job, { ...asked, effort: 1 });
    expect(report).toMatchObject({ packed: 9, waiting: 0, scale: 1 });
    expect(judge(next).overlapArea).toBeLessThan(1e-9);
    const sizes = (one: Job) => boxes(one).map(({ left, right, low, high }) => [(right - left).toFixed(6), (high - low).toFixed(6)]);
    expect(sizes(next)).toEqual(sizes(job));
    // as many as fill the sheet and a half are not searched for long
    const far = newJob('j', 'j', [rectangles('a', [...shrunk, ...shrunk.slice(0, 4)])]);
    const { report: some } = await pack(far, { ...asked, effort: 5 });
    expect((some as { waiting: number }).waiting).toBeGreaterThan(0);
  });

  it('keeps the islands of a part together as one block, with the gap within it too', async () => {
    const job = newJob('j', 'j', [
      rectangles('a', four),
      rectangles(
        'b',
        four.map(([x, y, w, h]) => [x, y + 0.4, w, h]),
      ),
    ]);
    const { job: next } = await pack(job, { group: 'part', evenDensity: true });
    const hull = (part: number) => {
      const own = boxes(next, part);
      return {
        left: Math.min(...own.map(({ left }) => left)),
        right: Math.max(...own.map(({ right }) => right)),
        low: Math.min(...own.map(({ low }) => low)),
        high: Math.max(...own.map(({ high }) => high)),
      };
    };
    const [a, b] = [hull(0), hull(1)];
    expect(a.right < b.left || b.right < a.left || a.high < b.low || b.high < a.low).toBe(true);
    const report = judge(next);
    expect(report.overlapArea).toBeLessThan(1e-9);
    expect(report.smallestGapPx!).toBeGreaterThanOrEqual(4 - 1e-6);
  });

  it('fills two tiles by area, each part as a whole where asked, all at one scale', async () => {
    const base = newJob('j', 'j', [
      rectangles('a', four),
      rectangles(
        'b',
        four.map(([x, y, w, h]) => [x, y + 0.4, w, h]),
      ),
    ]);
    const job = (await runOperation(base, 'sheets', { do: 'change', sheet: 'sheet-1', tiles: 2 })).job;
    const { job: next } = await pack(job, { group: 'part', margin: 4 });
    const tiles = [0, 1].map((part) => new Set(boxes(next, part).map(({ left, right, low, high }) => tileAt((left + right) / 2, (low + high) / 2, 2))));
    expect(tiles.map((own) => own.size)).toEqual([1, 1]);
    expect([...tiles[0]!][0]).not.toBe([...tiles[1]!][0]);
    const densities = next.parts.flatMap((part) => islandDensities(part.mesh, activeSet(part), 512, 512).map(({ density }) => density));
    expect(Math.max(...densities) / Math.min(...densities)).toBeCloseTo(1, 9);
    const report = judge(next);
    expect(report.overlapArea).toBeLessThan(1e-9);
    expect(report.outsideArea).toBeLessThan(1e-9);
    const single = (await pack(job, { margin: 4 })).job;
    expect(new Set(single.parts.flatMap((_, k) => boxes(single, k)).map(({ left, low }) => tileAt(left + 1e-6, low + 1e-6, 2))).size).toBe(2);
    // at the size they have all fit on one
    const few = (await pack(job, { keepScale: true })).job;
    expect(new Set(few.parts.flatMap((_, k) => boxes(few, k)).map(({ left, low }) => tileAt(left + 1e-6, low + 1e-6, 2)))).toEqual(new Set([0]));
  });

  it('what a search finds on several tiles is what they get: larger than without, the gap kept, in a bay, too', async () => {
    // a frame with room for others in it, and rectangles; their sheet is of two tiles
    const frame = (part: Part): Part => {
      const ring = [0, 0, 0.5, 0, 0.5, 0.5, 0, 0.5, 0.04, 0.04, 0.46, 0.04, 0.46, 0.46, 0.04, 0.46];
      const mesh = meshFromFaces(
        ring.flatMap((_, k) => (k % 2 === 0 ? [ring[k]!, ring[k + 1]!, 0] : [])),
        [0, 1, 2, 3].map((k) => [k, (k + 1) % 4, 4 + ((k + 1) % 4), 4 + k]),
      );
      return { ...part, id: 'frame', name: 'frame', mesh, uvSets: [uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), Float64Array.from(ring))] };
    };
    const random = seededRandom(5);
    const some = rectangles(
      'a',
      Array.from({ length: 15 }, () => [0, 0, 0.12 + 0.18 * random(), 0.08 + 0.1 * random()]),
    );
    const base = newJob('j', 'j', [some, frame(some)]);
    const job = (await runOperation(base, 'sheets', { do: 'change', sheet: 'sheet-1', tiles: 2 })).job;
    const found: number[] = [];
    for (const effort of [0, 1]) {
      const { job: next, report } = await pack(job, { effort, margin: 4, turn: 'quarter' });
      found.push((report as { scale: number }).scale);
      const { mesh, set } = joinParts(next.parts);
      expect(leastDistance(outlinesOf(mesh, set, 512, 512), 8)).toBeGreaterThan(4 - 1e-4);
      expect(judge(next)).toMatchObject({ outsideArea: 0 });
      const densities = next.parts.flatMap((part) => islandDensities(part.mesh, activeSet(part), 512, 512).map(({ density }) => density));
      expect(Math.max(...densities) / Math.min(...densities)).toBeCloseTo(1, 9);
    }
    expect(found[1]! / found[0]!).toBeGreaterThan(1.02);
  });
});

describe('weights of density', () => {
  it('twice as sharp is twice the px per unit after evening out, and does not count as uneven', async () => {
    let job = newJob('j', 'j', [rectangles('a', four)]);
    job = (await runOperation(job, 'select', { kind: 'islands', ids: [1] })).job;
    job = (await runOperation(job, 'weigh', { weight: 2 })).job;
    job = (await runOperation(job, 'density', { even: true })).job;
    const [part] = job.parts;
    const list = islandDensities(part!.mesh, activeSet(part!), 512, 512).map(({ density }) => density);
    expect(list[1]! / list[0]!).toBeCloseTo(2, 9);
    expect(list[2]! / list[0]!).toBeCloseTo(1, 9);
    expect(judge(job).densityCV!).toBeLessThan(1e-9);
    const { report } = await runOperation(job, 'densityFigures', {});
    const { weighted, islands } = report as { weighted: number; islands: { weight: number }[] };
    expect(islands.map(({ weight }) => weight)).toEqual([1, 2, 1, 1]);
    expect(weighted).toBeCloseTo(0.02 + 4 * 0.03 + 0.0225 + 0.01, 9);
    // taken off again, nothing of it is left
    expect(activeSet((await runOperation(job, 'weigh', { weight: 1, of: 'part' })).job.parts[0]!).weight).toBeUndefined();
  });

  it('goes by material over all parts', async () => {
    const job = newJob('j', 'j', [rectangles('a', four, 'brass'), rectangles('b', four)]);
    const { job: next, report } = await runOperation(job, 'weigh', { weight: 0.5, of: 'material', material: 'brass' });
    expect(report).toEqual({ islands: 4 });
    expect(next.parts.map((part) => activeSet(part).weight?.[0])).toEqual([0.5, undefined]);
    await expect(runOperation(job, 'weigh', { weight: 2, of: 'material', material: 'tin' })).rejects.toThrow('No face has this material.');
  });
});

describe('weights by what is seen', () => {
  /** Six separate sides each, one box within the other: the outer bottom, top and sides, then the inner box that nobody sees. */
  const nested = (): Part => {
    const [outer, inner] = [box(1, 0.5, 1), box(0.6, 0.2, 0.6)];
    const points = [outer, inner].flatMap((mesh) => [...mesh.corners].flatMap((p) => [...mesh.points.subarray(p * 3, p * 3 + 3)]));
    const mesh = meshFromFaces(
      points,
      Array.from({ length: 12 }, (_, f) => [0, 1, 2, 3].map((c) => f * 4 + c)),
    );
    // squares in a row
    const uv = Array.from({ length: 12 }, (_, f) => [0, 1, 1, 0].flatMap((right, c) => [f / 16 + right * 0.05, c < 2 ? 0 : 0.05]));
    const set = uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), Float64Array.from(uv.flat()));
    return { id: 'n', name: 'nested', mesh, uvSets: [set], activeUv: 0, imageId: null, origin: { kind: 'made' } };
  };
  const heights = [...faceMiddles(nested().mesh)].filter((_, k) => k % 3 === 1).slice(0, 6);
  const weights = (job: Job) => [...(activeSet(job.parts[0]!).weight ?? [])];

  it('an underside is hardly seen, what is inside never; from another side it is another one', async () => {
    const job = newJob('j', 'j', [nested()]);
    const { job: weighed, report } = await runOperation(job, 'weighBySight', {});
    expect(weights(weighed)).toEqual([...heights.map((y) => (y < -0.2 ? 0.5 : 1)), ...Array<number>(6).fill(0.25)]);
    expect(report).toMatchObject({ repeats: false, islands: 12, hardly: 1, never: 6 });
    await expect(runOperation(weighed, 'weighBySight', {})).rejects.toThrow('These are the weights already.');
    const fromBelow = (await runOperation(job, 'settings', { seenFrom: 'below' })).job;
    expect(weights((await runOperation(fromBelow, 'weighBySight', {})).job).slice(0, 6)).toEqual(heights.map((y) => (y > 0.2 ? 0.25 : 1)));
  });

  it('are taken off where the image repeats', async () => {
    const { job: weighed } = await runOperation(newJob('j', 'j', [nested()]), 'weighBySight', {});
    const repeating = (await runOperation(weighed, 'setLimits', { purpose: 'repeating' })).job;
    expect(weights((await runOperation(repeating, 'weighBySight', {})).job)).toEqual([]);
  });
});

describe('fit and tiles', () => {
  it('fits in proportion to the border gap, or fills it both ways', async () => {
    const job = newJob('j', 'j', [rectangles('a', [[0.2, 0.2, 0.2, 0.1]])]);
    const sized = (await runOperation(job, 'settings', { width: 1000, height: 500, margin: 10 })).job;
    const [kept] = boxes((await runOperation(sized, 'fitSheet', {})).job);
    // twice as wide as high on a sheet of that shape: the gap above and below is met first
    expect(kept!.low * 500).toBeCloseTo(10, 6);
    expect(kept!.high * 500).toBeCloseTo(490, 6);
    expect((kept!.left + kept!.right) / 2).toBeCloseTo(0.5, 9);
    const before = boxes(sized)[0]!;
    const ratio = (box: typeof before) => ((box.right - box.left) * 1000) / ((box.high - box.low) * 500);
    expect(ratio(kept!)).toBeCloseTo(ratio(before), 9);
    const [filled] = boxes((await runOperation(sized, 'fitSheet', { fill: true })).job);
    expect([filled!.left * 1000, filled!.right * 1000, filled!.low * 500, filled!.high * 500].map((x) => Math.round(x * 1e6) / 1e6)).toEqual([
      10, 990, 10, 490,
    ]);
  });

  it('brings stray islands back by whole tiles and leaves those on the sheet and in the tray', async () => {
    const job = newJob('j', 'j', [
      rectangles('a', [
        [0.1, 0.1, 0.2, 0.2],
        [3.4, -1.7, 0.2, 0.2],
        [-0.5, 0.2, 0.2, 0.2],
      ]),
    ]);
    const { job: next, report } = await runOperation(job, 'bringBack', { which: 'all' });
    expect(report).toEqual({ islands: 1 });
    const [on, back, tray] = boxes(next);
    expect(on!.left).toBe(0.1);
    expect([back!.left, back!.low].map((x) => Math.round(x * 1e9) / 1e9)).toEqual([0.4, 0.3]);
    expect(tray!.left).toBe(-0.5);
    await expect(runOperation(next, 'bringBack', {})).rejects.toThrow('No island is away');
  });

  it('swaps the content of two tiles, and says what tiles there are', async () => {
    const base = newJob('j', 'j', [
      rectangles('a', [
        [0.1, 0.1, 0.2, 0.2],
        [1.4, 0.1, 0.2, 0.2],
        [0.6, 0.6, 0.1, 0.1],
      ]),
    ]);
    await expect(runOperation(base, 'moveTile', { from: 1001, to: 1002 })).rejects.toThrow('has 1 tile: 1001.');
    const job = (await runOperation(base, 'sheets', { do: 'change', sheet: 'sheet-1', tiles: 3 })).job;
    const { job: next, report } = await runOperation(job, 'moveTile', { from: 1001, to: 1002 });
    expect(report).toEqual({ there: 2, back: 1 });
    expect(boxes(next).map(({ left }) => Math.round(left * 1e9) / 1e9)).toEqual([1.1, 0.4, 1.6]);
    const emptied = (await runOperation(job, 'moveTile', { from: 1002, to: 1003 })).job;
    expect(Math.round(boxes(emptied)[1]!.left * 1e9) / 1e9).toBe(2.4);
    expect(islandsOf(base.parts[0]!.mesh, activeSet(base.parts[0]!)).count).toBe(3);
  });
});

describe('a rectangle of the sheet', () => {
  const inside = (job: Job, islands: readonly number[], [left, bottom, right, top]: readonly [number, number, number, number]) =>
    boxes(job)
      .filter((_, k) => islands.includes(k))
      .every((box) => box.left >= left && box.right <= right && box.low >= bottom && box.high <= top);

  it('takes in what is chosen, sized to fill it, the gap to its sides kept; the others stay', async () => {
    let job = newJob('j', 'j', [rectangles('a', [...four, [0.1, 0.5, 0.1, 0.1]])]);
    job = (await runOperation(job, 'select', { kind: 'islands', ids: [0, 1, 2] })).job;
    const before = boxes(job);
    const area = [0.5, 0.5, 1, 1] as const;
    const { job: next, report, sentence } = await pack(job, { into: 'free', area: [...area], effort: 1 });
    const after = boxes(next);
    expect(after.slice(3)).toEqual(before.slice(3));
    const gap = 4 / 512;
    expect(inside(next, [0, 1, 2], [area[0] + gap - 1e-9, area[1] + gap - 1e-9, area[2] - gap + 1e-9, area[3] - gap + 1e-9])).toBe(true);
    expect((report as { coverage: number }).coverage).toBeGreaterThan(0.5);
    expect(sentence).toMatch(/^Packed 3 islands into a rectangle of 512 px, \d+ % of it covered$/);
    expect(judge(next).overlapArea).toBeLessThan(1e-9);
    // proportions stay though the rectangle and the sheet differ in shape
    const wide = await pack(job, { into: 'free', area: [0, 0.5, 1, 0.75], effort: 0, turn: 'none', upright: false });
    boxes(wide.job)
      .slice(0, 3)
      .forEach((box, k) => {
        const ratio = (b: typeof box) => (b.right - b.left) / (b.high - b.low);
        expect(ratio(box)).toBeCloseTo(ratio(before[k]!), 6);
      });
  });

  it('keeps clear of what stays within it; a rectangle without room is refused', async () => {
    let job = newJob('j', 'j', [rectangles('a', [[0.6, 0.6, 0.2, 0.2], ...four])]);
    job = (await runOperation(job, 'select', { kind: 'islands', ids: [1, 2, 3, 4] })).job;
    const { job: next } = await pack(job, { into: 'free', area: [0.5, 0.5, 1, 1], effort: 1 });
    expect(inside(next, [1, 2, 3, 4], [0.5, 0.5, 1, 1])).toBe(true);
    expect(boxes(next)[0]).toEqual(boxes(job)[0]);
    expect(judge(next).overlapArea).toBeLessThan(1e-9);
    await expect(pack(job, { area: [0.5, 0.5, 0.502, 1] })).rejects.toThrow('less than 4 px');
    await expect(pack(job, { area: [0.5, 0.5, 0.4, 1] })).rejects.toThrow();
  });

  /** An L, and a kite that is not along the sides of the sheet. */
  const ell: [number, number][] = [
    [0.1, 0.1],
    [0.9, 0.1],
    [0.9, 0.4],
    [0.4, 0.4],
    [0.4, 0.9],
    [0.1, 0.9],
  ];
  const kite: [number, number][] = [
    [0.5, 0.02],
    [0.98, 0.6],
    [0.5, 0.95],
    [0.02, 0.6],
  ];
  /** Distance of a place from the sides of a polygon, positive inside; by the sides one by one. */
  const depthIn = (polygon: [number, number][], x: number, y: number): number => {
    let [least, inside] = [Infinity, false];
    polygon.forEach(([ax, ay], k) => {
      const [bx, by] = polygon[(k + 1) % polygon.length]!;
      const share = Math.max(0, Math.min(1, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / ((bx - ax) ** 2 + (by - ay) ** 2)));
      least = Math.min(least, Math.hypot(x - ax - share * (bx - ax), y - ay - share * (by - ay)));
      if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) inside = !inside;
    });
    return inside ? least : -least;
  };
  it.each([
    ['an L', ell, 0],
    ['a kite', kite, 0],
    ['an L, searched', ell, 1],
    ['a kite drawn the other way round', [...kite].reverse(), 0],
  ] as const)('islands go into %s, the margin from its sides kept; the largest scale is taken', async (_, polygon, effort) => {
    const job = newJob('j', 'j', [rectangles('a', four)]);
    const { job: next, report, sentence } = await pack(job, { polygon, effort });
    const corners = outlinesOf(next.parts[0]!.mesh, activeSet(next.parts[0]!), 1, 1).flatMap(([loop]) =>
      Array.from({ length: loop!.length / 2 }, (_, k) => [loop![k * 2]!, loop![k * 2 + 1]!]),
    );
    // along each side, too: at the inner corner of the L an island's corners could be inside and its side not
    const along = corners.flatMap(([x, y], k) => {
      const [u, v] = corners[k % 4 === 3 ? k - 3 : k + 1]!;
      return Array.from({ length: 20 }, (_, n) => [x! + ((u! - x!) * n) / 20, y! + ((v! - y!) * n) / 20]);
    });
    for (const [x, y] of along) expect(depthIn([...polygon] as [number, number][], x!, y!) * 512).toBeGreaterThan(4 - 1e-6);
    expect(judge(next).overlapArea).toBeLessThan(1e-9);
    const { coverage } = report as { coverage: number };
    expect(coverage).toBeGreaterThan(0.3);
    const area = boxes(next).reduce((sum, box) => sum + (box.right - box.left) * (box.high - box.low), 0);
    const whole = Math.abs(
      polygon.reduce((sum, [x, y], k) => sum + (x * polygon[(k + 1) % polygon.length]![1] - polygon[(k + 1) % polygon.length]![0] * y) / 2, 0),
    );
    expect(coverage).toBeCloseTo(area / whole, 3);
    expect(sentence).toContain('into a polygon of 512 px');
    expect(next.parts).toHaveLength(1);
  });

  it('a polygon whose sides cross, or that has no area, is refused; what is told beforehand does not count its surroundings', async () => {
    const job = newJob('j', 'j', [rectangles('a', four)]);
    await expect(
      pack(job, {
        polygon: [
          [0, 0],
          [1, 1],
          [1, 0],
          [0, 1],
        ],
      }),
    ).rejects.toThrow('Sides of the polygon cross');
    await expect(
      pack(job, {
        polygon: [
          [0, 0],
          [1, 1],
          [0.5, 0.5],
        ],
      }),
    ).rejects.toThrow(/no area|cross|less than 4 px/);
    const { report } = await runOperation(job, 'packPlan', { size: '512', polygon: kite });
    expect(report).toMatchObject({ moved: 4, locked: 0 });
  });

  it('whole px: lower left corners are on px, the gap is kept all the same', async () => {
    const job = newJob('j', 'j', [rectangles('a', [...four, [0, 0.5, 0.21, 0.13], [0.3, 0.5, 0.07, 0.31]])]);
    for (const effort of [0]) {
      const { job: next } = await pack(job, { wholePx: true, effort });
      const all = boxes(next);
      for (const { left, low, right, high } of all) {
        expect(Math.abs(left * 512 - Math.round(left * 512))).toBeLessThan(1e-6);
        expect(Math.abs(low * 512 - Math.round(low * 512))).toBeLessThan(1e-6);
        expect(Math.min(left, low, 1 - right, 1 - high) * 512).toBeGreaterThan(4 - 1e-6);
      }
      all.forEach((a, i) =>
        all.slice(i + 1).forEach((b) => {
          const [dx, dy] = [Math.max(a.left - b.right, b.left - a.right, 0), Math.max(a.low - b.high, b.low - a.high, 0)];
          expect(Math.hypot(dx, dy) * 512).toBeGreaterThan(4 - 1e-6);
        }),
      );
    }
    const plain = boxes((await pack(job)).job);
    expect(plain.some(({ left }) => Math.abs(left * 512 - Math.round(left * 512)) > 1e-3)).toBe(true);
  });

  it('selected islands take turns of their own: they stay as they are while others turn, or turn though the others do not', async () => {
    let job = newJob('j', 'j', [
      rectangles(
        'a',
        Array.from({ length: 6 }, (_, k): [number, number, number, number] => [0.15 * k, 0, 0.02, 0.4]),
      ),
    ]);
    job = (await runOperation(job, 'select', { kind: 'islands', ids: [1, 4] })).job;
    const lies = (next: Job) => boxes(next).map(({ left, right, low, high }) => right - left > high - low);
    // a sheet that is low and wide: all would be laid down
    const low = { size: '1024x128', keepScale: true, upright: false };
    const wide: Job = {
      ...job,
      parts: [
        rectangles(
          'a',
          Array.from({ length: 6 }, (_, k): [number, number, number, number] => [0.15 * k, 0, 0.02, 0.4]),
        ),
      ],
    };
    const { job: turned } = await runOperation(wide, 'pack', { margin: 2, effort: 0, ...low, turn: 'none', selectedTurn: 'quarter' });
    expect(
      lies(turned)
        .filter((_, k) => k !== 1 && k !== 4)
        .every((x) => !x),
    ).toBe(true);
    const { report } = await runOperation(job, 'packPlan', { size: '512', turn: 'quarter', selectedTurn: 'none' });
    expect(report).toMatchObject({ moved: 6, kept: 0 });
    const { job: held } = await pack(job, { turn: 'quarter', selectedTurn: 'none', area: [0, 0, 1, 0.5] });
    expect([lies(held)[1], lies(held)[4]]).toEqual([false, false]);
  });

  it('the selected stay together as one block', async () => {
    let job = newJob('j', 'j', [
      rectangles(
        'a',
        Array.from({ length: 12 }, (_, k): [number, number, number, number] => [0.08 * k, 0, 0.06, 0.06 + 0.01 * (k % 3)]),
      ),
    ]);
    const group = [0, 5, 7, 11];
    job = (await runOperation(job, 'select', { kind: 'islands', ids: group })).job;
    const { job: next } = await pack(job, { group: 'selected' });
    const own = group.map((k) => boxes(next)[k]!);
    const round = {
      left: Math.min(...own.map((b) => b.left)),
      right: Math.max(...own.map((b) => b.right)),
      low: Math.min(...own.map((b) => b.low)),
      high: Math.max(...own.map((b) => b.high)),
    };
    // nothing else has its middle in the box round them
    boxes(next).forEach((b, k) => {
      const [x, y] = [(b.left + b.right) / 2, (b.low + b.high) / 2];
      if (!group.includes(k)) expect(x > round.left && x < round.right && y > round.low && y < round.high).toBe(false);
    });
    expect(judge(next).overlapArea).toBeLessThan(1e-9);
    const one = (await runOperation(job, 'select', { kind: 'islands', ids: [0] })).job;
    await expect(pack(one, { group: 'selected' })).rejects.toThrow('Fewer than two islands');
  });
});

describe('blocks made by hand', () => {
  const boxRound = (list: readonly { left: number; right: number; low: number; high: number }[]) => ({
    left: Math.min(...list.map(({ left }) => left)),
    right: Math.max(...list.map(({ right }) => right)),
    low: Math.min(...list.map(({ low }) => low)),
    high: Math.max(...list.map(({ high }) => high)),
  });
  const meet = (a: ReturnType<typeof boxRound>, b: ReturnType<typeof boxRound>) => a.left < b.right && b.left < a.right && a.low < b.high && b.low < a.high;
  const eight = [...four, ...four.map(([x, y, w, h]): [number, number, number, number] => [x, y + 0.4, w * 0.8, h * 0.8])];
  const chosen = async (job: Job, ids: number[]) => (await runOperation(job, 'select', { kind: 'islands', ids })).job;
  /** Two blocks of two parts: 0 and 4 of the first with 1 of the second; 2 and 3 of the first. */
  const withBlocks = async () => {
    let job = newJob('j', 'j', [rectangles('a', eight), rectangles('b', four)]);
    job = { ...job, selection: { part: 'a', kind: 'islands', ids: Uint32Array.of(0, 4), also: [{ part: 'b', ids: Uint32Array.of(1) }] } };
    job = (await runOperation(job, 'blockIslands', {})).job;
    return (await runOperation(await chosen(job, [2, 3]), 'blockIslands', {})).job;
  };
  const blocksAfter = (job: Job) => {
    const [a, b] = [boxes(job), boxes(job, 1)];
    const blocks = [
      [a[0]!, a[4]!, b[1]!],
      [a[2]!, a[3]!],
    ].map(boxRound);
    const others = [...[1, 5, 6, 7].map((i) => a[i]!), ...[0, 2, 3].map((i) => b[i]!)];
    return { blocks, others };
  };

  it.each([1, 2])('several at once stay together over all parts, with nothing between them, and are kept with the job (%i tiles)', async (tiles) => {
    const { job } = await pack(await withBlocks(), { tiles, turn: 'quarter' });
    const { blocks, others } = blocksAfter(job);
    expect(meet(blocks[0]!, blocks[1]!)).toBe(false);
    for (const block of blocks) {
      // on one tile
      expect(Math.floor(block.left)).toBe(Math.floor(block.right - 1e-9));
      for (const other of others) expect(meet(block, other)).toBe(false);
    }
    const { smallestGapPx, overlapArea } = judge({ ...job, sheets: job.sheets ?? [] });
    expect(overlapArea).toBeLessThan(1e-9);
    expect(smallestGapPx!).toBeGreaterThan(4 - 1e-6);
  });

  it('without them the same islands would be apart; taken out, they go by themselves', async () => {
    const { job: loose } = await pack(await withBlocks(), { group: 'none' });
    const { blocks, others } = blocksAfter(loose);
    expect(blocks.some((block) => others.some((other) => meet(block, other)))).toBe(true);
    let job = (await runOperation(await chosen(await withBlocks(), [2]), 'blockIslands', { do: 'leave' })).job;
    job = { ...job, selection: { part: 'a', kind: 'islands', ids: Uint32Array.of(0), also: [{ part: 'b', ids: Uint32Array.of(1) }] } };
    job = (await runOperation(job, 'blockIslands', { do: 'leave' })).job;
    // one island is left of each block: that is none
    expect(boxes((await pack(job)).job)).toEqual(boxes((await pack(job, { group: 'none' })).job));
    await expect(runOperation(job, 'blockIslands', { do: 'leave' })).rejects.toThrow('None of the selected islands is in a block.');
    await expect(runOperation(await chosen(job, [2]), 'blockIslands', {})).rejects.toThrow('two islands');
  });

  it('a block turns only as all of its islands may', async () => {
    const job = await withBlocks();
    const part = job.parts[0]!;
    const headed = new Uint8Array(8);
    headed[3] = 1;
    const marked = { ...job, parts: [{ ...part, uvSets: [{ ...activeSet(part), headed }] }, job.parts[1]!] };
    const { job: next } = await pack(marked, { upright: false });
    for (const i of [2, 3]) {
      const { left, right, low, high } = boxes(next)[i]!;
      const [, , w, h] = eight[i]!;
      expect((right - left) / (high - low)).toBeCloseTo(w / h, 6);
    }
  });
});

describe('mirroring', () => {
  /** Right triangles of one hand, no two of one size. */
  const triangles = () => {
    const count = 12;
    const points = Array.from({ length: count }, (_, k) => {
      const size = 1 - k / 24;
      return [k * 2, 0, 0, k * 2 + size, 0, 0, k * 2, size * (0.5 + (k % 3) / 8), 0];
    }).flat();
    const mesh = meshFromFaces(
      points,
      Array.from({ length: count }, (_, k) => [k * 3, k * 3 + 1, k * 3 + 2]),
    );
    const uv = Float64Array.from({ length: count * 6 }, (_, k) => points[Math.floor(k / 2) * 3 + (k % 2)]! / 30);
    const uvSets = [uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), uv)];
    return newJob('j', 'j', [{ id: 'a', name: 'a', mesh, uvSets, activeUv: 0, imageId: null, origin: { kind: 'made' } }]);
  };
  const hands = (job: Job) => {
    const { uv, cornerUv } = activeSet(job.parts[0]!);
    return Array.from({ length: 12 }, (_, f) => {
      const [a, b, c] = [0, 1, 2].map((k) => cornerUv[f * 3 + k]! * 2) as [number, number, number];
      return Math.sign((uv[b]! - uv[a]!) * (uv[c + 1]! - uv[a + 1]!) - (uv[c]! - uv[a]!) * (uv[b + 1]! - uv[a + 1]!));
    });
  };

  it('is done only where it is asked for, and told; islands with a heading of their own keep their hand', async () => {
    const plain = await pack(triangles(), { upright: false });
    expect(hands(plain.job).every((hand) => hand === 1)).toBe(true);
    const { job, report } = await pack(triangles(), { upright: false, mirror: true });
    const mirrored = hands(job).filter((hand) => hand < 0).length;
    expect(mirrored).toBeGreaterThan(0);
    expect((report as { mirrored: number }).mirrored).toBe(mirrored);
    expect(judge(job).overlapArea).toBeLessThan(1e-9);
    expect(judge(job).smallestGapPx!).toBeGreaterThan(4 - 1e-6);
    const start = triangles();
    const set = { ...activeSet(start.parts[0]!), headed: new Uint8Array(12).fill(1) };
    const kept = await pack({ ...start, parts: [{ ...start.parts[0]!, uvSets: [set] }] }, { mirror: true });
    expect(hands(kept.job).every((hand) => hand === 1)).toBe(true);
  });

  it('is one search more: those without it go on as they would, and the best is taken', () => {
    const options = { width: 512, height: 512, gap: 4, borderGap: 4, turn: 'quarter' as const, keepScale: false, seed: 3 };
    for (const [effort, islands] of [
      [1, 12],
      [1, 500],
      [5, 500],
    ] as const) {
      const plain = searchesOf({ ...options, effort }, islands);
      const both = searchesOf({ ...options, effort, mirror: [0, 2] }, islands);
      expect(both.slice(0, -1)).toEqual(plain);
      expect(plain.every(({ mirror }) => mirror!.length === 0)).toBe(true);
      expect(both.at(-1)).toEqual({ ...options, effort, mirror: [0, 2] });
    }
  });

  it('a search goes on from what is mirrored, and keeps gaps and sizes', () => {
    const { mesh, set } = joinParts(triangles().parts);
    const all = Array.from({ length: 12 }, (_, i) => i);
    const { set: packed } = packBest(mesh, set, {
      width: 512,
      height: 512,
      gap: 4,
      borderGap: 4,
      turn: 'quarter',
      keepScale: false,
      effort: 1,
      seconds: 0.5,
      islands: all,
      mirror: all,
    });
    const { report } = checkLayout(mesh, packed, 512, 512, quietContext);
    expect(report.overlapArea).toBeLessThan(1e-9);
    expect(report.smallestGapPx!).toBeGreaterThan(4 - 1e-4);
    const sizes = islandDensities(mesh, packed, 512, 512).map(({ density }) => density);
    for (const size of sizes) expect(size).toBeCloseTo(sizes[0]!, 6);
  });
});
