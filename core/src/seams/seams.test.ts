import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Mesh } from '../mesh/mesh.ts';
import { box, cubeSphere, cylinder, plane, sphere, torus } from '../mesh/starterForms.ts';
import { topologyOf } from '../mesh/topology.ts';
import { seededRandom } from '../numeric/random.ts';
import { edgeLoop } from '../select/loop.ts';
import { islandFacts, islandLetter, islandsOf } from '../uv/islands.ts';
import { EdgeState, edgesInState } from '../uv/seamEdges.ts';
import { emptyUvSet, type UvSet } from '../uv/uvSet.ts';
import { unwrapIslands } from '../unwrap/unwrapIslands.ts';
import { creaseEdges, edgeLengths, foldAngles } from './crease.ts';
import { cut } from './cut.ts';
import { openIslands } from './cutGraph.ts';
import { penPath } from './pen.ts';
import { uncut } from './uncut.ts';

const edgeBetween = (mesh: Mesh, a: number, b: number) => {
  const { edgeCount, edgePoints } = topologyOf(mesh);
  for (let e = 0; e < edgeCount; e++) if (edgePoints[e * 2] === Math.min(a, b) && edgePoints[e * 2 + 1] === Math.max(a, b)) return e;
  return -1;
};
const seams = (mesh: Mesh, set: UvSet) => edgesInState(islandsOf(mesh, set).states, EdgeState.seam);

describe('cutting', () => {
  it('a loop round a tube makes two pieces and moves no UV point', () => {
    const mesh = cylinder(1, 2, 12, 4, false);
    const loop = edgeLoop(mesh, edgeBetween(mesh, 24, 25));
    expect(loop.length).toBe(12);
    const bare = emptyUvSet(mesh);
    const { set, changed } = cut(mesh, bare, loop);
    expect(changed.length).toBe(12);
    expect(islandsOf(mesh, set).count).toBe(2);
    expect(set.uv.slice(0, bare.uv.length)).toEqual(bare.uv);
  });

  it('one edge in the middle parts nothing yet, stays marked, and opens with the next one', () => {
    const mesh = plane(4, 4, 4, 4);
    const first = cut(mesh, emptyUvSet(mesh), [edgeBetween(mesh, 11, 12)]);
    expect([...first.set.slits]).toEqual([edgeBetween(mesh, 11, 12)]);
    expect(seams(mesh, first.set).length).toBe(1);
    expect(first.set.uv.length).toBe(emptyUvSet(mesh).uv.length);
    const second = cut(mesh, first.set, [edgeBetween(mesh, 12, 13)]);
    // the point between both has two UV points now, so neither is a slit any more
    expect(second.set.slits.length).toBe(0);
    expect(seams(mesh, second.set).length).toBe(2);
    expect(islandFacts(mesh, second.set).map((f) => f.shape)).toEqual(['ring']);
  });

  it('borders and edges that are seams already are passed over', () => {
    const mesh = plane(1, 1, 2, 2);
    expect(cut(mesh, emptyUvSet(mesh), [edgeBetween(mesh, 0, 1)]).changed).toEqual([]);
    const once = cut(mesh, emptyUvSet(mesh), [edgeBetween(mesh, 3, 4)]);
    expect(cut(mesh, once.set, [edgeBetween(mesh, 3, 4)]).changed).toEqual([]);
  });

  it('what is cut is what becomes a seam, whatever is cut in whatever order (property)', () => {
    const mesh = cubeSphere(1, 4);
    const { edgeCount } = topologyOf(mesh);
    fc.assert(
      fc.property(fc.array(fc.array(fc.nat(edgeCount - 1), { maxLength: 25 }), { maxLength: 5 }), (rounds) => {
        let set = emptyUvSet(mesh);
        const wanted = new Set<number>();
        for (const edges of rounds) {
          set = cut(mesh, set, edges).set;
          edges.forEach((e) => wanted.add(e));
        }
        expect(seams(mesh, set)).toEqual([...wanted].sort((a, b) => a - b));
        // faces of one island hang together without crossing a seam, and Euler's formula holds for each
        const facts = islandFacts(mesh, set);
        expect(facts.reduce((sum, f) => sum + f.faces, 0)).toBe(96);
        for (const f of facts) if (f.shape === 'disk') expect(f.euler).toBe(1);
      }),
      { numRuns: 80 },
    );
  });
});

