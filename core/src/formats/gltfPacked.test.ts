import { Accessor, Document, WebIO } from '@gltf-transform/core';
import { EXTMeshoptCompression, KHRDracoMeshCompression, KHRMeshQuantization, KHRTextureBasisu } from '@gltf-transform/extensions';
import { createDecoderModule, createEncoderModule } from 'draco3dgltf';
import { MeshoptDecoder } from 'meshoptimizer/decoder';
import { MeshoptEncoder } from 'meshoptimizer/encoder';
import { validateBytes } from 'gltf-validator';
import { describe, expect, it } from 'vitest';
import { readGltf } from './gltfRead.ts';
import { openFiles } from './open.ts';
import { writeGlb } from './gltfWrite.ts';
import { runOperation } from '../ops/registry.ts';

/* Packed by Draco's and meshoptimizer's own encoders, which nobody here made. */

/** A bent sheet with UVs: (n + 1)² vertices. */
function sheet(n: number, quantized = false): Document {
  const document = new Document();
  const buffer = document.createBuffer();
  const points: number[] = [];
  const uv: number[] = [];
  const indices: number[] = [];
  for (let j = 0; j <= n; j++)
    for (let i = 0; i <= n; i++) {
      points.push(i / n, j / n, 0.3 * Math.sin((3 * i) / n));
      uv.push(i / n, j / n);
    }
  for (let j = 0; j < n; j++)
    for (let i = 0; i < n; i++) {
      const a = j * (n + 1) + i;
      indices.push(a, a + 1, a + n + 2, a, a + n + 2, a + n + 1);
    }
  const accessor = (
    name: string,
    type: 'VEC2' | 'VEC3' | 'SCALAR',
    array: Float32Array<ArrayBuffer> | Uint32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>,
    normalized = false,
  ) => document.createAccessor(name).setType(Accessor.Type[type]!).setArray(array).setNormalized(normalized).setBuffer(buffer);
  const round = (values: number[]) => new Uint16Array(values.map((x) => Math.round(Math.max(0, x) * 65535)));
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', quantized ? accessor('p', 'VEC3', round(points), true) : accessor('p', 'VEC3', new Float32Array(points)))
    .setAttribute('TEXCOORD_0', quantized ? accessor('t', 'VEC2', round(uv), true) : accessor('t', 'VEC2', new Float32Array(uv)))
    .setIndices(accessor('i', 'SCALAR', new Uint32Array(indices)));
  const mesh = document.createMesh('Sheet').addPrimitive(primitive);
  document.createScene().addChild(
    document
      .createNode('Sheet')
      .setMesh(mesh)
      .setScale(quantized ? [4, 4, 4] : [1, 1, 1]),
  );
  if (quantized) document.createExtension(KHRMeshQuantization).setRequired(true);
  return document;
}

async function draco(n: number) {
  const document = sheet(n);
  document
    .createExtension(KHRDracoMeshCompression)
    .setRequired(true)
    .setEncoderOptions({ method: KHRDracoMeshCompression.EncoderMethod.EDGEBREAKER, quantizationBits: { POSITION: 16, TEX_COORD: 14 } });
  const io = new WebIO()
    .registerExtensions([KHRDracoMeshCompression])
    .registerDependencies({ 'draco3d.encoder': await createEncoderModule({}), 'draco3d.decoder': await createDecoderModule({}) });
  return io.writeBinary(document);
}
async function meshopt(n: number, quantized = false) {
  const document = sheet(n, quantized);
  document.createExtension(EXTMeshoptCompression).setRequired(true).setEncoderOptions({ method: EXTMeshoptCompression.EncoderMethod.QUANTIZE });
  await MeshoptEncoder.ready;
  const io = new WebIO()
    .registerExtensions([EXTMeshoptCompression, KHRMeshQuantization])
    .registerDependencies({ 'meshopt.encoder': MeshoptEncoder, 'meshopt.decoder': MeshoptDecoder });
  return io.writeBinary(document);
}

const bounds = (points: Float64Array) =>
  [0, 1, 2].map((d) => {
    const column = points.filter((_, k) => k % 3 === d);
    return [Math.min(...column), Math.max(...column)];
  });

