import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { driverSchema, layerSchema, type Layer } from '../images/surface/layer.ts';
import { drivenBy } from '../job/driveLayer.ts';
import { driverInWords } from '../job/layerWords.ts';
import { frameOfBox, refitted, withFades } from '../job/fadesFollow.ts';
import { isOnOthers } from '../job/decalReach.ts';
import { freshLayer, madeOwn, ownerLayers, withLayers, type LayerOwner } from '../job/layers.ts';
import { partOf, type Job } from '../job/job.ts';
import { layersAlong, withPictureAlong } from '../job/setMates.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

const owner = {
  part: partSchema,
  material: z.string().max(1000).describe('the layers of this material; default: those of the part alone').optional(),
};

const ownerName = (job: Job, { part, material }: LayerOwner) => (material === undefined ? partOf(job, part).name : `material ${material}`);

/** @throws JigError `not-found` for an image or a jig that is not in the job, or a material that no part has */
function assertThere(job: Job, { source, driver, masks }: Layer, { material }: LayerOwner): void {
  const images = [source, ...masks].flatMap((one) => (one.kind === 'image' ? [one.image] : []));
  for (const id of images)
    if (!job.images.some((image) => image.id === id)) throw new JigError('not-found', 'The layer’s image is not in the job.', '', 'Add the image first.');
  if (driver.kind === 'jig' && !(job.jigs ?? []).some(({ id }) => id === driver.jig)) throw new JigError('not-found', 'The layer’s jig is not in the job.');
  if (material !== undefined && !job.parts.some(({ mesh }) => mesh.materials.includes(material)))
    throw new JigError('not-found', `No part has a material “${material}”.`);
}

const found = (layers: readonly Layer[], id: string): Layer => {
  const layer = layers.find((one) => one.id === id);
  if (!layer) throw new JigError('not-found', 'This layer is not there.');
  return layer;
};

/** The job with a layer changed; images of its set that were laid as it was go along. */
function withChanged(job: Job, whose: LayerOwner, layers: readonly Layer[], before: Layer, after: Layer): Job {
  const changed = layers.map((one) => (one.id === before.id ? after : one));
  if (before.source.kind !== 'image') return withLayers(job, whose, changed);
  const part = whose.material === undefined ? partOf(job, whose.part) : null;
  const next = withLayers(job, whose, layersAlong(job.images, changed, part, before.source.image, before, after, before.id));
  if (!part) return next;
  return { ...next, parts: next.parts.map((one) => (one.id === part.id ? withPictureAlong(job, one, before, after) : one)) };
}

export const addLayer = defineOperation({
  name: 'addLayer',
  label: 'Add a layer',
  words: 'texture decal colour noise fade relief mask overlay blend',
  changes: ['images'],
  summary: 'Add a layer over what a part or a material shows',
  params: z.object({ ...owner, layer: layerSchema.omit({ id: true }) }),
  run(job, { layer: given, ...whose }) {
    const layers = ownerLayers(job, whose);
    const layer: Layer = { ...given, ...freshLayer(layers, given.name) };
    assertThere(job, layer, whose);
    return { job: withLayers(job, whose, [...layers, layer]), report: { id: layer.id, name: layer.name, on: ownerName(job, whose) } };
  },
  sentence: (_, { name, on }) => `Added the layer “${name}” to ${on}`,
});

export const setLayer = defineOperation({
  name: 'setLayer',
  label: 'Change a layer',
  words: 'opacity blend placement adjust mask',
  changes: ['images'],
  summary: 'Change a layer',
  params: z.object({
    ...owner,
    layer: layerSchema,
    what: z.string().max(60).default('changed').describe('what was done, for the history'),
  }),
  run(job, { layer, what: _, ...whose }) {
    const layers = ownerLayers(job, whose);
    const before = found(layers, layer.id);
    assertThere(job, layer, whose);
    if (JSON.stringify(before) === JSON.stringify(layer)) return { job, report: { name: layer.name } };
    return { job: withChanged(job, whose, layers, before, layer), report: { name: layer.name } };
  },
  sentence: ({ what }, { name }) => `${what.charAt(0).toUpperCase()}${what.slice(1)} the layer “${name}”`,
});

export const driveLayer = defineOperation({
  name: 'driveLayer',
  label: 'Drive a layer otherwise',
  words: 'projection triplanar uv set jig',
  changes: ['images'],
  summary: 'Drive a layer by a UV set, a jig or three sides; its picture stays as large and turned as it is on the mean',
  params: z.object({ ...owner, layer: z.string(), by: driverSchema }),
  run(job, { layer: id, by, ...whose }) {
    const layers = ownerLayers(job, whose);
    const before = found(layers, id);
    const after = drivenBy(job, partOf(job, whose.part), before, by);
    assertThere(job, after, whose);
    return { job: withChanged(job, whose, layers, before, after), report: { name: after.name, words: driverInWords(job, after) } };
  },
  sentence: (_, { name, words }) => `The layer “${name}” is ${words}`,
});

