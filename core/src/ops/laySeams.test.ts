import { describe, expect, it } from 'vitest';
import { activeSet, newJob, partOf, withSet, type Job } from '../job/job.ts';
import { joinParts } from '../job/joinParts.ts';
import { checkLayout } from '../measure/check.ts';
import { box } from '../mesh/starterForms.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { costOf, costTerms, evenWeights } from '../propose/rank.ts';
import { tubeCross } from '../propose/testForms.ts';
import { islandsOf } from '../uv/islands.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { runOperation, type ReportOf } from './registry.ts';

const jobOf = (...meshes: Mesh[]): Job =>
  newJob(
    'j',
    'j',
    meshes.map((mesh, k) => ({ id: `p${k}`, name: `p${k}`, mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' as const } })),
  );
const cross = () =>
  tubeCross(
    [
      [1, 0, 0],
      [-1, 0, 0],
      [0, 1, 0],
    ],
    3,
    3,
  );
const proposed = async (job: Job, params: Record<string, unknown>) => (await runOperation(job, 'propose', params)).report as ReportOf<'propose'>;
const checked = (job: Job) => {
  const { mesh, set } = joinParts(job.parts);
  return checkLayout(mesh, set, job.settings.width, job.settings.height).report;
};

describe('taking a proposal', () => {
  it('on a bare mesh: cut, laid flat and packed in one step, as it was proposed', async () => {
    const job = jobOf(cross());
    const proposal = await proposed(job, { by: 'limbs', symmetry: 'x' });
    expect(proposal.limbs).toBe(3);
    expect(proposal.coverage).toBeGreaterThan(0.3);
    const { job: taken, report, sentence } = await runOperation(job, 'laySeams', { edges: proposal.cuts, symmetry: 'x' });
    expect(report).toMatchObject({ islands: 4, flips: 0, packed: true, waiting: 0 });
    expect(sentence).toMatch(/laid 4 pieces flat, packed/);
    const figures = checked(taken);
    expect(figures).toMatchObject({ facesWithoutUv: 0, outsideArea: 0, flippedTriangles: 0, islands: 4 });
    expect(figures.overlapArea).toBeLessThan(1e-9);
    expect(figures.smallestGapPx).toBeGreaterThanOrEqual(8 - 1e-6);
    expect(figures.smallestBorderGapPx).toBeGreaterThanOrEqual(8 - 1e-6);
    expect(Math.abs(figures.coverage - proposal.coverage!)).toBeLessThan(0.05);
    // what was shown of it: a place on the sheet for each corner, within it
    expect(proposal.uv).toHaveLength(partOf(job).mesh.corners.length * 2);
    expect(Math.min(...proposal.uv!)).toBeGreaterThan(0);
    expect(Math.max(...proposal.uv!)).toBeLessThan(1);
  }, 30_000);

  it('a symmetric part has a symmetric layout: islands astride upright and alike on both sides, those in pairs mirrored', async () => {
    const job = jobOf(cross());
    const { mesh } = partOf(job);
    const proposal = await proposed(job, { by: 'limbs', symmetry: 'x' });
    const { job: taken } = await runOperation(job, 'laySeams', { edges: proposal.cuts, symmetry: 'x' });
    const set = activeSet(partOf(taken));
    const { ofFace, count } = islandsOf(mesh, set);
    // by hand: the face whose points are those of another with x the other way round
    const keyOf = (f: number, sign: number) =>
      [...mesh.corners.subarray(mesh.faceStart[f]!, mesh.faceStart[f + 1]!)]
        .map((p) => [0, 1, 2].map((d) => Math.round((mesh.points[p * 3 + d]! * (d === 0 ? sign : 1) + 9) * 1e4)).join())
        .sort()
        .join(' ');
    const faces = Array.from({ length: ofFace.length }, (_, f) => f);
    const byKey = new Map(faces.map((f) => [keyOf(f, 1), f]));
    const middles = Array.from({ length: count }, () => ({ x: 0, y: 0, n: 0 }));
    const placeOf = (f: number): [number, number] => {
      const corners = Array.from({ length: mesh.faceStart[f + 1]! - mesh.faceStart[f]! }, (_, k) => set.cornerUv[mesh.faceStart[f]! + k]!);
      return [0, 1].map((d) => corners.reduce((sum, id) => sum + set.uv[id * 2 + d]!, 0) / corners.length) as [number, number];
    };
    for (const f of faces) {
      const [x, y] = placeOf(f);
      const middle = middles[ofFace[f]!]!;
      middle.x += x;
      middle.y += y;
      middle.n++;
    }
    let astride = 0;
    let paired = 0;
    for (const f of faces) {
      const g = byKey.get(keyOf(f, -1))!;
      const [i, j] = [ofFace[f]!, ofFace[g]!];
      const [a, b] = [placeOf(f), placeOf(g)];
      const off = (place: [number, number], island: number) => [
        place[0] - middles[island]!.x / middles[island]!.n,
        place[1] - middles[island]!.y / middles[island]!.n,
      ];
      const [p, q] = [off(a, i), off(b, j)];
      if (i === j) {
        astride++;
        expect(p[0]! + q[0]!).toBeCloseTo(0, 6);
        expect(p[1]! - q[1]!).toBeCloseTo(0, 6);
      } else {
        paired++;
        // packing may have turned either by quarters
        expect(Math.hypot(p[0]!, p[1]!)).toBeCloseTo(Math.hypot(q[0]!, q[1]!), 6);
      }
    }
    expect(astride).toBeGreaterThan(50);
    expect(paired).toBeGreaterThan(50);
  }, 30_000);

  it('where something was arranged by hand only what is new moves', async () => {
    let cutUp = jobOf(cross());
    cutUp = (await runOperation(cutUp, 'firstLayout', { by: 'crease' })).job;
    const whole = partOf(cutUp).mesh;
    const set = activeSet(partOf(cutUp));
    const pinned = set.pins.slice().fill(1);
    cutUp = withSet(cutUp, 'p0', { ...set, pins: pinned });
    const joined = [...islandsOf(whole, set).states.keys()].filter((e) => islandsOf(whole, set).states[e] === 0);
    const { job: taken, report: done } = await runOperation(cutUp, 'laySeams', { edges: joined.slice(0, 1) });
    expect((done as ReportOf<'laySeams'>).packed).toBe(false);
    const now = activeSet(partOf(taken));
    const moved = [...whole.corners.keys()].filter((c) => Math.abs(now.uv[now.cornerUv[c]! * 2]! - set.uv[set.cornerUv[c]! * 2]!) > 1e-9);
    const own = new Set(moved.map((c) => islandsOf(whole, set).ofFace[[...whole.faceStart].findIndex((from) => from > c) - 1]));
    expect(own.size).toBeLessThanOrEqual(1);
  }, 30_000);

  it('beside the islands of another part it takes free room', async () => {
    let job = jobOf(box(1, 1, 1), box(1, 1, 1));
    job = (await runOperation(job, 'firstLayout', { part: 'p0' })).job;
    job = (await runOperation(job, 'density', { target: 300 })).job;
    const first = activeSet(partOf(job, 'p0')).uv;
    const proposal = await proposed(job, { part: 'p1', by: 'crease' });
    const { job: taken } = await runOperation(job, 'laySeams', { part: 'p1', edges: proposal.cuts });
    expect(activeSet(partOf(taken, 'p0')).uv).toEqual(first);
    expect(checked(taken).overlapArea).toBeLessThan(1e-9);
  }, 30_000);
});

describe('how proposals are ranked', () => {
  const one = { seamInSight: 2, area: 4, energy: 4.1, flips: 0, islands: 4, coverage: 0.5 };

  it('by hand: half of the limit ¼, four islands ½, half a sheet 1½', () => {
    // 2 / (2 · √4) = ½
    expect(costTerms(one, 4.2)).toEqual({ sight: 0.5, stretch: expect.closeTo(0.25, 9), islands: 0.5, sheet: 1.5 });
    expect(costOf(one, 4.2)).toBeCloseTo(2.75, 9);
    expect(costOf(one, 4.2, { ...evenWeights, sheet: 0 })).toBeCloseTo(1.25, 9);
  });

  it('what breaks the limit or turns over comes last; the same seams hidden come first', () => {
    expect(costOf({ ...one, energy: 4.8 }, 4.2)).toBeGreaterThan(costOf({ ...one, islands: 64, coverage: 0.4 }, 4.2));
    expect(costOf({ ...one, flips: 1 }, 4.2)).toBeGreaterThan(costOf({ ...one, energy: 5 }, 4.2));
    expect(costOf({ ...one, seamInSight: 0 }, 4.2)).toBeLessThan(costOf(one, 4.2));
  });
});
