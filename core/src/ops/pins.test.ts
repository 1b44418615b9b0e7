import { describe, expect, it } from 'vitest';
import { activeSet, newJob, partOf, type Job, type Part } from '../job/job.ts';
import { box, cubeSphere, cylinder, heightField } from '../mesh/starterForms.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { symmetryOf } from '../select/symmetry.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import { islandsOf } from '../uv/islands.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { notchesOf, notchPlace } from '../seams/notches.ts';
import { seamRuns } from '../seams/seamRuns.ts';
import { islandsOfPoints } from './pins.ts';
import { runOperation } from './registry.ts';
import { sharedBorder, type JoinAdvice } from './seams.ts';

const jobOf = (mesh: Mesh): Job => {
  const part: Part = { id: 'p', name: 'p', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } };
  return newJob('j', 'j', [part]);
};
const run = async (job: Job, name: string, params: Record<string, unknown> = {}) => (await runOperation(job, name, params)).job;
const setOf = (job: Job) => activeSet(job.parts[0]!);
const bumps = heightField(12, 12, (u, v) => [u, v, 0.3 * Math.sin(5 * u) * Math.cos(4 * v)]);
const laidBumps = async () => run(jobOf(bumps), 'unwrap', { method: 'isometric' });

describe('pins', () => {
  it('pinned points stay to the bit of rounding through an unwrap, whatever the method', async () => {
    let job = await laidBumps();
    job = await run(job, 'pin', { points: [0, 30, 90, 160], to: 'on' });
    const before = setOf(job);
    // drawn out of place on purpose: the pins hold what lies there
    for (const method of ['conformal', 'rigid', 'isometric']) {
      const after = setOf(await run(job, 'unwrap', { method }));
      for (const p of [0, 30, 90, 160]) for (let d = 0; d < 2; d++) expect(after.uv[p * 2 + d]).toBeCloseTo(before.uv[p * 2 + d]!, 6);
    }
  });

  it('one pin: the island keeps heading and size, and the point its place', async () => {
    let job = await laidBumps();
    job = await run(job, 'pin', { points: [30], to: 'on' });
    const after = setOf(await run(job, 'unwrap', { method: 'conformal' }));
    for (let d = 0; d < 2; d++) expect(after.uv[60 + d]).toBeCloseTo(setOf(job).uv[60 + d]!, 9);
  });

  it('on and off: the selection, all, nothing to do', async () => {
    let job = await laidBumps();
    job = await run(job, 'select', { kind: 'points', ids: [1, 2] });
    job = await run(job, 'pin');
    expect(setOf(job).pins.reduce((sum, p) => sum + p, 0)).toBe(2);
    job = await run(job, 'pin');
    expect(setOf(job).pins.reduce((sum, p) => sum + p, 0)).toBe(0);
    await expect(run(job, 'pin', { to: 'none' })).rejects.toThrow('Nothing is pinned');
    await expect(run(job, 'pin', { points: [1e6] })).rejects.toThrow('no UV point');
  });

  it('a moved pin lies where it was put, the others stay, the rest follows without a flip', async () => {
    let job = await laidBumps();
    job = await run(job, 'pin', { points: [0, 12, 168], to: 'on' });
    const before = setOf(job).uv;
    const to = [before[0]! - 0.05, before[1]! - 0.03];
    const after = setOf(await run(job, 'movePins', { points: [0], places: to })).uv;
    expect([after[0], after[1]].map((x, d) => Math.abs(x! - to[d]!)).every((x) => x < 1e-6)).toBe(true);
    for (const p of [12, 168]) for (let d = 0; d < 2; d++) expect(after[p * 2 + d]).toBeCloseTo(before[p * 2 + d]!, 6);
    expect(Math.abs(after[28]! - before[28]!) + Math.abs(after[29]! - before[29]!)).toBeGreaterThan(1e-3);
    const { report } = await runOperation(await run(job, 'movePins', { points: [0], places: to }), 'check');
    expect((report as { flippedTriangles: number }).flippedTriangles).toBe(0);
    await expect(run(job, 'movePins', { points: [3], places: [0, 0] })).rejects.toThrow('not pinned');
  });

  it('mirrored: the pin across moves the mirrored way', async () => {
    const mesh = heightField(10, 6, (u, v) => [u * 2 - 1, v, 0.3 * Math.cos(2 * u - 1)]);
    let job = await run(jobOf(mesh), 'unwrap', { method: 'isometric' });
    job = await run(job, 'settings', { mirror: 'x' });
    const { points } = symmetryOf(mesh, 'x');
    job = await run(job, 'pin', { points: [2], to: 'on' });
    const other = points[2]!;
    expect([...setOf(job).pins.keys()].filter((p) => setOf(job).pins[p])).toEqual([2, other].sort((a, b) => a - b));
    const before = setOf(job).uv;
    const after = setOf(await run(job, 'movePins', { points: [2], places: [before[4]! - 0.02, before[5]! - 0.04] })).uv;
    // across lies to the right at the same height: u the other way, v alike
    expect(after[other * 2]! - before[other * 2]!).toBeCloseTo(0.02, 3);
    expect(after[other * 2 + 1]! - before[other * 2 + 1]!).toBeCloseTo(-0.04, 3);
  });
});

