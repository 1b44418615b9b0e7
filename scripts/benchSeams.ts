/**
 * Measures unwrapping and proposed seams on real meshes (Debian's libcgal-demo, fetched, not kept; npm `bunny`) and writes its part of
 * docs/benchmarks.md. Beside the factorisation, Eigen's on the same machine where libeigen3-dev and g++ are there. Run: npm run bench:seams
 */
import { execFileSync } from 'node:child_process';
import { createRequire } from 'node:module';
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  analyse,
  conformal,
  convexStart,
  cut,
  emptyUvSet,
  islandFacts,
  islandsOf,
  isometric,
  makeFactor,
  nearStart,
  meshFromFaces,
  openIslands,
  overlapFigures,
  pieceOf,
  prepare,
  rigid,
  RigidSolver,
  separateFans,
  solveIsland,
  trianglePattern,
  trianglesOf,
  unwrapIslands,
  type Mesh,
} from '@jig-peel/core';
import { proposeSeams } from '@jig-peel/core/propose/proposeSeams';
import { sealFigurehead } from '@jig-peel/demo';
import { enableFused } from '../batch/src/engine.ts';
import { bumpyDisk } from './benchMeshes.ts';
import { fetchRealMeshes, realMesh } from './realMeshes.ts';

// as browsers have it: the binary with fused instructions
enableFused();
const only = process.env.ONLY;
const lines: string[] = [];
const say = (line: string) => {
  console.log(line);
  lines.push(line);
};
const median = (list: number[]) => [...list].sort((a, b) => a - b)[list.length >> 1]!;
const timed = (work: () => void, runs: number) =>
  median(
    Array.from({ length: runs }, () => {
      const start = performance.now();
      work();
      return performance.now() - start;
    }),
  );

interface Disk {
  positions: Float64Array;
  triangles: Uint32Array;
}

/** The largest piece of a mesh, cut open along short cuts. */
function diskOf(mesh: Mesh): Disk {
  const { set } = openIslands(mesh, emptyUvSet(mesh));
  const islands = islandsOf(mesh, set);
  const size = (i: number) => islands.start[i + 1]! - islands.start[i]!;
  const largest = [...Array(islands.count).keys()].sort((a, b) => size(b) - size(a))[0]!;
  const faces = islands.faces.subarray(islands.start[largest]!, islands.start[largest + 1]!);
  return pieceOf(mesh, separateFans(mesh, set, faces), largest);
}

/** Every triangle in four. */
function refined({ positions, triangles }: Disk): Disk {
  const middle = new Map<number, number>();
  const points = [...positions];
  const count = positions.length / 3;
  const between = (a: number, b: number) => {
    const key = Math.min(a, b) * count + Math.max(a, b);
    let at = middle.get(key);
    if (at === undefined) {
      at = points.length / 3;
      middle.set(key, at);
      for (let d = 0; d < 3; d++) points.push((points[a * 3 + d]! + points[b * 3 + d]!) / 2);
    }
    return at;
  };
  const out: number[] = [];
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!];
    const [x, y, z] = [between(a, b), between(b, c), between(c, a)];
    out.push(a, x, z, x, b, y, z, y, c, x, y, z);
  }
  return { positions: Float64Array.from(points), triangles: Uint32Array.from(out) };
}

