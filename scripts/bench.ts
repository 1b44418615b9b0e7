/**
 * Measures what the issues set goals for and writes docs/benchmarks.md: medians of several runs on generated meshes and on the npm package
 * `bunny`, with the machine's noise (the spread of a fixed piece of arithmetic). Run: npm run bench
 */
import { createRequire } from 'node:module';
import { cpus } from 'node:os';
import { writeFileSync } from 'node:fs';
import {
  adviseJigs,
  checkLayout,
  cubeSphere,
  cut,
  emptyUvSet,
  islandsOf,
  meshFromFaces,
  modelRegion,
  packLayout,
  placeJig,
  project,
  readObj,
  seededRandom,
  solveIsland,
  topologyOf,
  trianglesOf,
  uvSetFrom,
  edgeLoop,
  growSelection,
  type Mesh,
} from '@jig-peel/core';
import { enableFused } from '../batch/src/engine.ts';
import { bumpyDisk, bumpyQuads, objText } from './benchMeshes.ts';

// as browsers have it: the solver's binary with fused instructions
enableFused();
const require = createRequire(import.meta.url);
const runs = Number(process.env.RUNS ?? 5);
const rows: { what: string; size: string; median: number; spread: number; goal?: number }[] = [];

function median(values: number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[sorted.length >> 1]!;
}

function measure(what: string, size: string, work: () => unknown, goal?: number, prepare: () => void = () => {}): void {
  const times: number[] = [];
  for (let k = 0; k <= runs; k++) {
    prepare();
    (globalThis as { gc?: () => void }).gc?.();
    const start = performance.now();
    work();
    if (k > 0) times.push(performance.now() - start); // the first run warms up
  }
  const m = median(times);
  rows.push({ what, size, median: m, spread: (Math.max(...times) - Math.min(...times)) / m, goal });
  console.log(`${what.padEnd(34)} ${size.padEnd(18)} ${m.toFixed(0).padStart(7)} ms${goal ? `  (goal ${goal})` : ''}`);
}

const fresh = (mesh: Mesh): Mesh => ({ ...mesh });

function suite(name: string, mesh: Mesh, goals: Partial<Record<'read' | 'conformal' | 'check', number>> = {}) {
  const text = objText(mesh);
  measure('read OBJ', name, () => readObj(text), goals.read);
  let copy = mesh;
  measure(
    'topology',
    name,
    () => topologyOf(copy),
    undefined,
    () => (copy = fresh(mesh)),
  );
  const triangles = trianglesOf(mesh);
  const task = { positions: mesh.points, triangles: Uint32Array.from(triangles.corners, (c) => mesh.corners[c]!) };
  measure('conformal, all steps', name, () => solveIsland({ ...task, method: 'conformal' }), goals.conformal);
  measure('rigid from conformal, all steps', name, () => solveIsland({ ...task, method: 'rigid' }));
  const uv = solveIsland({ ...task, method: 'rigid' }).uv;
  let low = [Infinity, Infinity];
  let size = 0;
  for (let k = 0; k < uv.length; k++) low[k % 2] = Math.min(low[k % 2]!, uv[k]!);
  for (let k = 0; k < uv.length; k++) size = Math.max(size, uv[k]! - low[k % 2]!);
  const set = uvSetFrom(
    mesh,
    'bench',
    mesh.corners.slice(),
    uv.map((x, k) => 0.02 + ((x - low[k % 2]!) / size) * 0.96),
  );
  low = [];
  measure('check, all figures', name, () => checkLayout(mesh, set, 2048, 2048), goals.check);
  const middle = Math.floor(topologyOf(mesh).edgeCount / 2);
  const loop = edgeLoop(mesh, middle, 60);
  measure('cut a run of edges, find islands', `${name}, ${loop.length} edges`, () => islandsOf(mesh, cut(mesh, set, loop).set));
}

