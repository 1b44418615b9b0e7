import { asItLies } from '../images/placement.ts';
import { layerSchema, type Layer, type LayerDriver } from '../images/surface/layer.ts';
import { mostLayers } from '../images/surface/names.ts';
import { pictureLayer } from '../images/surface/names.ts';
import { planSurface, type DriverJig, type SurfaceInput, type SurfaceLayer, type SurfacePlan } from '../images/surface/plan.ts';
import { JigError } from '../jigError.ts';
import { bounds } from '../mesh/mesh.ts';
import { isBakedOn, reachingOnto } from './decalReach.ts';
import { activeSet, partOf, type Job, type Part } from './job.ts';
import { layersWithPicture } from './setMates.ts';

/** Whose layers they are: a part's own, or those of a material. */
export interface LayerOwner {
  part?: string | undefined;
  material?: string | undefined;
}

/** @throws JigError `not-found` for a part that is not there */
export function ownerLayers(job: Job, { part, material }: LayerOwner): readonly Layer[] {
  if (material !== undefined) return job.materialLayers?.find((one) => one.material === material)?.layers ?? [];
  return partOf(job, part).layers ?? [];
}

/** The job with other layers; without any, the owner has no set-up. */
export function withLayers(job: Job, owner: LayerOwner, layers: readonly Layer[]): Job {
  if (layers.length > mostLayers)
    throw new JigError('nothing-to-do', `A surface has up to ${mostLayers} layers.`, '', 'Bake some of them into one picture, or remove one.');
  if (owner.material !== undefined) {
    const others = (job.materialLayers ?? []).filter(({ material }) => material !== owner.material);
    const all = layers.length > 0 ? [...others, { material: owner.material, layers }] : others;
    const { materialLayers: _, ...rest } = job;
    return all.length > 0 ? { ...rest, materialLayers: all } : rest;
  }
  const id = partOf(job, owner.part).id;
  return { ...job, parts: job.parts.map((part) => (part.id === id ? withOwn(part, layers) : part)) };
}

function withOwn(part: Part, layers: readonly Layer[]): Part {
  const { layers: _, ...rest } = part;
  return layers.length > 0 ? { ...rest, layers } : rest;
}

/** An id and a name that no other layer of the owner has. */
export function freshLayer(layers: readonly Layer[], name: string): { id: string; name: string } {
  const taken = (key: 'id' | 'name', value: string) => layers.some((layer) => layer[key] === value);
  let k = layers.length + 1;
  while (taken('id', `layer-${k}`)) k++;
  let unique = name;
  for (let n = 2; taken('name', unique); n++) unique = `${name} ${n}`;
  return { id: `layer-${k}`, name: unique };
}

/** The part's own picture as the layer under all others; null where it shows the test grid. Without any UVs it is shown from three sides. */
export function pictureAsLayer(job: Job, part: Part): Layer | null {
  const image = job.images.find(({ id }) => id === part.imageId);
  if (!image) return null;
  return layerSchema.parse({
    id: pictureLayer,
    name: image.name,
    source: { kind: 'image', image: image.id },
    placement: part.placement ?? asItLies,
    ...(isBare(part) ? { driver: fromSides(part) } : {}),
  });
}

const isBare = (part: Part): boolean => activeSet(part).unplaced.every((away) => away === 1);

/** Three sides, the picture a third of the part wide. */
function fromSides({ mesh }: Part): LayerDriver {
  const [x0, y0, z0, x1, y1, z1] = bounds(mesh);
  const size = Math.max(1e-6, Math.hypot(x1 - x0, y1 - y0, z1 - z0) / 3);
  return { kind: 'triplanar', size: Number(size.toPrecision(2)), blend: 0.3, offset: [0, 0, 0], turn: [0, 0, 0] };
}

/** Masks that mean the same on any part: not those of a part's own faces. */
const anywhere = ({ masks }: Layer) => masks.filter(({ kind }) => kind !== 'faces' && kind !== 'material' && kind !== 'each');

