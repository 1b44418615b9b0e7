import { describe, expect, it } from 'vitest';
import { newJob, type Part } from '../job/job.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { openFiles } from '../formats/open.ts';
import { writeGlb } from '../formats/gltfWrite.ts';
import { openGltf } from '../formats/gltfRead.ts';
import { cornerNormals } from './cornerNormals.ts';
import type { Mesh } from './mesh.ts';
import { box, cylinder, sphere } from './starterForms.ts';

const smooth = (angle: number) => ({ kind: 'smooth' as const, angle });
const distinct = (mesh: Mesh, choice = smooth(30)) => new Set(cornerNormals(mesh, choice).cornerNormal).size;

describe('normals of corners', () => {
  it('a ball is smooth: one normal a point, which points away from its middle', () => {
    const mesh = sphere(1, 24, 12);
    const { normals, cornerNormal } = cornerNormals(mesh, smooth(30));
    expect(distinct(mesh)).toBe(mesh.points.length / 3);
    mesh.corners.forEach((p, c) => {
      const n = cornerNormal[c]!;
      const dot = [0, 1, 2].reduce((sum, d) => sum + normals[n * 3 + d]! * mesh.points[p * 3 + d]!, 0);
      expect(dot).toBeGreaterThan(0.999);
    });
  });

  it('a box has creases: three normals a point, each a face’s own', () => {
    const { normals, cornerNormal } = cornerNormals(box(), smooth(30));
    expect(new Set(cornerNormal).size).toBe(24);
    for (let n = 0; n < normals.length; n += 3) expect(Math.abs(normals[n]!) + Math.abs(normals[n + 1]!) + Math.abs(normals[n + 2]!)).toBeCloseTo(1, 12);
  });

  it('the angle decides: a drum of 12 sides (30° a side, 90° at the lids)', () => {
    const drum = cylinder(1, 2, 12, 1);
    const points = drum.points.length / 3;
    expect(distinct(drum, smooth(31))).toBe(points + 24);
    expect(distinct(drum, smooth(91))).toBe(points);
    expect(distinct(drum, smooth(29))).toBeGreaterThan(points + 24);
  });

  it('smoothing groups that the file states go before the angle; “off” is flat', () => {
    const mesh = sphere(1, 8, 4);
    const faces = mesh.faceStart.length - 1;
    const grouped = { ...mesh, faceSmooth: new Int32Array(faces).fill(1) };
    expect(new Set(cornerNormals(grouped).cornerNormal).size).toBe(mesh.points.length / 3);
    const off = { ...mesh, faceSmooth: new Int32Array(faces).fill(0) };
    expect(new Set(cornerNormals(off).cornerNormal).size).toBe(mesh.corners.length);
  });

  it('the file’s own normals stand, unless another choice is made', () => {
    const mesh = box();
    const own = { ...mesh, normals: Float64Array.of(0, 0, 2), cornerNormal: new Int32Array(24) };
    expect([...cornerNormals(own).normals]).toEqual([0, 0, 1]);
    expect(new Set(cornerNormals(own, { kind: 'flat', angle: 30 }).cornerNormal).size).toBe(24);
  });
});

describe('vertices of a written GLB', () => {
  const part = (mesh: Mesh): Part => ({ id: 'p', name: 'p', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } });
  const vertices = async (mesh: Mesh, choice = smooth(30)) => {
    const job = newJob('j', 'j', [part(mesh)]);
    const { bytes } = await writeGlb(job.parts, [], [], choice);
    const document = await openGltf(bytes);
    const primitive = document.getRoot().listMeshes()[0]!.listPrimitives()[0]!;
    const again = (await openFiles([{ name: 'a.glb', bytes }], 'k')).parts[0]!.mesh;
    return { count: primitive.getAttribute('POSITION')!.getCount(), again };
  };

  it('are as many as points where nothing is a crease or seam, in the order of the triangles', async () => {
    const mesh = sphere(1, 32, 16);
    const { count, again } = await vertices(mesh);
    expect(count).toBe(mesh.points.length / 3);
    expect(again.faceStart.length).toBeGreaterThan(mesh.faceStart.length);
    expect((await vertices(mesh, { kind: 'flat', angle: 30 } as never)).count).toBe(mesh.corners.length);
  });
});
