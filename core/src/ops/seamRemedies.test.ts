import { describe, expect, it } from 'vitest';
import { quietContext } from '../context.ts';
import { Surface } from '../images/surface/surface.ts';
import { activeSet, newJob, partOf, type Job, type Part } from '../job/job.ts';
import { surfacePlanOf } from '../job/layers.ts';
import { jumpLengths, seamJumps } from '../measure/continuity.ts';
import { seamLooks } from '../measure/seamLooks.ts';
import { cubeSphere } from '../mesh/starterForms.ts';
import { meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { seededRandom } from '../numeric/random.ts';
import { edgeLengths } from '../seams/crease.ts';
import { cut } from '../seams/cut.ts';
import { movedSeam } from '../seams/moveSeam.ts';
import { pathTo, shortestPaths } from '../seams/shortestPaths.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import { emptyUvSet, type UvSet } from '../uv/uvSet.ts';
import { runOperation } from './registry.ts';
import { seamRemedies, type SeamRemedies } from './seamRemediesWork.ts';

const sides = 16;
const rings = 6;

/** An upright tube, open above and below; column 0 looks to +z. */
function tube(): Mesh {
  const points: number[] = [];
  for (let r = 0; r <= rings; r++)
    for (let k = 0; k < sides; k++) points.push(Math.sin((2 * Math.PI * k) / sides), (r * 3) / rings, Math.cos((2 * Math.PI * k) / sides));
  const at = (r: number, k: number) => r * sides + (k % sides);
  const faces = [];
  for (let r = 0; r < rings; r++) for (let k = 0; k < sides; k++) faces.push([at(r, k), at(r, k + 1), at(r + 1, k + 1), at(r + 1, k)]);
  return meshFromFaces(points, faces);
}

/** A flat sheet of squares. */
function grid(n: number): Mesh {
  const points: number[] = [];
  for (let y = 0; y <= n; y++) for (let x = 0; x <= n; x++) points.push(x, y, 0);
  const faces = [];
  for (let y = 0; y < n; y++) for (let x = 0; x < n; x++) faces.push([y * (n + 1) + x, y * (n + 1) + x + 1, (y + 1) * (n + 1) + x + 1, (y + 1) * (n + 1) + x]);
  return meshFromFaces(points, faces);
}

/** Edges of a way over points. */
function way(mesh: Mesh, points: readonly number[]): number[] {
  const { edgePoints, edgeCount } = topologyOf(mesh);
  return points.slice(1).map((q, k) => {
    const p = points[k]!;
    for (let e = 0; e < edgeCount; e++) if (edgePoints[e * 2] === Math.min(p, q) && edgePoints[e * 2 + 1] === Math.max(p, q)) return e;
    for (let e = 0; e < edgeCount; e++) if (edgePoints[e * 2] === Math.max(p, q) && edgePoints[e * 2 + 1] === Math.min(p, q)) return e;
    throw new Error(`no edge from ${p} to ${q}`);
  });
}

const seamsOf = (mesh: Mesh, set: UvSet) => [...islandsOf(mesh, set).states.keys()].filter((e) => islandsOf(mesh, set).states[e] === EdgeState.seam);
const lengthOf = (mesh: Mesh, edges: readonly number[]) => edges.reduce((sum, e) => sum + edgeLengths(mesh)[e]!, 0);

/** Euler numbers of the pieces that seams part a mesh into, from the corners alone. */
function eulerNumbers(mesh: Mesh, seams: ReadonlySet<number>): number[] {
  const { twin, cornerFace, cornerEdge } = topologyOf(mesh);
  const groups = (size: number) => {
    const root = Array.from({ length: size }, (_, k) => k);
    const find = (k: number): number => (root[k] === k ? k : (root[k] = find(root[k]!)));
    return { find, join: (a: number, b: number) => void (root[find(a)] = find(b)) };
  };
  const joined = (c: number) => twin[c]! >= 0 && !seams.has(cornerEdge[c]!);
  const next = (c: number) => (c + 1 === mesh.faceStart[cornerFace[c]! + 1] ? mesh.faceStart[cornerFace[c]!]! : c + 1);
  const [faces, places] = [groups(mesh.faceStart.length - 1), groups(mesh.corners.length)];
  for (let c = 0; c < mesh.corners.length; c++) {
    if (!joined(c)) continue;
    faces.join(cornerFace[c]!, cornerFace[twin[c]!]!);
    places.join(c, next(twin[c]!));
    places.join(next(c), twin[c]!);
  }
  const euler = new Map<number, number>();
  const add = (face: number, n: number) => euler.set(faces.find(face), (euler.get(faces.find(face)) ?? 0) + n);
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) add(f, 1);
  for (let c = 0; c < mesh.corners.length; c++) {
    if (places.find(c) === c) add(cornerFace[c]!, 1);
    if (!joined(c) || c < twin[c]!) add(cornerFace[c]!, -1);
  }
  return [...euler.values()].sort((a, b) => a - b);
}