describe('making whole', () => {
  it('is the opposite of cutting: seams, islands and places come back (property)', () => {
    const mesh = cubeSphere(1, 3);
    const { edgeCount } = topologyOf(mesh);
    fc.assert(
      fc.property(fc.array(fc.nat(edgeCount - 1), { maxLength: 40 }), fc.array(fc.nat(edgeCount - 1), { maxLength: 20 }), (first, then) => {
        const base = cut(mesh, emptyUvSet(mesh), first).set;
        const more = cut(mesh, base, then);
        const back = uncut(mesh, more.set, more.changed);
        expect(seams(mesh, back.set)).toEqual(seams(mesh, base));
        expect(islandsOf(mesh, back.set).count).toBe(islandsOf(mesh, base).count);
      }),
      { numRuns: 80 },
    );
  });

  it('the smaller island travels to the larger one and meets it along the shared edge', async () => {
    const mesh = plane(3, 1, 3, 1);
    const parted = cut(mesh, emptyUvSet(mesh), [edgeBetween(mesh, 2, 6)]).set;
    const flat = (await unwrapIslands(mesh, parted, 'all', 'conformal')).set;
    // the smaller piece is turned, sized and moved away
    const small = new Set([...flat.cornerUv.slice(8, 12)]);
    const apart: UvSet = {
      ...flat,
      uv: flat.uv.map((_, k) => (small.has(k >> 1) ? (k % 2 === 0 ? -0.4 * flat.uv[k + 1]! + 3 : 0.4 * flat.uv[k - 1]! - 2) : flat.uv[k]!)),
    };
    const { set } = uncut(mesh, apart, [edgeBetween(mesh, 2, 6)]);
    expect(islandsOf(mesh, set).count).toBe(1);
    const large = new Set([...flat.cornerUv.slice(0, 8)]);
    for (const k of large) for (let d = 0; d < 2; d++) expect(set.uv[k * 2 + d]).toBeCloseTo(apart.uv[k * 2 + d]!, 10);
    // all three quads are unit squares in a row again
    const at = (c: number) => [set.uv[set.cornerUv[c]! * 2]!, set.uv[set.cornerUv[c]! * 2 + 1]!] as const;
    const lengths = Array.from({ length: 12 }, (_, c) =>
      Math.hypot(at(c)[0] - at(c - (c % 4) + ((c + 1) % 4))[0], at(c)[1] - at(c - (c % 4) + ((c + 1) % 4))[1]),
    );
    for (const l of lengths) expect(l / lengths[0]!).toBeCloseTo(1, 8);
  });
});

describe('creases', () => {
  it('a box folds by 90° at its twelve edges, a plane nowhere', () => {
    expect(creaseEdges(box()).length).toBe(12);
    expect(foldAngles(box())[0]).toBeCloseTo(90, 10);
    expect(creaseEdges(plane(1, 1, 3, 3), 1)).toEqual([]);
  });
});

describe('opening', () => {
  it.each([
    ['ball', sphere(1, 16, 10), 1],
    ['ring', torus(1, 0.4, 20, 12), 1],
    ['tube', cylinder(1, 1, 16, 3, false), 1],
    ['box', box(), 1],
  ] as const)('%s becomes one disk', (_name, mesh, count) => {
    const { set } = openIslands(mesh, emptyUvSet(mesh));
    expect(islandFacts(mesh, set).map((f) => f.shape)).toEqual(Array(count).fill('disk'));
  });

  it('every island of random cuts on a ring opens to a disk (property)', () => {
    const mesh = torus(1, 0.4, 10, 7);
    const { edgeCount } = topologyOf(mesh);
    fc.assert(
      fc.property(fc.array(fc.nat(edgeCount - 1), { maxLength: 60 }), (edges) => {
        const { set } = openIslands(mesh, cut(mesh, emptyUvSet(mesh), edges).set);
        for (const f of islandFacts(mesh, set)) expect(f.shape).toBe('disk');
      }),
      { numRuns: 60 },
    );
  });

  it('a tube is opened along its shortest way, end to end', () => {
    const mesh = cylinder(1, 2, 16, 5, false);
    const { cuts } = openIslands(mesh, emptyUvSet(mesh));
    const lengths = edgeLengths(mesh);
    expect(cuts.reduce((sum, e) => sum + lengths[e]!, 0)).toBeCloseTo(2, 10);
  });

  it('disks are left alone', () => {
    const mesh = plane(1, 1, 4, 4);
    const bare = emptyUvSet(mesh);
    expect(openIslands(mesh, bare)).toEqual({ set: bare, cuts: [], opened: [] });
  });
});

