import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { JigError } from '../jigError.ts';
import { activeSet, newJob, type Part } from '../job/job.ts';
import { box, cylinder, sphere } from '../mesh/starterForms.ts';
import { runOperation } from '../ops/registry.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { openFiles } from './open.ts';
import { readPly, writePly } from './ply.ts';
import { readBack } from './readBack.ts';
import { readStl } from './stl.ts';

const text = (lines: string[]) => new TextEncoder().encode(lines.join('\n') + '\n');
const partOf = (id: string, mesh: Part['mesh']): Part => ({
  id,
  name: id,
  mesh,
  uvSets: [emptyUvSet(mesh)],
  activeUv: 0,
  imageId: null,
  origin: { kind: 'made' },
});

const header = (format: string) => [
  'ply',
  `format ${format} 1.0`,
  'comment a square and a triangle',
  'element vertex 5',
  'property float x',
  'property float y',
  'property float z',
  'property uchar red',
  'property uchar green',
  'property uchar blue',
  'property float s',
  'property float t',
  'element face 2',
  'property uchar flags',
  'property list uchar int vertex_indices',
  'element edge 1',
  'property int vertex1',
  'property int vertex2',
  'end_header',
];
const rows = [
  [0, 0, 0, 255, 0, 0, 0, 0],
  [1, 0, 0, 0, 255, 0, 0.5, 0],
  [1, 1, 0, 0, 0, 255, 0.5, 0.5],
  [0, 1, 0, 51, 51, 51, 0, 0.5],
  [2, 0.5, 0, 255, 255, 255, 1, 0.25],
];
const faces = [
  [0, 1, 2, 3],
  [1, 4, 2],
];

function binary(little: boolean): Uint8Array {
  const head = text(header(little ? 'binary_little_endian' : 'binary_big_endian'));
  const body = new DataView(new ArrayBuffer(400));
  let at = 0;
  for (const row of rows) {
    row.forEach((value, k) => {
      if (k >= 3 && k < 6) body.setUint8(at++, value);
      else {
        body.setFloat32(at, value, little);
        at += 4;
      }
    });
  }
  for (const face of faces) {
    body.setUint8(at++, 7);
    body.setUint8(at++, face.length);
    for (const p of face) {
      body.setInt32(at, p, little);
      at += 4;
    }
  }
  at += 8; // one edge
  const out = new Uint8Array(head.length + at);
  out.set(head);
  out.set(new Uint8Array(body.buffer, 0, at), head.length);
  return out;
}

const ascii = () => text([...header('ascii'), ...rows.map((row) => row.join(' ')), ...faces.map((face) => `7 ${face.length} ${face.join(' ')}`), '0 1']);

describe('PLY in (by its published description)', () => {
  it.each([
    ['text', ascii()],
    ['text with CRLF', new TextEncoder().encode(new TextDecoder().decode(ascii()).replaceAll('\n', '\r\n'))],
    ['binary, little end first', binary(true)],
    ['binary, big end first', binary(false)],
  ])('%s: points in order, polygons, colours, UVs at the points; other elements are passed over and said', (_name, bytes) => {
    const { mesh, uvSet, skipped } = readPly(bytes);
    expect([...mesh.points]).toEqual(rows.flatMap((row) => row.slice(0, 3)));
    expect([...mesh.faceStart]).toEqual([0, 4, 7]);
    expect([...mesh.corners]).toEqual(faces.flat());
    expect([...mesh.pointColors!.slice(9, 12)]).toEqual([0.2, 0.2, 0.2]);
    expect([...uvSet!.uv]).toEqual(rows.flatMap((row) => row.slice(6, 8)));
    expect(skipped).toEqual(['1 of “edge” were passed over']);
  });

  it('UVs at the corners part the layout where they differ', () => {
    const { uvSet, mesh } = readPly(
      text([
        'ply',
        'format ascii 1.0',
        'element vertex 4',
        'property double x',
        'property double y',
        'property double z',
        'element face 2',
        'property list uchar uint vertex_index',
        'property list uchar float texcoord',
        'end_header',
        '0 0 0',
        '1 0 0',
        '1 1 0',
        '0 1 0',
        '3 0 1 2 6 0 0 1 0 1 1',
        '3 0 2 3 6 0 0 0.5 0.5 0 1',
      ]),
    );
    expect(mesh.corners.length).toBe(6);
    // the corner at point 0 is shared, the one at point 2 is not
    expect(uvSet!.cornerUv[0]).toBe(uvSet!.cornerUv[3]);
    expect(uvSet!.cornerUv[2]).not.toBe(uvSet!.cornerUv[4]);
  });

  it.each([
    ['', /empty/],
    ['hello\n', /not a PLY file/],
    ['ply\nformat ascii 1.0\n', /cut short/],
    ['ply\nformat middle_endian 1.0\nend_header\n', /not one that PLY knows/],
    ['ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nend_header\n1\n', /no x, y and z/],
    ['ply\nformat ascii 1.0\nelement vertex 999999999\nproperty float x\nproperty float y\nproperty float z\nend_header\n', /more than the file can hold/],
    ['ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nend_header\n0 nan 0\n', /“nan” is not a number/],
    ['ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nend_header\n0 1 0\n', /1 points but no faces/],
    [
      'ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 3\n',
      /uses point 3, but there are 3/,
    ],
  ])('bad file %#: one clear sentence', (content, words) => {
    expect(() => readPly(new TextEncoder().encode(content))).toThrow(words);
  });

  it('damaged anywhere it opens or says so, and never hangs (property)', () => {
    const sources = [ascii(), binary(true), binary(false)];
    fc.assert(
      fc.property(fc.nat(2), fc.nat(), fc.nat(255), fc.nat(), (which, at, byte, cut) => {
        const bytes = sources[which]!.slice();
        bytes[at % bytes.length] = byte;
        try {
          readPly(bytes.subarray(0, cut % 3 === 0 ? cut % bytes.length : bytes.length));
        } catch (error) {
          expect(error).toBeInstanceOf(JigError);
        }
      }),
      { numRuns: 300 },
    );
  });
});

