import type { z } from 'zod';
import type { Context } from '../context.ts';
import type { BakeInput } from '../images/bakeBands.ts';
import { bakeKinds, isNumbered, roleOfKind, type BakeOptions } from '../images/bakeKinds.ts';
import { contentHash } from '../images/contentHash.ts';
import { normalsOf, sayingOf, setOfImage, type ImageRole, type ImageUse } from '../images/imageSets.ts';
import { asItLies } from '../images/placement.ts';
import type { SurfaceInput } from '../images/surface/plan.ts';
import { safeImageName } from '../images/safeName.ts';
import { pictureLayer, unadjusted } from '../images/surface/names.ts';
import { JigError } from '../jigError.ts';
import { activeSet, partOf, type Job, type JobImage, type Part } from '../job/job.ts';
import type { Layer } from '../images/surface/layer.ts';
import { isBakedOn, isOnOthers } from '../job/decalReach.ts';
import { decalsOfOthers, layersOf, ownLayersOf, surfaceInputOf } from '../job/layers.ts';
import { partsOnSheet, sheetFor, sheetOfPart, sheetsOf } from '../job/sheets.ts';
import { pictureFromFile } from '../job/pictureFromFile.ts';
import { bounds } from '../mesh/mesh.ts';
import { tileNumber, tilePlace } from '../uv/tiles.ts';
import type { bake, BakeReport } from './bake.ts';
import { parseSize } from './operation.ts';

type Params = z.output<(typeof bake)['params']>;

const kindWords: Record<(typeof bakeKinds)[number], string> = {
  colour: 'colour',
  mask: 'mask',
  relief: 'relief',
  position: 'position',
  normal: 'normal',
  'tangent-normal': 'tangent normal',
  face: 'face groups',
  id: 'island ids',
  material: 'materials',
  occlusion: 'occlusion',
  thickness: 'thickness',
  coverage: 'coverage',
  roughness: 'roughness',
  metalness: 'metalness',
  'images-occlusion': 'occlusion of its images',
};

