/* Straightening and stacking on real meshes that nobody here made: what is found, and how long it takes. Run by `npm run bench:shape`. */
import { activeSet, emptyUvSet, islandsOf, joinParts, newJob, runOperation, checkLayout, type Job, type Mesh } from '@jig-peel/core';
import { enableFused } from '../batch/src/engine.ts';
import { bentStrip } from './benchMeshes.ts';
import { fetchRealMeshes, realMesh } from './realMeshes.ts';

enableFused();
fetchRealMeshes();
const jobOf = (mesh: Mesh): Job =>
  newJob('j', 'j', [{ id: 'a', name: 'a', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } }]);
const timed = async <T>(work: () => Promise<T>): Promise<[T, number]> => {
  const start = performance.now();
  const result = await work();
  return [result, performance.now() - start];
};

console.log(
  '| mesh | triangles | islands | strips straightened | flips | ms | groups of like islands (mirrored ones too) | islands in them | ms | overlap after |',
);
console.log('|---|---:|---:|---:|---:|---:|---:|---:|---:|---:|');
for (const name of ['bones', 'boeing', 'rotor', 'pinion']) {
  const mesh = realMesh(name);
  const { job } = await runOperation(jobOf(mesh), 'unwrap', { seams: 'crease' });
  const islands = islandsOf(mesh, activeSet(job.parts[0]!)).count;
  // once for the warm-up
  await runOperation(job, 'straighten', {}).catch(() => null);
  const [straight, ms] = await timed(() => runOperation(job, 'straighten', {}).catch((error: Error) => ({ report: { islands: 0, flips: 0 }, error })));
  const { islands: strips, flips } = straight.report as { islands: number; flips: number };
  const [like, likeMs] = await timed(() => runOperation(job, 'findLike', { mirrored: true }));
  const groups = (like.report as { groups: { islands: unknown[] }[] }).groups;
  const stacked = groups.length > 0 ? (await runOperation(job, 'stack', { mirrored: true })).job : job;
  const { mesh: all, set } = joinParts(stacked.parts);
  const overlap = checkLayout(all, set, 2048, 2048).report.overlapArea - checkLayout(mesh, activeSet(job.parts[0]!), 2048, 2048).report.overlapArea;
  console.log(
    `| ${name} | ${mesh.faceStart.length - 1} | ${islands} | ${strips} | ${flips} | ${ms.toFixed(0)} | ${groups.length} | ${groups.reduce((sum, one) => sum + one.islands.length, 0)} | ${likeMs.toFixed(0)} | ${overlap.toExponential(1)} |`,
  );
}

console.log('\n| one strip | triangles | straighten, ms, median of 9 (most) |\n|---|---:|---:|');
for (const quads of [false, true]) {
  const strip = bentStrip(20_000, quads);
  const job = newJob('j', 'j', [{ id: 'a', name: 'a', ...strip, uvSets: [strip.set], activeUv: 0, imageId: null, origin: { kind: 'made' } }]);
  const ms: number[] = [];
  for (let k = 0; k < 12; k++) ms.push((await timed(() => runOperation(job, 'straighten', {})))[1]);
  const sorted = ms.slice(3).sort((a, b) => a - b);
  console.log(`| ${quads ? 'grid of quads' : 'triangles'} | 20k | ${sorted[4]!.toFixed(0)} (${sorted[8]!.toFixed(0)}) |`);
}
