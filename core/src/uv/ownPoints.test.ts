import { readFileSync } from 'node:fs';
import { basename } from 'node:path';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { openFiles } from '../formats/open.ts';
import { writeObj } from '../formats/objWrite.ts';
import { activeSet, type Job } from '../job/job.ts';
import { facesKey } from '../job/versions.ts';
import { meshFromFaces, nextCorner } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { runOperation } from '../ops/registry.ts';
import { islandsOf } from './islands.ts';
import { withOwnPoints } from './ownPoints.ts';
import { uvSetFrom } from './uvSet.ts';

const open = (obj: string) => openFiles([{ name: 'a.obj', bytes: new TextEncoder().encode(obj) }], 'job');
const written = (job: Job) => new TextDecoder().decode(writeObj(job.parts, null));

/** Two triangles that meet in one point of the model and one vt. */
const meeting = 'v 0 0 0\nv 1 0 0\nv 0 1 0\nv -2 0 0\nv 0 -2 0\nvt 0.5 0.5\nvt 0.6 0.5\nvt 0.5 0.6\nvt 0.3 0.5\nvt 0.5 0.3\nf 1/1 2/2 3/3\nf 1/1 4/4 5/5\n';
/** Halves of a form that use the same three vt, apart from one another on the model, and a third triangle elsewhere. */
const halves =
  'v 0 0 0\nv 1 0 0\nv 0 1 0\nv 5 0 0\nv 6 0 0\nv 5 1 0\nv 9 0 0\nv 9 3 0\nv 8 0 0\nvt 0.1 0.1\nvt 0.3 0.1\nvt 0.1 0.3\nvt 0.9 0.9\nvt 0.5 0.9\nvt 0.9 0.5\nf 1/1 2/2 3/3\nf 4/1 5/2 6/3\nf 7/4 8/5 9/6\n';

/** Lengths of each face's sides on the sheet over those on the model, worked out from the written file alone. */
function ratios(obj: string): number[][] {
  const rows = (key: string) =>
    obj
      .split('\n')
      .filter((line) => line.startsWith(`${key} `))
      .map((line) => line.split(' ').slice(1));
  const v = rows('v').map((row) => row.map(Number));
  const vt = rows('vt').map((row) => row.map(Number));
  const apart = (a: number[], b: number[]) => Math.hypot(...a.map((x, d) => x - b[d]!));
  return rows('f').map((face) =>
    face.map((corner, k) => {
      const [a, b] = [corner, face[(k + 1) % face.length]!].map((one) => one.split('/').map((n) => Number(n) - 1)) as [number[], number[]];
      return apart(vt[a[1]!]!, vt[b[1]!]!) / apart(v[a[0]!]!, v[b[0]!]!);
    }),
  );
}

