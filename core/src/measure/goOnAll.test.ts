import { describe, expect, it } from 'vitest';
import { placementSchema } from '../images/placement.ts';
import { activeSet, newJob, type Part } from '../job/job.ts';
import { meshFromFaces } from '../mesh/mesh.ts';
import { runOperation } from '../ops/registry.ts';
import { uvSetFrom } from '../uv/uvSet.ts';
import { goOnAll } from './goOnAll.ts';
import { seamJumps } from './continuity.ts';

/** The side of a prism, each of its faces an island of its own, thrown about on the sheet: `wide` × 0.5 UV units each. */
function ring(sides: number, wide: number, turned: boolean, isOpen = false) {
  const points: number[] = [];
  for (let k = 0; k < sides + (isOpen ? 1 : 0); k++)
    for (const y of [0, 1]) points.push(Math.cos((k * 2 * Math.PI) / sides), y, -Math.sin((k * 2 * Math.PI) / sides));
  const count = isOpen ? sides + 1 : sides;
  const faces = Array.from({ length: sides }, (_, k) => [k * 2, ((k + 1) % count) * 2, ((k + 1) % count) * 2 + 1, k * 2 + 1]);
  const mesh = meshFromFaces(points, faces);
  const uv = new Float64Array(sides * 8);
  for (let k = 0; k < sides; k++) {
    const angle = turned ? k * 1.7 : 0;
    [
      [0, 0],
      [wide, 0],
      [wide, 0.5],
      [0, 0.5],
    ].forEach(([x, y], c) => {
      uv[(k * 4 + c) * 2] = x! * Math.cos(angle) - y! * Math.sin(angle) + Math.sin(k * 12.3);
      uv[(k * 4 + c) * 2 + 1] = x! * Math.sin(angle) + y! * Math.cos(angle) + Math.cos(k * 7.1);
    });
  }
  return {
    mesh,
    set: uvSetFrom(
      mesh,
      'UV set 1',
      Uint32Array.from({ length: sides * 4 }, (_, c) => c),
      uv,
    ),
  };
}
const worst = (mesh: ReturnType<typeof ring>['mesh'], set: ReturnType<typeof ring>['set'], placement = placementSchema.parse({})) =>
  Math.max(0, ...seamJumps(mesh, set, placement, { width: 1000, height: 1000 }).map(({ offset }) => offset));

