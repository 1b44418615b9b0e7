import { activeSet, cut, emptyUvSet, newJob, penPath, runOperation, withSet, type Job, type JobImage, type Mesh, type Part, type UvSet } from '@jig-peel/core';
import { encode } from 'fast-png';
import { tiledKiosk } from './kiosk.ts';
import { beaconLens, lensLayout } from './lens.ts';
import { glazedTiles, letteredGrid, prismPattern } from './pictures.ts';
import { sealFigurehead, sealStrokes } from './seal.ts';

export { tiledKiosk, beaconLens, lensLayout, sealFigurehead, sealStrokes, glazedTiles, letteredGrid, prismPattern };

export interface Prop {
  name: string;
  file: string;
  mesh: Mesh;
  set: UvSet;
}

/** The props of the demo as they are shipped one by one: the lens with its layout, the others bare. */
export function props(): Prop[] {
  made ??= makeProps();
  return made;
}

let made: Prop[] | undefined;

function makeProps(): Prop[] {
  const lens = beaconLens();
  const seal = sealFigurehead();
  const kiosk = tiledKiosk();
  return [
    { name: 'Seal figurehead', file: 'seal-figurehead.obj', mesh: seal, set: emptyUvSet(seal) },
    { name: 'Beacon lens', file: 'beacon-lens.obj', mesh: lens, set: lensLayout(lens) },
    { name: 'Tiled kiosk', file: 'tiled-kiosk.obj', mesh: kiosk, set: emptyUvSet(kiosk) },
  ];
}

export const partFrom = (prop: Prop, k: number, imageId: string | null = null): Part => ({
  id: `part-${k + 1}`,
  name: prop.name,
  mesh: prop.mesh,
  uvSets: [prop.set],
  activeUv: 0,
  imageId,
  origin: { kind: 'made' },
});

export function pictures(): JobImage[] {
  const picture = (id: string, name: string, canvas: { width: number; height: number; data: Uint8Array }): JobImage => ({
    id,
    name,
    type: 'image/png',
    bytes: encode({ width: canvas.width, height: canvas.height, data: canvas.data, channels: 4, depth: 8 }),
  });
  return [
    picture('prism-pattern', 'prism-pattern.png', prismPattern()),
    picture('glazed-tiles', 'glazed-tiles.png', glazedTiles()),
    picture('lettered-grid', 'lettered-grid.png', letteredGrid()),
  ];
}

/** The demo job: the seal half seamed and laid out once, the lens with its pattern, the kiosk bare. */
export async function demoJob(): Promise<Job> {
  const list = props();
  const parts = list.map((prop, k) => partFrom(prop, k, prop.name === 'Beacon lens' ? 'prism-pattern' : null));
  let job = newJob('demo', 'Skerry Quay', parts, { images: pictures(), intake: list.map((prop) => `${prop.name}: made by the demo’s own script.`) });
  const seal = parts[0]!;
  const edges = sealStrokes().flatMap((stroke) => penPath(seal.mesh, stroke));
  job = withSet(job, seal.id, cut(seal.mesh, activeSet(seal), edges).set);
  job = (await runOperation(job, 'firstLayout', { part: seal.id })).job;
  return job;
}
