import { imageFacts } from '../images/imageFacts.ts';
import { asItLies } from '../images/placement.ts';
import { driverSchema, layerSchema, type Layer } from '../images/surface/layer.ts';
import { JigError } from '../jigError.ts';
import { drivenBy } from '../job/driveLayer.ts';
import { activeSet, partOf, type Job } from '../job/job.ts';
import { sheetFor } from '../job/sheets.ts';
import { freshLayer, ownerLayers, withLayers } from '../job/layers.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { faceAreas } from '../mesh/normals.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { triangleStretch } from '../measure/distortion.ts';
import * as portable from '../numeric/portable.ts';
import { widened } from '../select/widened.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { jigOf } from './jigs.ts';

/** How wide the picture goes over, as a share of the root of the faces' area; chosen by trying. */
const softShare = 0.06;

/** Covers what the jig smears of the part at work. O(faces that it drives). */
export function coveredSmears(job: Job, id: string, partId?: string): { job: Job; report: { layer: string; name: string; faces: number; share: number } } {
  const { name, drives } = jigOf(job, id);
  const part = partOf(job, partId);
  if (part.imageId === null) throw new JigError('nothing-to-do', 'The part shows no picture that could be smeared.', '', 'Show one at Images.');
  const drive = drives.find((one) => one.part === part.id);
  if (!drive || drive.faces.length === 0) throw new JigError('nothing-to-do', `${name} drives no faces of ${part.name}.`, '', 'Give it faces first.');
  if (part.layers === undefined && (job.materialLayers ?? []).some(({ material }) => part.mesh.materials.includes(material)))
    throw new JigError('nothing-to-do', 'The part follows the layers of its material.', '', 'Make them its own first, at Images.');
  const set = part.uvSets.find((one) => one.name === drive.set) ?? activeSet(part);
  const { width, height } = sheetFor(job, part.id);
  const { faces: bad, density } = smearedFaces(part.mesh, set, drive.faces, width, height);
  if (bad.length === 0) throw new JigError('nothing-to-do', `${name} smears nothing: it serves all of its faces.`);
  const areas = faceAreas(part.mesh);
  const sum = (faces: Iterable<number>) => [...faces].reduce((all, f) => all + areas[f]!, 0);
  const [smeared, all] = [sum(bad), sum(drive.faces)];
  const soft = softShare * Math.sqrt(all);
  const faces = widened(part.mesh, bad, drive.faces, soft);
  const before = ownerLayers(job, { part: part.id });
  const called = `Over the smears of ${name}`;
  // pressed again, or after the jig was moved, it takes the place of the one before
  const at = before.findIndex((layer) => layer.covers === id || layer.name === called);
  const others = before.filter((_, k) => k !== at);
  const source = { kind: 'image', image: part.imageId };
  const placement = part.placement ?? asItLies;
  const fresh = at < 0 ? freshLayer(others, called) : { id: before[at]!.id, name: before[at]!.name };
  const own = layerSchema.parse({ ...fresh, covers: id, source, driver: { kind: 'set', set: drive.set }, placement });
  // turned as it is on the mean, as large as it is where the jig serves it
  const turned = drivenBy(job, part, own, driverSchema.parse({ kind: 'triplanar' })).placement;
  const image = job.images.find((one) => one.id === part.imageId)!;
  const facts = imageFacts(image.bytes, image.name);
  const [wide, tall] = [width / (density * Math.abs(placement.repeats[0]) || 1), height / (density * Math.abs(placement.repeats[1]) || 1)];
  const limit = (x: number) => Math.max(1e-6, Math.min(1e5, x));
  // what was made of the cover before stays: how it is mixed, its soft edge, further masks
  const known = before[at]?.masks[0];
  const layer: Layer = {
    ...own,
    driver: driverSchema.parse({ kind: 'triplanar', size: limit(wide) }),
    placement: { ...turned, repeats: [1, limit((wide * facts.height) / facts.width / tall)] },
    masks: [{ kind: 'faces', faces, soft: known?.kind === 'faces' ? known.soft : soft, isInverted: false, how: 'and' }, ...(before[at]?.masks.slice(1) ?? [])],
  };
  // right over the picture: what is over that stays in sight
  const layers = at < 0 ? [layer, ...others] : before.map((one, k) => (k === at ? { ...layer, isOn: one.isOn, opacity: one.opacity, blend: one.blend } : one));
  return { job: withLayers(job, { part: part.id }, layers), report: { layer: layer.id, name, faces: bad.length, share: smeared / (all || 1) } };
}

/** Covers whose jigs changed, found again; one that has nothing to cover any more goes. */
export function foundAgain(job: Job, covers: readonly { part: string; jig: string }[]): Job {
  let next = job;
  for (const { part, jig } of covers) {
    // without a picture there is nothing to tell it by: it stays as it is
    if (partOf(next, part).imageId === null) continue;
    try {
      next = coveredSmears(next, jig, part).job;
    } catch (error) {
      if (!(error instanceof JigError && error.code === 'nothing-to-do')) throw error;
      next = withLayers(
        next,
        { part },
        ownerLayers(next, { part }).filter((layer) => layer.covers !== jig),
      );
    }
  }
  return next;
}

/** Faces are smeared that are this many times larger or smaller, in their worse direction, than the image is on most of the surface; as in the advice of jigs. */
const mostOff = 1.6;

/** Faces whose image is far larger or smaller, one way, than on most of the area, and the px per unit there: it is the median, so that what is smeared does not say what is normal. O(T log T) */
function smearedFaces(mesh: Mesh, set: UvSet, faces: ArrayLike<number>, width: number, height: number): { faces: number[]; density: number } {
  const unplaced = new Uint8Array(mesh.faceStart.length - 1).fill(1);
  for (let k = 0; k < faces.length; k++) unplaced[faces[k]!] = 0;
  const { most, least, area } = triangleStretch(mesh, { ...set, unplaced }, width, height);
  const { faceStart } = trianglesOf(mesh);
  const each = Array.from(faces, (f) => {
    let [sum, large, small] = [0, 0, 0];
    for (let t = faceStart[f]!; t < faceStart[f + 1]!; t++) {
      if (!(area[t]! > 0) || Number.isNaN(most[t]!)) continue;
      sum += area[t]!;
      large += area[t]! * portable.log(Math.max(1e-9, most[t]!));
      small += area[t]! * portable.log(Math.max(1e-9, least[t]!));
    }
    return { f, area: sum, large: large / (sum || 1), small: small / (sum || 1) };
  }).filter((one) => one.area > 0);
  const order = [...each].sort((a, b) => a.large + a.small - b.large - b.small);
  const half = order.reduce((all, one) => all + one.area, 0) / 2;
  let passed = 0;
  const middle = order.find((one) => (passed += one.area) >= half);
  if (!middle) return { faces: [], density: 0 };
  const scale = (middle.large + middle.small) / 2;
  const limit = portable.log(mostOff);
  return { faces: each.filter(({ large, small }) => Math.max(large - scale, scale - small) > limit).map(({ f }) => f), density: portable.exp(scale) };
}