describe('a picture that goes on over all seams', () => {
  it('does so exactly along a row of islands, and round a ring that whole repeats close', () => {
    for (const [sides, wide, isOpen] of [
      [7, 0.3, true],
      [8, 0.25, false],
      [5, 0.6, false],
    ] as const) {
      const { mesh, set } = ring(sides, wide, true, isOpen);
      expect(worst(mesh, set)).toBeGreaterThan(100);
      const found = goOnAll(mesh, set, { way: 'turn', spreads: false, aspect: 1 })!;
      expect(found.placed).toBe(sides - 1);
      expect(worst(mesh, found.set)).toBeLessThan(0.1);
    }
  });

  it('spreads what does not close evenly over the seams of the ring, by arithmetic', () => {
    // 8 × 0.2875 = 2.3 repeats: 0.3 of a picture is left, an eighth of it at each seam
    const { mesh, set } = ring(8, 0.2875, false);
    const found = goOnAll(mesh, set, { way: 'move', spreads: true, aspect: 1 })!;
    const jumps = seamJumps(mesh, found.set, placementSchema.parse({}), { width: 1000, height: 1000 });
    expect(jumps).toHaveLength(8);
    for (const { offset } of jumps) expect(offset).toBeCloseTo(300 / 8, 1);
    // twice as many repeats of a placed picture: 4.6, and 0.4 is left the other way
    const twice = placementSchema.parse({ repeats: [2, 2] });
    for (const { offset } of seamJumps(mesh, goOnAll(mesh, set, { way: 'move', spreads: true, aspect: 1, placement: twice })!.set, twice, {
      width: 1000,
      height: 1000,
    }))
      expect(offset).toBeCloseTo(400 / 8, 1);
  });

  it('where the picture ends, one seam of the ring is left and all others are exact', () => {
    const ends = placementSchema.parse({ outsideU: 'edge', outsideV: 'edge' });
    const { mesh, set } = ring(8, 0.2875, true);
    const jumps = seamJumps(mesh, goOnAll(mesh, set, { way: 'turn', spreads: true, aspect: 1, placement: ends })!.set, ends, { width: 1000, height: 1000 });
    expect(jumps).toHaveLength(1);
    expect(jumps[0]!.offset).toBeCloseTo(2300, 0);
  });

  it('round the corners of a cube, where a picture has to turn, the seams that can be met are: a cross of six faces', () => {
    const corners = Array.from({ length: 8 }, (_, k) => [k & 1, (k >> 1) & 1, k >> 2]);
    const mesh = meshFromFaces(corners.flat(), [
      [0, 2, 3, 1],
      [4, 5, 7, 6],
      [0, 1, 5, 4],
      [2, 6, 7, 3],
      [0, 4, 6, 2],
      [1, 3, 7, 5],
    ]);
    const square = [0, 0, 0.37, 0, 0.37, 0.37, 0, 0.37];
    const uv = Float64Array.from({ length: 48 }, (_, k) => square[k % 8]! + Math.sin(Math.floor(k / 8) * 5 + (k % 2)));
    const ids = Uint32Array.from({ length: 24 }, (_, c) => c);
    const left = (spreads: boolean) =>
      seamJumps(mesh, goOnAll(mesh, uvSetFrom(mesh, 'UV set 1', ids, uv), { way: 'turn', spreads, aspect: 1 })!.set, placementSchema.parse({}), {
        width: 1000,
        height: 1000,
      });
    // twelve edges, five of them met, as by any net of a cube
    expect(left(false).length).toBe(7);
    // four times 0.37 is 1.48: spread over a ring of four, what is left is an eighth of 0.96 at the most; turned seams do not take part
    for (const { offset, turn } of left(true)) expect(turn > 20 || offset < 200).toBe(true);
  });

  it('keeps every shape and size, and the sheet’s proportions are not the picture’s', () => {
    const { mesh, set } = ring(6, 0.2, false);
    // on a sheet twice as wide as high: shapes are measured in square places
    const found = goOnAll(mesh, set, { way: 'turn', spreads: true, aspect: 2 })!;
    for (let f = 0; f < 6; f++)
      for (let c = 0; c < 4; c++) {
        const [p, q] = [f * 4 + c, f * 4 + ((c + 1) % 4)];
        const side = (uv: Float64Array) => Math.hypot((uv[p * 2]! - uv[q * 2]!) * 2, uv[p * 2 + 1]! - uv[q * 2 + 1]!);
        expect(side(found.set.uv)).toBeCloseTo(side(set.uv), 9);
      }
  });
});

describe('the operation', () => {
  const jobOf = ({ mesh, set }: ReturnType<typeof ring>) => {
    const part: Part = { id: 'a', name: 'A', mesh, uvSets: [set], activeUv: 0, imageId: null, origin: { kind: 'made' } };
    return newJob('j', 'j', [part]);
  };

  it('tells what is left; locked islands stay', async () => {
    const given = ring(8, 0.25, false);
    const locked = new Uint8Array(8);
    locked[3] = 1;
    const { job, sentence } = await runOperation(jobOf({ ...given, set: { ...given.set, locked } }), 'goOnAll', {});
    expect(sentence).toMatch(/^Placed 7 islands so that the picture goes on: it does, over all seams between islands, of \d+\.\d px before$/);
    expect(activeSet(job.parts[0]!).uv.slice(24, 32)).toEqual(given.set.uv.slice(24, 32));
    const open = await runOperation(jobOf(ring(8, 0.2875, false)), 'goOnAll', { spread: true });
    expect(open.sentence).toContain('38.4 px of it are left at the worst seam');
    // told, and left at one seam: 0.3 of 1024 px
    expect((await runOperation(jobOf(ring(8, 0.2875, false)), 'goOnAll', {})).sentence).toContain('307.2 px of it are left at the worst seam');
  });

  it('says so where there is nothing to place', async () => {
    await expect(runOperation(jobOf(ring(1, 0.2, false, true)), 'goOnAll', {})).rejects.toThrow('No two islands');
    const given = ring(3, 0.2, false);
    await expect(runOperation(jobOf({ ...given, set: { ...given.set, locked: new Uint8Array(3).fill(1) } }), 'goOnAll', {})).rejects.toThrow('locked');
  });
});