function factorRow(name: string, disk: Disk) {
  const pattern = trianglePattern(disk.positions.length / 3, disk.triangles);
  const symbolic = analyse(pattern);
  const diagonal = new Float64Array(pattern.size).fill(0.01);
  for (let j = 0; j < pattern.size; j++)
    for (let e = pattern.columnStart[j]!; e < pattern.columnStart[j + 1]!; e++) {
      if (pattern.rows[e] === j) continue;
      diagonal[j]!++;
      diagonal[pattern.rows[e]!]!++;
    }
  const ours = ([1, 2] as const).map((b) => {
    // the graph's Laplacian with a little on the diagonal (all numbers stay well away from the smallest ones); coupled, that times [1 .3; .3 1]
    const values = new Float64Array(pattern.rows.length * b * b);
    for (let j = 0; j < pattern.size; j++)
      for (let e = pattern.columnStart[j]!; e < pattern.columnStart[j + 1]!; e++)
        for (let k = 0; k < b * b; k++) values[e * b * b + k] = (pattern.rows[e] === j ? diagonal[j]! : -1) * (k % (b + 1) === 0 ? 1 : 0.3);
    const factor = makeFactor(symbolic, b);
    factor.factorise(values);
    const time = timed(() => factor.factorise(values), 5);
    factor.release();
    return time;
  });
  let native: number[] | null = null;
  if (existsSync('/usr/include/eigen3')) {
    const folder = mkdtempSync(join(tmpdir(), 'jig-bench-'));
    const data = new Int32Array(2 + pattern.rows.length * 2);
    data.set([pattern.size, pattern.rows.length]);
    let at = 2;
    for (let j = 0; j < pattern.size; j++)
      for (let e = pattern.columnStart[j]!; e < pattern.columnStart[j + 1]!; e++) {
        data[at++] = pattern.rows[e]!;
        data[at++] = j;
      }
    writeFileSync(join(folder, 'pattern'), data);
    execFileSync('g++', ['-O3', '-march=native', '-I/usr/include/eigen3', join(import.meta.dirname, 'native', 'factor.cpp'), '-o', join(folder, 'factor')]);
    native = execFileSync(join(folder, 'factor'), [join(folder, 'pattern')], { encoding: 'utf8' })
      .trim()
      .split(' ')
      .map(Number);
  }
  for (const [k, what] of ['Laplacian', 'coupled, 2 unknowns a vertex'].entries())
    say(
      `| ${name}, ${(pattern.size / 1000).toFixed(0)}k vertices, ${what} | ${ours[k]!.toFixed(0)} | ${native ? native[k]!.toFixed(0) : '–'} | ${native ? (ours[k]! / native[k]!).toFixed(2) : '–'} | ${k === 0 ? '0.4' : '0.25'} |`,
    );
}

function unwrapRow(name: string, disk: Disk) {
  const count = disk.triangles.length / 3;
  const start = performance.now();
  const prepared = prepare(disk.positions, disk.triangles);
  const ready = performance.now();
  const flat = conformal(prepared);
  const laid = performance.now();
  const flips = (uv: Float64Array) => solveFlips(disk.triangles, uv);
  const conformalFlips = flips(flat);
  const rigidTime = timed(() => void solveIsland({ ...disk, method: 'rigid' }), 1);
  const whole = solveIsland({ ...disk, method: 'rigid' });
  const steps = timed(() => void rigid(prepared, flat, { steps: 20, tolerance: 0 }), 3);
  const begun = performance.now();
  const from = nearStart(prepared) ?? (conformalFlips === 0 ? flat : convexStart(prepared));
  const began = performance.now();
  const times: [number, number][] = [];
  const result = isometric(prepared, from, { tolerance: 4e-4, near: true, onStep: (_uv, energy) => times.push([performance.now() - began, energy]) });
  const ended = performance.now() - began;
  const end = isometric(prepared, result.uv, { tolerance: 1e-9 }).energies.at(-1)!;
  const near = times.find(([, energy]) => energy <= end * 1.01);
  const before = ready - start + began - begun;
  say(
    `| ${name} | ${(count / 1000).toFixed(0)}k | ${(laid - start).toFixed(0)} (${conformalFlips}) | ${steps.toFixed(0)} | ${rigidTime.toFixed(0)} (${whole.flips}${whole.putRight ? ', put right' : ''}) | ${near ? (before + near[0]).toFixed(0) : '–'} | ${(before + ended).toFixed(0)} | ${result.steps} | ${result.energies.at(-1)!.toFixed(3)} / ${end.toFixed(3)} | ${flips(result.uv)} | ${(ready - start).toFixed(0)} |`,
  );
}

function solveFlips(triangles: Uint32Array, uv: Float64Array): number {
  let flips = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t]! * 2, triangles[t + 1]! * 2, triangles[t + 2]! * 2];
    if ((uv[b]! - uv[a]!) * (uv[c + 1]! - uv[a + 1]!) - (uv[c]! - uv[a]!) * (uv[b + 1]! - uv[a + 1]!) < 0) flips++;
  }
  return flips;
}