async function jobOf(mesh: Mesh, edges: readonly number[]): Promise<Job> {
  const part: Part = {
    id: 'p',
    name: 'p',
    mesh,
    uvSets: [cut(mesh, emptyUvSet(mesh, 'UV set 1'), edges).set],
    activeUv: 0,
    imageId: null,
    origin: { kind: 'made' },
  };
  const job = newJob('j', 'j', [part]);
  const { job: flat } = await runOperation({ ...job, settings: { ...job.settings, seenFrom: 'front' } }, 'unwrap', {});
  return (await runOperation(flat, 'pack', { effort: 0 })).job;
}

describe('a seam is moved', () => {
  it('from the front of a tube to its back, with ends of its own, and is as short there', async () => {
    const mesh = tube();
    const front = way(
      mesh,
      Array.from({ length: rings + 1 }, (_, r) => r * sides),
    );
    const job = await jobOf(mesh, front);
    const { job: after, report } = await runOperation(job, 'moveSeam', { edges: front });
    expect(report).toEqual({ from: rings, to: rings });
    const seams = seamsOf(mesh, activeSet(after.parts[0]!));
    expect(lengthOf(mesh, seams)).toBeCloseTo(3, 9);
    // all of it behind: z below 0 by a good deal
    const { edgePoints } = topologyOf(mesh);
    for (const e of seams) for (let k = 0; k < 2; k++) expect(mesh.points[edgePoints[e * 2 + k]! * 3 + 2]!).toBeLessThan(-0.5);
    expect(islandFacts(mesh, activeSet(after.parts[0]!)).map(({ shape }) => shape)).toEqual(['disk']);
    // there it stays
    await expect(runOperation(after, 'moveSeam', { edges: seams })).rejects.toThrow('No other way');
  });

  it('between its two ends where both are on one rim: a zigzag over a sheet becomes straight', () => {
    const n = 6;
    const mesh = grid(n);
    const steps = [3, 10, 9, 16, 17, 18, 25, 24, 31, 38, 45];
    const zigzag = way(mesh, steps);
    const set = cut(mesh, emptyUvSet(mesh, 'UV set 1'), zigzag).set;
    expect(islandsOf(mesh, set).count).toBe(2);
    const moved = movedSeam(mesh, set, zigzag, edgeLengths(mesh));
    if (typeof moved === 'string') throw new Error(moved);
    expect(lengthOf(mesh, seamsOf(mesh, moved.set))).toBe(n);
    expect(islandsOf(mesh, moved.set).count).toBe(2);
    // edges that stay are told in neither list
    expect(moved.to.length).toBe(n - zigzag.filter((e) => !moved.from.includes(e)).length);
    expect(new Set([...moved.from, ...moved.to]).size).toBe(moved.from.length + moved.to.length);
  });

  it('not where it goes all round or ends within its island, and never so that a piece is all but gone', () => {
    const mesh = tube();
    const round = way(
      mesh,
      Array.from({ length: sides + 1 }, (_, k) => 3 * sides + (k % sides)),
    );
    expect(movedSeam(mesh, cut(mesh, emptyUvSet(mesh, 's'), round).set, round, edgeLengths(mesh))).toBe('ring');
    const slit = way(mesh, [0, sides, 2 * sides]);
    expect(movedSeam(mesh, cut(mesh, emptyUvSet(mesh, 's'), slit).set, slit, edgeLengths(mesh))).toBe('ring');
    // edges beside the rim cost nothing: along it the lower half would shrink to a row
    const n = 16;
    const sheet = grid(n);
    const middle = way(
      sheet,
      Array.from({ length: n + 1 }, (_, k) => 8 * (n + 1) + k),
    );
    const price = edgeLengths(sheet).slice();
    const { edgePoints, edgeCount } = topologyOf(sheet);
    for (let e = 0; e < edgeCount; e++) {
      const [p, q] = [edgePoints[e * 2]! * 3, edgePoints[e * 2 + 1]! * 3];
      const aside = (x: number) => x === 1 || x === n - 1;
      const low = (y: number) => y === 1;
      if ((low(sheet.points[p + 1]!) && low(sheet.points[q + 1]!)) || (aside(sheet.points[p]!) && aside(sheet.points[q]!))) price[e] = 1e-9;
    }
    expect(movedSeam(sheet, cut(sheet, emptyUvSet(sheet, 's'), middle).set, middle, price)).toBe('best');
  });

  it('leaves as many pieces as there were, of the same Euler numbers, whatever branches and meets there', () => {
    const mesh = cubeSphere(1, 8);
    const points = mesh.points.length / 3;
    let moved = 0;
    for (let seed = 1; seed <= 60; seed++) {
      const random = seededRandom(seed);
      const price = edgeLengths(mesh).map((length) => length * (0.2 + random()));
      const pick = () => Math.floor(random() * points);
      const stops = [pick(), pick(), pick()];
      // ways from three places to three others, some of which meet or close
      const cuts = new Set(
        stops.flatMap((from) =>
          [pick(), stops[0]!].flatMap((to) =>
            pathTo(
              mesh,
              shortestPaths(mesh, [from], (e) => price[e]! * random(), to),
              to,
            ),
          ),
        ),
      );
      const set = cut(mesh, emptyUvSet(mesh, 's'), cuts).set;
      const found = movedSeam(mesh, set, cuts, edgeLengths(mesh));
      if (typeof found === 'string') continue;
      moved++;
      expect(eulerNumbers(mesh, new Set(seamsOf(mesh, found.set))), `seed ${seed}`).toEqual(eulerNumbers(mesh, new Set(seamsOf(mesh, set))));
      const now = new Set(seamsOf(mesh, found.set));
      expect(found.to.every((e) => now.has(e)) && found.from.every((e) => !now.has(e))).toBe(true);
      expect(lengthOf(mesh, [...now])).toBeLessThan(lengthOf(mesh, seamsOf(mesh, set)) + 1e-9);
    }
    expect(moved).toBeGreaterThan(20);
  });

  it('says so where no seam is meant', async () => {
    const mesh = tube();
    const front = way(
      mesh,
      Array.from({ length: rings + 1 }, (_, r) => r * sides),
    );
    const job = await jobOf(mesh, front);
    await expect(runOperation(job, 'moveSeam', { edges: [front[0]! + 1] })).rejects.toThrow('None of these edges is a seam');
  });
});

