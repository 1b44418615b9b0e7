import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { partOf, type JobJig, type Part } from '../job/job.ts';
import type { Fade, Layer, LayerDriver, LayerMask, LayerSource } from '../images/surface/layer.ts';
import { numbersPerDab } from '../images/surface/names.ts';
import { turnUp, turnVector, upAxes } from '../mesh/upAxis.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

/** A jig that stands on a part goes round with it. */
function turnedJig(jig: JobJig, back: boolean): JobJig {
  const { origin, right, up } = jig.jig;
  return { ...jig, jig: { ...jig.jig, origin: turnVector(origin, back), right: turnVector(right, back), up: turnVector(up, back) } };
}

function turnedFade(fade: Fade, back: boolean): Fade {
  if (fade.shape === 'radial') return { ...fade, centre: turnVector(fade.centre, back) };
  return { ...fade, from: turnVector(fade.from, back), to: turnVector(fade.to, back) };
}

/** What drives a layer goes round with the surface; from three sides its picture is upright again by the new way up. */
function turnedDriver(driver: LayerDriver, back: boolean): LayerDriver {
  if (driver.kind === 'decal')
    return { ...driver, centre: turnVector(driver.centre, back), right: turnVector(driver.right, back), up: turnVector(driver.up, back) };
  if (driver.kind !== 'triplanar') return driver;
  const [x, y, z] = driver.turn;
  return { ...driver, offset: turnVector(driver.offset, back), turn: [x, z, y] };
}

function turnedSource(source: LayerSource, back: boolean): LayerSource {
  return source.kind === 'fade' ? { ...source, fade: turnedFade(source.fade, back) } : source;
}

function turnedMask(mask: LayerMask, back: boolean, turning: ReadonlySet<string>): LayerMask {
  // one that is bound to a jig goes with that
  if (mask.kind === 'fade') return mask.jig !== undefined && turning.has(mask.jig) ? mask : { ...mask, fade: turnedFade(mask.fade, back) };
  if (mask.kind !== 'brush') return mask;
  const dabs = mask.dabs.slice();
  for (let k = 0; k + 2 < dabs.length; k += numbersPerDab) dabs.splice(k, 3, ...turnVector([dabs[k]!, dabs[k + 1]!, dabs[k + 2]!], back));
  return { ...mask, dabs };
}

/** Layers whose fades, decals and brushed places stay where they are on the surface. Noise, which has no places of its own, stays as it is in space. */
function turnedLayers(layers: readonly Layer[], back: boolean, jigs: ReadonlySet<string>): Layer[] {
  return layers.map(({ alike: _, ...layer }) => ({
    ...layer,
    source: turnedSource(layer.source, back),
    driver: turnedDriver(layer.driver, back),
    masks: layer.masks.map((mask) => turnedMask(mask, back, jigs)),
  }));
}

export const setUp = defineOperation({
  name: 'setUp',
  label: 'Which way is up in the file',
  words: 'axis z y orientation',
  changes: ['mesh', 'jigs', 'uvs', 'parts', 'images'],
  summary: 'Say which way is up in the file: z or y. The model stands upright, and is written back as it came',
  params: z.object({ up: z.enum(upAxes), part: partSchema.describe('only this part, by id; default: all parts') }),
  run(job, { up, part: id }) {
    const wanted = id === undefined ? job.parts : [partOf(job, id)];
    const turning = new Set(wanted.filter((part) => (part.up ?? 'y') !== up).map((part) => part.id));
    if (turning.size === 0) throw new JigError('nothing-to-do', `${up} is up already.`);
    const back = up === 'y';
    const turned = new Set((job.jigs ?? []).filter((jig) => jig.drives.some((drive) => turning.has(drive.part))).map((jig) => jig.id));
    const parts = job.parts.map((part): Part => {
      if (!turning.has(part.id)) return part;
      // a starter form is not made again lying down
      const { up: _, form: __, ...rest } = part;
      const layers = part.layers ? { layers: turnedLayers(part.layers, back, turned) } : {};
      return { ...rest, ...layers, mesh: turnUp(part.mesh, back), ...(up === 'z' ? { up } : {}) };
    });
    // the layers of a material go round where all its parts do
    const turnsWhole = (material: string) => job.parts.every((part) => turning.has(part.id) || !part.mesh.materials.includes(material));
    const materialLayers = job.materialLayers?.map((one) => (turnsWhole(one.material) ? { ...one, layers: turnedLayers(one.layers, back, turned) } : one));
    const jigs = job.jigs?.map((jig) => (turned.has(jig.id) ? turnedJig(jig, back) : jig));
    return { job: { ...job, parts, ...(jigs ? { jigs } : {}), ...(materialLayers ? { materialLayers } : {}) }, report: { turned: turning.size } };
  },
  sentence: ({ up }, { turned }) => `Said that ${up} is up: turned ${plural(turned, 'part')}`,
});