async function seamRow(name: string, mesh: Mesh, by: 'stretch' | 'limbs' = 'stretch') {
  const start = performance.now();
  const proposal = await proposeSeams(mesh, emptyUvSet(mesh), { by, limit: 4.2, timeLimit: 20_000 });
  const took = performance.now() - start;
  const { set } = cut(mesh, emptyUvSet(mesh), proposal.cuts);
  const { set: laid, report } = await unwrapIslands(mesh, openIslands(mesh, set).set, 'all', 'isometric', undefined, { apart: true });
  const { start: from, faces, count } = islandsOf(mesh, laid);
  let overlap = 0;
  let covered = 0;
  for (let i = 0; i < count; i++) {
    const unplaced = new Uint8Array(mesh.faceStart.length - 1).fill(1);
    for (let k = from[i]!; k < from[i + 1]!; k++) unplaced[faces[k]!] = 0;
    const figures = overlapFigures(mesh, { ...laid, unplaced });
    overlap += figures.overlapArea;
    covered += figures.coveredArea;
  }
  const shapes = islandFacts(mesh, laid).filter(({ shape }) => shape !== 'disk').length;
  const { areaOf } = { areaOf: Math.sqrt(surface(mesh)) };
  say(
    `| ${name} | ${trianglesOf(mesh).count.toLocaleString('en')} | ${count}${shapes > 0 ? ` (${shapes} no disks)` : ''} | ${(proposal.seamLength / areaOf).toFixed(2)} | ${((proposal.seamInSight / proposal.seamLength) * 100).toFixed(0)} % | ${report.energy.toFixed(3)} | ${report.flips} | ${((overlap / (covered || 1)) * 100).toFixed(3)} % | ${(took / 1000).toFixed(1)} | ${proposal.met ? 'yes' : 'no'} |`,
  );
}

function surface(mesh: Mesh): number {
  const { count, corners } = trianglesOf(mesh);
  let sum = 0;
  const p = mesh.points;
  for (let t = 0; t < count; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => mesh.corners[corners[t * 3 + k]!]! * 3) as [number, number, number];
    const u = [0, 1, 2].map((d) => p[b + d]! - p[a + d]!) as [number, number, number];
    const v = [0, 1, 2].map((d) => p[c + d]! - p[a + d]!) as [number, number, number];
    sum += Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]) / 2;
  }
  return sum;
}

fetchRealMeshes();
const noise = () => timed(() => void Array.from({ length: 2e6 }, (_, k) => Math.sqrt(k)).length, 9);
const first = noise();