describe('packed glTF', () => {
  it.each([
    ['Draco', draco],
    ['meshopt', (n: number) => meshopt(n)],
    ['meshopt and quantization', (n: number) => meshopt(n, true)],
  ])('%s: the form and the UVs that were packed come out, a new layout is written unpacked and valid', async (name, make) => {
    const bytes = await make(24);
    const { parts } = await readGltf(bytes);
    expect(parts).toHaveLength(1);
    const { mesh, uvSets } = parts[0]!;
    expect(mesh.faceStart.length - 1).toBe(2 * 24 * 24);
    expect(mesh.points.length / 3).toBe(25 * 25);
    const size = name.includes('quantization') ? 4 : 1;
    const [x, y] = bounds(mesh.points);
    for (const [low, high] of [x!, y!]) {
      expect(low).toBeCloseTo(0, 3);
      expect(high).toBeCloseTo(size, 3);
    }
    // at each corner u is x and v, turned to run up, is 1 − y, whatever order the points have now
    for (let c = 0; c < mesh.corners.length; c += 7) {
      const [p, t] = [mesh.corners[c]!, uvSets[0]!.cornerUv[c]!];
      expect(uvSets[0]!.uv[2 * t]).toBeCloseTo(mesh.points[3 * p]! / size, 3);
      expect(uvSets[0]!.uv[2 * t + 1]).toBeCloseTo(1 - mesh.points[3 * p + 1]! / size, 3);
    }
    const job = await openFiles([{ name: 'sheet.glb', bytes }], 'test');
    const { job: laid } = await runOperation(job, 'firstLayout', {});
    const { bytes: written } = await writeGlb(laid.parts, laid.files, laid.images);
    const text = new TextDecoder('latin1').decode(written);
    expect(text).not.toMatch(/draco|meshopt/);
    const report = await validateBytes(written);
    expect([report.issues.numErrors, report.issues.messages.filter(({ severity }: { severity: number }) => severity === 0)]).toEqual([0, []]);
    expect((await readGltf(written)).parts[0]!.mesh.faceStart.length - 1).toBe(2 * 24 * 24);
  });

  it('that is damaged, cut or states more than there is, is refused in a sentence', async () => {
    for (const bytes of [await draco(12), await meshopt(12)]) {
      const view = new DataView(bytes.buffer, bytes.byteOffset);
      const start = 20 + view.getUint32(12, true) + 8;
      const damaged = bytes.slice();
      damaged.fill(0xff, start, start + 40);
      await expect(readGltf(damaged)).rejects.toThrow(/is damaged|not built as glTF/);
      const json = JSON.parse(new TextDecoder().decode(bytes.subarray(20, start - 8))) as {
        accessors: { count: number }[];
        bufferViews: { extensions?: Record<string, { count?: number }> }[];
      };
      for (const accessor of json.accessors) accessor.count = 900_000_000;
      for (const { extensions } of json.bufferViews) if (extensions?.EXT_meshopt_compression) extensions.EXT_meshopt_compression.count = 900_000_000;
      const head = new TextEncoder().encode(JSON.stringify(json).padEnd(Math.ceil(JSON.stringify(json).length / 4) * 4));
      const hostile = new Uint8Array(20 + head.length + bytes.length - (start - 8));
      hostile.set(bytes.subarray(0, 20));
      new DataView(hostile.buffer).setUint32(12, head.length, true);
      new DataView(hostile.buffer).setUint32(8, hostile.length, true);
      hostile.set(head, 20);
      hostile.set(bytes.subarray(start - 8), 20 + head.length);
      await expect(readGltf(hostile)).rejects.toThrow(/far more data than it holds/);
    }
  });

  it('with a picture packed by Basis opens without it, and says so', async () => {
    const document = sheet(2);
    document.createExtension(KHRTextureBasisu).setRequired(true);
    const texture = document
      .createTexture('Tiles')
      .setMimeType('image/ktx2')
      .setImage(new Uint8Array([0xab, 0x4b, 0x54, 0x58, 0x20, 0x32, 0x30, 0xbb, ...new Array<number>(80).fill(0)]));
    document.getRoot().listMeshes()[0]!.listPrimitives()[0]!.setMaterial(document.createMaterial('Clay').setBaseColorTexture(texture));
    const bytes = await new WebIO().registerExtensions([KHRTextureBasisu]).writeBinary(document);
    const job = await openFiles([{ name: 'sheet.glb', bytes }], 'test');
    expect(job.images).toEqual([]);
    expect(job.intake.join('\n')).toMatch(/“Tiles” is packed as KTX2/);
  });
});
