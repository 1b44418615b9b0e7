import { Document, WebIO } from '@gltf-transform/core';
import fc from 'fast-check';
import { strToU8, zipSync } from 'fflate';
import { validateBytes } from 'gltf-validator';
import { describe, expect, it } from 'vitest';
import { JigError } from '../jigError.ts';
import { activeSet, withSet, type Job } from '../job/job.ts';
import { box, cylinder, sphere } from '../mesh/starterForms.ts';
import { runOperation } from '../ops/registry.ts';
import { islandsOf } from '../uv/islands.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { newJob, type Part } from '../job/job.ts';
import { writeGlb } from './gltfWrite.ts';
import { openFiles } from './open.ts';
import { readBack } from './readBack.ts';
import { readArchive, writeArchive } from './archive.ts';

const madePart = (name: string, mesh: Part['mesh']): Part => ({
  id: `part-${name}`,
  name,
  mesh,
  uvSets: [emptyUvSet(mesh)],
  activeUv: 0,
  imageId: null,
  origin: { kind: 'made' },
});

async function errorsOf(bytes: Uint8Array): Promise<string[]> {
  const { issues } = await validateBytes(bytes);
  return issues.messages.filter((m) => m.severity === 0).map((m) => `${m.code}: ${m.message}`);
}

/** A GLB of a cube with split normals, tangents, colours, skin attributes, a morph target, two UV sets and two primitives. */
async function richGlb(): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const positions: number[] = [];
  const normals: number[] = [];
  const uv: number[] = [];
  const indices: number[][] = [[], []];
  for (let axis = 0; axis < 3; axis++) {
    for (const sign of [-1, 1]) {
      const base = positions.length / 3;
      for (const [a, b] of [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
      ] as const) {
        const p = [0, 0, 0];
        p[axis] = sign;
        p[(axis + 1) % 3] = a * sign;
        p[(axis + 2) % 3] = b;
        positions.push(...p);
        const n = [0, 0, 0];
        n[axis] = sign;
        normals.push(...n);
        uv.push((a + 1) / 2, (b + 1) / 2);
      }
      indices[axis === 2 ? 1 : 0]!.push(base, base + 1, base + 2, base, base + 2, base + 3);
    }
  }
  const count = positions.length / 3;
  const accessor = (type: 'VEC2' | 'VEC3' | 'VEC4', array: Float32Array<ArrayBuffer> | Uint8Array<ArrayBuffer>) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const shared = {
    POSITION: accessor('VEC3', Float32Array.from(positions)),
    NORMAL: accessor('VEC3', Float32Array.from(normals)),
    TANGENT: accessor(
      'VEC4',
      Float32Array.from({ length: count * 4 }, (_, k) => (k % 4 === 3 || k % 4 === 0 ? 1 : 0)),
    ),
    TEXCOORD_0: accessor('VEC2', Float32Array.from(uv)),
    TEXCOORD_1: accessor(
      'VEC2',
      Float32Array.from(uv, (x) => x / 2),
    ),
    COLOR_0: accessor(
      'VEC4',
      Uint8Array.from({ length: count * 4 }, (_, k) => (k * 37) % 256),
    ).setNormalized(true),
    JOINTS_0: accessor('VEC4', new Uint8Array(count * 4)),
    WEIGHTS_0: accessor(
      'VEC4',
      Float32Array.from({ length: count * 4 }, (_, k) => (k % 4 === 0 ? 1 : 0)),
    ),
  };
  const mesh = document.createMesh('Crate');
  for (const [k, list] of indices.entries()) {
    const primitive = document
      .createPrimitive()
      .setMaterial(document.createMaterial(`paint ${k}`))
      .setIndices(document.createAccessor().setType('SCALAR').setArray(Uint16Array.from(list)).setBuffer(buffer));
    for (const [semantic, value] of Object.entries(shared)) primitive.setAttribute(semantic, value);
    primitive.addTarget(
      document.createPrimitiveTarget().setAttribute(
        'POSITION',
        accessor(
          'VEC3',
          Float32Array.from(positions, (x) => x * 0.1),
        ),
      ),
    );
    mesh.addPrimitive(primitive);
  }
  const joint = document.createNode('bone');
  const skin = document.createSkin('rig').addJoint(joint);
  const scene = document.createScene('s').addChild(joint).addChild(document.createNode('crate').setMesh(mesh).setSkin(skin));
  document.getRoot().setDefaultScene(scene);
  return new WebIO().writeBinary(document);
}

