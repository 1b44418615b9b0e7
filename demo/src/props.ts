import { activeSet, cut, emptyUvSet, newJob, penPath, runOperation, withSet, type Job, type JobImage, type Mesh, type Part, type UvSet } from '@jig-peel/core';
import { encode } from 'fast-png';
import { tiledKiosk } from './kiosk.ts';
import { beaconLens, lensLayout } from './lens.ts';
import { netFloat, netPicture } from './float.ts';
import { flagsPicture, signalFlags } from './flags.ts';
import { chevrons, quayKerbs } from './kerb.ts';
import { jettyDeck, railPosts } from './deck.ts';
import { harbourLamp } from './lamp.ts';
import { puntHull } from './punt.ts';
import { glazedTiles, inspectionStamp, letteredGrid, prismPattern } from './pictures.ts';
import { sealFigurehead, sealStrokes } from './seal.ts';

export { flagOutlines } from './flags.ts';
export {
  chevrons,
  jettyDeck,
  railPosts,
  quayKerbs,
  netFloat,
  netPicture,
  flagsPicture,
  harbourLamp,
  puntHull,
  signalFlags,
  tiledKiosk,
  beaconLens,
  lensLayout,
  sealFigurehead,
  sealStrokes,
  glazedTiles,
  letteredGrid,
  prismPattern,
};

export interface Prop {
  name: string;
  /** Props of one file go out together. */
  file: string;
  mesh: Mesh;
  set: UvSet;
  /** Where it stands on the quay in the demo job, along x and z. */
  at: [number, number];
  /** Id of the image on it. */
  image?: string;
}

/** The props of the demo as they are shipped one by one: lens and flags with their layouts, the punt with its old one, the others bare. */
export function props(): Prop[] {
  made ??= makeProps();
  return made;
}

let made: Prop[] | undefined;

function makeProps(): Prop[] {
  const lens = beaconLens();
  const seal = sealFigurehead();
  const kiosk = tiledKiosk();
  const float = netFloat();
  const lamp = harbourLamp().map(({ name, mesh }): Prop => ({ name, file: 'harbour-lamp.obj', mesh, set: emptyUvSet(mesh), at: [4.2, 2.2] }));
  return [
    { name: 'Seal figurehead', file: 'seal-figurehead.obj', mesh: seal, set: emptyUvSet(seal), at: [0, 0] },
    { name: 'Beacon lens', file: 'beacon-lens.obj', mesh: lens, set: lensLayout(lens), at: [2.6, -0.6], image: 'prism-pattern' },
    { name: 'Tiled kiosk', file: 'tiled-kiosk.obj', mesh: kiosk, set: emptyUvSet(kiosk), at: [-3.4, -1.2] },
    { name: 'Punt hull', file: 'punt-hull.obj', ...puntHull(), at: [-2.2, 2.8] },
    { name: 'Signal flags', file: 'signal-flags.obj', ...signalFlags(), at: [0.6, -3.2], image: 'flags' },
    ...lamp,
    { name: 'Net float', file: 'net-float.obj', mesh: float, set: emptyUvSet(float), at: [1.4, 2.6], image: 'net' },
    ...quayKerbs().map(({ name, mesh }, k): Prop => ({
      name,
      file: 'quay-kerbs.obj',
      mesh,
      set: emptyUvSet(mesh),
      at: k === 0 ? [-2.4, -6] : [3.4, -5.6],
      image: 'chevrons',
    })),
    { name: 'Jetty deck', file: 'jetty.obj', ...jettyDeck(), at: [-6.6, 0.6] },
    ...railPosts().map(({ name, mesh }): Prop => ({ name, file: 'jetty.obj', mesh, set: emptyUvSet(mesh), at: [-6.6, 0.6] })),
  ];
}

/** A mesh moved along x and z. */
function moved(mesh: Mesh, [x, z]: readonly [number, number]): Mesh {
  return x === 0 && z === 0 ? mesh : { ...mesh, points: mesh.points.map((value, k) => value + (k % 3 === 0 ? x : k % 3 === 2 ? z : 0)) };
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
    picture('flags', 'signal-flags.png', flagsPicture()),
    picture('net', 'net.png', netPicture()),
    picture('chevrons', 'chevrons.png', chevrons()),
    picture('stamp', 'inspection-stamp.png', inspectionStamp()),
    picture('lettered-grid', 'lettered-grid.png', letteredGrid()),
  ];
}

