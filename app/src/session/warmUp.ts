import { cubeSphere, cut, edgeLoop, emptyUvSet, modelRegion, openPatch, quietContext, unwrapIslands } from '@jig-peel/core';
import { makeLayoutView } from './partViews.ts';

/** Runs what a cut and a drawn selection need on a small form a few times, so that the engine has compiled it before the first real one. Once, some 80 ms. */
export function warmUp(): void {
  const mesh = cubeSphere(1, 16);
  const set = emptyUvSet(mesh);
  const part = { id: 'warm', name: '', mesh, uvSets: [set], activeUv: 0, imageId: null, origin: { kind: 'made' as const } };
  for (let k = 0; k < 12; k++) makeLayoutView(part, cut(mesh, set, edgeLoop(mesh, k * 7)).set, -1, 1024, 1024, null);
  const ring = cut(mesh, set, edgeLoop(mesh, 40)).set;
  // one by one: what is asked for meanwhile comes in between
  const lay = async () => {
    const { set: laid } = await unwrapIslands(mesh, ring, 'all', 'isometric', quietContext, { quick: true, apart: true });
    for (let k = 0; k < 3; k++) openPatch(mesh, laid, [k * 50], { triangles: 400 });
  };
  for (let k = 0; k < 4; k++) setTimeout(() => void lay().catch(() => {}), 1000 + 100 * k);
  const view = { matrix: [2, 0, 0, 0, 0, 2, 0, 0, 0, 0, -1, -1, 0, 0, 3, 4], width: 300, height: 300 };
  for (const kind of ['faces', 'edges', 'points'] as const)
    for (let k = 0; k < 6; k++) modelRegion({ mesh, set, hidden: null, kind, region: { shape: 'box', points: [0, 0, 300, 300] } }, view, k === 0);
}
