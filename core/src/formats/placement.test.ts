import { Document, WebIO } from '@gltf-transform/core';
import { encode } from 'fast-png';
import { PNG } from 'pngjs';
import { describe, expect, it } from 'vitest';
import { activeSet, partOf, withSet } from '../job/job.ts';
import { bounds } from '../mesh/mesh.ts';
import { faceNormals } from '../mesh/normals.ts';
import { openFiles } from './open.ts';
import { readBack } from './readBack.ts';
import { writeGlb } from './gltfWrite.ts';

/** A unit square in the xy plane facing +z, with the whole image on it, under nodes that the test gives it. */
async function square(nodes: (document: Document, mesh: ReturnType<Document['createMesh']>) => void, image?: Uint8Array): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const accessor = (type: 'VEC2' | 'VEC3', array: number[]) => document.createAccessor().setType(type).setArray(Float32Array.from(array)).setBuffer(buffer);
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]))
    // glTF: the first row of the picture is v = 0
    .setAttribute('TEXCOORD_0', accessor('VEC2', [0, 1, 1, 1, 1, 0, 0, 0]))
    .setIndices(
      document
        .createAccessor()
        .setType('SCALAR')
        .setArray(Uint16Array.of(0, 1, 2, 0, 2, 3))
        .setBuffer(buffer),
    );
  if (image) {
    const texture = document
      .createTexture('face.png')
      .setImage(image as Uint8Array<ArrayBuffer>)
      .setMimeType('image/png');
    primitive.setMaterial(document.createMaterial('face').setBaseColorTexture(texture));
  }
  const mesh = document.createMesh('Square').addPrimitive(primitive);
  document.createScene('s');
  nodes(document, mesh);
  return new WebIO().writeBinary(document);
}
const open = (bytes: Uint8Array) => openFiles([{ name: 'square.glb', bytes }], 'job');
const scene = (document: Document) => document.getRoot().listScenes()[0]!;

describe('where glTF nodes put a mesh', () => {
  it('moves, turns and sizes of all nodes above it count (glTF 2.0, 3.5.3: T · R · S, parents first)', async () => {
    const job = await open(
      await square((document, mesh) => {
        const half = Math.SQRT1_2;
        // a quarter turn about z, then a move: the square's x runs up
        const inner = document.createNode('inner').setMesh(mesh).setScale([2, 1, 1]);
        const middle = document.createNode('middle').setRotation([0, 0, half, half]).addChild(inner);
        scene(document).addChild(document.createNode('outer').setTranslation([10, 0, -3]).addChild(middle));
      }),
    );
    const box = bounds(partOf(job).mesh).map((x) => Math.round(x * 1e6) / 1e6 + 0);
    expect(box).toEqual([9, 0, -3, 10, 2, -3]);
  });

  it('a mirroring node keeps the outside outside, and the file gets its own winding back', async () => {
    const bytes = await square((document, mesh) => scene(document).addChild(document.createNode('n').setMesh(mesh).setScale([-1, 1, 1])));
    const job = await open(bytes);
    const part = partOf(job);
    expect(bounds(part.mesh).map((x) => x + 0)).toEqual([-1, 0, 0, 0, 1, 0]);
    expect([...faceNormals(part.mesh)].map((x) => Math.round(x) + 0)).toEqual([0, 0, 1, 0, 0, 1]);
    const set = activeSet(part);
    const moved = withSet(job, part.id, { ...set, uv: set.uv.map((x) => x / 2) });
    const out = (await writeGlb(moved.parts, moved.files)).bytes;
    const document = await new WebIO().readBinary(out as Uint8Array<ArrayBuffer>);
    const primitive = document.getRoot().listMeshes()[0]!.listPrimitives()[0]!;
    const position = primitive.getAttribute('POSITION')!;
    const at = [...primitive.getIndices()!.getArray()!].map((v) => position.getElement(v, [0, 0, 0]));
    // in its own space the first triangle is still wound counter-clockwise seen from +z
    const [a, b, c] = at as [number[], number[], number[]];
    expect((b[0]! - a[0]!) * (c[1]! - a[1]!) - (c[0]! - a[0]!) * (b[1]! - a[1]!)).toBeGreaterThan(0);
    expect((await readBack(moved, moved.parts, [{ name: 'square.glb', bytes: out }])).uvError).toBeLessThan(1e-6);
  });

  it('a mesh in several places is one part, and that is said', async () => {
    const job = await open(
      await square((document, mesh) => {
        scene(document).addChild(document.createNode('left').setMesh(mesh));
        scene(document).addChild(document.createNode('right').setMesh(mesh).setTranslation([5, 0, 0]));
      }),
    );
    expect(job.parts).toHaveLength(1);
    expect(job.intake.join('\n')).toMatch(/Square stands in 2 places/);
  });

  it('a skinned mesh stays where its bones have it', async () => {
    const job = await open(
      await square((document, mesh) => {
        const joint = document.createNode('bone');
        scene(document).addChild(joint);
        scene(document).addChild(document.createNode('n').setMesh(mesh).setSkin(document.createSkin().addJoint(joint)).setTranslation([7, 0, 0]));
      }),
    );
    expect(bounds(partOf(job).mesh)[0]).toBe(0);
  });
});

