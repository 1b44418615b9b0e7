import { readFileSync } from 'node:fs';
import { Document, WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS, KHRTextureTransform, type Transform } from '@gltf-transform/extensions';
import { PNG } from 'pngjs';
import { describe, expect, it } from 'vitest';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { writeGlb } from '../formats/gltfWrite.ts';
import { writeMtl, writeObj } from '../formats/objWrite.ts';
import { writePly } from '../formats/ply.ts';
import { openFiles } from '../formats/open.ts';
import { readBack } from '../formats/readBack.ts';
import { mostLayers } from '../images/surface/names.ts';
import { activeSet, withSet, type Job } from '../job/job.ts';
import { wholeParts } from '../job/splitPart.ts';
import { islandsOf } from '../uv/islands.ts';
import { faceCount } from '../mesh/mesh.ts';
import { runOperation } from './registry.ts';

const text = (words: string) => new TextEncoder().encode(words);
const words = (bytes: Uint8Array) => new TextDecoder().decode(bytes);

function png(color: [number, number, number]): Uint8Array {
  const image = new PNG({ width: 4, height: 4 });
  for (let k = 0; k < 16; k++) image.data.set([...color, 255], k * 4);
  return new Uint8Array(PNG.sync.write(image));
}

/** Two quads side by side, each on the whole square of its own image; a point that no face uses. */
const twoObj =
  'mtllib two.mtl\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 2 0 0\nv 2 1 0\nv 9 9 9\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nusemtl wood\nf 1/1 2/2 3/3 4/4\nusemtl iron\nf 2/1 5/2 6/3 3/4\n';
const twoMtl = 'newmtl wood\nKd 1 1 1\nmap_Kd red.png\n\nnewmtl iron\nKd 1 1 1\nmap_Kd blue.png\n';
const twoFiles = [
  { name: 'two.obj', bytes: text(twoObj) },
  { name: 'two.mtl', bytes: text(twoMtl) },
  { name: 'red.png', bytes: png([200, 30, 30]) },
  { name: 'blue.png', bytes: png([30, 30, 200]) },
];
const two = () => openFiles(twoFiles, 'job');
const mtlOf = (job: Job) => writeMtl(job.parts, words(job.files.find(({ name }) => name.endsWith('.mtl'))!.bytes), job.images, job.materialLayers)!;

/** Each face of an OBJ as the places of its corners in space and on the sheet, read by plain text. */
function facesOfObj(obj: string): string[] {
  const v: string[] = [];
  const vt: string[] = [];
  const out: string[] = [];
  let material = '';
  for (const line of obj.split('\n')) {
    const [key, ...rest] = line.trim().split(/\s+/);
    if (key === 'v') v.push(rest.join(' '));
    if (key === 'vt') vt.push(rest.join(' '));
    if (key === 'usemtl') material = rest.join(' ');
    if (key === 'f')
      out.push(
        `${material}: ${rest
          .map((corner) => {
            const [a, b] = corner.split('/');
            return `${v[Number(a) - 1]} @ ${b ? vt[Number(b) - 1] : '-'}`;
          })
          .join(', ')}`,
      );
  }
  return out;
}
const pointsOfObj = (obj: string) => obj.split('\n').filter((line) => line.startsWith('v '));

/** Where each corner is on the sheet, and what hangs together, whatever the numbers of UV points. */
function layoutOf(job: Job, k = 0) {
  const part = job.parts[k]!;
  const set = activeSet(part);
  return {
    corners: Array.from(set.cornerUv, (id) => [set.uv[id * 2], set.uv[id * 2 + 1], set.pins[id]].join()),
    islands: [...islandsOf(part.mesh, set).ofFace],
    unplaced: [...set.unplaced],
    slits: [...set.slits],
    stack: [...(set.stack ?? [])],
    weight: [...(set.weight ?? [])],
    straight: [...(set.straight ?? [])],
  };
}

