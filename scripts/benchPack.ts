/* Packing on charts of real meshes that nobody here made and on a square cut into pieces: coverage and seconds. Run by `npm run bench:pack [set …] [-- quick]`. */
import { performance } from 'node:perf_hooks';
import { MaxRectsPacker } from 'maxrects-packer/dist/maxrects-packer.mjs';
import { islandsOf, packLayout, type PackOptions, type PackTurn } from '@jig-peel/core';
import { outlinesOf } from '../core/src/pack/outline.ts';
import { leastDistance } from '../core/src/pack/clearance.ts';
import { packThreads } from '../cli/src/packThreads.ts';
import { chartSet, cutSquare, type PackSet } from './packSets.ts';
import { fetchRealMeshes } from './realMeshes.ts';

fetchRealMeshes();
const quiet = { progress: () => {}, throwIfCancelled: () => {} };
const args = process.argv.slice(2);
const isQuick = args.includes('quick');
const names = args.filter((name) => name !== 'quick');
const sets = names.length > 0 ? names : ['30', '150', '600', 'square'];

/** The largest scale at which the boxes of the islands fit by rectangles, as a share of the sheet that the islands then cover. */
function byRectangles({ mesh, set }: PackSet, size: number): number {
  const boxes = outlinesOf(mesh, set, size, size).map((loops) => {
    const xs = loops.flatMap((loop) => [...loop.filter((_, k) => k % 2 === 0)]);
    const ys = loops.flatMap((loop) => [...loop.filter((_, k) => k % 2 === 1)]);
    return { width: Math.max(...xs) - Math.min(...xs), height: Math.max(...ys) - Math.min(...ys) };
  });
  const { report } = packLayout(mesh, set, { width: size, height: size, gap: 0, borderGap: 0, turn: 'none', keepScale: false, resolution: 256 });
  const unit = report.coverage / report.scale ** 2;
  let [low, high] = [0, report.scale * 2];
  for (let step = 0; step < 14; step++) {
    const scale = (low + high) / 2;
    const packer = new MaxRectsPacker(size, size, 0, { smart: false, pot: false, square: false, allowRotation: true, border: 0 });
    packer.addArray(boxes.map(({ width, height }) => ({ width: width * scale, height: height * scale, x: 0, y: 0, rot: false }) as never));
    if (packer.bins.length === 1) low = scale;
    else high = scale;
  }
  return unit * low * low;
}

// the threads are started, and their code is compiled
await packThreads.pack!(
  cutSquare(40).mesh,
  cutSquare(40).set,
  { width: 512, height: 512, gap: 0, borderGap: 0, turn: 'quarter', keepScale: false, effort: 1 },
  quiet,
);
console.log('| set | islands | effort | turns | gap px | sheet px | covered % | s | first layout % | least gap kept |');
console.log('|---|---:|---:|---|---:|---:|---:|---:|---:|---|');
for (const name of sets) {
  const packSet = name === 'square' ? cutSquare(40) : await chartSet(Number(name));
  const { mesh, set } = packSet;
  const islands = islandsOf(mesh, set).count;
  const runs: [number, PackTurn, number, number][] = [
    [1, 'quarter', 0, 4096],
    ...(isQuick || islands > 1500
      ? []
      : ([
          [5, 'quarter', 0, 4096],
          [1, 'free', 0, 4096],
          [5, 'free', 0, 4096],
        ] as [number, PackTurn, number, number][])),
    ...(name === '30' || name === '600' ? ([[1, 'quarter', 4, 1024]] as [number, PackTurn, number, number][]) : []),
  ];
  for (const [effort, turn, gap, size] of runs) {
    const options: PackOptions = { width: size, height: size, gap, borderGap: gap, turn, keepScale: false };
    const first = packLayout(mesh, set, { ...options, resolution: 1024 });
    const begun = performance.now();
    const { set: packed, report } = await packThreads.pack!(mesh, set, { ...options, effort }, quiet);
    const seconds = (performance.now() - begun) / 1000;
    const least = leastDistance(outlinesOf(mesh, packed, size, size), gap + 1);
    const kept = least >= gap - 1e-5 ? 'yes' : `no: ${least.toFixed(4)}`;
    console.log(
      `| ${packSet.name} | ${islands} | ${effort} | ${turn} | ${gap} | ${size} | ${(report.coverage * 100).toFixed(1)} | ${seconds.toFixed(1)} | ${(first.report.coverage * 100).toFixed(1)} | ${kept} |`,
    );
  }
  if (islands <= 1500)
    console.log(`| ${packSet.name} | ${islands} | – | boxes by maxrects-packer | 0 | 4096 | ${(byRectangles(packSet, 4096) * 100).toFixed(1)} | – | – | – |`);
}