describe('pictures are the right way up from every format', () => {
  // four different quarters: red top left, green top right, blue bottom left, white bottom right
  const quarters = [
    [255, 0, 0],
    [0, 255, 0],
    [0, 0, 255],
    [255, 255, 255],
  ];
  const data = new Uint8Array(8 * 8 * 4);
  for (let y = 0; y < 8; y++) for (let x = 0; x < 8; x++) data.set([...quarters[(y < 4 ? 0 : 2) + (x < 4 ? 0 : 1)]!, 255], (y * 8 + x) * 4);
  const picture = encode({ width: 8, height: 8, data, channels: 4, depth: 8 });

  /** What the sheet shows at a place of the model: its UVs (v up) read from the picture by a second decoder (first row on top). */
  function shownAt(job: Awaited<ReturnType<typeof open>>, x: number, y: number): number {
    const { mesh, imageId } = partOf(job);
    const set = activeSet(partOf(job));
    const image = PNG.sync.read(Buffer.from(job.images.find((i) => i.id === imageId)!.bytes));
    // the corner at (x, y), drawn in a little towards the middle of the square
    const c = [...mesh.corners.keys()].find((k) => mesh.points[mesh.corners[k]! * 3] === x && mesh.points[mesh.corners[k]! * 3 + 1] === y)!;
    const [u, v] = [0, 1].map((d) => 0.5 + (set.uv[set.cornerUv[c]! * 2 + d]! - 0.5) * 0.8) as [number, number];
    const k = (Math.floor((1 - v) * 8) * 8 + Math.floor(u * 8)) * 4;
    return quarters.findIndex((q) => q.every((tone, d) => image.data[k + d] === tone));
  }
  const corners = (job: Awaited<ReturnType<typeof open>>) => [shownAt(job, 0, 1), shownAt(job, 1, 1), shownAt(job, 0, 0), shownAt(job, 1, 0)];

  it('glTF: v 0 is the first row (Khronos glTF 2.0, 3.8.3)', async () => {
    const job = await open(await square((document, mesh) => scene(document).addChild(document.createNode('n').setMesh(mesh)), picture));
    expect(corners(job)).toEqual([0, 1, 2, 3]);
  });

  it('OBJ: vt 0 0 is the bottom left (Wavefront, Appendix B1)', async () => {
    const obj = 'mtllib m.mtl\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nusemtl face\nf 1/1 2/2 3/3 4/4\n';
    const text = (words: string) => new TextEncoder().encode(words);
    const job = await openFiles(
      [
        { name: 'm.obj', bytes: text(obj) },
        { name: 'm.mtl', bytes: text('newmtl face\nmap_Kd face.png\n') },
        { name: 'face.png', bytes: picture },
      ],
      'job',
    );
    expect(corners(job)).toEqual([0, 1, 2, 3]);
  });

  it('the facts of texture coordinates: (0, 1) is the top left, (0.25, 0.33) lies in the lower left quarter', async () => {
    const job = await open(await square((document, mesh) => scene(document).addChild(document.createNode('n').setMesh(mesh)), picture));
    const set = activeSet(partOf(job));
    const { mesh } = partOf(job);
    const c = [...mesh.corners.keys()].find((k) => mesh.points[mesh.corners[k]! * 3] === 0 && mesh.points[mesh.corners[k]! * 3 + 1] === 1)!;
    expect([set.uv[set.cornerUv[c]! * 2], set.uv[set.cornerUv[c]! * 2 + 1]]).toEqual([0, 1]);
    expect([...data.subarray((Math.floor((1 - 0.33) * 8) * 8 + Math.floor(0.25 * 8)) * 4).subarray(0, 3)]).toEqual(quarters[2]);
  });
});