describe('loops', () => {
  it('go once round a ring of quads, both ways', () => {
    const mesh = torus(1, 0.3, 14, 9);
    expect(edgeLoop(mesh, edgeBetween(mesh, 0, 1)).length).toBe(9);
    expect(edgeLoop(mesh, edgeBetween(mesh, 0, 9)).length).toBe(14);
  });

  it('follow a border round', () => {
    const mesh = plane(1, 1, 3, 2);
    expect(edgeLoop(mesh, edgeBetween(mesh, 0, 1)).length).toBe(10);
  });

  it('end at the corners of a cube sphere, where three quads meet', () => {
    const mesh = cubeSphere(1, 4);
    const { edgePoints, edgeCount } = topologyOf(mesh);
    const valence = new Int32Array(mesh.points.length / 3);
    for (let k = 0; k < edgeCount * 2; k++) valence[edgePoints[k]!]!++;
    const atPole = [...Array(edgeCount).keys()].find((e) => valence[edgePoints[e * 2]!] === 3 || valence[edgePoints[e * 2 + 1]!] === 3)!;
    expect(edgeLoop(mesh, atPole).length).toBe(4);
  });

  it('every edge of a loop gives the same loop (property)', () => {
    const mesh = torus(1, 0.3, 8, 6);
    fc.assert(
      fc.property(fc.nat(topologyOf(mesh).edgeCount - 1), (edge) => {
        const loop = edgeLoop(mesh, edge).sort((a, b) => a - b);
        for (const e of loop) expect(edgeLoop(mesh, e).sort((a, b) => a - b)).toEqual(loop);
      }),
    );
  });
});

describe('seam pen', () => {
  const mesh = cylinder(1, 2, 24, 8, false);

  it('clings to the edges under the stroke, in order from its start', () => {
    const stroke: number[] = [];
    for (let k = 0; k <= 20; k++) stroke.push(Math.sin(0.25 + k * 0.003), -1 + (2 * k) / 20, Math.cos(0.25 + k * 0.003));
    const path = penPath(mesh, stroke);
    expect(path.length).toBe(8);
    const { edgePoints } = topologyOf(mesh);
    const heights = path.map((e) => (mesh.points[edgePoints[e * 2]! * 3 + 1]! + mesh.points[edgePoints[e * 2 + 1]! * 3 + 1]!) / 2);
    for (let k = 1; k < heights.length; k++) expect(heights[k]).toBeGreaterThan(heights[k - 1]!);
  });

  it('a stroke that comes back to its start goes all the way round', () => {
    const stroke: number[] = [];
    for (let k = 0; k <= 60; k++) stroke.push(Math.sin((2 * Math.PI * k) / 60), 0.02, Math.cos((2 * Math.PI * k) / 60));
    const path = penPath(mesh, stroke);
    expect(islandsOf(mesh, cut(mesh, emptyUvSet(mesh), path).set).count).toBe(2);
    expect(path.length).toBe(24);
  });

  it('prefers a crease that lies beside the stroke', () => {
    // a roof: two slopes that meet at a ridge; the stroke runs half a face beside the ridge
    const points: number[] = [];
    for (let z = 0; z <= 8; z++) for (let x = -2; x <= 2; x++) points.push(x * 0.5, -Math.abs(x) * 0.5, z * 0.5);
    const faces: number[][] = [];
    for (let z = 0; z < 8; z++) for (let x = 0; x < 4; x++) faces.push([z * 5 + x, (z + 1) * 5 + x, (z + 1) * 5 + x + 1, z * 5 + x + 1]);
    const roof = { ...mesh, ...meshOf(points, faces) };
    const stroke: number[] = [];
    for (let k = 0; k <= 30; k++) stroke.push(0.24 * Math.sin((Math.PI * k) / 30), -0.24 * Math.sin((Math.PI * k) / 30), (4 * k) / 30);
    const ridge = penPath(roof, stroke);
    const { edgePoints } = topologyOf(roof);
    for (const e of ridge) expect([points[edgePoints[e * 2]! * 3], points[edgePoints[e * 2 + 1]! * 3]]).toEqual([0, 0]);
  });

  it('a dot is no seam', () => {
    expect(penPath(mesh, [0, 0, 1])).toEqual([]);
    expect(penPath(mesh, [0, 0, 1, 0, 0.001, 1])).toEqual([]);
  });
});

function meshOf(points: number[], faces: number[][]): Mesh {
  const corners = Uint32Array.from(faces.flat());
  const none = new Int32Array(faces.length).fill(-1);
  return {
    points: Float64Array.from(points),
    faceStart: Uint32Array.from({ length: faces.length + 1 }, (_, f) => f * 4),
    corners,
    faceGroup: none,
    groups: [],
    faceMaterial: none,
    materials: [],
    faceSmooth: none,
  };
}

describe('letters', () => {
  it('run A … Z, AA, AB …', () => {
    expect([0, 25, 26, 27, 51, 52, 701, 702].map(islandLetter)).toEqual(['A', 'Z', 'AA', 'AB', 'AZ', 'BA', 'ZZ', 'AAA']);
  });

  it('random splits never lose a face (property)', () => {
    const random = seededRandom(4);
    const mesh = plane(1, 1, 10, 10);
    const { edgeCount } = topologyOf(mesh);
    const edges = Array.from({ length: 150 }, () => Math.floor(random() * edgeCount));
    const islands = islandsOf(mesh, cut(mesh, emptyUvSet(mesh), edges).set);
    expect([...islands.faces].sort((a, b) => a - b)).toEqual(Array.from({ length: 100 }, (_, f) => f));
  });
});