const openGlb = (bytes: Uint8Array) => openFiles([{ name: 'crate.glb', bytes }], 'job');

describe('glTF in', () => {
  it('merges points for editing, keeps both UV sets, turns v up, names parts and materials', async () => {
    const job = await openGlb(await richGlb());
    const part = job.parts[0]!;
    expect([part.name, part.mesh.points.length / 3, part.mesh.faceStart.length - 1]).toEqual(['Crate', 8, 12]);
    expect(part.mesh.materials).toEqual(['paint 0', 'paint 1']);
    expect(part.uvSets.map((set) => set.name)).toEqual(['UV set 1', 'UV set 2']);
    // the first corner has u 0, v 0 in the file's downward sense: the top left of the sheet
    const id = activeSet(part).cornerUv[0]! * 2;
    expect([activeSet(part).uv[id], activeSet(part).uv[id + 1]]).toEqual([0, 1]);
    expect(islandsOf(part.mesh, activeSet(part)).count).toBe(6);
  });

  it('the file it came from is clean, so what the validator says of ours is ours', async () => {
    expect(await errorsOf(await richGlb())).toEqual([]);
  });
});

describe('glTF out', () => {
  it('carries every other attribute through and passes gltf-validator', async () => {
    const job = await openGlb(await richGlb());
    const unwrapped = (await runOperation(job, 'unwrap', { seams: 'crease' })).job;
    const { bytes, notes } = await writeGlb(unwrapped.parts, unwrapped.files);
    expect(await errorsOf(bytes)).toEqual([]);
    expect(notes.join()).toMatch(/tangents/);
    const document = await new WebIO().readBinary(bytes as Uint8Array<ArrayBuffer>);
    const mesh = document.getRoot().listMeshes()[0]!;
    const primitive = mesh.listPrimitives()[0]!;
    expect(primitive.listSemantics().sort()).toEqual(['COLOR_0', 'JOINTS_0', 'NORMAL', 'POSITION', 'TEXCOORD_0', 'TEXCOORD_1', 'WEIGHTS_0']);
    expect(primitive.listTargets().length).toBe(1);
    expect(document.getRoot().listSkins().length).toBe(1);
    expect(primitive.getMaterial()?.getName()).toBe('paint 0');
    const before = await new WebIO().readBinary((await richGlb()) as Uint8Array<ArrayBuffer>);
    const colorsOf = (d: Document) => {
      const p = d.getRoot().listMeshes()[0]!.listPrimitives()[0]!;
      return [...p.getIndices()!.getArray()!].map((v) => [
        ...p.getAttribute('COLOR_0')!.getElement(v, []),
        ...p.getAttribute('NORMAL')!.getElement(v, []),
        ...p.getAttribute('TEXCOORD_1')!.getElement(v, []),
      ]);
    };
    const [now, then] = [colorsOf(document), colorsOf(before)];
    now.forEach((row, k) => row.forEach((x, c) => expect(x).toBeCloseTo(then[k]![c]!, 6)));
    await expect(readBack(unwrapped, unwrapped.parts, [{ name: 'a.glb', bytes }])).resolves.toMatchObject({ faces: 12 });
  });

  it('parts of polygons become triangles by material, with UVs and normals; the validator finds no error', async () => {
    const mesh = { ...cylinder(1, 2, 12, 2), materials: ['side', 'lid'], faceMaterial: Int32Array.from({ length: 26 }, (_, f) => (f < 24 ? 0 : 1)) };
    let job: Job = newJob('j', 'tin', [madePart('tin', mesh), madePart('ball', sphere(1, 8, 6))]);
    job = (await runOperation(job, 'firstLayout', { part: 'part-tin' })).job;
    const { bytes, notes } = await writeGlb(job.parts, []);
    expect(await errorsOf(bytes)).toEqual([]);
    expect(notes.join()).toMatch(/triangles/);
    await expect(readBack(job, job.parts, [{ name: 'a.glb', bytes }])).resolves.toMatchObject({ parts: 2 });
  });

  it('reading back notices a file that differs', async () => {
    let job: Job = newJob('j', 'crate', [madePart('crate', box())]);
    job = (await runOperation(job, 'firstLayout')).job;
    const { bytes } = await writeGlb(job.parts, []);
    const set = activeSet(job.parts[0]!);
    const moved = withSet(job, job.parts[0]!.id, { ...set, uv: set.uv.map((x) => x + 0.01) });
    await expect(readBack(moved, moved.parts, [{ name: 'a.glb', bytes }])).rejects.toThrow(/moved UVs/);
  });
});