export const removeLayer = defineOperation({
  name: 'removeLayer',
  label: 'Remove a layer',
  words: 'delete',
  changes: ['images'],
  summary: 'Remove a layer',
  params: z.object({ ...owner, layer: z.string() }),
  run(job, { layer: id, ...whose }) {
    const layers = ownerLayers(job, whose);
    const { name } = found(layers, id);
    return {
      job: withLayers(
        job,
        whose,
        layers.filter((one) => one.id !== id),
      ),
      report: { name },
    };
  },
  sentence: (_, { name }) => `Removed the layer “${name}”`,
});

export const orderLayers = defineOperation({
  name: 'orderLayers',
  label: 'Order layers',
  changes: ['images'],
  summary: 'Put layers in another order',
  params: z.object({ ...owner, order: z.array(z.string()).min(1).describe('ids of all layers from the bottom to the top') }),
  run(job, { order, ...whose }) {
    const layers = ownerLayers(job, whose);
    if (order.length !== layers.length || new Set(order).size !== order.length)
      throw new JigError('bad-parameter', 'The order does not name each layer once.', '', 'Try again.');
    const next = order.map((id) => found(layers, id));
    const isSame = next.every((layer, k) => layer === layers[k]);
    return { job: isSame ? job : withLayers(job, whose, next), report: {} };
  },
  sentence: () => 'Put the layers in another order',
});

/** Layers as another part has them: fades where they are in its box; what is bound to a jig that does not drive it is bound no more. */
function copied(job: Job, layers: readonly Layer[], { part, material }: LayerOwner, to: string, mesh: Mesh): Layer[] {
  const drives = (jig: string) => job.jigs?.find(({ id }) => id === jig)?.drives.some((drive) => drive.part === to) === true;
  const source = partOf(job, part);
  // the layers of a material are where its parts are
  const fitted = material !== undefined || source.id === to ? layers : refittedLayers(layers, source.mesh, mesh, drives);
  return fitted.map(({ covers, ...layer }) => ({
    ...layer,
    ...(covers !== undefined && drives(covers) ? { covers } : {}),
    masks: layer.masks.map((mask) => {
      if (mask.kind !== 'fade' || mask.jig === undefined || drives(mask.jig)) return mask;
      const { jig: _, ...free } = mask;
      return free;
    }),
  }));
}

/** Fades of a jig that drives both parts stay in its frame. */
function refittedLayers(layers: readonly Layer[], from: Mesh, to: Mesh, drives: (jig: string) => boolean): readonly Layer[] {
  const [a, b] = [frameOfBox(from), frameOfBox(to)];
  return withFades(layers, (fade, jig) => (jig !== undefined && drives(jig) ? fade : refitted(fade, a, b)));
}

export const copyLayers = defineOperation({
  name: 'copyLayers',
  label: 'Copy layers to other parts',
  words: 'set-up duplicate',
  changes: ['images'],
  summary: 'Copy layers to other parts',
  params: z.object({
    ...owner,
    layers: z.array(z.string()).min(1).optional().describe('those layers alone; default: all'),
    to: z.array(z.string()).min(1).describe('parts by id'),
    replace: z.boolean().default(false).describe('in place of the layers that are there'),
  }),
  async run(job, { layers: ids, to, replace, ...whose }) {
    const all = ownerLayers(job, whose);
    const asked = ids ? ids.map((id) => found(all, id)) : all;
    // what reaches onto other parts by itself would be on them twice
    const chosen = whose.material === undefined ? asked.filter((layer) => !isOnOthers(layer)) : asked;
    if (chosen.length === 0)
      throw new JigError('nothing-to-do', asked.length > 0 ? 'These decals are on the other parts that they reach already.' : 'There is no layer to copy.');
    let next = job;
    const covers: { part: string; jig: string }[] = [];
    for (const part of to) {
      const { mesh } = partOf(job, part);
      let layers = replace ? [] : [...ownerLayers(next, { part })];
      for (const layer of copied(job, chosen, whose, part, mesh)) layers = [...layers, { ...layer, ...freshLayer(layers, layer.name) }];
      for (const layer of layers) if (layer.covers !== undefined && !whose.material) covers.push({ part, jig: layer.covers });
      next = withLayers(next, { part }, layers);
    }
    // their faces are the other part's own
    if (covers.length > 0) next = (await import('./coverSmearsWork.ts')).foundAgain(next, covers);
    return { job: next, report: { layers: chosen.length, parts: to.length } };
  },
  sentence: (_, { layers, parts }) => `Copied ${plural(layers, 'layer')} to ${plural(parts, 'part')}`,
});

export const ownLayers = defineOperation({
  name: 'ownLayers',
  label: 'Give a part layers of its own',
  words: 'material unlink',
  changes: ['images'],
  summary: 'A part no longer follows the layers of its materials: it gets copies of its own',
  params: z.object({ part: partSchema }),
  run(job, { part: id }) {
    const part = partOf(job, id);
    if (part.layers) throw new JigError('nothing-to-do', `${part.name} has layers of its own already.`);
    const followed = madeOwn(job, part);
    if (followed.length === 0) throw new JigError('nothing-to-do', `${part.name} follows no layers of a material.`);
    const layers = followed.map(({ layer }) => layer);
    return { job: withLayers(job, { part: part.id }, layers), report: { name: part.name } };
  },
  sentence: (_, { name }) => `${name} has layers of its own`,
});
