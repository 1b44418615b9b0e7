/* Sets of islands to pack, for benches and tests: charts of real meshes that nobody here made, and a square cut into convex pieces. */
import {
  activeSet,
  emptyUvSet,
  faceCount,
  joinParts,
  seededRandom,
  meshFromFaces,
  newJob,
  runOperation,
  topologyOf,
  uvSetFrom,
  type Mesh,
  type Part,
  type UvSet,
} from '@jig-peel/core';
import { realMesh } from './realMeshes.ts';

export interface PackSet {
  name: string;
  mesh: Mesh;
  set: UvSet;
}

/** Faces grown from seeds that lie far apart, each by the way along the surface times a factor of its own: charts of unequal sizes. */
function charts(mesh: Mesh, count: number, seed: number): Int32Array {
  const random = seededRandom(seed);
  const topology = topologyOf(mesh);
  const faces = faceCount(mesh);
  const middle = new Float64Array(faces * 3);
  for (let f = 0; f < faces; f++) {
    const corners = mesh.faceStart[f + 1]! - mesh.faceStart[f]!;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++)
      for (let k = 0; k < 3; k++) middle[f * 3 + k]! += mesh.points[mesh.corners[c]! * 3 + k]! / corners;
  }
  const away = (a: number, b: number) =>
    Math.hypot(middle[a * 3]! - middle[b * 3]!, middle[a * 3 + 1]! - middle[b * 3 + 1]!, middle[a * 3 + 2]! - middle[b * 3 + 2]!);
  const seeds = [Math.floor(random() * faces)];
  const near = new Float64Array(faces).fill(Infinity);
  while (seeds.length < count) {
    let best = 0;
    for (let f = 0; f < faces; f++) {
      near[f] = Math.min(near[f]!, away(f, seeds.at(-1)!) * (0.6 + 0.8 * random()));
      if (near[f]! > near[best]!) best = f;
    }
    seeds.push(best);
  }
  const of = new Int32Array(faces).fill(-1);
  const speed = seeds.map(() => 0.5 + random());
  // Dijkstra with a plain list of buckets by cost
  const heap: [number, number, number][] = seeds.map((f, k) => [0, f, k]);
  const less = (a: number, b: number) => heap[a]![0] < heap[b]![0];
  const swap = (a: number, b: number) => ([heap[a], heap[b]] = [heap[b]!, heap[a]!]);
  const push = (item: [number, number, number]) => {
    heap.push(item);
    for (let k = heap.length - 1; k > 0 && less(k, (k - 1) >> 1); k = (k - 1) >> 1) swap(k, (k - 1) >> 1);
  };
  const pop = () => {
    const top = heap[0]!;
    const last = heap.pop()!;
    if (heap.length > 0) {
      heap[0] = last;
      for (let k = 0; ;) {
        let c = 2 * k + 1;
        if (c >= heap.length) break;
        if (c + 1 < heap.length && less(c + 1, c)) c++;
        if (!less(c, k)) break;
        swap(c, k);
        k = c;
      }
    }
    return top;
  };
  while (heap.length > 0) {
    const [cost, f, k] = pop();
    if (of[f] !== -1) continue;
    of[f] = k;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const twin = topology.twin[c]!;
      if (twin < 0 || twin >= mesh.corners.length) continue;
      const g = topology.cornerFace[twin]!;
      if (of[g] === -1) push([cost + away(f, g) * speed[k]!, g, k]);
    }
  }
  // a careful cut is short: a face goes over to a neighbour where that shortens the seams
  const length = (c: number) => {
    const p = mesh.corners[c]! * 3;
    const f = topology.cornerFace[c]!;
    const q = mesh.corners[c + 1 < mesh.faceStart[f + 1]! ? c + 1 : mesh.faceStart[f]!]! * 3;
    return Math.hypot(mesh.points[p]! - mesh.points[q]!, mesh.points[p + 1]! - mesh.points[q + 1]!, mesh.points[p + 2]! - mesh.points[q + 2]!);
  };
  for (let pass = 0; pass < 12; pass++) {
    for (let f = 0; f < faces; f++) {
      const beside = new Map<number, number>();
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        const twin = topology.twin[c]!;
        if (twin >= 0) beside.set(of[topology.cornerFace[twin]!]!, (beside.get(of[topology.cornerFace[twin]!]!) ?? 0) + length(c));
      }
      for (const [k, along] of beside) if (along > (beside.get(of[f]!) ?? 0) * 1.0001) of[f] = k;
    }
  }
  return of;
}