describe('materials with images of their own', () => {
  it('keep them in the material file and in a GLB, also where the part is not split', async () => {
    const job = await two();
    expect(words(mtlOf(job).bytes)).toBe(twoMtl);
    expect(mtlOf(job).images.map(({ name }) => name)).toEqual(['red.png', 'blue.png']);
    const { bytes } = await writeGlb(job.parts, job.files, job.images, undefined, job.materialLayers);
    const document = await new WebIO().registerExtensions(ALL_EXTENSIONS).readBinary(bytes);
    const [mesh] = document.getRoot().listMeshes();
    const pictures = mesh!.listPrimitives().map((primitive) => [primitive.getMaterial()!.getName(), primitive.getMaterial()!.getBaseColorTexture()!.getName()]);
    expect(pictures).toEqual([
      ['wood', 'red.png'],
      ['iron', 'blue.png'],
    ]);
  });

  it('go to a sheet each; the files have one part again, points and faces in their old order', async () => {
    const job = await two();
    const { job: split, report } = await runOperation(job, 'splitParts', {});
    expect(report).toMatchObject({ parts: 1, pieces: 2, sheets: 2 });
    expect(split.parts.map(({ name, mesh, sheet }) => [name, mesh.materials.join(), split.sheets!.find(({ id }) => id === sheet)!.name])).toEqual([
      ['two · wood', 'wood', 'wood'],
      ['two · iron', 'iron', 'iron'],
    ]);
    expect(split.sheets!.map(({ name }) => name)).toEqual(['wood', 'iron']);
    const nameOf = (id: string | null) => split.images.find((image) => image.id === id)!.name;
    expect(split.parts.map(({ imageId }) => nameOf(imageId))).toEqual(['red.png', 'blue.png']);
    expect(split.materialLayers).toBeUndefined();
    // no overlap on either sheet, where the whole has two faces on one another
    for (const part of split.parts) {
      const { report: check } = await runOperation({ ...split, parts: [part], activePart: part.id }, 'check', {});
      expect(check, part.name).toMatchObject({ overlapArea: 0, coverage: 1 });
    }
    expect((await runOperation(split, 'check', {})).report).toMatchObject({ overlapArea: 0, coverage: 1, smallestGapPx: null });
    const { report: before } = await runOperation(job, 'check', {});
    expect(before).toMatchObject({ overlapArea: 1 });
    const obj = words(writeObj(split.parts, 'two.mtl'));
    expect(pointsOfObj(obj)).toEqual(pointsOfObj(twoObj));
    expect(facesOfObj(obj)).toEqual(facesOfObj(twoObj));
    expect(obj.match(/^o /gm)?.length ?? 0).toBeLessThan(2);
    expect(words(mtlOf(split).bytes)).toBe(twoMtl);
    // put together again it shows both pictures, as it did
    const { job: back } = await runOperation(split, 'rejoinParts', {});
    expect(back.parts.map(({ imageId }) => nameOf(imageId))).toEqual(['red.png']);
    expect(back.materialLayers?.map(({ material, layers }) => [material, layers[0]!.name])).toEqual([['iron', 'blue.png']]);
    expect(words(mtlOf(back).bytes)).toBe(twoMtl);
    await readBack(split, split.parts, [{ name: 'two.obj', bytes: text(obj) }]);
    const ply = writePly(split.parts);
    await readBack(split, split.parts, [{ name: 'two.ply', bytes: ply }]);
    const glb = await writeGlb(split.parts, split.files, split.images, undefined, split.materialLayers);
    await readBack(split, split.parts, [{ name: 'two.glb', bytes: glb.bytes }]);
    const again = await openFiles([{ name: 'two.glb', bytes: glb.bytes }], 'again');
    expect(again.parts).toHaveLength(1);
    expect(again.materialLayers?.map(({ material }) => material)).toEqual(['iron']);
  });

  it('are not put together where a material has no room for the picture of its piece; no layer is lost', async () => {
    let { job } = await runOperation(await two(), 'splitParts', {});
    const full = async (count: number) => {
      while ((job.materialLayers?.[0]?.layers.length ?? 0) < count)
        ({ job } = await runOperation(job, 'addLayer', { material: 'iron', layer: { name: 'rust', source: { kind: 'colour' } } }));
      return runOperation(job, 'rejoinParts', {});
    };
    const { job: joined } = await full(mostLayers - 1);
    expect(joined.materialLayers![0]!.layers.map(({ name }) => name)).toHaveLength(mostLayers);
    expect(joined.materialLayers![0]!.layers[0]!.name).toBe('blue.png');
    await expect(full(mostLayers)).rejects.toThrow(/“iron” has 16 layers/);
  });

  it('are told where there is one only, or an id is wrong', async () => {
    const { job } = await runOperation(await two(), 'splitParts', {});
    await expect(runOperation(job, 'splitParts', {})).rejects.toThrow('No part has more than one material.');
    await expect(runOperation(job, 'splitParts', { parts: ['none'] })).rejects.toThrow('There is no part “none”');
    await expect(runOperation(job, 'splitParts', { by: 'selected' })).rejects.toThrow('Some, but not all faces');
    await expect(runOperation(await two(), 'rejoinParts', {})).rejects.toThrow('No part was split.');
  });
});

