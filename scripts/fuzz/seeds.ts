import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import {
  box,
  cylinder,
  emptyUvSet,
  newJob,
  runOperation,
  sphere,
  torus,
  writeArchive,
  writeGlb,
  writeObj,
  writePly,
  type InputFile,
  type Mesh,
  type Part,
} from '@jig-peel/core';

/** A sound file, and those beside it that it needs. */
export interface Seed {
  file: InputFile;
  beside: InputFile[];
}

const models = '/usr/share/assimp/models';
const largest = 120_000;

/** Files of every format: made here, and the small ones of Debian's assimp-testmodels where they are installed. Always in the same order. */
export async function makeSeeds(): Promise<Seed[]> {
  const made = await madeHere();
  return existsSync(models) ? [...made, ...found(models).sort().flatMap(fromDisk)] : made;
}

const text = (all: string[]) => new TextEncoder().encode(all.join('\n') + '\n');
const alone = (name: string, bytes: Uint8Array): Seed => ({ file: { name, bytes }, beside: [] });
const part = (name: string, mesh: Mesh): Part => ({ id: name, name, mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } });

async function madeHere(): Promise<Seed[]> {
  let job = newJob('j', 'seeds', [
    part('crate', { ...box(), groups: ['lid'], faceGroup: new Int32Array(6), materials: ['wood'], faceMaterial: new Int32Array(6) }),
  ]);
  job = (await runOperation(job, 'firstLayout', {})).job;
  job = (await runOperation(job, 'select', { kind: 'edges', ids: [1, 3] })).job;
  job = (await runOperation(job, 'addJigs', { items: [{ name: 'drum', faces: [0, 1], jig: undefined }] }).catch(() => ({ job }))).job;
  const more = newJob('k', 'more', [part('ball', sphere(1, 8, 5)), part('ring', torus(1, 0.3, 8, 5)), part('drum', cylinder(1, 2, 6, 1))]);
  const triangles = [
    [0, 0, 0, 1, 0, 0, 0, 1, 0],
    [1, 0, 0, 1, 1, 0, 0, 1, 0],
  ];
  const binaryStl = new Uint8Array(84 + triangles.length * 50);
  const view = new DataView(binaryStl.buffer);
  view.setUint32(80, triangles.length, true);
  triangles.forEach((t, k) => t.forEach((x, i) => view.setFloat32(84 + k * 50 + 12 + i * 4, x, true)));
  const plyHead = ['ply', 'format ascii 1.0', 'element vertex 3', 'property float x', 'property float y', 'property float z', 'property uchar red'];
  return [
    alone('made.obj', writeObj(job.parts, null)),
    {
      file: {
        name: 'lib.obj',
        bytes: text(['mtllib lib.mtl', 'o a', 'v 0 0 0 1 0 0', 'v 1 0 0', 'v 0 1 0', 'vt 0 0', 'vn 0 0 1', 'usemtl m', 's 1', 'f 1/1/1 2/1/1 3/1/1', 'l 1 2']),
      },
      beside: [{ name: 'lib.mtl', bytes: text(['newmtl m', 'map_Kd -o 0.5 0 -s 2 2 picture.png']) }],
    },
    alone('more.obj', writeObj(more.parts, null)),
    alone('made.ply', writePly(job.parts)),
    alone(
      'text.ply',
      text([
        ...plyHead,
        'element face 1',
        'property list uchar int vertex_index',
        'property list uchar float texcoord',
        'end_header',
        '0 0 0 1',
        '1 0 0 2',
        '0 1 0 3',
        '3 0 1 2 6 0 0 1 0 0 1',
      ]),
    ),
    alone(
      'text.stl',
      text([
        'solid a',
        ...triangles.flatMap((t) => [
          'facet normal 0 0 1',
          'outer loop',
          ...[0, 3, 6].map((k) => `vertex ${t.slice(k, k + 3).join(' ')}`),
          'endloop',
          'endfacet',
        ]),
        'endsolid a',
      ]),
    ),
    alone('binary.stl', binaryStl),
    alone('made.glb', (await writeGlb(job.parts, [])).bytes),
    alone('more.glb', (await writeGlb(more.parts, [])).bytes),
    alone('made.jigpeel', writeArchive(job, ['one', 'two'])),
    alone('more.jigpeel', writeArchive(more)),
  ];
}

const found = (where: string): string[] =>
  readdirSync(where, { withFileTypes: true }).flatMap((entry) =>
    entry.isDirectory() ? found(join(where, entry.name)) : /\.(obj|ply|stl|gltf|glb)$/i.test(entry.name) ? [join(where, entry.name)] : [],
  );

function fromDisk(path: string): Seed[] {
  if (statSync(path).size > largest) return [];
  const read = (name: string): InputFile => ({ name, bytes: new Uint8Array(readFileSync(join(dirname(path), name))) });
  const beside = /\.(obj|gltf)$/i.test(path)
    ? readdirSync(dirname(path)).filter((name) => /\.(mtl|bin|png|jpe?g)$/i.test(name) && statSync(join(dirname(path), name)).size < 10 * largest)
    : [];
  return [{ file: read(basename(path)), beside: beside.map(read) }];
}