function blobs(count: number) {
  const random = seededRandom(3);
  const points: number[] = [];
  const faces: number[][] = [];
  for (let i = 0; i < count; i++) {
    const sides = 5 + Math.floor(random() * 8);
    const radius = 0.02 + 0.1 * random() ** 2;
    const face: number[] = [];
    for (let k = 0; k < sides; k++) {
      const a = (2 * Math.PI * k) / sides;
      const r = radius * (0.35 + 0.65 * random());
      face.push(points.length / 3);
      points.push(r * Math.cos(a) * (1 + random()), r * Math.sin(a), 0);
    }
    faces.push(face);
  }
  const mesh = meshFromFaces(points, faces);
  const uv = Float64Array.from({ length: (points.length / 3) * 2 }, (_, k) => points[Math.floor(k / 2) * 3 + (k % 2)]!);
  return { mesh, set: uvSetFrom(mesh, 'bench', mesh.corners.slice(), uv) };
}

function noise(): number {
  const times: number[] = [];
  for (let k = 0; k < 15; k++) {
    const start = performance.now();
    let x = 0;
    for (let i = 0; i < 2e7; i++) x += Math.sqrt(i);
    if (x < 0) throw new Error();
    times.push(performance.now() - start);
  }
  return (Math.max(...times.slice(2)) - Math.min(...times.slice(2))) / median(times.slice(2));
}