describe('UV points that a file shares between islands', () => {
  it.each([
    ['meet in one place', meeting],
    ['are used by parts of the model far apart', halves],
  ])('%s: packing sizes every island as a whole, turned or not', async (_, obj) => {
    const job = await open(obj);
    for (const how of [{ turn: 'none' as const }, { turn: 'free' as const }, { evenDensity: false }]) {
      const { job: packed } = await runOperation(job, 'pack', { ...how, effort: 0 });
      const [before, after] = [ratios(written(job)), ratios(written(packed))];
      before.forEach((sides, f) => {
        const factors = sides.map((x, k) => after[f]![k]! / x);
        for (const factor of factors) expect(factor).toBeCloseTo(factors[0]!, 9);
      });
      const { report } = await runOperation(packed, 'check', {});
      expect(report).toMatchObject({ overlapArea: 0, outsideArea: 0 });
    }
  });

  it.each(['OBJ/spider.obj', 'PLY/cube_uv.ply', 'glTF2/BoxTextured-glTF-Binary/BoxTextured.glb'])(
    'packing and fitting leave each island of %s its shape (files that nobody here made)',
    async (name) => {
      const job = await openFiles([{ name: basename(name), bytes: readFileSync(`/usr/share/assimp/models/${name}`) }], 'job');
      /** Length of each corner's side on the sheet, by island. */
      const sides = (one: Job) =>
        one.parts.flatMap(({ mesh, uvSets, activeUv }) => {
          const { uv, cornerUv } = uvSets[activeUv]!;
          return Array.from(cornerUv, (id, c) => {
            const next = cornerUv[nextCorner(mesh, c, topologyOf(mesh).cornerFace[c]!)]!;
            return Math.hypot(uv[id * 2]! - uv[next * 2]!, uv[id * 2 + 1]! - uv[next * 2 + 1]!);
          });
        });
      const islands = job.parts.flatMap((part, k) => {
        const { ofFace } = islandsOf(part.mesh, activeSet(part));
        return Array.from(topologyOf(part.mesh).cornerFace, (f) => `${k} ${ofFace[f]}`);
      });
      const before = sides(job);
      const size = Math.max(...before);
      for (const [operation, params] of [
        ['pack', { parts: 'all', effort: 0 }],
        ['fitSheet', {}],
      ] as const) {
        const after = sides((await runOperation(job, operation, params)).job);
        const factor = new Map<string, number>();
        before.forEach((x, c) => {
          if (x < 1e-3 * size) return;
          const own = after[c]! / x;
          expect(own / (factor.get(islands[c]!) ?? own)).toBeCloseTo(1, 6);
          factor.set(islands[c]!, own);
        });
      }
    },
  );

  it('a part that was only looked at is written as it came, vt by vt, out of an archive, too', async () => {
    for (const obj of [meeting, halves]) {
      const job = await open(obj);
      const lines = (text: string) => text.split('\n').filter((line) => /^(v|vt|f) /.test(line));
      expect(lines(written(job))).toEqual(lines(obj));
      expect(lines(written(readArchive(writeArchive(job)).job))).toEqual(lines(obj));
      const { job: moved } = await runOperation({ ...job, selection: { part: job.parts[0]!.id, kind: 'islands', ids: Uint32Array.from([0]) } }, 'transform', {
        move: [0.01, 0],
      });
      // the other islands are where they were
      const places = (one: Job) => {
        const set = activeSet(one.parts[0]!);
        return Array.from(set.cornerUv, (id) => [set.uv[id * 2], set.uv[id * 2 + 1]].join()).slice(3);
      };
      expect(places(moved)).toEqual(places(job));
    }
  });

  it('of an archive of before get their own as it is read', async () => {
    const job = await open(halves);
    const { mesh } = job.parts[0]!;
    const shared = uvSetFrom(
      mesh,
      'UV set 1',
      Uint32Array.from([0, 1, 2, 0, 1, 2, 3, 4, 5]),
      Float64Array.from([0.1, 0.1, 0.3, 0.1, 0.1, 0.3, 0.9, 0.9, 0.5, 0.9, 0.9, 0.5]),
    );
    const part = { ...job.parts[0]!, uvSets: [shared], origin: { kind: 'made' as const } };
    const layouts = [{ part: part.id, name: part.name, faces: facesKey(mesh), uvSets: [shared], activeUv: 0 }];
    const versions = [{ id: 'a', name: 'then', note: '', made: 0, layouts, figures: [], picture: new Uint8Array(0) }];
    const { job: read } = readArchive(writeArchive({ ...job, parts: [part], versions }));
    // a layout that a version kept, too
    expect(new Set(read.versions![0]!.layouts[0]!.uvSets[0]!.cornerUv).size).toBe(9);
    expect(new Set(activeSet(read.parts[0]!).cornerUv).size).toBe(9);
  });

  it('points of the model that become one bring those on one place of the sheet together: no seam comes between them', async () => {
    // a strip whose two quads have points of their own, but the same vt
    const job = await open(
      'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 1 0 0\nv 2 0 0\nv 2 1 0\nv 1 1 0\nvt 0 0\nvt 0.5 0\nvt 0.5 0.5\nvt 0 0.5\nvt 1 0\nvt 1 0.5\nf 1/1 2/2 3/3 4/4\nf 5/2 6/5 7/6 8/3\n',
    );
    const { job: merged } = await runOperation(job, 'repair', {});
    const part = merged.parts[0]!;
    expect(islandsOf(part.mesh, activeSet(part)).count).toBe(1);
  });

  it('property: one mesh point and one island each, the same islands and places, and nothing to do a second time', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(fc.nat(7), fc.nat(7), fc.nat(7)).filter(([a, b, c]) => a !== b && b !== c && a !== c),
          { minLength: 1, maxLength: 12 },
        ),
        fc.infiniteStream(fc.nat(9)),
        (faces, stream) => {
          const mesh = meshFromFaces(
            Array.from({ length: 24 }, (_, k) => (k * 7) % 11),
            faces,
          );
          const ids = Uint32Array.from({ length: mesh.corners.length }, () => stream.next().value as number);
          const set = uvSetFrom(
            mesh,
            'a',
            ids,
            Float64Array.from({ length: 20 }, (_, k) => k / 20),
          );
          const { set: own } = withOwnPoints(mesh, set);
          const [before, after] = [islandsOf(mesh, set), islandsOf(mesh, own)];
          expect([...after.ofFace]).toEqual([...before.ofFace]);
          const owners = new Map<number, string>();
          own.cornerUv.forEach((id, c) => {
            const owner = `${mesh.corners[c]} ${after.ofFace[Math.floor(c / 3)]}`;
            expect(owners.get(id) ?? owner).toBe(owner);
            owners.set(id, owner);
            expect([own.uv[id * 2], own.uv[id * 2 + 1]]).toEqual([set.uv[ids[c]! * 2], set.uv[ids[c]! * 2 + 1]]);
          });
          expect(withOwnPoints(mesh, own).from).toBeNull();
        },
      ),
    );
  });
});