describe('pieces', () => {
  /** A part with marks of every kind. */
  async function marked(): Promise<Job> {
    // one part of the whole file, as most files of several materials come
    const lines = words(readFileSync('/usr/share/assimp/models/OBJ/spider.obj'))
      .split('\n')
      .filter((line) => !/^(o|mtllib) /.test(line));
    let job = await openFiles([{ name: 'spider.obj', bytes: text(lines.join('\n')) }], 'job');
    const part = job.parts[0]!;
    const faces = faceCount(part.mesh);
    const set = activeSet(part);
    const slit = Uint32Array.from([100, 101]);
    job = withSet(job, part.id, {
      ...set,
      pins: set.pins.map((_, k) => (k % 7 === 0 ? 1 : 0)),
      slits: slit,
      stack: Uint32Array.from({ length: faces }, (_, f) => f % 3),
      weight: Float64Array.from({ length: faces }, (_, f) => 1 + (f % 4)),
      straight: Uint8Array.from({ length: part.mesh.corners.length }, (_, c) => c % 4),
    });
    job = {
      ...job,
      parts: job.parts.map((one) => ({
        ...one,
        hidden: Uint8Array.from({ length: faces }, (_, f) => (f % 5 === 0 ? 1 : 0)),
        grain: Float64Array.from({ length: faces * 3 }, (_, k) => k % 11),
      })),
    };
    job = (await runOperation(job, 'addJigs', { items: [{ name: 'a', jig: { kind: 'planar' }, faces: [...Array(60).keys()] }], live: false } as never)).job;
    return (await runOperation(job, 'keepVersion', { name: 'as it came' })).job;
  }

  it('put together are what they were, with all marks, jigs and versions (a real mesh of five materials)', async () => {
    const job = await marked();
    const materials = job.parts[0]!.mesh.materials.length;
    expect(materials).toBeGreaterThan(3);
    const { job: split } = await runOperation(job, 'splitParts', {});
    expect(split.parts).toHaveLength(materials);
    expect(split.parts.reduce((sum, { mesh }) => sum + faceCount(mesh), 0)).toBe(faceCount(job.parts[0]!.mesh));
    expect(split.jigs![0]!.drives.reduce((sum, { faces }) => sum + faces.length, 0)).toBe(60);
    const { job: back } = await runOperation(split, 'rejoinParts', {});
    expect(back.parts).toHaveLength(1);
    const [was, is] = [job.parts[0]!, back.parts[0]!];
    expect([is.id, is.name, is.piece, is.pieces]).toEqual([was.id, was.name, undefined, undefined]);
    expect(is.origin).toEqual(was.origin);
    for (const key of ['points', 'faceStart', 'corners', 'faceSmooth'] as const) expect(is.mesh[key], key).toEqual(was.mesh[key]);
    expect(Array.from(is.mesh.faceMaterial, (m) => is.mesh.materials[m])).toEqual(Array.from(was.mesh.faceMaterial, (m) => was.mesh.materials[m]));
    expect(is.hidden).toEqual(was.hidden);
    expect(is.grain).toEqual(was.grain);
    const [before, after] = [layoutOf(job), layoutOf(back)];
    // slits whose two sides are in two pieces are seams there, and nothing to be kept
    expect({ ...after, slits: [] }).toEqual({ ...before, slits: [] });
    expect(after.slits.every((e) => before.slits.includes(e))).toBe(true);
    expect(back.jigs![0]!.drives.map(({ part, faces }) => [part, [...faces]])).toEqual(job.jigs![0]!.drives.map(({ part, faces }) => [part, [...faces]]));
    // the version is one of the pieces, and of the whole again
    expect(split.versions![0]!.layouts.map(({ part }) => part)).toEqual(split.parts.map(({ id }) => id));
    const { job: gone } = await runOperation(split, 'useVersion', { version: split.versions![0]!.id });
    expect(gone.parts.map((_, k) => layoutOf(gone, k).corners)).toEqual(split.parts.map((_, k) => layoutOf(split, k).corners));
    expect(back.versions![0]!.layouts.map(({ part }) => part)).toEqual([was.id]);
    const { job: version } = await runOperation(back, 'useVersion', { version: back.versions![0]!.id });
    expect(layoutOf(version).corners).toEqual(before.corners);
  });

  it('of pieces go back to the one whole, too; an archive keeps them', async () => {
    const job = await marked();
    const { job: once } = await runOperation(job, 'splitParts', { sheets: false });
    const largest = [...once.parts].sort((a, b) => faceCount(b.mesh) - faceCount(a.mesh))[0]!;
    const chosen = {
      ...once,
      activePart: largest.id,
      selection: { part: largest.id, kind: 'faces' as const, ids: Uint32Array.from({ length: 40 }, (_, k) => k * 2) },
    };
    const { job: twice } = await runOperation(chosen, 'splitParts', { by: 'selected' });
    expect(twice.parts).toHaveLength(once.parts.length + 1);
    const { job: read } = readArchive(writeArchive(twice));
    expect(read.parts.map(({ piece }) => piece?.faces.length)).toEqual(twice.parts.map(({ mesh }) => faceCount(mesh)));
    const [written, before] = [words(writeObj(read.parts, null)), words(writeObj(job.parts, null))];
    expect(pointsOfObj(written)).toEqual(pointsOfObj(before));
    expect(facesOfObj(written)).toEqual(facesOfObj(before));
    const { job: back } = await runOperation(read, 'rejoinParts', {});
    expect(layoutOf(back).corners).toEqual(layoutOf(job).corners);
  });

  it('stay parts of their own where one is missing, or was changed; counts that an archive states are not followed', async () => {
    const { job } = await runOperation(await two(), 'splitParts', {});
    expect(wholeParts([job.parts[0]!])).toEqual([job.parts[0]!]);
    await expect(runOperation(job, 'rejoinParts', { parts: [job.parts[0]!.id] })).resolves.toMatchObject({ report: { pieces: 2 } });
    const moved = job.parts.map((part, k) => (k === 1 ? { ...part, mesh: { ...part.mesh, points: part.mesh.points.map((x) => x + 0.25) } } : part));
    expect(wholeParts(moved)).toHaveLength(2);
    const huge = job.parts.map((part) => ({ ...part, piece: { ...part.piece!, faceCount: 2 ** 40, pointCount: 2 ** 40 } }));
    expect(wholeParts(huge)).toHaveLength(2);
    const alone = { ...job, parts: job.parts.slice(0, 1), activePart: job.parts[0]!.id };
    await expect(runOperation(alone, 'rejoinParts', {})).rejects.toThrow('A piece is missing');
    const beyond = { ...job, parts: job.parts.map((part) => ({ ...part, piece: { ...part.piece!, faces: Uint32Array.from([7]) } })) };
    const { job: read } = readArchive(writeArchive(beyond));
    expect(read.parts.every(({ piece }) => piece === undefined)).toBe(true);
    expect(read.intake.join(' ')).toContain('split off');
  });

  it('of a glTF are written into it: other attributes, each material’s image and placement stay; the layouts are those of the pieces', async () => {
    const document = new Document();
    const buffer = document.createBuffer();
    const extension = document.createExtension(KHRTextureTransform);
    const vector = (type: 'VEC2' | 'VEC3', list: number[]) => document.createAccessor().setType(type).setArray(Float32Array.from(list)).setBuffer(buffer);
    const mesh = document.createMesh('crate');
    for (const [k, name] of ['lid', 'side'].entries()) {
      const texture = document
        .createTexture(`${name}.png`)
        .setMimeType('image/png')
        .setImage(png([60 * k, 90, 20]) as Uint8Array<ArrayBuffer>);
      const material = document.createMaterial(name).setBaseColorTexture(texture);
      material.getBaseColorTextureInfo()!.setExtension('KHR_texture_transform', extension.createTransform().setScale(k === 0 ? [2, 2] : [5, 5]));
      mesh.addPrimitive(
        document
          .createPrimitive()
          .setMaterial(material)
          .setAttribute('POSITION', vector('VEC3', [k, 0, 0, k + 1, 0, 0, k + 1, 1, 0, k, 1, 0]))
          .setAttribute('COLOR_0', vector('VEC3', [k, 0, 0, 0, 1, 0, 0, 0, 1, 1, 1, 0]))
          .setAttribute('TEXCOORD_0', vector('VEC2', [0, 0, 1, 0, 1, 1, 0, 1]))
          .setIndices(
            document
              .createAccessor()
              .setType('SCALAR')
              .setArray(Uint16Array.from([0, 1, 2, 0, 2, 3]))
              .setBuffer(buffer),
          ),
      );
    }
    document.createScene('s').addChild(document.createNode('crate').setMesh(mesh));
    const io = new WebIO().registerExtensions(ALL_EXTENSIONS);
    const job = await openFiles([{ name: 'crate.glb', bytes: await io.writeBinary(document) }], 'job');
    const scales = async (bytes: Uint8Array) => {
      const read = await io.readBinary(bytes);
      const primitives = read.getRoot().listMeshes()[0]!.listPrimitives();
      return primitives.map((primitive) => {
        const material = primitive.getMaterial()!;
        const placed = material.getBaseColorTextureInfo()!.getExtension<Transform>('KHR_texture_transform');
        return [
          material.getName(),
          material.getBaseColorTexture()!.getName(),
          placed?.getScale()[0],
          [...primitive.getAttribute('COLOR_0')!.getArray()!].join(''),
        ];
      });
    };
    const expected = [
      ['lid', 'lid.png', 2, '000010001110'],
      ['side', 'side.png', 5, '100010001110'],
    ];
    const whole = await writeGlb(job.parts, job.files, job.images, undefined, job.materialLayers);
    expect(await scales(whole.bytes)).toEqual(expected);
    const { job: split } = await runOperation(job, 'splitParts', {});
    const moved = withSet(split, split.parts[1]!.id, { ...activeSet(split.parts[1]!), uv: activeSet(split.parts[1]!).uv.map((x) => x * 0.5) });
    const { bytes } = await writeGlb(moved.parts, moved.files, moved.images, undefined, moved.materialLayers);
    expect(await scales(bytes)).toEqual(expected);
    await readBack(moved, moved.parts, [{ name: 'crate.glb', bytes }]);
    const primitives = (await io.readBinary(bytes)).getRoot().listMeshes()[0]!.listPrimitives();
    const largest = primitives.map((primitive) => Math.max(...primitive.getAttribute('TEXCOORD_0')!.getArray()!));
    expect(largest[0]).toBe(1);
    // v runs down in glTF: half of what it was, from the top
    expect(Math.max(...[...primitives[1]!.getAttribute('TEXCOORD_0')!.getArray()!].filter((_, k) => k % 2 === 0))).toBe(0.5);
  });

  it('a placement written to the UVs is not in the GLB a second time', async () => {
    const job = await two();
    const placed = (await runOperation(job, 'placeImage', { placement: { repeats: [3, 3] } })).job;
    const glb = await writeGlb(placed.parts, placed.files, placed.images, undefined, placed.materialLayers);
    const opened = await openFiles([{ name: 'two.glb', bytes: glb.bytes }], 'again');
    expect(opened.parts[0]!.placement).toBeDefined();
    const { job: written } = await runOperation(opened, 'writePlacement', { part: opened.parts[0]!.id } as never);
    const { bytes } = await writeGlb(written.parts, written.files, written.images, undefined, written.materialLayers);
    const last = await openFiles([{ name: 'two.glb', bytes }], 'last');
    expect(last.parts[0]!.placement).toBeUndefined();
  });
});