const before = noise();
const bunny = require('bunny') as { positions: number[][]; cells: number[][] };
suite('20k triangles', bumpyDisk(20_000));
suite('100k triangles', bumpyDisk(100_000), { conformal: 2000, check: 2000 });
suite('250k triangles', bumpyDisk(250_000), { read: 1500 });
const bunnyMesh = meshFromFaces(bunny.positions.flat(), bunny.cells);
const bunnyText = objText(bunnyMesh);
measure('read OBJ', 'bunny, 3.7k', () => readObj(bunnyText));
let bunnyCopy = bunnyMesh;
measure(
  'topology',
  'bunny, 3.7k',
  () => topologyOf(bunnyCopy),
  undefined,
  () => (bunnyCopy = fresh(bunnyMesh)),
);
{
  // an open half of the bunny: faces in front of the middle, its largest piece
  const front = bunny.cells.filter((cell) => cell.every((p) => bunny.positions[p]![2]! > 0));
  const place = new Map<number, number>();
  front.flat().forEach((p) => place.has(p) || place.set(p, place.size));
  const half = meshFromFaces(
    [...place.keys()].flatMap((p) => bunny.positions[p]!),
    front.map((cell) => cell.map((p) => place.get(p)!)),
  );
  const islands = islandsOf(half, emptyUvSet(half));
  const largest = [...Array(islands.count).keys()].sort((a, b) => islands.start[b + 1]! - islands.start[b]! - (islands.start[a + 1]! - islands.start[a]!))[0]!;
  const faces = [...islands.faces.subarray(islands.start[largest], islands.start[largest + 1])];
  const used = new Map<number, number>();
  const corners = faces.flatMap((f) => [...half.corners.subarray(f * 3, f * 3 + 3)]);
  corners.forEach((p) => used.has(p) || used.set(p, used.size));
  const positions = Float64Array.from([...used.keys()].flatMap((p) => [...half.points.subarray(p * 3, p * 3 + 3)]));
  const triangles = Uint32Array.from(corners, (p) => used.get(p)!);
  for (const method of ['conformal', 'rigid'] as const)
    measure(`${method}, all steps`, `bunny’s front, ${(triangles.length / 3000).toFixed(1)}k`, () => solveIsland({ positions, triangles, method }));
}
{
  // selection (issue budgets: box over 250k faces 60 ms, loop on 100k quads 5 ms)
  const mesh = bumpyQuads(500_000);
  const question = {
    mesh,
    set: emptyUvSet(mesh),
    hidden: null,
    kind: 'faces' as const,
    region: { shape: 'box' as const, points: [0, 0, 440, 700] as [number, number, number, number] },
  };
  const view = { matrix: [2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 1, 0, -1, -1, 0, 1], width: 440, height: 700 };
  for (const through of [true, false])
    measure(
      `box selection, ${through ? 'through' : 'in sight'}`,
      `${(mesh.faceStart.length / 1000).toFixed(0)}k faces`,
      () => modelRegion(question, view, through),
      60,
    );
  const quads = bumpyQuads(200_000);
  const middle = Math.floor(topologyOf(quads).edgeCount / 2);
  measure('loop', '100k quads', () => edgeLoop(quads, middle), 5);
  const islands = islandsOf(quads, emptyUvSet(quads));
  measure('grow', '100k quads, half selected', () =>
    growSelection(
      quads,
      islands,
      'faces',
      Array.from({ length: 50_000 }, (_, k) => k),
    ),
  );
}
{
  // projections and advice (issue budgets: advice for 20k faces 300 ms)
  for (const [kind, quads] of [
    ['planar', 100_000],
    ['cylindrical', 100_000],
    ['spherical', 100_000],
    ['box', 100_000],
    ['flat-regions', 100_000],
  ] as const) {
    const mesh = bumpyQuads(quads * 2);
    const faces = Uint32Array.from({ length: mesh.faceStart.length - 1 }, (_, f) => f);
    const jig = placeJig(mesh, faces, kind);
    measure(`project, ${kind}`, `${(faces.length / 1000).toFixed(0)}k quads`, () => project(mesh, faces, jig));
  }
  const ball = cubeSphere(1, 58);
  measure(
    'advice, all kinds',
    `ball, ${((ball.faceStart.length - 1) / 1000).toFixed(0)}k quads`,
    () =>
      adviseJigs(
        ball,
        Uint32Array.from({ length: ball.faceStart.length - 1 }, (_, f) => f),
      ),
    300,
  );
  const field = bumpyQuads(40_000);
  measure(
    'advice, all kinds',
    'field, 20k quads',
    () =>
      adviseJigs(
        field,
        Uint32Array.from({ length: field.faceStart.length - 1 }, (_, f) => f),
      ),
    300,
  );
}
for (const count of [50, 150]) {
  const { mesh, set } = blobs(count);
  measure(
    'pack, quarter turns, margin 8',
    `${count} islands, 2048 px`,
    () => packLayout(mesh, set, { width: 2048, height: 2048, gap: 8, borderGap: 8, turn: 'quarter', keepScale: false }),
    count === 150 ? 2000 : undefined,
  );
}
const after = noise();
const text = `# Benchmarks

Made by \`npm run bench\` (medians of ${runs} runs after a warm-up, one thread, Node ${process.versions.node}, ${cpus().length} cores, ${cpus()[0]?.model.trim() ?? 'unknown processor'}).
Noise of the machine: a fixed piece of arithmetic varied by ${Math.round(before * 100)} % before and ${Math.round(after * 100)} % after; take single figures as no better than that.

| work | size | median, ms | spread of the runs | goal, ms |
|---|---|---:|---:|---:|
${rows.map((r) => `| ${r.what} | ${r.size} | ${r.median < 10 ? r.median.toFixed(1) : Math.round(r.median)} | ${Math.round(r.spread * 100)} % | ${r.goal ? `${r.goal}${r.median <= r.goal ? ' ✓' : ' ✗'}` : ''} |`).join('\n')}

The disks are bumpy sheets with jittered points and randomly split quads, made by a seeded generator. "All steps" counts the order, the
symbolic analysis, the factorisation, the solves and the flip count.

## How cost grows

| work | grows with |
|---|---|
| read OBJ | bytes |
| topology, islands, cut | corners |
| conformal | order and analysis near-linear; factorisation about n^1.5 on surface meshes; factor about 30–45 numbers a vertex at 50k vertices |
| rigid | one scalar factorisation, then n log n a step |
| check | T log T; pairs of overlapping triangles beyond that |
| pack | tries × islands × turns × rows of the raster, words at a time |

## In the browser

Measured with the browser's own performance marks by \`npm run bench:app\`.
`;
const appPart = (() => {
  try {
    return require('node:fs').readFileSync('docs/benchmarks.md', 'utf8').split('<!-- app -->')[1] as string | undefined;
  } catch {
    return undefined;
  }
})();
writeFileSync('docs/benchmarks.md', `${text}\n<!-- app -->${appPart ?? '\n'}`);