describe('relax', () => {
  it('lowers the energy from the layout as it lies, and keeps place and size', async () => {
    const job = await run(jobOf(bumps), 'unwrap', { method: 'conformal' });
    const { job: relaxed, report } = await runOperation(job, 'relax');
    const { before, after } = report as { before: number; after: number };
    expect(after).toBeLessThan(before - 0.01);
    const middle = (uv: Float64Array, d: number) => uv.filter((_, k) => k % 2 === d).reduce((sum, x) => sum + x, 0) / (uv.length / 2);
    for (const d of [0, 1]) expect(middle(setOf(relaxed).uv, d)).toBeCloseTo(middle(setOf(job).uv, d), 9);
  });

  it('borders held stay to the bit, and so does all but the chosen faces', async () => {
    const job = await run(jobOf(bumps), 'unwrap', { method: 'conformal' });
    const before = setOf(job).uv;
    const held = setOf(await run(job, 'relax', { border: 'held' })).uv;
    const { edgeStart, edgePoints, edgeCount } = topologyOf(bumps);
    for (let e = 0; e < edgeCount; e++) {
      if (edgeStart[e + 1]! - edgeStart[e]! > 1) continue;
      for (const p of [edgePoints[e * 2]!, edgePoints[e * 2 + 1]!]) for (let d = 0; d < 2; d++) expect(held[p * 2 + d]).toBeCloseTo(before[p * 2 + d]!, 12);
    }
    expect(held.some((x, k) => Math.abs(x - before[k]!) > 1e-4)).toBe(true);
    const some = setOf(await run(job, 'relax', { faces: '60-64,72-76,84-88' })).uv;
    const moved = [...some.keys()].filter((k) => Math.abs(some[k]! - before[k]!) > 1e-9).map((k) => k >> 1);
    expect(moved.length).toBeGreaterThan(0);
    const around = new Set<number>();
    for (const f of [60, 61, 62, 63, 64, 72, 73, 74, 75, 76, 84, 85, 86, 87, 88])
      for (let c = bumps.faceStart[f]!; c < bumps.faceStart[f + 1]!; c++) around.add(bumps.corners[c]!);
    for (const p of moved) expect(around.has(p)).toBe(true);
  });

  it('bare parts and turned triangles are told', async () => {
    await expect(run(jobOf(bumps), 'relax')).rejects.toThrow('no island on the sheet');
  });
});

describe('join', () => {
  const cube = async () => run(jobOf(box(1, 2, 3)), 'unwrap', { seams: 'crease' });

  it('advice by shared border, with the energy of the joined island: a box’s two sides unfold without stretch', async () => {
    const job = await cube();
    const { neighbours } = (await runOperation(job, 'joinAdvice', { island: 0 })).report as { neighbours: JoinAdvice[] };
    expect(neighbours).toHaveLength(4);
    for (let k = 1; k < 4; k++) expect(neighbours[k]!.length).toBeLessThanOrEqual(neighbours[k - 1]!.length);
    for (const { energy } of neighbours) expect(energy).toBeCloseTo(4, 9);
  });

  it('the chosen one travels, the other keeps its place to the bit; they hang together along the whole border', async () => {
    const job = await cube();
    const { neighbours } = (await runOperation(job, 'joinAdvice', { island: 0 })).report as { neighbours: JoinAdvice[] };
    const to = neighbours[0]!.to;
    const mesh = job.parts[0]!.mesh;
    const before = setOf(job);
    for (const [island, stays] of [
      [0, to],
      [to, 0],
    ] as const) {
      const joined = setOf(await run(job, 'join', { island, to: stays }));
      expect(islandsOf(mesh, joined).count).toBe(5);
      const { start, faces } = islandsOf(mesh, before);
      for (let k = start[stays]!; k < start[stays + 1]!; k++)
        for (let c = mesh.faceStart[faces[k]!]!; c < mesh.faceStart[faces[k]! + 1]!; c++)
          for (let d = 0; d < 2; d++) expect(joined.uv[joined.cornerUv[c]! * 2 + d]).toBeCloseTo(before.uv[before.cornerUv[c]! * 2 + d]!, 9);
      for (const e of sharedBorder(mesh, before, 0, to)) expect(islandsOf(mesh, joined).states[e]).toBe(EdgeState.joined);
    }
    await expect(run(job, 'join', { island: 0, to: 0 })).rejects.toThrow('share no border');
  });
});

