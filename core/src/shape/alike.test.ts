import fc from 'fast-check';
import { Matrix, SingularValueDecomposition } from 'ml-matrix';
import { describe, expect, it } from 'vitest';
import { meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import { box, hemisphere, plane } from '../mesh/starterForms.ts';
import { seededRandom } from '../numeric/random.ts';
import { topologyOf } from '../mesh/topology.ts';
import { uvSetFrom, type UvSet } from '../uv/uvSet.ts';
import { alikeIslands, type AlikeOptions } from './alike.ts';
import { matchMeshes } from './matchMeshes.ts';
import { rigidFit } from './rigidFit.ts';

/** Faces as lists of points, from a mesh. */
const facesOf = (mesh: Mesh) =>
  Array.from({ length: mesh.faceStart.length - 1 }, (_, f) => [...mesh.corners.subarray(mesh.faceStart[f]!, mesh.faceStart[f + 1]!)]);

/** The same mesh with points and faces in another order, each face from another corner on. @returns the former number of each point too */
function shuffled(mesh: Mesh, seed: number, mirror = false): { mesh: Mesh; was: number[] } {
  const random = seededRandom(seed);
  const order = <T>(list: T[]) => list.map((x) => [random(), x] as const).sort((a, b) => a[0] - b[0]).map(([, x]) => x); // prettier-ignore
  const was = order([...Array(mesh.points.length / 3).keys()]);
  const now = new Map(was.map((old, k) => [old, k]));
  const faces = order(facesOf(mesh)).map((face) => {
    const turn = Math.floor(random() * face.length);
    const turned = face.map((_, k) => now.get(face[(k + turn) % face.length]!)!);
    return mirror ? turned.reverse() : turned;
  });
  const points = was.flatMap((p) => [mesh.points[p * 3]! * (mirror ? -1 : 1), mesh.points[p * 3 + 1]!, mesh.points[p * 3 + 2]!]);
  return { mesh: meshFromFaces(points, faces), was };
}

/** A bent strip of quads with one triangle: no way to turn it over itself. */
function hook(): { points: number[]; faces: number[][] } {
  const at = [[0, 0], [1, 0], [2, 0], [3, 0], [0, 1], [1, 1], [2, 1], [3, 1], [2, 2], [3, 2], [2.5, 3]]; // prettier-ignore
  return { points: at.flatMap(([x, y]) => [x!, y!, 0]), faces: [[0, 1, 5, 4], [1, 2, 6, 5], [2, 3, 7, 6], [6, 7, 9, 8], [8, 9, 10]] }; // prettier-ignore
}

/** Several hooks as one mesh, laid on the sheet as functions of their points say. */
function hooks(lay: ((x: number, y: number) => [number, number])[], mirror: boolean[] = []): { mesh: Mesh; set: UvSet } {
  const one = hook();
  const points = lay.flatMap((_, k) => one.points.map((x, d) => (d % 3 === 2 ? k : x)));
  const faces = lay.flatMap((_, k) => one.faces.map((face) => (mirror[k] ? [...face].reverse() : face).map((p) => p + k * 11)));
  const mesh = meshFromFaces(points, faces);
  const uv = new Float64Array((points.length / 3) * 2);
  lay.forEach((at, k) => {
    for (let p = 0; p < 11; p++) uv.set(at(one.points[p * 3]!, one.points[p * 3 + 1]!), (k * 11 + p) * 2);
  });
  return { mesh, set: uvSetFrom(mesh, 'a', mesh.corners.slice(), uv) };
}

const turned = (turn: number, u: number, v: number, flip = 1, size = 0.05) => (x: number, y: number): [number, number] => [
  u + size * (Math.cos(turn) * x * flip - Math.sin(turn) * y),
  v + size * (Math.sin(turn) * x * flip + Math.cos(turn) * y),
]; // prettier-ignore

const options = { by: 'shape' as const, tolerance: 0.5, mirrored: false, width: 1024, height: 1024 };
const groupsOf = ({ mesh, set }: { mesh: Mesh; set: UvSet }, more: Partial<AlikeOptions> = {}, islands = [0, 1, 2, 3]) =>
  alikeIslands(mesh, set, { ...options, ...more, islands }).map(({ first, others }) => [first, ...others.map(({ island }) => island)]);

describe('like islands', () => {
  it('are found turned and shifted, and point goes on point', () => {
    fc.assert(
      fc.property(fc.double({ min: -3, max: 3, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true }), (turn, shift) => {
        const laid = hooks([turned(0, 0.1, 0.1), turned(turn, shift, 0.5)]);
        const [group] = alikeIslands(laid.mesh, laid.set, { ...options, islands: [0, 1] });
        const [other] = group!.others;
        expect(other!.mirrored).toBe(false);
        other!.corners.forEach((c, k) => expect(laid.mesh.corners[c]! - 11).toBe(laid.mesh.corners[other!.onto![k]!]));
      }),
    );
  });

  it('mirrored ones only where they may be: wound the other way, or laid the other way', () => {
    const laid = hooks([turned(0, 0.1, 0.1), turned(0.4, 0.5, 0.5, -1), turned(1, 0.5, 0.1)], [false, true, true]);
    expect(groupsOf(laid, {}, [0, 1, 2])).toEqual([]);
    // as shapes all three are the same one mirrored somehow
    expect(groupsOf(laid, { mirrored: true }, [0, 1, 2])).toEqual([[0, 1, 2]]);
    const laidOver = hooks([turned(0, 0.1, 0.1), turned(0.4, 0.5, 0.5, -1)]);
    expect(groupsOf(laidOver, {}, [0, 1])).toEqual([]);
    expect(groupsOf(laidOver, { mirrored: true }, [0, 1])).toEqual([[0, 1]]);
  });

  it('one that differs by more px than allowed is another, by connections it is alike', () => {
    const laid = hooks([turned(0, 0.1, 0.1), turned(2, 0.5, 0.5)]);
    laid.set.uv[11 * 2] = laid.set.uv[11 * 2]! + 3 / 1024;
    expect(groupsOf(laid, {}, [0, 1])).toEqual([]);
    expect(groupsOf(laid, { tolerance: 4 }, [0, 1])).toEqual([[0, 1]]);
    expect(groupsOf(laid, { by: 'connections' }, [0, 1])).toEqual([[0, 1]]);
  });

  it('an outline cut into other faces is the same shape', () => {
    const [a, b] = [plane(2, 1, 4, 2), plane(2, 1, 3, 5)];
    const points = [...a.points, ...b.points];
    const faces = [...facesOf(a), ...facesOf(b).map((face) => face.map((p) => p + a.points.length / 3))];
    const mesh = meshFromFaces(points, faces);
    const uv = Float64Array.from({ length: (points.length / 3) * 2 }, (_, k) => points[Math.floor(k / 2) * 3 + (k % 2)]! * 0.1 + 0.2);
    const other = a.points.length / 3;
    // the second one upright elsewhere
    for (let p = other; p < points.length / 3; p++) {
      const [u, v] = [uv[p * 2]!, uv[p * 2 + 1]!];
      uv[p * 2] = 0.9 - v;
      uv[p * 2 + 1] = u;
    }
    const set = uvSetFrom(mesh, 'a', mesh.corners.slice(), uv);
    const [group] = alikeIslands(mesh, set, { ...options, islands: [0, 1] });
    expect(group).toMatchObject({ first: 0, others: [{ island: 1, onto: null }] });
    const at = group!.others[0]!.fit.affine;
    // corners of the second go on corners of the first
    const box = [Infinity, Infinity, -Infinity, -Infinity];
    for (let p = other; p < points.length / 3; p++) {
      const [x, y] = [uv[p * 2]! * 1024, uv[p * 2 + 1]! * 1024];
      const [u, v] = [(at[0] * x + at[2] * y + at[4]) / 1024, (at[1] * x + at[3] * y + at[5]) / 1024];
      [box[0], box[1], box[2], box[3]] = [Math.min(box[0]!, u), Math.min(box[1]!, v), Math.max(box[2]!, u), Math.max(box[3]!, v)];
    }
    [0.1, 0.15, 0.3, 0.25].forEach((x, k) => expect(box[k]).toBeCloseTo(x, 6));
  });
});

describe('the best turn and shift', () => {
  it('is that of an independent Procrustes by singular values (ml-matrix)', () => {
    const number = fc.double({ min: -5, max: 5, noNaN: true });
    fc.assert(
      fc.property(fc.array(fc.tuple(number, number, number, number), { minLength: 3, maxLength: 12 }), fc.boolean(), (list, mirror) => {
        const from = Float64Array.from(list.flatMap(([a, b]) => [a, b]));
        const to = Float64Array.from(list.flatMap(([, , c, d]) => [c, d]));
        const centred = (at: Float64Array) => {
          const m = new Matrix(list.map((_, k) => [at[k * 2]!, at[k * 2 + 1]!]));
          return m.center('column');
        };
        const [a, b] = [centred(from), centred(to)];
        const svd = new SingularValueDecomposition(a.transpose().mmul(b));
        const [u, v] = [svd.leftSingularVectors, svd.rightSingularVectors];
        const sign = new Matrix([[1, 0], [0, 1]]); // prettier-ignore
        const detOf = (m: Matrix) => m.get(0, 0) * m.get(1, 1) - m.get(0, 1) * m.get(1, 0);
        if (detOf(u.mmul(v.transpose())) * (mirror ? -1 : 1) < 0) sign.set(1, 1, -1);
        const rotation = u.mmul(sign).mmul(v.transpose());
        const squares = (m: Matrix) => m.to1DArray().reduce((sum, x) => sum + x * x, 0);
        const best = squares(Matrix.sub(a.mmul(rotation), b));
        const { affine } = rigidFit(from, to, mirror);
        let own = 0;
        for (let k = 0; k < from.length; k += 2) {
          own += (affine[0] * from[k]! + affine[2] * from[k + 1]! + affine[4] - to[k]!) ** 2;
          own += (affine[1] * from[k]! + affine[3] * from[k + 1]! + affine[5] - to[k + 1]!) ** 2;
        }
        expect(own).toBeCloseTo(best, 6);
        expect(affine[0] * affine[3] - affine[1] * affine[2]).toBeCloseTo(mirror ? -1 : 1, 9);
      }),
    );
  });
});

describe('which face corresponds to which', () => {
  it.each([
    ['a dome', hemisphere(1, 6)],
    ['a hook', meshFromFaces(hook().points, hook().faces)],
  ])('%s in another order: by order where it is the same, else each point finds itself', (_name, mesh) => {
    expect(matchMeshes(mesh, mesh)).toMatchObject({ match: { by: 'order', ways: 1 } });
    const other = shuffled(mesh, 7);
    const found = matchMeshes(mesh, other.mesh);
    if (!('match' in found)) throw new Error(found.differs);
    expect(found.match).toMatchObject({ by: 'connections', mirrored: false });
    found.match.corner.forEach((from, c) => expect(mesh.corners[from]).toBe(other.was[other.mesh.corners[c]!]));
  });

  it('a mirrored part fits where that is allowed, and tells', () => {
    const mesh = meshFromFaces(hook().points, hook().faces);
    const other = shuffled(mesh, 3, true);
    expect(matchMeshes(mesh, other.mesh)).toHaveProperty('differs');
    const found = matchMeshes(mesh, other.mesh, { mirrored: true });
    if (!('match' in found)) throw new Error(found.differs);
    expect(found.match.mirrored).toBe(true);
    found.match.corner.forEach((from, c) => expect(mesh.corners[from]).toBe(other.was[other.mesh.corners[c]!]));
  });

  it('of a box all 24 turns fit; a pair of edges leaves the two ends of one', () => {
    const [mesh, other] = [box(1, 1, 1), shuffled(box(1, 1, 1), 5)];
    const found = matchMeshes(mesh, other.mesh);
    expect(found).toMatchObject({ match: { ways: 24 } });
    const held = matchMeshes(mesh, other.mesh, { pair: [0, 4] });
    if (!('match' in held)) throw new Error(held.differs);
    expect(held.match.ways).toBe(2);
    const [a, b] = [topologyOf(mesh), topologyOf(other.mesh)];
    const onEdge = [...held.match.corner.entries()].filter(([c]) => b.cornerEdge[c] === 4);
    for (const [, from] of onEdge) expect(a.cornerEdge[from]).toBe(0);
  });

  it('says where parts differ', () => {
    const differs = (a: Mesh, b: Mesh) => (matchMeshes(a, b) as { differs: string }).differs;
    expect(differs(plane(1, 1, 2, 2), plane(1, 1, 3, 2))).toBe('the first has 4 faces, the second 6');
    const [one, two] = [meshFromFaces([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 2, 0, 0], [[0, 1, 2, 3], [1, 4, 2]]), meshFromFaces([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 2, 0, 0], [[0, 1, 2], [0, 2, 3]])]; // prettier-ignore
    expect(differs(one, two)).toBe('the first has 1 of the faces with 3 corners, the second 2');
    // as many of everything, in another order
    const strip = (turn: number[]) => meshFromFaces([0, 0, 0, 1, 0, 0, 2, 0, 0, 0, 1, 0, 1, 1, 0, 2, 1, 0], turn[0] ? [[0, 1, 4], [0, 4, 3], [1, 2, 5], [1, 5, 4]] : [[0, 1, 3], [1, 4, 3], [1, 2, 5], [1, 5, 4]]); // prettier-ignore
    expect(differs(strip([0]), strip([1]))).toMatch(/^faces are connected differently, first at face \d of the first$/);
  });
});
