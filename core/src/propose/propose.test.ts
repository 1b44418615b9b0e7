import { createRequire } from 'node:module';
import { describe, expect, it } from 'vitest';
import { box, cubeSphere, cylinder, heightField, lathe, plane, torus } from '../mesh/starterForms.ts';
import { faceAreas } from '../mesh/normals.ts';
import { bevelledBox, chamferedBox, makeFormMesh, tubeCross } from './testForms.ts';
import { faceCount, meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { overlapFigures } from '../measure/overlap.ts';
import { findSymmetry, symmetryOf, withMirrored } from '../select/symmetry.ts';
import { cut } from '../seams/cut.ts';
import { openIslands } from '../seams/cutGraph.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import { pointEdges } from '../seams/shortestPaths.ts';
import { checkLayout } from '../measure/check.ts';
import { minCut } from '../numeric/minCut.ts';
import { seededRandom } from '../numeric/random.ts';
import { emptyUvSet, type UvSet } from '../uv/uvSet.ts';
import { borderCrossings } from '../unwrap/borderCrossings.ts';
import { unwrapIslands } from '../unwrap/unwrapIslands.ts';
import type { BevelWay } from './bevels.ts';
import { openAlike } from './openAlike.ts';
import { findLimbs } from './limbs.ts';
import { coarseSeams } from './coarseSeams.ts';
import { flatSeams } from './flatSeams.ts';
import { proposeSeams } from './proposeSeams.ts';
import { seamSight } from '../measure/seamSight.ts';
import { seamPrices } from './seamPrices.ts';

const bunny = createRequire(import.meta.url)('bunny') as { positions: number[][]; cells: number[][] };
const bunnyMesh = meshFromFaces(bunny.positions.flat(), bunny.cells);

/** Laid flat as the app would: every island by itself. */
async function laid(mesh: Mesh, cuts: number[]) {
  const { set } = cut(mesh, emptyUvSet(mesh), cuts);
  return unwrapIslands(mesh, set, 'all', 'isometric', undefined, { apart: true });
}

describe('seams by a stretch limit', () => {
  it.each([
    ['the bunny (npm package bunny, a scan)', bunnyMesh, 0.55],
    ['a ball', cubeSphere(1, 10), 1],
    ['a blob with limbs', makeFormMesh(), 1],
  ] as const)(
    '%s: the limit is kept, all islands are disks, nothing turned over, nothing over itself',
    async (_, mesh, inSight) => {
      const proposal = await proposeSeams(mesh, emptyUvSet(mesh), { by: 'stretch', limit: 4.2 });
      expect(proposal.met).toBe(true);
      const { set, report } = await laid(mesh, proposal.cuts);
      expect(report.energy).toBeLessThan(4.22);
      expect(report.flips).toBe(0);
      expect(islandFacts(mesh, set).every(({ shape }) => shape === 'disk')).toBe(true);
      // each island by itself: they lie where they fell
      const { start, faces, count } = islandsOf(mesh, set);
      for (let i = 0; i < count; i++) {
        const unplaced = new Uint8Array(faceCount(mesh)).fill(1);
        for (let k = start[i]!; k < start[i + 1]!; k++) unplaced[faces[k]!] = 0;
        const figures = overlapFigures(mesh, { ...set, unplaced });
        expect(figures.overlapArea / figures.coveredArea).toBeLessThan(1e-6);
      }
      expect(proposal.seamInSight / proposal.seamLength).toBeLessThanOrEqual(inSight);
    },
    60_000,
  );

  it('a lower limit takes longer seams', async () => {
    const mesh = cubeSphere(1, 10);
    const [loose, tight] = await Promise.all([4.6, 4.1].map((limit) => proposeSeams(mesh, emptyUvSet(mesh), { by: 'stretch', limit })));
    expect(loose!.energy).toBeLessThan(4.62);
    expect(tight!.energy).toBeLessThan(4.12);
    expect(tight!.seamLength).toBeGreaterThan(loose!.seamLength * 1.2);
  });

  it('no seam runs across faces to keep whole', async () => {
    const mesh = cubeSphere(1, 10);
    const keepWhole = new Uint8Array(faceCount(mesh));
    // the front half
    for (let f = 0; f < keepWhole.length; f++) keepWhole[f] = mesh.points[mesh.corners[mesh.faceStart[f]!]! * 3 + 2]! > 0.2 ? 1 : 0;
    const { cuts } = await proposeSeams(mesh, emptyUvSet(mesh), { by: 'stretch', limit: 4.4, keepWhole });
    const { edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
    expect(cuts.length).toBeGreaterThan(0);
    for (const e of cuts) {
      const sides = [0, 1].map((k) => keepWhole[cornerFace[edgeCorners[edgeStart[e]! + k]!]!]);
      expect(sides).not.toEqual([1, 1]);
    }
  });

  it('where seams may go they go', async () => {
    const mesh = cubeSphere(1, 12);
    const mayGo = new Uint8Array(faceCount(mesh));
    for (let f = 0; f < mayGo.length; f++) mayGo[f] = Math.abs(mesh.points[mesh.corners[mesh.faceStart[f]!]! * 3]!) < 0.25 ? 1 : 0;
    const share = async (marks: Uint8Array | null) => {
      const { cuts } = await proposeSeams(mesh, emptyUvSet(mesh), { by: 'stretch', limit: 4.5, mayGo: marks });
      const { edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
      return cuts.filter((e) => [0, 1].every((k) => mayGo[cornerFace[edgeCorners[edgeStart[e]! + k]!]!])).length / cuts.length;
    };
    expect(await share(mayGo)).toBeGreaterThan((await share(null)) + 0.15);
  });

  it('in pairs across the plane of a form that is alike left and right', async () => {
    const mesh = makeFormMesh();
    const symmetry = findSymmetry(mesh)!;
    expect(symmetry.axis).toBe('x');
    const { cuts, symmetry: across } = await proposeSeams(mesh, emptyUvSet(mesh), { by: 'stretch', limit: 4.3, symmetry: 'auto' });
    expect(across).toBe('x');
    const all = new Set(cuts);
    const paired = cuts.filter((e) => all.has(symmetry.edges[e]!)).length;
    expect(paired / cuts.length).toBeGreaterThan(0.9);
  }, 30_000);

  it('seams that are there stay', async () => {
    const mesh = cubeSphere(1, 8);
    const first = cut(mesh, emptyUvSet(mesh), [5, 6, 7]);
    const { set } = await proposeSeams(mesh, first.set, { by: 'stretch', limit: 4.4 });
    for (const e of first.changed) expect(islandsOf(mesh, set).states[e]).toBe(1);
  });

  it('can be cancelled', async () => {
    const mesh = cubeSphere(1, 12);
    let calls = 0;
    const context = {
      progress: () => {},
      throwIfCancelled: () => {
        if (++calls > 6) throw new Error('cancelled');
      },
    };
    await expect(proposeSeams(mesh, emptyUvSet(mesh), { by: 'stretch', limit: 4.05 }, context)).rejects.toThrow('cancelled');
  });
});

describe('seams by a stretch limit on large meshes, by way of a coarser one', () => {
  const form = makeFormMesh(36);
  const triangles = faceCount(form) * 2;

  it('the limit is kept on the fine mesh, all islands are disks, few rounds of the fine mesh are needed', async () => {
    expect(triangles).toBeGreaterThan(15_000);
    const proposal = await proposeSeams(form, emptyUvSet(form), { by: 'stretch', limit: 4.2 });
    expect(proposal.met).toBe(true);
    expect(proposal.islands).toBeLessThanOrEqual(3);
    const { set, report } = await laid(form, proposal.cuts);
    expect(report.energy).toBeLessThan(4.21);
    // what was said of it
    expect(Math.abs(report.energy - proposal.energy)).toBeLessThan(0.05);
    expect(report.flips).toBe(0);
    expect(islandFacts(form, set).every(({ shape }) => shape === 'disk')).toBe(true);
  }, 30_000);

  it('in pairs across the plane; seams that are there stay; faces to keep whole are kept', async () => {
    const symmetry = findSymmetry(form)!;
    // a slit along the plane at the back, and the front half to be kept whole
    const { edgePoints, edgeStart, edgeCorners, cornerFace } = topologyOf(form);
    const at = (e: number, d: number) => [0, 1].map((k) => form.points[edgePoints[e * 2 + k]! * 3 + d]!);
    const slit = symmetry.edges.findIndex((f, e) => f === e && at(e, 2).every((z) => z < -0.9) && at(e, 0).every((x) => Math.abs(x) < 1e-6));
    expect(slit).toBeGreaterThan(0);
    const first = cut(form, emptyUvSet(form), [slit]);
    const keepWhole = new Uint8Array(faceCount(form));
    for (let f = 0; f < keepWhole.length; f++) keepWhole[f] = form.points[form.corners[form.faceStart[f]!]! * 3 + 2]! > 0.3 ? 1 : 0;
    const { set, cuts, met } = await proposeSeams(form, first.set, { by: 'stretch', limit: 4.4, symmetry: 'auto', keepWhole });
    expect(met).toBe(true);
    expect(islandsOf(form, set).states[slit]).toBe(1);
    const all = new Set(cuts);
    expect(cuts.filter((e) => all.has(symmetry.edges[e]!)).length / cuts.length).toBeGreaterThan(0.9);
    for (const e of cuts) expect([0, 1].every((k) => keepWhole[cornerFace[edgeCorners[edgeStart[e]! + k]!]!] === 1)).toBe(false);
  }, 30_000);

  it('seams of the coarse mesh come back as seams of the same shape: no more islands, nearly the same length', () => {
    const prices = seamPrices(form);
    const coarse = coarseSeams(form, emptyUvSet(form), prices, null, 1500);
    expect(faceCount(coarse.mesh)).toBeLessThan(1600);
    const opened = openIslands(coarse.mesh, coarse.given, 'all', coarse.prices.price);
    // and a ring round one limb
    const { edgeStart, edgeCorners, cornerFace } = topologyOf(coarse.mesh);
    const beyond = (c: number) => [0, 1, 2].reduce((sum, k) => sum + coarse.mesh.points[coarse.mesh.corners[cornerFace[c]! * 3 + k]! * 3]!, 0) / 3 > 1.2;
    const ring = [...coarse.prices.length.keys()].filter((e) => beyond(edgeCorners[edgeStart[e]!]!) !== beyond(edgeCorners[edgeStart[e]! + 1]!));
    expect(ring.length).toBeGreaterThan(5);
    const fine = coarse.toFine(opened.set);
    const { set } = cut(form, emptyUvSet(form), fine);
    expect(islandFacts(form, set).map(({ shape }) => shape)).toEqual(['disk']);
    const length = (list: number[], lengths: Float64Array) => list.reduce((sum, e) => sum + lengths[e]!, 0);
    expect(length(fine, prices.length) / length(opened.cuts, coarse.prices.length)).toBeLessThan(1.4);
    const parts = (mesh: Mesh, set: UvSet) => islandsOf(mesh, set).count;
    const ringed = cut(coarse.mesh, opened.set, ring).set;
    expect(parts(coarse.mesh, ringed)).toBeGreaterThan(1);
    expect(parts(form, cut(form, emptyUvSet(form), coarse.toFine(ringed)).set)).toBe(parts(coarse.mesh, ringed));
    // chance walks that do not cross one another or themselves part nothing, nor do their ways back
    const { edgePoints } = topologyOf(coarse.mesh);
    const { start, edges } = pointEdges(coarse.mesh);
    const lost = [1, 2, 3, 4, 5, 6].map((seed) => {
      const random = seededRandom(seed);
      const used = new Set<number>();
      const walks: number[] = [];
      for (let walk = 0; walk < 80; walk++) {
        let p = Math.floor(random() * (coarse.mesh.points.length / 3));
        for (let step = 0; step < 9 && !used.has(p); step++) {
          used.add(p);
          const next = [...edges.subarray(start[p], start[p + 1])].filter(
            (e) => !used.has(edgePoints[e * 2] === p ? edgePoints[e * 2 + 1]! : edgePoints[e * 2]!),
          );
          const e = next[Math.floor(random() * next.length)];
          if (e === undefined) break;
          walks.push(e);
          p = edgePoints[e * 2] === p ? edgePoints[e * 2 + 1]! : edgePoints[e * 2]!;
        }
        used.add(p);
      }
      const walked = cut(coarse.mesh, coarse.given, walks).set;
      expect(parts(coarse.mesh, walked)).toBe(1);
      const back = cut(form, emptyUvSet(form), coarse.toFine(walked)).set;
      expect(parts(form, back)).toBe(1);
      return islandFacts(coarse.mesh, walked)[0]!.loops - islandFacts(form, back)[0]!.loops;
    });
    // in so dense a wood one or two of some fifty run together
    expect(lost.reduce((sum, count) => sum + count, 0) / lost.length).toBeLessThanOrEqual(2);
  });
});

describe('seams by creases and near-flat groups', () => {
  it('a box: twelve edges either way, six islands without stretch', async () => {
    const mesh = box(1, 2, 3);
    for (const by of ['crease', 'flat'] as const) {
      const { cuts, islands, energy, seamLength } = await proposeSeams(mesh, emptyUvSet(mesh), { by });
      expect([cuts.length, islands]).toEqual([12, 6]);
      expect(energy).toBeCloseTo(4, 9);
      expect(seamLength).toBeCloseTo(24, 9);
    }
  });

  it('groups of a ball face the same way within the angle, and the smaller the angle the more there are', () => {
    const mesh = cubeSphere(1, 10);
    const groups = (angle: number) => islandsOf(mesh, cut(mesh, emptyUvSet(mesh), flatSeams(mesh, angle)).set).count;
    expect(groups(60)).toBeLessThan(groups(30));
    expect(groups(30)).toBeLessThan(groups(15));
  });

  it('a flat plate has no borders, a fold of a plate has its one', () => {
    expect(flatSeams(plane(2, 1, 8, 4))).toEqual([]);
    const folded = heightField(8, 4, (u, v) => [u, v, Math.abs(u - 0.5) * 2]);
    expect(flatSeams(folded)).toHaveLength(4);
  });
});

describe('prices', () => {
  it('hidden edges are cheap: the inside of a tube against its outside', () => {
    // a thick ring: the edges of its inner side are seen from few directions
    const mesh = torus(1, 0.35, 24, 12);
    const { seen, price, length } = seamPrices(mesh);
    const { edgePoints } = topologyOf(mesh);
    const side = (inner: boolean) =>
      [...seen.keys()].filter((e) => {
        const r = [0, 1].map((k) => Math.hypot(mesh.points[edgePoints[e * 2 + k]! * 3]!, mesh.points[edgePoints[e * 2 + k]! * 3 + 2]!));
        return inner ? r.every((x) => x < 0.75) : r.every((x) => x > 1.25);
      });
    const mean = (list: number[], of: Float64Array) => list.reduce((sum, e) => sum + of[e]! / length[e]!, 0) / list.length;
    expect(side(true).length).toBeGreaterThan(10);
    expect(mean(side(true), price)).toBeLessThan(mean(side(false), price) / 2);
    expect(seamSight(length, seen, side(true)).hiddenSeamShare).toBeGreaterThan(2 * seamSight(length, seen, side(false)).hiddenSeamShare!);
  });

  it('where little is hidden, a little counts: the shallow waist of a round form against its ends', () => {
    const ball = cubeSphere(1, 14);
    const points = ball.points.slice();
    for (let k = 0; k < points.length; k += 3) for (const d of [0, 2]) points[k + d]! *= 1 - 0.25 * Math.exp(-((points[k + 1]! / 0.3) ** 2));
    const mesh = { ...ball, points };
    const { seen, price, length } = seamPrices(mesh);
    const { edgePoints } = topologyOf(mesh);
    const at = (low: number, high: number) =>
      [...seen.keys()].filter((e) =>
        [0, 1].every((k) => Math.abs(points[edgePoints[e * 2 + k]! * 3 + 1]!) >= low && Math.abs(points[edgePoints[e * 2 + k]! * 3 + 1]!) <= high),
      );
    const mean = (list: number[], of: (e: number) => number) => list.reduce((sum, e) => sum + of(e), 0) / list.length;
    const [waist, ends] = [at(0, 0.2), at(0.7, 1)];
    // by how often they are seen alone they would cost more than half
    expect(mean(waist, (e) => (2 * seen[e]!) ** 3) / mean(ends, (e) => (2 * seen[e]!) ** 3)).toBeGreaterThan(0.5);
    expect(mean(waist, (e) => price[e]! / length[e]!) / mean(ends, (e) => price[e]! / length[e]!)).toBeLessThan(0.45);
    // not asked for: length and creases alone
    const plain = seamPrices(mesh, { preferHidden: false });
    expect(mean(waist, (e) => plain.price[e]! / length[e]!) / mean(ends, (e) => plain.price[e]! / length[e]!)).toBeGreaterThan(0.8);
  });

  it('another part before it hides', () => {
    const mesh = plane(1, 1, 6, 6);
    const alone = seamPrices(mesh).seen;
    const cover = plane(3, 3, 1, 1);
    const moved = { ...cover, points: cover.points.map((x, k) => (k % 3 === 2 ? x + 0.2 : x)) };
    const behind = seamPrices(mesh, { blockers: [moved] }).seen;
    const mean = (list: Float64Array) => list.reduce((sum, x) => sum + x, 0) / list.length;
    expect(mean(behind)).toBeLessThan(mean(alone) * 0.75);
  });

  it('looked at from the front, the back is cheap', () => {
    const mesh = cubeSphere(1, 10);
    const { seen } = seamPrices(mesh, { towards: [0, 0, 1] });
    const { edgePoints } = topologyOf(mesh);
    const z = (e: number) => mesh.points[edgePoints[e * 2]! * 3 + 2]!;
    const mean = (list: number[]) => list.reduce((sum, e) => sum + seen[e]!, 0) / list.length;
    const all = [...seen.keys()];
    expect(mean(all.filter((e) => z(e) < -0.8))).toBeLessThan(mean(all.filter((e) => z(e) > 0.8)) / 5);
  });
});

describe('symmetry', () => {
  it('edges across come back to themselves; a lopsided mesh has none', () => {
    const mesh = cylinder(1, 2, 12, 3, true);
    const { edges, share } = symmetryOf(mesh, 'x');
    expect(share).toBe(1);
    for (let e = 0; e < edges.length; e++) expect(edges[edges[e]!]).toBe(e);
    expect(withMirrored(symmetryOf(mesh, 'x'), [3])).toContain(edges[3]);
    const lopsided = { ...mesh, points: mesh.points.map((x, k) => x + 0.1 * Math.sin(k)) };
    expect(findSymmetry(lopsided)).toBeNull();
  });
});

describe('crossings of a border', () => {
  it('a bow tie crosses once, a square never, a shared end is no crossing', () => {
    const ring = (points: number[][]) => Float64Array.from(points.flatMap((p, k) => [...p, ...points[(k + 1) % points.length]!]));
    const square = ring([
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ]);
    const bow = ring([
      [0, 0],
      [1, 1],
      [1, 0],
      [0, 1],
    ]);
    expect(borderCrossings(square)).toEqual([]);
    expect(borderCrossings(bow)).toHaveLength(2);
  });
});

describe('bevels and rounded edges', () => {
  it.each([
    ['cut off at 45°', chamferedBox(3, 2, 1, 0.1)],
    ['cut off at 45°, of even sides', chamferedBox(1, 1, 1, 0.1)],
    ['rounded in two steps', bevelledBox(3, 2, 1, 0.1, 1)],
    ['rounded in eight steps', bevelledBox(3, 2, 1, 0.1, 4)],
  ] as const)('a box with its edges %s has the six islands of a box, flat, by near-flat groups', async (_, mesh) => {
    for (const bevels of ['larger', 'half'] as const) {
      const { set, islands, energy } = await proposeSeams(mesh, emptyUvSet(mesh), { by: 'flat', bevels });
      expect(islands).toBe(6);
      // each has one of the six sides
      const areas = faceAreas(mesh);
      const large = [...areas.keys()].sort((a, b) => areas[b]! - areas[a]!).slice(0, 6);
      expect(new Set(large.map((f) => islandsOf(mesh, set).ofFace[f])).size).toBe(6);
      expect(energy).toBeLessThan(4.01);
    }
  });

  it('creases cut each of them once; apart, they are islands', async () => {
    const mesh = chamferedBox(3, 2, 1, 0.1);
    const count = async (bevels: BevelWay) => (await proposeSeams(mesh, emptyUvSet(mesh), { by: 'crease', angle: 30, bevels })).islands;
    expect(await count('larger')).toBe(6);
    expect(await count('half')).toBe(6);
    expect(await count('apart')).toBe(26);
    const { cuts } = await proposeSeams(box(3, 2, 1), emptyUvSet(box(3, 2, 1)), { by: 'crease', angle: 30 });
    expect(cuts).toHaveLength(12);
  });

  it('the larger neighbour has them: the largest sides of a box with all four of theirs', async () => {
    const mesh = chamferedBox(3, 2, 1, 0.1);
    const { set } = await proposeSeams(mesh, emptyUvSet(mesh), { by: 'flat', angle: 30, bevels: 'larger' });
    const { start, count } = islandsOf(mesh, set);
    // 3 × 2: one side, four bevels, four corners; 3 × 1: its two ends' bevels; 2 × 1: none
    expect(Array.from({ length: count }, (_, i) => start[i + 1]! - start[i]!).sort((a, b) => a - b)).toEqual([1, 1, 3, 3, 9, 9]);
  });
});

describe('limbs', () => {
  /** A lathe's profile: two balls of radius 1 with their middles at ±2, joined by a bar of radius 0.2. */
  const dumbbell = lathe(
    Array.from({ length: 81 }, (_, k): [number, number] => {
      const y = (k / 80) * 6 - 3;
      const inBall = 1 - (Math.abs(y) - 2) ** 2;
      return [Math.max(inBall > 0 ? Math.sqrt(inBall) : 0, Math.abs(y) < 2 ? 0.2 : 0.01), y];
    }),
    24,
    true,
  );

  it('a dumbbell parts where its balls meet the bar', () => {
    const limbs = findLimbs(dumbbell, seamPrices(dumbbell));
    expect(limbs).toHaveLength(2);
    const { edgePoints } = topologyOf(dumbbell);
    // the balls' surface comes down to the bar at 2 − √(1 − 0.2²) = 1.02
    for (const { ring, girth } of limbs) {
      const heights = ring.map((e) => Math.abs(dumbbell.points[edgePoints[e * 2]! * 3 + 1]!));
      expect(Math.max(...heights)).toBeLessThan(1.2);
      expect(Math.min(...heights)).toBeGreaterThan(0.9);
      // a ring of 24 sides round the bar
      expect(girth).toBeCloseTo(24 * 2 * 0.2 * Math.sin(Math.PI / 24), 1);
    }
  });

  it.each([
    [
      'a tube',
      lathe(
        Array.from({ length: 41 }, (_, k): [number, number] => [0.5, k * 0.1 - 2]),
        24,
        true,
      ),
    ],
    [
      'a cone',
      lathe(
        Array.from({ length: 41 }, (_, k): [number, number] => [0.1 + k * 0.02, k * 0.1 - 2]),
        24,
        true,
      ),
    ],
    ['a ball', cubeSphere(1, 12)],
    ['a box', box(1, 2, 3)],
    ['a torus', torus(1, 0.3, 24, 12)],
    ['a plate', plane(2, 1, 8, 4)],
  ] as const)('%s has none', (_, mesh) => {
    expect(findLimbs(mesh, seamPrices(mesh))).toEqual([]);
  });

  const right = [1, 0, 0] as const;
  const left = [-1, 0, 0] as const;
  const up = [0, 1, 0] as const;
  const down = [0, -1, 0] as const;
  const front = [0, 0, 1] as const;
  const sorted = (list: number[]) => list.sort((a, b) => a - b);

  it.each([
    ['four tubes that cross', [right, left, up, down]],
    ['three that meet', [right, left, up]],
    ['five', [right, left, up, down, front]],
  ] as const)('%s: a ring at the root of each, however the form is turned, its faces numbered or refined', (_, directions) => {
    for (const steps of [2, 4]) {
      const mesh = tubeCross(directions, 3, steps);
      const { points, corners, faceStart } = mesh;
      // (x, y, z) → (z, x, y), the last face first
      const turned = meshFromFaces(
        Array.from({ length: points.length / 3 }, (_, p) => [points[p * 3 + 2]!, points[p * 3]!, points[p * 3 + 1]!]).flat(),
        Array.from({ length: faceCount(mesh) }, (_, f) => [...corners.subarray(faceStart[f]!, faceStart[f + 1]!)]).reverse(),
      );
      for (const one of [mesh, turned]) {
        const limbs = findLimbs(one, seamPrices(one));
        expect(limbs).toHaveLength(directions.length);
        const { edgePoints } = topologyOf(one);
        for (const { ring, girth } of limbs) {
          // round a tube of width 1, where it leaves the cube in the middle or a step further out
          expect(girth).toBeCloseTo(4, 9);
          for (const e of ring)
            for (let k = 0; k < 2; k++) {
              const out = Math.max(...[0, 1, 2].map((d) => Math.abs(one.points[edgePoints[e * 2 + k]! * 3 + d]!)));
              expect(out).toBeGreaterThan(0.49);
              expect(out).toBeLessThan(1.6);
            }
        }
      }
    }
  });

  it('are islands of their own, the limit is kept, and rings come in pairs across the middle', async () => {
    const mesh = tubeCross([right, left, up], 3, 3);
    const { limbs, islands, met, cuts, symmetry } = await proposeSeams(mesh, emptyUvSet(mesh), { by: 'limbs', limit: 4.2, symmetry: 'x' });
    expect([limbs, islands, met, symmetry]).toEqual([3, 4, true, 'x']);
    const { edges } = symmetryOf(mesh, 'x');
    const all = new Set(cuts);
    expect(sorted(cuts.filter((e) => !all.has(edges[e]!)))).toEqual([]);
  }, 30_000);

  it('on a large mesh, too, by way of a coarser one: seams by limbs all have one across, few by stretch nearly all', async () => {
    const mesh = tubeCross([right, left, up], 3, 12);
    expect(faceCount(mesh) * 2).toBeGreaterThan(8000);
    const { edges } = symmetryOf(mesh, 'x');
    for (const by of ['limbs', 'stretch'] as const) {
      const { cuts, met, layout } = await proposeSeams(mesh, emptyUvSet(mesh), {
        by,
        limit: 4.2,
        symmetry: 'auto',
        sheet: { width: 1024, height: 1024, gap: 4, borderGap: 4 },
      });
      expect(met).toBe(true);
      const all = new Set(cuts);
      // the few may have a branch on one side alone
      expect(cuts.filter((e) => !all.has(edges[e]!)).length).toBeLessThanOrEqual(by === 'limbs' ? 0 : cuts.length * 0.08);
      expect(layout!.coverage).toBeGreaterThan(0.2);
    }
  }, 30_000);

  it('loops astride the plane are joined within it, those beside it in pairs', () => {
    // a tube has a loop at each end; without the last faces of its arms a cross has one at the end of each
    const tube = cylinder(1, 3, 16, 6, false);
    const x = symmetryOf(tube, 'x');
    const inPlane = openAlike(tube, emptyUvSet(tube), seamPrices(tube).price, x);
    expect(inPlane).toHaveLength(6);
    for (const e of inPlane) expect(x.edges[e]).toBe(e);
    const cross = tubeCross([right, left, up], 2, 2);
    const ends = (f: number) => {
      const places = [...cross.corners.subarray(cross.faceStart[f]!, cross.faceStart[f + 1]!)].map((p) => [0, 1, 2].map((d) => cross.points[p * 3 + d]!));
      return [0, 1].some((d) => places.every((p) => Math.abs(p[d]!) > 2.49));
    };
    const open = meshFromFaces(
      [...cross.points],
      Array.from({ length: faceCount(cross) }, (_, f) => f)
        .filter((f) => !ends(f))
        .map((f) => [...cross.corners.subarray(cross.faceStart[f]!, cross.faceStart[f + 1]!)]),
    );
    expect(islandFacts(open, emptyUvSet(open))[0]!.loops).toBe(3);
    const across = symmetryOf(open, 'x');
    const cuts = openAlike(open, emptyUvSet(open), seamPrices(open).price, across);
    const all = new Set(cuts);
    expect(cuts.filter((e) => !all.has(across.edges[e]!))).toEqual([]);
    expect(islandFacts(open, cut(open, emptyUvSet(open), cuts).set).map(({ shape }) => shape)).toEqual(['disk']);
  });

  it('a cheapest cut is cheapest: against all ways to part a small network', () => {
    const random = seededRandom(3);
    for (let round = 0; round < 30; round++) {
      const nodes = 7;
      const links: number[] = [];
      for (let a = 0; a < nodes; a++) for (let b = a + 1; b < nodes; b++) if (random() < 0.6) links.push(a, b);
      const cost = Float64Array.from({ length: links.length / 2 }, () => Math.floor(random() * 9));
      const ends = Uint8Array.from({ length: nodes }, (_, n) => (n === 0 ? 1 : n === nodes - 1 ? 2 : 0));
      const priceOf = (side: (n: number) => boolean) => cost.reduce((sum, x, k) => (side(links[k * 2]!) === side(links[k * 2 + 1]!) ? sum : sum + x), 0);
      let best = Infinity;
      for (let mask = 0; mask < 1 << (nodes - 2); mask++)
        best = Math.min(
          best,
          priceOf((n) => n === 0 || (n < nodes - 1 && ((mask >> (n - 1)) & 1) === 1)),
        );
      const side = minCut(nodes, Uint32Array.from(links), cost, ends);
      expect([side[0], side[nodes - 1]]).toEqual([1, 0]);
      expect(priceOf((n) => side[n] === 1)).toBe(best);
    }
  });
});

describe('how much seams are seen', () => {
  it('by hand: lengths 1, 2, 3 seen from half, a quarter and none of all directions', () => {
    // hidden: 1·0 + 2·½ + 3·1 of 6; in plain sight: the first alone
    expect(seamSight([1, 2, 3, 9], [0.5, 0.25, 0, 0.5], [0, 1, 2])).toEqual({ seamLength: 6, hiddenSeamShare: 4 / 6, seamInSight: 1 });
    expect(seamSight([1], [0.5], [])).toEqual({ seamLength: 0, hiddenSeamShare: null, seamInSight: 0 });
  });

  it('proposal and check say the same', async () => {
    const mesh = makeFormMesh();
    const proposal = await proposeSeams(mesh, emptyUvSet(mesh), { by: 'stretch', limit: 4.3 });
    const { report } = checkLayout(mesh, cut(mesh, emptyUvSet(mesh), proposal.cuts).set, 512, 512);
    expect(report.seamLength).toBeCloseTo(proposal.seamLength, 9);
    expect(report.seamInSight).toBeCloseTo(proposal.seamInSight, 9);
    expect(report.hiddenSeamShare).toBeCloseTo(proposal.hiddenSeamShare!, 9);
  });

  it('faces that are looked at are kept clear of seams where there is another way', async () => {
    const mesh = cubeSphere(1, 12);
    const lookedAt = new Uint8Array(faceCount(mesh));
    for (let f = 0; f < lookedAt.length; f++) lookedAt[f] = mesh.points[mesh.corners[mesh.faceStart[f]!]! * 3 + 2]! > 0.5 ? 1 : 0;
    const { edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
    const across = async (marks: Uint8Array | null) => {
      const { cuts } = await proposeSeams(mesh, emptyUvSet(mesh), { by: 'stretch', limit: 4.4, lookedAt: marks, towards: [0, 0, -1] });
      return cuts.filter((e) => [0, 1].some((k) => lookedAt[cornerFace[edgeCorners[edgeStart[e]! + k]!]!])).length;
    };
    expect(await across(null)).toBeGreaterThan(5);
    expect(await across(lookedAt)).toBe(0);
  });
});