/** Files of several props. */
export const sheetNames: Record<string, string> = { 'harbour-lamp.obj': 'Harbour lamp', 'quay-kerbs.obj': 'Quay kerbs', 'jetty.obj': 'Jetty' };

/** Props that are kept in one file share a sheet. */
function withSheets(job: Job, list: readonly { file: string; name: string }[]): Job {
  const files = [...new Set(list.map(({ file }) => file))];
  const { width, height, margin, borderGap } = job.settings;
  const sheets = files.map((file, k) => {
    const own = list.filter((prop) => prop.file === file);
    return { id: `sheet-${k + 1}`, name: sheetNames[file] ?? own[0]!.name, width, height, margin, borderGap, tiles: 1, density: null };
  });
  return { ...job, sheets, parts: job.parts.map((part, k) => ({ ...part, sheet: sheets[files.indexOf(list[k]!.file)]!.id })) };
}

/** The demo job: the seal half seamed and laid out once, lens and flags with their pictures, the punt with its faults, the kerbs laid as they bend, the planks of the deck in rows, kiosk and lamp bare. */
export async function demoJob(): Promise<Job> {
  const list = props();
  const parts = list.map((prop, k) => partFrom({ ...prop, mesh: moved(prop.mesh, prop.at) }, k, prop.image ?? null));
  let job = newJob('demo', 'Skerry Quay', parts, { images: pictures(), intake: list.map((prop) => `${prop.name}: made by the demo’s own script.`) });
  job = withSheets({ ...job, settings: { ...job.settings, unit: 'm' } }, list);
  const seal = parts[0]!;
  const edges = sealStrokes().flatMap((stroke) => penPath(seal.mesh, stroke));
  job = withSet(job, seal.id, cut(seal.mesh, activeSet(seal), edges).set);
  job = (await runOperation(job, 'firstLayout', { part: seal.id })).job;
  // the kerbs lie as they bend: their chevrons do not run along them yet
  for (const kerb of parts.filter(({ name }) => name.startsWith('Quay kerb'))) job = (await runOperation(job, 'unwrap', { part: kerb.id })).job;
  return withSurfaces(job);
}

/** Tiles in relief with dirt from the ground up on the kiosk, the inspection's stamp across two strakes of the punt, a cap of paint on the net float. */
async function withSurfaces(given: Job): Promise<Job> {
  let job = given;
  const add = async (name: string, layer: object) => {
    const part = job.parts.find((one) => one.name === name)!;
    job = (await runOperation(job, 'addLayer', { part: part.id, layer })).job;
  };
  const placeOf = (name: string): [number, number] => props().find((prop) => prop.name === name)!.at;
  const tiles = { source: { kind: 'image', image: 'glazed-tiles' }, driver: { kind: 'triplanar', size: 1.25, blend: 0.15 } };
  await add('Tiled kiosk', { name: 'Glazed tiles', ...tiles });
  await add('Tiled kiosk', { name: 'Relief of the tiles', ...tiles, to: 'relief', strength: 0.02 });
  const [x, z] = placeOf('Tiled kiosk');
  const splash = { kind: 'fade', fade: { shape: 'linear', from: [x, 0, z], to: [x, 1.1, z] }, ragged: 0.5, noise: { seed: 4, size: 0.35, detail: 4 } };
  await add('Tiled kiosk', {
    name: 'Splashes from the ground',
    source: { kind: 'colour', colour: '#6b5a45' },
    blend: 'multiply',
    opacity: 0.8,
    masks: [splash],
  });
  const [px, pz] = placeOf('Punt hull');
  await add('Punt hull', {
    name: 'Inspection stamp',
    source: { kind: 'image', image: 'stamp' },
    driver: { kind: 'decal', centre: [px + 0.54, 0.24, pz], right: [0, 0, -1], up: [0, 1, 0], size: [0.42, 0.42], depth: 0.2, facing: 80, bend: 0 },
  });
  const [fx, fz] = placeOf('Net float');
  const cap = {
    kind: 'fade',
    fade: { shape: 'radial', centre: [fx, 0.62, fz], inner: 0.14, outer: 0.24 },
    ragged: 0.3,
    noise: { seed: 2, size: 0.08, detail: 3 },
  };
  await add('Net float', { name: 'Cap of paint', source: { kind: 'colour', colour: '#c2552d' }, opacity: 0.85, masks: [cap] });
  return job;
}