const looksOf = async (job: Job) => {
  const part = partOf(job);
  return seamLooks(part.mesh, activeSet(part), new Surface(part.mesh, surfacePlanOf(job, part), () => checks));
};
/** Fine checks: where the picture does not go on it shows. */
const checks = {
  width: 64,
  height: 64,
  data: Uint8Array.from({ length: 64 * 64 * 4 }, (_, k) => ((k & 3) === 3 || (((k >> 2) & 8) !== 0) !== ((((k >> 8) & 8) as number) !== 0) ? 255 : 0)),
};

/** A tube of two halves with a picture, whose halves are far apart on the sheet. */
async function halves(): Promise<{ job: Job; seam: number[]; edges: number[] }> {
  const mesh = tube();
  const column = (k: number) =>
    way(
      mesh,
      Array.from({ length: rings + 1 }, (_, r) => r * sides + k),
    );
  const bare = await jobOf(mesh, [...column(0), ...column(8)]);
  const image = { id: 'i', name: 'i.png', type: 'image/png', bytes: pngHeader };
  const job: Job = { ...bare, images: [image], parts: bare.parts.map((part) => ({ ...part, imageId: 'i' })) };
  return { job, seam: column(0), edges: [...column(0), ...column(8)] };
}
/** What says a picture's size: 64 × 64 px. */
const pngHeader = Uint8Array.from([137, 80, 78, 71, 13, 10, 26, 10, 0, 0, 0, 13, 73, 72, 68, 82, 0, 0, 0, 64, 0, 0, 0, 64, 8, 6, 0, 0, 0]);