/** What `bake` does, loaded when it is first asked for. */
export async function baked(job: Job, params: Params, context: Context): Promise<{ job: Job; report: BakeReport }> {
  const { what } = params;
  const { width, height } = parseSize(params.size);
  if (width > 8192 || height > 8192) throw new JigError('bad-parameter', 'A picture is baked up to 8192 px a side.', '', 'Use a smaller size.');
  const active = partOf(job, params.part);
  const parts = (params.part === undefined ? partsOnSheet(job) : [active]).filter((part) => (!part.isHidden || part === active) && part.id !== params.from);
  const source = params.from === undefined ? null : partOf(job, params.from);
  const targets = parts.map((part) => ({ part, set: params.set === undefined ? activeSet(part) : part.uvSets[params.set] }));
  const placed = targets.filter(({ set }) => set && set.unplaced.some((away) => away === 0));
  if (placed.length === 0)
    throw new JigError(
      'nothing-to-do',
      params.set !== undefined && targets.every(({ set }) => !set) ? `There is no UV set ${params.set}.` : 'There is no layout to bake to yet.',
      '',
      'Unwrap first.',
    );
  const notes: string[] = [];
  const without = targets.length - placed.length;
  if (without > 0) notes.push(`${without} of ${targets.length} parts have no layout in this set and are left out.`);
  const shown = source ? [source] : placed.map(({ part }) => part);
  if (what === 'colour' && shown.every((part) => layersOf(job, part).every(({ layer }) => layer.to !== 'colour' || !layer.isOn)))
    throw new JigError('nothing-to-do', 'There is no picture and no colour layer to bake.', '', 'Put an image on the part, or add a layer.');
  const lost = shown.flatMap((part) => missingOf(job, part));
  if (lost.length > 0) notes.push(`Left out, their picture, jig or UV set is gone: ${[...new Set(lost)].join(', ')}.`);
  const range = params.range ?? Math.max(1e-6, ...shown.map((part) => reliefOf(job, part)));
  const reach = params.reach ?? Math.max(...placed.map(({ part }) => diagonal(part))) / 4;
  const [column, row] = tilePlace(params.tile - 1001);
  const role = roleOfKind[what];
  const options: BakeOptions = {
    what: role ? 'colour' : what,
    width,
    height,
    // between two numbers there is none
    samples: isNumbered(what) ? 1 : params.samples,
    tile: [column, row],
    depth: params.depth,
    ...(params.layer === undefined ? {} : { layer: params.layer }),
    range,
    ...(what === 'tangent-normal' && params.green === 'down' ? { isGreenDown: true } : {}),
    reach,
    rays: params.rays,
  };
  const inputOf = (part: Part) => (role ? inRole(job, surfaceInputOf(job, part), role) : surfaceInputOf(job, part));
  if (role && shown.every((part) => inputOf(part).layers.length === 0))
    throw new JigError(
      'nothing-to-do',
      `No image on the part has a ${role} in its set.`,
      '',
      'Add one that is named like it, or say in the list what an image is of.',
    );
  const from = source && { input: inputOf(source), within: params.within ?? diagonal(source) / 20 };
  const input: BakeInput = {
    parts: placed.map(({ part, set }) => ({
      input: inputOf(part),
      ...(what.endsWith('normal') ? bumpsOf(job, part) : {}),
      set: set!,
      ...(part.hidden ? { hidden: part.hidden } : {}),
      ...(from ? { source: from } : {}),
    })),
    around: job.parts.filter((part) => !part.isHidden && !parts.includes(part)).map(({ mesh }) => mesh),
    images: job.images,
    options,
  };
  // parts on the sheet stand around one another, too
  if (what === 'occlusion') input.around = [...input.around, ...(placed.length > 1 ? placed.map(({ part }) => part.mesh) : [])];
  // loaded where something is baked in this thread
  const here = () => import('../images/bakeBands.ts');
  const bands = await (context.pool?.bake?.(input, context) ?? (await here()).bakeBands(input, context, context.pool?.decode));
  const bleed = params.bleed ?? Math.ceil(params.margin ?? 8);
  context.throwIfCancelled();
  const picture = await (context.pool?.finishBake?.(bands, options, bleed) ?? (await here()).bakedFile(bands, options, bleed));
  context.throwIfCancelled();
  if (picture.coverage === 0)
    throw new JigError('nothing-to-do', `No island is on tile ${params.tile}.`, '', 'Choose another tile, or bring the islands back to the sheet.');
  if (picture.contested > 1e-4)
    notes.push(`Islands overlap on ${(picture.contested * 100).toFixed(1)} % of what they cover: the first part, and in it the first face, is seen there.`);
  const encoded = () => picture.png;
  const title = parts.length === 1 ? parts[0]!.name : (sheetsOf(job).find(({ id }) => id === sheetOfPart(job, parts[0]!)?.id)?.name ?? job.name);
  const several = sheetFor(job).tiles > 1 || params.tile !== 1001;
  const name = `${title} ${kindWords[what]}${several ? `.${tileNumber(params.tile - 1001)}` : ''}.png`;
  const report: BakeReport = {
    what: kindWords[what],
    width,
    height,
    coverage: picture.coverage,
    contested: picture.contested,
    range,
    image: null,
    name,
    notes,
    png: encoded,
  };
  if (!params.add && !params.show) return { job, report };
  const baked = role ?? (options.isGreenDown ? 'normal-green-down' : bakedRoles[what]);
  const { next, id } = added(job, safeImageName(name, encoded()), encoded(), baked ? { set: title, role: baked } : null);
  const seen =
    params.show && what === 'colour'
      ? showBaked(
          next,
          placed.map(({ part }) => part.id),
          id,
          params.set,
        )
      : next;
  return { job: seen, report: { ...report, image: id } };
}

/** Layers of a part that show nothing, since what they need is not there. */
function missingOf(job: Job, part: Part): string[] {
  return layersOf(job, part)
    .filter(({ layer }) => layer.isOn)
    .filter(({ layer: { source, driver } }) => {
      if (source.kind === 'image' && !job.images.some(({ id }) => id === source.image)) return true;
      if (driver.kind === 'jig') return !(job.jigs ?? []).some(({ id }) => id === driver.jig);
      return driver.kind === 'set' && driver.set !== '' && !part.uvSets.some(({ name }) => name === driver.set);
    })
    .map(({ layer }) => `“${layer.name}”`);
}

/** Height that the relief layers of a part reach together at most, units. */
const reliefOf = (job: Job, part: Part) =>
  layersOf(job, part).reduce((sum, { layer }) => {
    if (layer.to !== 'relief' || !layer.isOn) return sum;
    return layer.isAdded ? sum + Math.abs(layer.strength) : Math.max(sum, Math.abs(layer.strength));
  }, 0);

function diagonal({ mesh }: Part): number {
  const [x0, y0, z0, x1, y1, z1] = bounds(mesh);
  return Math.hypot(x1 - x0, y1 - y0, z1 - z0) || 1;
}