describe('bad glTF', () => {
  it.each([
    ['cut short', (b: Uint8Array) => b.slice(0, b.length - 200), /cut short/],
    ['only a header', (b: Uint8Array) => b.slice(0, 10), /cut short/],
    ['not JSON', () => new TextEncoder().encode('{ "asset": '), /cannot be opened/],
  ])('%s', async (_name, damage, sentence) => {
    const bytes = damage(await richGlb());
    const name = bytes[0] === 0x67 ? 'a.glb' : 'a.gltf';
    const error = await openFiles([{ name, bytes }], 'job').catch((e: unknown) => e);
    expect(error).toBeInstanceOf(JigError);
    expect((error as JigError).sentence).toMatch(sentence);
  });

  it('a .gltf without its buffer says which file to drop with it', async () => {
    const json = JSON.stringify({ asset: { version: '2.0' }, buffers: [{ uri: 'mesh.bin', byteLength: 12 }] });
    await expect(openFiles([{ name: 'a.gltf', bytes: new TextEncoder().encode(json) }], 'job')).rejects.toThrow(/needs “mesh\.bin” beside it/);
  });

  it('random damage gives a part or a JigError, nothing else (property)', async () => {
    const good = await richGlb();
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(fc.nat(good.length - 1), fc.nat(255)), { minLength: 1, maxLength: 6 }), async (damage) => {
        const data = good.slice();
        for (const [at, value] of damage) data[at] = value;
        try {
          await openFiles([{ name: 'a.glb', bytes: data }], 'job');
        } catch (error) {
          if (!(error instanceof JigError)) throw error;
        }
      }),
      { numRuns: 150 },
    );
  });
});

describe('job archive', () => {
  it('gives the same job back, arrays shared as before', async () => {
    let job: Job = newJob('j', 'Crate', [madePart('crate', box()), madePart('again', box())], {
      images: [{ id: 'i', name: 'a.png', type: 'image/png', bytes: Uint8Array.from([1, 2, 3]) }],
      intake: ['read'],
    });
    job = (await runOperation(job, 'firstLayout')).job;
    job = (await runOperation(job, 'select', { kind: 'edges', ids: [3, 1] })).job;
    const { job: again, history } = readArchive(writeArchive(job, ['one', 'two']));
    expect(again).toEqual(job);
    expect(history).toEqual(['one', 'two']);
  });

  it('damage gives a JigError, never a broken job (property)', async () => {
    const good = writeArchive(newJob('j', 'Crate', [madePart('crate', box())]));
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(good.length - 1), fc.nat(255)), { minLength: 1, maxLength: 8 }), fc.boolean(), (damage, cutShort) => {
        const data = cutShort ? good.slice(0, damage[0]![0]) : good.slice();
        if (!cutShort) for (const [at, value] of damage) data[at] = value;
        try {
          const { job } = readArchive(data);
          for (const part of job.parts) expect(part.mesh.corners.every((p) => p * 3 < part.mesh.points.length)).toBe(true);
        } catch (error) {
          if (!(error instanceof JigError)) throw error;
        }
      }),
      { numRuns: 200 },
    );
  });

  it('a newer version, a plain zip and an empty file say what they are', () => {
    const manifest = (value: object) => zipSync({ 'manifest.json': strToU8(JSON.stringify(value)) });
    expect(() => readArchive(manifest({ format: 'jig-peel-job', version: 99, job: {} }))).toThrow(/newer version \(99\)/);
    expect(() => readArchive(manifest({ format: 'other' }))).toThrow(/manifest cannot be read/);
    expect(() => readArchive(zipSync({ 'a.txt': strToU8('a') }))).toThrow(/not a job archive/);
    expect(() => readArchive(new Uint8Array(0))).toThrow(/damaged or cut short/);
  });
});