describe('a seam is covered from three sides', () => {
  it('along it, right over the picture, so that both sides look alike; again in its place', async () => {
    const { job, edges } = await halves();
    const [before] = await looksOf(job);
    expect(before!.colour).toBeGreaterThan(20);
    const { job: after, report } = await runOperation(job, 'coverSeam', { edges });
    expect((await looksOf(after)).reduce((most, one) => Math.max(most, one.colour), 0)).toBeLessThan(1);
    expect(report).toMatchObject({ layer: 'layer-1' });
    const paint = { name: 'Paint', source: { kind: 'colour' as const }, opacity: 0.3 };
    const { job: other } = await runOperation(after, 'addLayer', { layer: paint });
    const again = (await runOperation(other, 'coverSeam', { edges })).job;
    expect(again.parts[0]!.layers!.filter(({ name }) => name.startsWith('Over the seam'))).toHaveLength(1);
    expect(again.parts[0]!.layers![0]!.name).toBe('Over the seam of A and B');
  });

  it('over the topmost layer that hides the picture, and over its relief; not where that does not lie by UVs', async () => {
    const { job, edges } = await halves();
    const add = async (on: Job, layer: object) =>
      (await runOperation(on, 'addLayer', { layer: { name: 'x', source: { kind: 'image', image: 'i' }, ...layer } as never })).job;
    const layered = await add(await add(await add(job, { name: 'tiles' }), { name: 'height', to: 'relief' }), { name: 'dirt', opacity: 0.3 });
    const { job: after } = await runOperation(layered, 'coverSeam', { edges });
    expect(after.parts[0]!.layers!.map(({ name }) => name)).toEqual([
      'tiles',
      'Over the seam of A and B',
      'height',
      'Over the seam of A and B, relief',
      'dirt',
    ]);
    const [seam] = await looksOf(after);
    // the faint one over all jumps as before
    expect(seam!.colour).toBeLessThan(0.5 * (await looksOf(layered))[0]!.colour);
    expect(seam!.relief).toBeLessThan(1e-12);
    const again = (await runOperation(after, 'coverSeam', { edges })).job;
    expect(again.parts[0]!.layers!.map(({ name }) => name)).toEqual(after.parts[0]!.layers!.map(({ name }) => name));
    const noise = await add(job, { name: 'all noise', source: { kind: 'noise' } });
    await expect(runOperation(noise, 'coverSeam', { edges })).rejects.toThrow('lies by its UVs');
  });

  it('or on both islands whole', async () => {
    const { job, edges } = await halves();
    const { job: after, report } = await runOperation(job, 'coverSeam', { edges, how: 'whole' });
    expect(report).toMatchObject({ faces: sides * rings, share: 1 });
    expect(await looksOf(after)).toEqual([]);
  });

  it('not where the part follows the layers of its material, or has no picture', async () => {
    const { job, edges } = await halves();
    const bare = { ...job, parts: job.parts.map((one) => ({ ...one, imageId: null })) };
    await expect(runOperation(bare, 'coverSeam', { edges })).rejects.toThrow('no picture yet');
    const part = job.parts[0]!;
    const followed: Job = {
      ...job,
      parts: [{ ...part, mesh: { ...part.mesh, materials: ['m'] } }],
      materialLayers: [{ material: 'm', layers: [] }],
    };
    await expect(runOperation(followed, 'coverSeam', { edges })).rejects.toThrow('layers of its material');
  });
});

describe('remedies as they are told', () => {
  it('are what comes when they are taken', async () => {
    const { job, seam, edges } = await halves();
    const part = partOf(job);
    const size = { width: 64, height: 64 };
    const jump = seamJumps(part.mesh, activeSet(part), undefined, size)[0]!;
    const told: SeamRemedies = await seamRemedies(job, { edges: jump.edges, islands: jump.islands, way: 'size' }, looksOf, quietContext);
    expect([...jump.edges].sort()).toEqual([...edges].sort());
    expect(told.jumping).toBeCloseTo(jumpLengths(part.mesh, activeSet(part), undefined, size).jumping, 12);
    for (const one of told.goOn) {
      if ('why' in one) throw new Error(one.why);
      const { job: after } = await runOperation(job, 'goOn', { island: one.island, from: one.from, way: 'size' });
      const set = activeSet(after.parts[0]!);
      expect(one.jumping).toBeCloseTo(jumpLengths(part.mesh, set, undefined, size).jumping, 9);
      expect(one.left).toBeCloseTo(seamJumps(part.mesh, set, undefined, size)[0]?.offset ?? 0, 9);
    }
    // two halves that meet along two lines: joined along both they are a tube, which lies flat as a ring alone
    expect(told.join).toEqual({ energy: expect.closeTo(6.17, 1) as number });
    const one = await seamRemedies(job, { edges: seam, islands: jump.islands, way: 'size' }, looksOf, quietContext);
    // along one line only the tube unrolls without stretch
    expect(one.join).toEqual({ energy: expect.closeTo(4, 3) as number });
    for (const { how, ...cover } of told.cover) {
      if ('why' in cover) throw new Error(cover.why);
      const after = await looksOf((await runOperation(job, 'coverSeam', { edges: [...jump.edges], how })).job);
      expect(cover.after).toBeCloseTo(Math.max(0, ...after.map(({ colour }) => colour)), 9);
      expect(cover.before).toBeGreaterThan(20);
      expect(cover.allBefore).toBeCloseTo(cover.before, 6);
    }
  });

  it('a move tells what comes into sight less, and what the pieces then stretch', async () => {
    const mesh = tube();
    const front = way(
      mesh,
      Array.from({ length: rings + 1 }, (_, r) => r * sides),
    );
    const job = await jobOf(mesh, front);
    const told = await seamRemedies(job, { edges: front, islands: [0, 0], way: 'turn' }, looksOf, quietContext);
    expect(told.goOn).toEqual([]);
    expect(told.move).toMatchObject({ before: expect.closeTo(3, 6) as number, energy: expect.closeTo(4, 3) as number });
    // what is seen through its open end is left
    expect((told.move as { after: number }).after).toBeLessThan(1.5);
  });
});