describe('mirrored cuts and marks', () => {
  it('a cut comes with the one across, and so does making whole', async () => {
    let job = await run(jobOf(cubeSphere(1, 6)), 'settings', { mirror: 'x' });
    const mesh = job.parts[0]!.mesh;
    const { edges } = symmetryOf(mesh, 'x');
    const e = [...edges.keys()].find((k) => edges[k] !== k && edges[k]! >= 0)!;
    job = await run(job, 'cut', { edges: [e] });
    const states = () => islandsOf(mesh, setOf(job)).states;
    expect([states()[e], states()[edges[e]!]]).toEqual([EdgeState.seam, EdgeState.seam]);
    job = await run(job, 'uncut', { edges: [edges[e]!] });
    expect([states()[e], states()[edges[e]!]]).toEqual([EdgeState.joined, EdgeState.joined]);
  });

  it('marks are kept, cleared and obeyed', async () => {
    let job = jobOf(cubeSphere(1, 8));
    job = await run(job, 'markSeams', { mark: 'keepWhole', faces: '0-63' });
    expect(job.parts[0]!.seamMarks!.filter((m) => m === 1)).toHaveLength(64);
    const { cuts } = (await runOperation(job, 'propose', { by: 'stretch', limit: 4.6 })).report as { cuts: number[] };
    const { edgeStart, edgeCorners, cornerFace } = topologyOf(job.parts[0]!.mesh);
    for (const e of cuts) expect([0, 1].every((k) => cornerFace[edgeCorners[edgeStart[e]! + k]!]! < 64)).toBe(false);
    job = await run(job, 'markSeams', { mark: 'clear', faces: 'all' });
    expect(job.parts[0]!.seamMarks).toBeUndefined();
  });

  it('a proposal is taken as it is; first layout takes creases where these do and few seams by stretch where not', async () => {
    const job = jobOf(cubeSphere(1, 8));
    const { cuts } = (await runOperation(job, 'propose', { by: 'stretch', limit: 4.4 })).report as { cuts: number[] };
    const taken = await run(job, 'seams', { by: 'stretch', edges: cuts });
    const states = islandsOf(taken.parts[0]!.mesh, setOf(taken)).states;
    expect([...states.keys()].filter((e) => states[e] === EdgeState.seam)).toEqual(cuts);
    const crate = (await runOperation(jobOf(box(1, 1, 1)), 'firstLayout')).report as { islands: number; energy: number };
    expect(crate.islands).toBe(6);
    const ball = (await runOperation(job, 'firstLayout')).report as { islands: number; energy: number; flips: number };
    expect(ball.energy).toBeLessThan(4.25);
    expect(ball.flips).toBe(0);
  });
});

describe('notches', () => {
  it('each run of seams has a letter and marks on both sides, which point into their islands', async () => {
    const job = await run(jobOf(cylinder(1, 2, 12, 3, true)), 'unwrap', { seams: 'crease' });
    const { mesh } = job.parts[0]!;
    const set = setOf(job);
    const runs = seamRuns(mesh, set);
    const { states } = islandsOf(mesh, set);
    expect(runs.flat().sort((a, b) => a - b)).toEqual([...states.keys()].filter((e) => states[e] === EdgeState.seam));
    const notches = notchesOf(mesh, set);
    expect(new Set(notches.map(({ letter }) => letter)).size).toBe(runs.length);
    const { twin } = topologyOf(mesh);
    for (const { corners } of notches) {
      expect(twin[corners[0]]).toBe(corners[1]);
      for (const corner of corners) {
        const [u, v, nx, ny] = notchPlace(mesh, set, corner);
        expect(Math.hypot(nx, ny)).toBeCloseTo(1, 9);
        expect(Number.isFinite(u + v)).toBe(true);
      }
    }
  });
});

describe('pins of a point on a seam', () => {
  it('stand on the island that is meant, not on the copies across', async () => {
    const mesh = box();
    const part: Part = { id: 'b', name: 'b', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } };
    let { job } = await runOperation(newJob('j', 'j', [part]), 'firstLayout', { by: 'crease' });
    job = (await runOperation(job, 'select', { kind: 'points', ids: [0] })).job;
    const pinsOf = (j: Job) => activeSet(partOf(j)).pins.reduce((sum, x) => sum + x, 0);
    const islands = islandsOf(mesh, activeSet(partOf(job)));
    const island = islands.ofFace[topologyOf(mesh).cornerFace[mesh.corners.indexOf(0)]!]!;
    expect(pinsOf((await runOperation(job, 'pin', { to: 'on' })).job)).toBe(3);
    const one = (await runOperation(job, 'pin', { to: 'on', islands: [island] })).job;
    expect(pinsOf(one)).toBe(1);
    expect(
      islandsOfPoints(
        partOf(one),
        activeSet(partOf(one)),
        [...activeSet(partOf(one)).pins.keys()].filter((p) => activeSet(partOf(one)).pins[p]),
      ),
    ).toEqual([island]);
  });
});
