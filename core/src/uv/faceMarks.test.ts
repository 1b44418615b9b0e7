import { describe, expect, it } from 'vitest';
import { joinParts } from '../job/joinParts.ts';
import { activeSet, newJob, type Part } from '../job/job.ts';
import { mixedSet } from '../job/versions.ts';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { box } from '../mesh/starterForms.ts';
import { faceMarksFrom, faceMarksOf, hasFaceMarks, withoutIdleMarks } from './faceMarks.ts';
import { joinedSets, meshSubset, subsetOfSet } from './subset.ts';
import { emptyUvSet, type UvSet } from './uvSet.ts';

const mesh = box();
const faces = mesh.faceStart.length - 1;
/** Every mark there is, each face with values of its own. */
const marked: UvSet = {
  ...emptyUvSet(mesh),
  stack: Uint32Array.from({ length: faces }, (_, f) => f + 1),
  block: Uint32Array.from({ length: faces }, (_, f) => f + 20),
  locked: Uint8Array.from({ length: faces }, (_, f) => f % 2),
  headed: Uint8Array.from({ length: faces }, (_, f) => (f + 1) % 2),
  weight: Float64Array.from({ length: faces }, (_, f) => f + 2),
  care: Float64Array.from({ length: faces }, (_, f) => f + 3),
};
const names = ['stack', 'block', 'locked', 'headed', 'weight', 'care'] as const;
const part = (id: string, set: UvSet): Part => ({ id, name: id, mesh, uvSets: [set], activeUv: 0, imageId: null, origin: { kind: 'made' } });

describe('marks of faces', () => {
  it('go along face by face; new faces are as if they had none, and marks that none has stay absent', () => {
    const found = faceMarksOf(marked, [3, -1, 0]);
    expect(found).toEqual({
      stack: Uint32Array.of(4, 0, 1),
      block: Uint32Array.of(23, 0, 20),
      locked: Uint8Array.of(1, 0, 0),
      headed: Uint8Array.of(0, 0, 1),
      weight: Float64Array.of(5, 1, 2),
      care: Float64Array.of(6, 1, 3),
    });
    const plain = emptyUvSet(mesh);
    expect(hasFaceMarks(plain)).toBe(false);
    expect(faceMarksOf(plain, [0, 1])).toEqual({});
    const { locked: _, ...rest } = marked;
    expect(
      faceMarksFrom(
        [plain, rest],
        2,
        (f) => f,
        () => 1,
      ),
    ).not.toHaveProperty('locked');
    expect(withoutIdleMarks({ locked: Uint8Array.of(0, 0), weight: Float64Array.of(1, 1), block: Uint32Array.of(0, 2) })).toEqual({
      block: Uint32Array.of(0, 2),
    });
  });

  it('are all kept by archives, by parts joined and taken apart, and by versions', () => {
    const job = newJob('j', 'j', [part('a', marked), part('b', emptyUvSet(mesh))]);
    const back = activeSet(readArchive(writeArchive(job)).job.parts[0]!);
    const joined = joinParts(job.parts).set;
    const half = meshSubset(mesh, Uint32Array.of(1, 4, 5));
    const other = meshSubset(mesh, Uint32Array.of(0, 2, 3));
    const whole = joinedSets(
      mesh,
      'whole',
      [half, other].map((subset) => ({ subset, set: subsetOfSet(mesh, marked, subset) })),
    );
    const mixed = mixedSet(
      mesh,
      emptyUvSet(mesh),
      marked,
      Uint8Array.from({ length: faces }, (_, f) => (f < 2 ? 1 : 0)),
    );
    for (const name of names) {
      expect(back[name], name).toEqual(marked[name]);
      expect(joined[name]!.slice(0, faces), name).toEqual(marked[name]);
      expect(new Set(joined[name]!.slice(faces)), name).toEqual(new Set([name === 'weight' || name === 'care' ? 1 : 0]));
      expect(whole[name], name).toEqual(marked[name]);
      expect(mixed[name]!.slice(0, 2), name).toEqual(marked[name]!.slice(0, 2));
    }
  });
});