/** Decals of other parts that reach onto a part. O(layers of all parts) */
export const decalsOfOthers = (job: Job, part: Part): { part: string; layer: Layer }[] =>
  reachingOnto(job.parts, part.id, () => bounds(part.mesh)).map(({ part: { id }, layer }) => ({
    part: id,
    layer: { ...layer, id: `${layer.id} of ${id}`, masks: anywhere(layer) },
  }));

/** What a part shows, from the bottom to the top: its picture, then its own layers, or else those of its materials on their faces; then decals of other parts. */
export function layersOf(job: Job, part: Part): SurfaceLayer[] {
  return [...ownLayersOf(job, part), ...decalsOfOthers(job, part).map(({ layer }) => ({ layer, material: null }))];
}

/** The same without decals of other parts. */
export function ownLayersOf(job: Job, part: Part): SurfaceLayer[] {
  const picture = pictureAsLayer(job, part);
  const below: SurfaceLayer[] = picture ? [{ layer: picture, material: null }] : [];
  if (part.layers)
    return [
      ...below,
      ...withPictureBare(
        job,
        part,
        part.layers.filter((layer) => !isBakedOn(layer, part.id)),
      ).map((layer) => ({ layer, material: null })),
    ];
  return [
    ...below,
    ...(job.materialLayers ?? []).flatMap(({ material, layers }) => {
      const number = part.mesh.materials.indexOf(material);
      return number < 0 ? [] : layers.map((layer) => ({ layer, material: number }));
    }),
  ];
}

/** Copies of the layers that a part follows by its materials, each on the faces of its own. @returns also the material's number and the layer's id there */
export function madeOwn(job: Job, part: Part): { layer: Layer; material: number; from: string }[] {
  const out: { layer: Layer; material: number; from: string }[] = [];
  for (const { layer, material } of ownLayersOf(job, part)) {
    if (material === null) continue;
    const mask = { kind: 'material' as const, material: part.mesh.materials[material]!, soft: 0, isInverted: false, how: 'and' as const };
    const isOnAll = part.mesh.faceMaterial.every((m) => m === material);
    const fresh = freshLayer(
      out.map((one) => one.layer),
      layer.name,
    );
    out.push({ layer: { ...layer, ...fresh, masks: isOnAll ? layer.masks : [...layer.masks, mask] }, material, from: layer.id });
  }
  return out;
}

/** Without any UVs, images of the picture's set that lie as it does are shown from the same sides as it. */
function withPictureBare(job: Job, part: Part, layers: readonly Layer[]): readonly Layer[] {
  if (part.imageId === null || !isBare(part)) return layers;
  const { imageId, placement = null, uvSets, activeUv } = part;
  const along = layersWithPicture(job.images, { imageId, placement, layers, uvSets: uvSets.map(({ name }) => name), activeUv });
  return along.length === 0 ? layers : layers.map((layer) => (along.includes(layer.id) ? { ...layer, driver: fromSides(part) } : layer));
}

/** Whether more than its own picture, laid by its UVs, is on a part. */
export const hasLayers = (job: Job, part: Part): boolean =>
  layersOf(job, part).some(({ layer }) => layer.id !== pictureLayer) || (part.imageId !== null && isBare(part));

/** Jigs as layers of a part use them. */
export function driverJigs(job: Job, part: Part): Map<string, DriverJig> {
  return new Map(
    (job.jigs ?? []).map(({ id, jig, drives }) => {
      const own = drives.filter((drive) => drive.part === part.id).flatMap(({ faces }) => [...faces]);
      return [id, { jig, faces: own.length > 0 ? Uint32Array.from(new Set(own)) : null }];
    }),
  );
}

/** What a part's surface is made of. */
export const surfaceInputOf = (job: Job, part: Part): SurfaceInput => ({
  mesh: part.mesh,
  sets: part.uvSets,
  activeSet: activeSet(part),
  jigs: driverJigs(job, part),
  layers: layersOf(job, part),
  part: part.id,
});

/** See `planSurface`. */
export const surfacePlanOf = (job: Job, part: Part): SurfacePlan => planSurface(surfaceInputOf(job, part));