describe('PLY out', () => {
  it('comes back the same: polygons, places, UVs to the last bit, parts one after the other', async () => {
    let job = newJob('j', 'props', [partOf('crate', box(1, 2, 3)), partOf('tin', cylinder(1, 2, 9, 2))]);
    for (const part of ['crate', 'tin']) job = (await runOperation(job, 'firstLayout', { part })).job;
    const bytes = writePly(job.parts);
    const report = await readBack(job, job.parts, [{ name: 'props.ply', bytes }]);
    expect([report.faces, report.uvError, report.pointError]).toEqual([6 + 20, 0, 0]);
    const again = readPly(bytes);
    const set = activeSet(job.parts[0]!);
    for (let c = 0; c < 24; c++) for (let d = 0; d < 2; d++) expect(again.uvSet!.uv[again.uvSet!.cornerUv[c]! * 2 + d]).toBe(set.uv[set.cornerUv[c]! * 2 + d]);
  });

  it('faces without a place get no UVs', () => {
    const part = partOf('ball', sphere(1, 8, 4));
    expect(readPly(writePly([part])).uvSet).toBeNull();
  });
});

describe('STL in (by its published description)', () => {
  const triangle = ['facet normal 0 0 1', 'outer loop', 'vertex 0 0 0', 'vertex 1 0 0', 'vertex 0 1 0', 'endloop', 'endfacet'];
  const other = ['facet normal 0 0 1', ' outer loop', '  vertex 1 0 0', '  vertex 1e0 1.0 -0', '  vertex 0 1 0', ' endloop', 'endfacet'];

  it('text: coincident points become one, each solid a group', () => {
    const mesh = readStl(text(['solid lid', ...triangle, 'endsolid lid', 'solid', ...other, 'endsolid']));
    expect([mesh.points.length / 3, mesh.faceStart.length - 1]).toEqual([4, 2]);
    expect([...mesh.corners]).toEqual([0, 1, 2, 1, 3, 2]);
    expect(mesh.groups).toEqual(['lid', 'solid 2']);
    expect([...mesh.faceGroup]).toEqual([0, 1]);
  });

  function binaryStl(triangles: number[][], title = 'a title'): Uint8Array {
    const out = new Uint8Array(84 + triangles.length * 50);
    out.set(new TextEncoder().encode(title));
    const view = new DataView(out.buffer);
    view.setUint32(80, triangles.length, true);
    triangles.forEach((t, k) => t.forEach((x, i) => view.setFloat32(84 + k * 50 + 12 + i * 4, x, true)));
    return out;
  }
  const two = [
    [0, 0, 0, 1, 0, 0, 0, 1, 0],
    [1, 0, 0, 1, 1, 0, 0, 1, 0],
  ];

  it.each(['a title', 'solid made elsewhere'])('binary, even if its title is “%s”', (title) => {
    const mesh = readStl(binaryStl(two, title));
    expect([mesh.points.length / 3, mesh.faceStart.length - 1]).toEqual([4, 2]);
  });

  it.each([
    [new Uint8Array(0), /empty/],
    [text(['hello']), /not an STL file/],
    [binaryStl(two).subarray(0, 150), /states 2 triangles but holds 1/],
    [binaryStl([[0, 0, 0, NaN, 0, 0, 0, 1, 0]]), /not a number/],
    [text(['solid x', ...triangle.slice(0, 4)]), /within a facet/],
    [text(['solid x', ...triangle.slice(0, 3), 'vertex 1 two 3']), /is not a place/],
    [text(['solid x', ...triangle.slice(0, 4), 'endloop', 'endfacet']), /2 points instead of three/],
    [text(['solid x', 'facet', 'endsolid']), /holds no triangles/],
  ])('bad file %#: one clear sentence', (bytes, words) => {
    expect(() => readStl(bytes)).toThrow(words);
  });

  it('opens as a job, says what came in, and delivers as PLY', async () => {
    const job = await openFiles([{ name: 'bracket.stl', bytes: binaryStl(two) }], 'j');
    expect(job.intake).toEqual(['bracket: 2 faces, 4 points, no UVs yet.']);
    expect(job.parts[0]!.name).toBe('bracket');
  });

  it('text in UTF-16 opens as OBJ, both ways round', async () => {
    const obj = 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n';
    for (const little of [true, false]) {
      const bytes = new Uint8Array(2 + obj.length * 2);
      bytes.set(little ? [0xff, 0xfe] : [0xfe, 0xff]);
      for (let k = 0; k < obj.length; k++) bytes[2 + k * 2 + (little ? 0 : 1)] = obj.charCodeAt(k);
      expect((await openFiles([{ name: 'a.obj', bytes }], 'j')).parts[0]!.mesh.corners.length).toBe(3);
    }
  });
});
