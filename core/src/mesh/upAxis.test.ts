import { describe, expect, it } from 'vitest';
import { openFiles } from '../formats/open.ts';
import { readBack } from '../formats/readBack.ts';
import { readObj } from '../formats/objRead.ts';
import { writeGlb } from '../formats/gltfWrite.ts';
import { writeObj } from '../formats/objWrite.ts';
import { writePly } from '../formats/ply.ts';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { layerSchema } from '../images/surface/layer.ts';
import { Surface } from '../images/surface/surface.ts';
import { surfacePlanOf } from '../job/layers.ts';
import { newJob, type Part } from '../job/job.ts';
import { runOperation } from '../ops/registry.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import type { Mesh } from './mesh.ts';
import { box, cylinder, sphere } from './starterForms.ts';
import { guessUp, turnUp } from './upAxis.ts';

/** A cone that stands on its lid: y is up. */
const standing = (): Mesh => {
  const mesh = cylinder(1, 3, 16, 2);
  const points = mesh.points.map((x, k) => (k % 3 === 1 ? x : x * (1.2 - (mesh.points[k - (k % 3) + 1]! + 1.5) / 3)));
  return { ...mesh, points };
};
const part = (mesh: Mesh): Part => ({ id: 'p', name: 'p', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } });
const objOf = (mesh: Mesh) => writeObj([part(mesh)], null);
const open = (bytes: Uint8Array, name = 'a.obj') => openFiles([{ name, bytes }], 'j', undefined, { up: 'guess' });

describe('which way is up', () => {
  it('is guessed from the flat base; without one it is what is usual for the format', () => {
    expect(guessUp([standing()], 'y')).toEqual({ up: 'y', why: 'base' });
    expect(guessUp([turnUp(standing(), true)], 'y')).toEqual({ up: 'z', why: 'base' });
    expect(guessUp([sphere(1, 12, 8)], 'y')).toEqual({ up: 'y', why: 'usual' });
    expect(guessUp([sphere(1, 12, 8)], 'z')).toEqual({ up: 'z', why: 'usual' });
    expect(guessUp([box()], 'y')).toEqual({ up: 'y', why: 'usual' });
  });

  it('turning there and back gives the same numbers, bit for bit', () => {
    const mesh = standing();
    expect(turnUp(turnUp(mesh), true).points).toEqual(mesh.points.map((x) => (x === 0 ? 0 : x)));
  });

  it('a model with z up stands upright on the bench, says so, and is written as it came', async () => {
    const bytes = objOf(turnUp(standing(), true));
    const job = await open(bytes);
    expect(job.parts[0]!.up).toBe('z');
    expect([...job.parts[0]!.mesh.points]).toEqual([...standing().points.map((x) => (x === 0 ? 0 : x))]);
    expect(job.intake.join(' ')).toMatch(/z is taken for up/);
    const written = writeObj(job.parts, null);
    expect([...readObj(written).parts[0]!.mesh.points]).toEqual([...readObj(bytes).parts[0]!.mesh.points]);
    for (const [name, again] of [
      ['a.obj', written],
      ['a.ply', writePly(job.parts)],
      ['a.glb', (await writeGlb(job.parts, [])).bytes],
    ] as const)
      expect((await readBack(job, job.parts, [{ name, bytes: again }])).pointError).toBeLessThan(1e-6);
    expect(readArchive(writeArchive(job)).job.parts[0]!.up).toBe('z');
  });

  it('glTF says y by its specification: nothing is guessed', async () => {
    const { bytes } = await writeGlb([part(turnUp(standing(), true))], []);
    expect((await open(bytes, 'a.glb')).parts[0]!.up).toBeUndefined();
  });

  it('is changed by a step that takes jigs along and leaves UVs as they are', async () => {
    let job = newJob('j', 'j', [part(standing())]);
    job = (await runOperation(job, 'place', { kind: 'box' })).job;
    const items = [{ name: 'flat', jig: { kind: 'planar', origin: [0, 1, 2], up: [0, 1, 0], right: [1, 0, 0] }, faces: Uint32Array.of(0, 1) }];
    job = (await runOperation(job, 'addJigs', { items })).job;
    const uv = job.parts[0]!.uvSets[0]!.uv;
    const { job: lying } = await runOperation(job, 'setUp', { up: 'z' });
    expect(lying.parts[0]!.up).toBe('z');
    expect(lying.parts[0]!.uvSets[0]!.uv).toBe(uv);
    expect(lying.jigs![0]!.jig).toMatchObject({ origin: [0, 2, -1], up: [0, 0, -1] });
    const { job: back } = await runOperation(lying, 'setUp', { up: 'y' });
    expect(back.jigs).toEqual(job.jigs);
    await expect(runOperation(back, 'setUp', { up: 'y' })).rejects.toThrow(/already/);
  });

  it('leaves decals, fades and brushed places where they are on the surface', async () => {
    const layers = [
      {
        source: { kind: 'colour', colour: '#ff0000' },
        driver: { kind: 'decal', centre: [0.2, 0.1, 0.3], right: [1, 0, 0], up: [0, 0, 1], size: [0.5, 0.4], depth: 3, facing: 180 },
      },
      { source: { kind: 'fade', fade: { shape: 'linear', from: [0, 0, 0.2], to: [0.3, 1, 1] } }, opacity: 0.5 },
      {
        source: { kind: 'colour', colour: '#00ff00' },
        masks: [
          { kind: 'brush', dabs: [0.4, 0.2, 0.5, 0.5, 1] },
          { kind: 'fade', fade: { shape: 'radial', centre: [0, 0.5, 1], inner: 0.1, outer: 2 } },
        ],
      },
    ].map((layer, k) => layerSchema.parse({ id: `l${k}`, name: `${k}`, ...layer }));
    const job = (await runOperation(newJob('j', 'j', [{ ...part(standing()), layers }]), 'place', { kind: 'box' })).job;
    const { job: lying } = await runOperation(job, 'setUp', { up: 'z' });
    const colours = (one: typeof job) => {
      const surface = new Surface(one.parts[0]!.mesh, surfacePlanOf(one, one.parts[0]!), () => null);
      const found = new Float64Array(4);
      return Array.from({ length: 64 }, (_, t) => [surface.at(t, 0.2, 0.3, 0.5), surface.colour(found), ...found]);
    };
    const before = colours(job);
    expect(new Set(before.map(String)).size).toBeGreaterThan(5);
    // sums are taken in another order
    const apart = colours(lying)
      .flat()
      .map((x, k) => Math.abs((x ?? 0) - (before.flat()[k] ?? 0)));
    expect(Math.max(...apart)).toBeLessThan(1e-12);
  });
});
