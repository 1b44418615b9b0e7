import { describe, expect, it } from 'vitest';
import { placementSchema } from '../images/placement.ts';
import { meshFromFaces } from '../mesh/mesh.ts';
import { newJob, type Part } from '../job/job.ts';
import { runOperation } from '../ops/registry.ts';
import { uvSetFrom } from '../uv/uvSet.ts';
import { goOnFrom, jumpLengths, plainJumps, seamJumps } from './continuity.ts';

/** Two squares of one unit side by side; the right one's UVs as `to` puts them. */
function pair(to: (u: number, v: number) => [number, number]) {
  const mesh = meshFromFaces(
    [0, 0, 0, 1, 0, 0, 2, 0, 0, 0, 1, 0, 1, 1, 0, 2, 1, 0],
    [
      [0, 1, 4, 3],
      [1, 2, 5, 4],
    ],
  );
  const uv = [...mesh.corners].flatMap((p, c) => {
    const [u, v] = [mesh.points[p * 3]! / 4, mesh.points[p * 3 + 1]! / 4];
    return c < 4 ? [u, v] : to(u, v);
  });
  return { mesh, set: uvSetFrom(mesh, 'UV set 1', Uint32Array.from(mesh.corners.keys()), Float64Array.from(uv)) };
}
const repeated = placementSchema.parse({ repeats: [4, 4] });
const image = { width: 512, height: 256 };

describe('jumps of a picture along seams', () => {
  it('none where both sides are at the same place, or whole repeats apart', () => {
    for (const [du, dv] of [
      [0, 0],
      [0.25, 0],
      [-0.5, 0.75],
    ] as const) {
      const { mesh, set } = pair((u, v) => [u + du, v + dv]);
      expect(seamJumps(mesh, set, repeated, image)).toEqual([]);
    }
    // without repeats it is another place of the picture
    const { mesh, set } = pair((u, v) => [u + 0.25, v]);
    const [jump] = seamJumps(mesh, set, placementSchema.parse({ outsideU: 'nothing', outsideV: 'nothing' }), image);
    expect(jump!.offset).toBeCloseTo(128, 6);
  });

  it('an offset in px of the image, by hand: 0.03 of the square, four repeats of 512 px', () => {
    const { mesh, set } = pair((u, v) => [u + 0.03, v]);
    expect(seamJumps(mesh, set, repeated, image)).toMatchObject([{ islands: [0, 1], length: 1, isMirrored: false }]);
    const [jump] = seamJumps(mesh, set, repeated, image);
    expect(jump!.offset).toBeCloseTo(0.03 * 4 * 512, 6);
    expect([jump!.turn, jump!.scale]).toEqual([expect.closeTo(0, 6), expect.closeTo(1, 9)]);
  });

  it('turn, scale and mirroring', () => {
    const about = (angle: number, size: number, flip = 1) => {
      const { mesh, set } = pair((u, v) => {
        const [x, y] = [(u - 0.25) * flip, v - 0.125];
        return [0.25 + size * (x * Math.cos(angle) - y * Math.sin(angle)), 0.125 + size * (x * Math.sin(angle) + y * Math.cos(angle))];
      });
      return seamJumps(mesh, set, placementSchema.parse({}), { width: 400, height: 400 })[0]!;
    };
    expect(about(0.5, 1).turn).toBeCloseTo((0.5 * 180) / Math.PI, 6);
    expect(about(-0.5, 1).turn).toBeCloseTo((0.5 * 180) / Math.PI, 6);
    expect(about(0, 1.5).scale).toBeCloseTo(1.5, 9);
    expect(about(0, 1 / 1.5).scale).toBeCloseTo(1.5, 9);
    // mirrored about the seam the picture goes on, the other way round: no jump, by design
    expect(about(0, 1, -1)).toBeUndefined();
    expect(about(0, 1.5, -1).isMirrored).toBe(true);
  });
});

describe('jumps as a limit counts them', () => {
  it.each([
    ['none', (u: number, v: number): [number, number] => [u + 0.25, v], 0],
    ['less than a px', (u: number, v: number): [number, number] => [u + 0.25 + 0.4 / 512 / 4, v], 0],
    ['three px', (u: number, v: number): [number, number] => [u + 3 / 512 / 4, v], 1],
    ['turned, its middle in place', (u: number, v: number): [number, number] => [u - 0.05 * (v - 0.125), v], 1],
  ])('%s', (_, to, jumping) => {
    const { mesh, set } = pair(to);
    // the one seam is a unit long
    expect(jumpLengths(mesh, set, repeated, image)).toEqual({ jumping, all: 1 });
    expect(plainJumps(mesh, set, repeated, image)).toHaveLength(jumping);
  });
});

describe('going on from another island', () => {
  it('lays its side of the seam on the other: moved, turned or sized as allowed', async () => {
    const { mesh, set } = pair((u, v) => [0.5 - 1.2 * v, 0.4 + 1.2 * u]);
    expect(goOnFrom(mesh, set, 1, 0, 'size', 1)!.left).toBeLessThan(1e-12);
    expect(goOnFrom(mesh, set, 1, 0, 'turn', 1)!.left).toBeGreaterThan(0.01);
    expect(goOnFrom(mesh, set, 1, 0, 'move', 1)!.left).toBeGreaterThan(goOnFrom(mesh, set, 1, 0, 'turn', 1)!.left);
    expect(goOnFrom(mesh, set, 1, 1, 'size', 1)).toBeNull();
    const part: Part = { id: 'p', name: 'p', mesh, uvSets: [set], activeUv: 0, imageId: null, origin: { kind: 'made' } };
    const job = newJob('j', 'j', [part]);
    const before = (await runOperation(job, 'continuity', {})).report as { seams: number; jumps: { offset: number }[] };
    expect(before.seams).toBe(1);
    const next = (await runOperation(job, 'goOn', { island: 1, from: 0, way: 'size' })).job;
    expect((await runOperation(next, 'continuity', {})).report).toMatchObject({ seams: 0 });
    // the other one stays, bit for bit
    expect([...next.parts[0]!.uvSets[0]!.uv.subarray(0, 8)]).toEqual([...set.uv.subarray(0, 8)]);
    await expect(runOperation(job, 'goOn', { island: 0, from: 0 })).rejects.toThrow('one island');
  });
});