async function chartPart(name: string, count: number, seed: number): Promise<Part> {
  const mesh = realMesh(name);
  const of = charts(mesh, count, seed);
  const topology = topologyOf(mesh);
  const edges = new Set<number>();
  for (let c = 0; c < mesh.corners.length; c++) {
    const twin = topology.twin[c]!;
    if (twin >= 0 && twin < mesh.corners.length && of[topology.cornerFace[c]!] !== of[topology.cornerFace[twin]!]) edges.add(topology.cornerEdge[c]!);
  }
  const part: Part = { id: name, name, mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } };
  let job = newJob('j', 'j', [part]);
  job = (await runOperation(job, 'cut', { edges: [...edges] })).job;
  // what closes on itself is opened before it is laid flat
  job = await runOperation(job, 'open', {}).then(
    (ran) => ran.job,
    () => job,
  );
  job = (await runOperation(job, 'unwrap', {})).job;
  // each mesh as large as the others: its surface is one square unit a chart
  const result = job.parts[0]!;
  const uv = activeSet(result).uv;
  let area = 0;
  const own = activeSet(result).cornerUv;
  for (let f = 0; f < faceCount(mesh); f++) {
    const a = mesh.faceStart[f]!;
    for (let c = a + 2; c < mesh.faceStart[f + 1]!; c++) {
      const [p, q, r] = [own[a]! * 2, own[c - 1]! * 2, own[c]! * 2] as const;
      area += Math.abs((uv[q]! - uv[p]!) * (uv[r + 1]! - uv[p + 1]!) - (uv[r]! - uv[p]!) * (uv[q + 1]! - uv[p + 1]!)) / 2;
    }
  }
  const factor = Math.sqrt(count / area);
  return { ...result, uvSets: [{ ...activeSet(result), uv: uv.map((x) => x * factor) }], activeUv: 0 };
}

const lists: Record<number, [string, number][]> = {
  30: [
    ['pig', 8],
    ['triceratops', 8],
    ['head', 6],
    ['bear', 8],
  ],
  150: [
    ['pig', 20],
    ['triceratops', 22],
    ['head', 18],
    ['bear', 20],
    ['man', 20],
    ['diplodocus', 20],
    ['dino', 15],
    ['lion', 15],
  ],
  600: [
    ['pig', 70],
    ['triceratops', 70],
    ['head', 60],
    ['bear', 70],
    ['man', 70],
    ['diplodocus', 70],
    ['dino', 60],
    ['lion', 70],
    ['armadillo', 60],
  ],
  5000: [
    ['lion', 800],
    ['armadillo', 1500],
    ['dino', 800],
    ['man', 900],
    ['bear', 1000],
  ],
};

/** Charts of real meshes at even density. @param count 30, 150, 600 or 5000 */
export async function chartSet(count: number): Promise<PackSet> {
  const parts: Part[] = [];
  for (const [name, many] of lists[count]!) parts.push(await chartPart(name, many, 1 + parts.length));
  const { mesh, set } = joinParts(parts);
  return { name: `${count} charts`, mesh, set };
}

const cross = (ax: number, ay: number, bx: number, by: number) => ax * by - ay * bx;
type Polygon = [number, number][];
const areaOf = (polygon: Polygon) => polygon.reduce((sum, [x, y], k) => sum + cross(x, y, ...polygon[(k + 1) % polygon.length]!), 0) / 2;

/** The unit square cut into convex pieces, the largest piece each time by a line near its middle; each turned by a multiple of 90°. */
export function cutSquare(count: number, seed = 7): PackSet {
  const random = seededRandom(seed);
  const pieces: Polygon[] = [
    [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ],
  ];
  while (pieces.length < count) {
    pieces.sort((a, b) => areaOf(b) - areaOf(a));
    // one of the three largest, so that sizes differ
    const [piece] = pieces.splice(Math.floor(random() * Math.min(3, pieces.length)), 1);
    const x = piece!.reduce((sum, p) => sum + p[0], 0) / piece!.length;
    const y = piece!.reduce((sum, p) => sum + p[1], 0) / piece!.length;
    const angle = random() * Math.PI;
    const [nx, ny] = [Math.cos(angle), Math.sin(angle)];
    const side = (p: [number, number]) => (p[0] - x) * nx + (p[1] - y) * ny;
    const halves: [Polygon, Polygon] = [[], []];
    piece!.forEach((p, k) => {
      const q = piece![(k + 1) % piece!.length]!;
      const [a, b] = [side(p), side(q)];
      halves[a > 0 ? 0 : 1].push(p);
      if (a > 0 !== b > 0) {
        const t = a / (a - b);
        const at: [number, number] = [p[0] + (q[0] - p[0]) * t, p[1] + (q[1] - p[1]) * t];
        halves[0].push(at);
        halves[1].push(at);
      }
    });
    pieces.push(...halves);
  }
  return polygonSet(
    `${count} pieces of a square`,
    pieces.map((piece) => {
      const turns = Math.floor(random() * 4);
      return piece.map(([x, y]): [number, number] => (turns === 0 ? [x, y] : turns === 1 ? [-y, x] : turns === 2 ? [-x, -y] : [y, -x]));
    }),
  );
}

/** Polygons as islands, in the plane and on the sheet alike. */
export function polygonSet(name: string, polygons: Polygon[]): PackSet {
  const points = polygons.flat();
  let first = 0;
  const faces = polygons.map((polygon) => polygon.map(() => first++));
  const mesh = meshFromFaces(
    points.flatMap(([x, y]) => [x, y, 0]),
    faces,
  );
  return { name, mesh, set: uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), Float64Array.from(points.flat())) };
}