if (!only || only === 'factor') {
  say('### Factorisation beside native code (Eigen, simplicial LDLᵀ with AMD, one thread)\n');
  say('| matrix | ours, ms | native, ms | ratio | goal |\n|---|---:|---:|---:|---:|');
  const sheet = bumpyDisk(100_000);
  factorRow('bumpy sheet', { positions: sheet.points, triangles: sheet.corners });
  factorRow('bear, refined once', refined(diskOf(realMesh('bear'))));
}
if (!only || only === 'unwrap') {
  say('\n### Unwrapping disks cut from real meshes\n');
  say(
    '| disk | triangles | conformal, ms (flips) | 20 rigid steps with their factorisation, ms | rigid, all, ms (flips) | isometric to 1 %, ms | to the end, ms | steps | energy / converged | flips | of it order and analysis, ms |\n|---|---:|---:|---:|---:|---:|---:|---:|---:|---:|---:|',
  );
  // the first solves of a process are slow: the engine compiles
  for (let k = 0; k < 3; k++) solveIsland({ ...diskOf(realMesh('knot1')), method: k === 0 ? 'rigid' : 'isometric' });
  for (const name of ['ChineseDragon-10kv', 'lion-head', 'blade', 'bear', 'man', 'armadillo', 'diplodocus']) unwrapRow(name, diskOf(realMesh(name)));
  unwrapRow('bear, refined', refined(diskOf(realMesh('bear'))));
  unwrapRow('lion-head, refined twice', refined(refined(diskOf(realMesh('lion-head')))));
  const sheet = bumpyDisk(100_000);
  unwrapRow('bumpy sheet (made)', { positions: sheet.points, triangles: sheet.corners });
  const drag = refined(diskOf(realMesh('dino')));
  const prepared = prepare(drag.positions, drag.triangles);
  const uv = conformal(prepared);
  const pinned = [0, 100, 1000];
  const solver = new RigidSolver(prepared, pinned);
  const places = pinned.flatMap((v) => [uv[v * 2]!, uv[v * 2 + 1]!]);
  const each = timed(() => {
    places[0]! += 0.001;
    solver.run(uv, places, 4, 0);
  }, 30);
  solver.release();
  say(
    `\nDrag of a pin, ${(drag.triangles.length / 3000).toFixed(0)}k triangles, 4 local/global steps an update: ${each.toFixed(0)} ms, ${(1000 / each).toFixed(0)} a second (goal 30).`,
  );
  say(
    `\nMost memory of the whole process until here, the meshes and 267k triangles at 1e-9 among it: ${(process.resourceUsage().maxRSS / 1e3).toFixed(0)} MB (goal 1 GB at 250k triangles).`,
  );
}
if (!only || only === 'seams') {
  say('\n### Seams by a stretch limit of 4.2, from the bare mesh\n');
  say(
    '| mesh | triangles | islands | seams / √area | in plain sight | energy | flips | overlap | s | limit kept |\n|---|---:|---:|---:|---:|---:|---:|---:|---:|---|',
  );
  await seamRow('seal (demo)', sealFigurehead());
  const bunny = createRequire(import.meta.url)('bunny') as { positions: number[][]; cells: number[][] };
  await seamRow('bunny', meshFromFaces(bunny.positions.flat(), bunny.cells));
  const names = [
    'pig',
    'triceratops',
    'head',
    'dino',
    'knot1',
    'rotor',
    'pinion',
    'anchor_dense',
    'blade',
    'bear',
    'ChineseDragon-10kv',
    'lion',
    'cross_quad',
    'torus_quad',
    'double-torus-example',
    'bones',
    'boeing',
    'polygon_mesh',
    'man',
    'armadillo',
    'diplodocus',
  ];
  for (const name of names)
    try {
      await seamRow(name, realMesh(name));
    } catch (error) {
      say(`| ${name} | ${(error as Error).message} |`);
    }
  say('\n### The same by limbs\n');
  say(
    '| mesh | triangles | islands | seams / √area | in plain sight | energy | flips | overlap | s | limit kept |\n|---|---:|---:|---:|---:|---:|---:|---:|---:|---|',
  );
  await seamRow('seal (demo)', sealFigurehead(), 'limbs');
  // those that have limbs
  for (const name of names)
    if (['triceratops', 'dino', 'bear', 'lion', 'bones', 'anchor_dense', 'man', 'armadillo', 'diplodocus'].includes(name))
      await seamRow(name, realMesh(name), 'limbs');
}
/** Meshes that nothing was tuned on. */
if (only === 'others') {
  say('### Seams by a stretch limit of 4.2 on other meshes\n');
  say(
    '| mesh | triangles | islands | seams / √area | in plain sight | energy | flips | overlap | s | limit kept |\n|---|---:|---:|---:|---:|---:|---:|---:|---:|---|',
  );
  const others =
    'hand mushroom elk couplingdown elephant-with-holes elephant cow retinal femur homer mech-holes-shark knot2 bull fandisk turbine camel mannequin-devil';
  for (const name of others.split(' ')) await seamRow(name, realMesh(name));
}
const file = 'docs/benchmarks.md';
const old = existsSync(file) ? readFileSync(file, 'utf8') : '';
const [before, , after] = old.split('<!-- seams -->');
if (!only)
  writeFileSync(
    file,
    `${(before ?? old).trimEnd()}\n\n<!-- seams -->\n\n## Unwrapping and seams on real meshes\n\nMade by \`npm run bench:seams\`; one thread, single runs but for the factorisation and the drag (medians). A fixed piece of work took ${first.toFixed(0)} ms before and ${noise().toFixed(0)} ms after. The meshes are those of Debian's \`libcgal-demo\` and of npm \`bunny\`, cut open along short cuts for the disks.\n\n${lines.join('\n')}\n\n<!-- seams -->\n${after ?? ''}`,
  );
if (only === 'others') {
  const mark = '<!-- seams on other meshes -->';
  const [head, , tail] = old.includes(mark) ? old.split(mark) : [before + '<!-- seams -->' + old.split('<!-- seams -->')[1] + '<!-- seams -->\n\n', '', after];
  const text = `Made by \`ONLY=others npm run bench:seams\`. A fixed piece of work took ${first.toFixed(0)} ms before and ${noise().toFixed(0)} ms after.`;
  const [title, ...rows] = lines;
  writeFileSync(file, `${head!.trimEnd()}\n\n${mark}\n\n${title!.trim()}\n\n${text}\n\n${rows.join('\n').trim()}\n\n${mark}\n${tail ?? ''}`);
}