/** A surface as another role of the sets of its images has it: without all that is no image of a set with that role. */
function inRole(job: Job, input: SurfaceInput, role: ImageRole): SurfaceInput {
  return {
    ...input,
    layers: input.layers.flatMap(({ layer, material }) => {
      if (layer.to !== 'colour' || !layer.isOn || layer.source.kind !== 'image') return [];
      const { image } = layer.source;
      const set = setOfImage(job.images, image);
      const other = set && sayingOf(set, role, image);
      if (!other) return [];
      const { member, channel } = other;
      return [{ material, layer: { ...layer, source: { ...layer.source, image: member.id, channel }, blend: 'normal' as const, adjust: unadjusted } }];
    }),
  };
}

/** The normals that go with the pictures of a part, where their sets have them: its own, and those of its materials. */
function bumpsOf(job: Job, part: Part): Pick<BakeInput['parts'][number], 'bumps'> {
  const own = activeSet(part);
  if (own.unplaced.every((away) => away === 1)) return {};
  const { materials } = part.mesh;
  // faces without a material, where others have one, show the part's own picture
  const numbers = materials.length > 0 ? [-1, ...materials.keys()] : [null];
  const bumps = numbers.flatMap((material) => {
    const found = part.layers ? null : pictureFromFile(job.materialLayers, materials[material ?? -1]);
    const imageId = found ? found.imageId : part.imageId;
    const set = setOfImage(job.images, imageId);
    const normals = set && normalsOf(set, imageId!);
    const placement = (found ? found.placement : part.placement) ?? asItLies;
    return normals ? [{ image: normals.member.id, set: own, placement, material, isGreenDown: normals.isGreenDown }] : [];
  });
  return bumps.length > 0 ? { bumps } : {};
}

/** Roles of baked pictures in the set of their part; others are in none, whatever their names end with. */
const bakedRoles: Partial<Record<(typeof bakeKinds)[number], ImageRole>> = {
  colour: 'colour',
  relief: 'relief',
  'tangent-normal': 'normal',
  occlusion: 'occlusion',
};

function added(job: Job, name: string, bytes: Uint8Array, use: ImageUse | null): { next: Job; id: string } {
  const hash = contentHash(bytes);
  const known = job.images.find((image) => contentHash(image.bytes) === hash);
  if (known) return { next: job, id: known.id };
  const image: JobImage = { id: `image-${hash.slice(0, 16)}`, name, type: 'image/png', bytes, use };
  return { next: { ...job, images: [...job.images, image] }, id: image.id };
}

/** The baked picture on its parts; the layers that it was made of stay, switched off. Decals go on being on parts that were not baked. */
export function showBaked(job: Job, ids: readonly string[], imageId: string, set: number | undefined): Job {
  const isBaked = (part: Part) => ids.includes(part.id);
  const key = (part: string, layer: Layer) => `${part} ${layer.name}`;
  /** Of each decal that is on several parts: those where it is baked now, and whether it goes on being on others. */
  const baked = new Map<string, { on: string[]; isElsewhere: boolean }>();
  const note = (owner: string, layer: Layer, part: Part) => {
    const known = baked.get(key(owner, layer)) ?? { on: [], isElsewhere: false };
    baked.set(key(owner, layer), isBaked(part) ? { ...known, on: [...known.on, part.id] } : { ...known, isElsewhere: true });
  };
  for (const part of job.parts) {
    for (const layer of part.layers ?? []) if (isOnOthers(layer) && !isBakedOn(layer, part.id)) note(part.id, layer, part);
    for (const { part: owner, layer } of decalsOfOthers(job, part)) note(owner, layer, part);
  }
  /** Null for a layer that is on one part alone, or is baked wherever it is. */
  const kept = (owner: string, layer: Layer): Layer | null => {
    const found = baked.get(key(owner, layer));
    if (layer.driver.kind !== 'decal' || !isOnOthers(layer) || (found && !found.isElsewhere)) return null;
    return found && found.on.length > 0 ? { ...layer, driver: { ...layer.driver, notOn: [...(layer.driver.notOn ?? []), ...found.on] } } : layer;
  };
  return {
    ...job,
    parts: job.parts.map((part) => {
      if (!isBaked(part)) {
        if (!part.layers?.some(isOnOthers)) return part;
        return { ...part, layers: part.layers.map((layer) => (isOnOthers(layer) ? (kept(part.id, layer) ?? { ...layer, isOn: false }) : layer)) };
      }
      const own = part.layers ?? ownLayersOf(job, part).flatMap(({ layer }) => (layer.id === pictureLayer ? [] : [layer]));
      const layers = own.map((layer, k) => ({ ...(kept(part.id, layer) ?? { ...layer, isOn: false }), id: `layer-${k + 1}` }));
      const { placement: _, ...rest } = part;
      return { ...rest, imageId, activeUv: set ?? part.activeUv, ...(layers.length > 0 ? { layers } : {}) };
    }),
  };
}
