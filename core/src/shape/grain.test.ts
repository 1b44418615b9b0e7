import { encode } from 'fast-png';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { activeSet, newJob, partOf, type Job } from '../job/job.ts';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { cylinder, heightField, plane } from '../mesh/starterForms.ts';
import { runOperation } from '../ops/registry.ts';
import { emptyUvSet, uvSetFrom } from '../uv/uvSet.ts';
import { placedAt, placementMatrix, placementSchema } from '../images/placement.ts';
import { grainSeenIn } from '../job/grainAim.ts';
import { grainAngles, grainFigures, runGrain } from './grain.ts';

const all = (count: number) => Array.from({ length: count }, (_, f) => f);
const jobOf = (mesh: ReturnType<typeof plane>): Job =>
  newJob('j', 'one', [{ id: 'a', name: 'a', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } }]);

describe('grain', () => {
  it('round a tube it goes on as on the unrolled sheet: a slope stays that slope', () => {
    // a strip round a quarter of a cylinder, unrolled by hand
    const [columns, slope] = [16, 0.3];
    const mesh = heightField(columns, 4, (u, v) => [Math.sin((u * Math.PI) / 2), v, Math.cos((u * Math.PI) / 2)]);
    const chord = 2 * Math.sin(Math.PI / 4 / columns);
    const uv = new Float64Array((mesh.points.length / 3) * 2);
    for (let p = 0; p < uv.length / 2; p++) {
      const u = Math.atan2(mesh.points[p * 3]!, mesh.points[p * 3 + 2]!) / (Math.PI / 2 / columns);
      uv[p * 2] = u * chord;
      uv[p * 2 + 1] = mesh.points[p * 3 + 1]!;
    }
    const set = uvSetFrom(mesh, 'a', mesh.corners.slice(), uv);
    const first = [Math.cos(Math.PI / 4 / columns), slope, -Math.sin(Math.PI / 4 / columns)];
    const { grain, faces } = runGrain(mesh, 0, first, all(mesh.faceStart.length - 1));
    expect(faces).toBe(mesh.faceStart.length - 1);
    const wanted = (Math.atan(slope) * 180) / Math.PI;
    for (const angle of grainAngles(mesh, set, grain, 1, 'u')) expect(angle).toBeCloseTo(wanted, 3);
    for (const angle of grainAngles(mesh, set, grain, 1, 'v')) expect(angle).toBeCloseTo(90 - wanted, 3);
  });

  it('turning islands to it meets it, whatever way it was drawn and the sheet is shaped', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.double({ min: -3, max: 3, noNaN: true }),
        fc.constantFrom('u' as const, 'v' as const),
        fc.constantFrom(1024, 2048),
        async (angle, along, height) => {
          let job = jobOf(plane(2, 1, 3, 2));
          job = (await runOperation(job, 'settings', { width: 1024, height, grainAlong: along })).job;
          job = (await runOperation(job, 'unwrap', {})).job;
          job = (await runOperation(job, 'grain', { face: 0, direction: [Math.cos(angle), Math.sin(angle), 0], faces: 'part' })).job;
          job = (await runOperation(job, 'select', { kind: 'islands', ids: [0] })).job;
          job = (await runOperation(job, 'turnIslands', { to: 'grain' })).job;
          const part = partOf(job);
          const angles = grainAngles(part.mesh, activeSet(part), part.grain!, 1024 / height, along);
          expect(grainFigures(part.mesh, angles, 5)).toMatchObject({ over: 0 });
          for (const one of angles) expect(one).toBeLessThan(1e-4);
        },
      ),
      { numRuns: 20 },
    );
  });

  it('is met where the picture as it is placed runs along it, if the image counts: turned, sized, mirrored, on any sheet (property)', async () => {
    const png = encode({ width: 8, height: 4, data: new Uint8Array(128), channels: 4, depth: 8 });
    await fc.assert(
      fc.asyncProperty(
        fc.record({
          angle: fc.double({ min: -3, max: 3, noNaN: true }),
          along: fc.constantFrom('u' as const, 'v' as const),
          height: fc.constantFrom(1024, 2048),
          turn: fc.constantFrom(0, 90, 180, 30, -75),
          repeats: fc.constantFrom([1, 1] as [number, number], [2, 3] as [number, number]),
          mirrorU: fc.boolean(),
          isMirrored: fc.boolean(),
          by: fc.constantFrom('turn' as const, 'unwrap' as const, 'held' as const),
        }),
        async ({ angle, along, height, turn, repeats, mirrorU, isMirrored, by }) => {
          const start = jobOf(plane(2, 1, 3, 2));
          const placement = placementSchema.parse({ turn, repeats, mirrorU });
          let job: Job = {
            ...start,
            images: [{ id: 'i', name: 'i.png', type: 'image/png', bytes: png }],
            parts: [{ ...start.parts[0]!, imageId: 'i', placement }],
          };
          job = (await runOperation(job, 'settings', { width: 1024, height, grainAlong: along, countImage: true, holdGrain: by === 'held' })).job;
          if (by === 'turn') job = (await runOperation(job, 'unwrap', {})).job;
          const direction = [Math.cos(angle), Math.sin(angle), 0];
          job = (await runOperation(job, 'grain', { face: 0, direction, faces: 'part' })).job;
          if (by === 'turn') {
            job = (await runOperation(job, 'select', { kind: 'islands', ids: [0] })).job;
            job = (await runOperation(job, 'turnIslands', { to: 'grain' })).job;
          } else job = (await runOperation(job, 'unwrap', {})).job;
          if (by === 'held') {
            // what has a place already keeps its hand, and is held to the grain all the same
            job = (await runOperation(job, 'select', { kind: 'islands', ids: [0] })).job;
            if (isMirrored) job = (await runOperation(job, 'transform', { scale: [-1, 1] })).job;
            job = (await runOperation(job, 'unwrap', {})).job;
          }
          const part = partOf(job);
          const { set, aspect } = grainSeenIn(job, part, activeSet(part));
          expect(Math.max(...grainAngles(part.mesh, set, part.grain!, aspect, along))).toBeLessThan(by === 'held' ? 0.05 : 1e-4);
          // by hand: the image of a step along the grain, from three corners of the flat mesh
          const { mesh } = part;
          const own = activeSet(part);
          const matrix = placementMatrix(placement);
          const [o, p, q] = [0, 1, 2].map((c) => ({
            x: mesh.points[mesh.corners[c]! * 3]!,
            y: mesh.points[mesh.corners[c]! * 3 + 1]!,
            at: placedAt(matrix, own.uv[own.cornerUv[c]! * 2]!, own.uv[own.cornerUv[c]! * 2 + 1]!),
          })) as [
            { x: number; y: number; at: [number, number] },
            { x: number; y: number; at: [number, number] },
            { x: number; y: number; at: [number, number] },
          ];
          const det = (p.x - o.x) * (q.y - o.y) - (p.y - o.y) * (q.x - o.x);
          const s = (direction[0]! * (q.y - o.y) - direction[1]! * (q.x - o.x)) / det;
          const t = ((p.x - o.x) * direction[1]! - (p.y - o.y) * direction[0]!) / det;
          const step = [0, 1].map((k) => s * (p.at[k]! - o.at[k]!) + t * (q.at[k]! - o.at[k]!)) as [number, number];
          const [main, aside] = along === 'u' ? step : [step[1], step[0]];
          expect(main).toBeGreaterThan(0);
          expect(Math.abs(aside)).toBeLessThan((by === 'held' ? 3e-3 : 1e-5) * main);
        },
      ),
      { numRuns: 40 },
    );
  });

  it('an island that is laid flat for the first time takes its heading', async () => {
    let job = jobOf(plane(2, 1, 3, 2));
    job = (await runOperation(job, 'grain', { face: 2, direction: [1, 1, 0], faces: 'part' })).job;
    job = (await runOperation(job, 'unwrap', {})).job;
    const part = partOf(job);
    const figures = grainFigures(part.mesh, grainAngles(part.mesh, activeSet(part), part.grain!, 1, 'u'), 5);
    expect(figures!.worst).toBeLessThan(1e-4);
  });

  it('is drawn on the selected faces, kept in the archive and forgotten; faces without it have no figure', async () => {
    const mesh = cylinder(0.5, 1, 8, 1);
    let job = jobOf(mesh);
    job = (await runOperation(job, 'unwrap', { seams: 'crease' })).job;
    expect(grainFigures(mesh, new Float32Array(mesh.faceStart.length - 1).fill(NaN), 5)).toBeNull();
    job = (await runOperation(job, 'select', { kind: 'faces', ids: [0, 1] })).job;
    const { job: some, report } = await runOperation(job, 'grain', { face: 0, direction: [0, 1, 0] });
    expect(report).toEqual({ faces: 2 });
    const part = partOf(readArchive(writeArchive(some)).job);
    expect(part.grain).toEqual(partOf(some).grain);
    expect([...grainAngles(part.mesh, activeSet(part), part.grain!, 1, 'u')].filter((x) => !Number.isNaN(x))).toHaveLength(2);
    const none = (await runOperation(some, 'grain', { do: 'clear' })).job;
    expect(partOf(none).grain).toBeUndefined();
    await expect(runOperation(none, 'turnIslands', { to: 'grain' })).rejects.toThrow('None of these islands has a grain');
    await expect(runOperation(job, 'grain', { face: 0 })).rejects.toThrow('Say on which face');
  });
});
