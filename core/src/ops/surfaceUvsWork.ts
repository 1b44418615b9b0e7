import { asItLies, isAsItLies, placedAsBefore, placedAt, placementMatrix, type Affine, type ImagePlacement } from '../images/placement.ts';
import { JigError } from '../jigError.ts';
import type { Layer } from '../images/surface/layer.ts';
import { freshLayer, madeOwn, ownLayersOf, pictureAsLayer, withLayers } from '../job/layers.ts';
import { activeSet, partOf, withSet, type Job, type Part } from '../job/job.ts';
import { layersAlong, pictureLaid, withPictureAlong } from '../job/setMates.ts';
import { placedIslandsOf, selectionByPart } from '../job/selected.ts';
import { seededRandom } from '../numeric/random.ts';
import { continuingIslands } from '../uv/continuing.ts';
import { islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { convertSelection, listed } from '../select/convert.ts';
import { plural } from './operation.ts';
import type { VaryParams, WriteParams } from './surfaceUvs.ts';
import * as portable from '../numeric/portable.ts';

/** Whether a layer of a part goes by one of its UV sets. */
const goesBy = (part: Part, set: UvSet, { driver }: Layer) =>
  driver.kind === 'set' && (driver.set === set.name || (driver.set === '' && set === activeSet(part)));

/** Layers of a part's materials that go by one of its UV sets, by name. */
const followedBy = (job: Job, part: Part, set: UvSet): string[] =>
  part.layers
    ? []
    : ownLayersOf(job, part).flatMap(({ layer, material }) =>
        material !== null && goesBy(part, set, layer) ? [`“${layer.name}” of ${part.mesh.materials[material]!}`] : [],
      );

/** What goes by UVs that have taken a placement over, placed so that it looks as before; what cannot be is told by name. */
class LooksKept {
  /** What moved along. */
  readonly moved: string[] = [];

  constructor(private readonly matrix: Affine) {}

  /** A layer that is at rest now itself: its masks with a placement of their own. */
  masksOf(layer: Layer): Layer {
    const masks = layer.masks.map((mask) => {
      if (mask.kind !== 'image' || mask.placement === null) return mask;
      const kept = placedAsBefore(mask.placement, this.matrix);
      if (!kept) this.moved.push(`a mask of “${layer.name}” that is placed by itself`);
      return kept ? { ...mask, placement: kept } : mask;
    });
    return { ...layer, masks };
  }

  /** Another layer. */
  layer(layer: Layer): Layer {
    const { alike: _, ...plain } = layer;
    const kept = placedAsBefore(layer.placement, this.matrix);
    if (!kept) this.moved.push(`“${layer.name}”`);
    return this.masksOf(kept ? { ...plain, placement: kept } : layer);
  }

  picture(part: Part, name: string): Part {
    const kept = placedAsBefore(part.placement ?? asItLies, this.matrix);
    if (!kept) this.moved.push(name);
    const { placement: _, ...bare } = part;
    return !kept ? part : isAsItLies(kept) ? bare : { ...bare, placement: kept };
  }
}

/** Images of the same set that were laid as the one that was written are at rest as it is. */
function withMatesWritten(job: Job, before: Part, after: Part, layer: Layer | null, written: Layer | null): Part {
  if (!layer || !written) {
    const laid = { driver: pictureLaid(before).driver, placement: pictureLaid(after).placement };
    if (!after.layers || before.imageId === null) return after;
    return { ...after, layers: [...layersAlong(job.images, after.layers, before, before.imageId, pictureLaid(before), laid)] };
  }
  if (layer.source.kind !== 'image') return after;
  const layers = layersAlong(job.images, after.layers!, before, layer.source.image, layer, written, layer.id);
  return withPictureAlong(job, { ...after, layers }, layer, written);
}

/** Where a placement's matrix takes the UVs of faces; points that other faces have, too, are split from them. @param faces null: all. O(corners) */
function placedFaces({ mesh }: Part, set: UvSet, matrix: ReturnType<typeof placementMatrix>, faces: ((face: number) => boolean) | null): UvSet {
  const count = set.uv.length / 2;
  const own = new Uint8Array(count);
  const others = new Uint8Array(count);
  for (let f = 0; f + 1 < mesh.faceStart.length; f++)
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) (!faces || faces(f) ? own : others)[set.cornerUv[c]!] = 1;
  const copies = new Map<number, number>();
  for (let p = 0; p < count; p++) if (own[p] && others[p]) copies.set(p, count + copies.size);
  const uv = new Float64Array((count + copies.size) * 2);
  uv.set(set.uv);
  for (let p = 0; p < count; p++) if (own[p]) uv.set(placedAt(matrix, set.uv[p * 2]!, set.uv[p * 2 + 1]!), (copies.get(p) ?? p) * 2);
  if (copies.size === 0) return { ...set, uv };
  const pins = new Uint8Array(count + copies.size);
  pins.set(set.pins);
  for (const [p, copy] of copies) pins[copy] = set.pins[p]!;
  const cornerUv = set.cornerUv.slice();
  for (let f = 0; f + 1 < mesh.faceStart.length; f++)
    if (faces?.(f)) for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) cornerUv[c] = copies.get(cornerUv[c]!) ?? cornerUv[c]!;
  return { ...set, uv, pins, cornerUv };
}

/** A layer of a material, written into the UVs of all faces of it. */
function materialWritten(job: Job, material: string, layerId: string | undefined, into: WriteParams['into']) {
  const layers = job.materialLayers?.find((one) => one.material === material)?.layers ?? [];
  const layer = layers.find(({ id }) => id === layerId);
  if (!layer) throw new JigError('not-found', 'This layer is not there.');
  const { placement, driver } = layer;
  assertWritable(layer, placement);
  const name = driver.kind === 'set' ? driver.set : '';
  const setOf = (part: Part) => (name === '' ? activeSet(part) : part.uvSets.find((one) => one.name === name));
  const parts = job.parts.filter((part) => part.mesh.materials.includes(material) && part.layers === undefined && setOf(part));
  if (parts.length === 0) throw new JigError('nothing-to-do', `No part that follows the layers of ${material} has this UV set.`);
  const base = name || setOf(parts[0]!)!.name;
  let number = 2;
  while (parts.some(({ uvSets }) => uvSets.some((one) => one.name === `${base} ${number}`))) number++;
  const copied = `${base} ${number}`;
  const matrix = placementMatrix(placement);
  const looks = new LooksKept(matrix);
  const changed = new Map(
    parts.map((part): [string, Part] => {
      const set = setOf(part)!;
      const number = part.mesh.materials.indexOf(material);
      const written = placedFaces(part, set, matrix, (f) => part.mesh.faceMaterial[f] === number);
      if (into === 'copy') return [part.id, { ...part, uvSets: [...part.uvSets, { ...written, name: copied }] }];
      if (part.imageId !== null && set === activeSet(part)) looks.moved.push(`the picture of ${part.name}`);
      return [part.id, { ...part, uvSets: part.uvSets.map((one) => (one === set ? written : one)) }];
    }),
  );
  const driven = into === 'copy' ? { kind: 'set' as const, set: copied } : driver;
  const after = { ...layer, placement: restOf(placement), driver: driven };
  const changedLayers = layers.map((one) => (one === layer ? after : one));
  const along = layer.source.kind === 'image' ? layersAlong(job.images, changedLayers, null, layer.source.image, layer, after, layer.id) : changedLayers;
  const next = along.map((one, k): Layer => {
    if (one !== layers[k]) return looks.masksOf(one);
    if (into === 'copy' || one.driver.kind !== 'set') return one;
    if (one.driver.set === name) return looks.layer(one);
    // on some parts this may be another set
    if (parts.some((part) => goesBy(part, setOf(part)!, one))) looks.moved.push(`“${one.name}”`);
    return one;
  });
  return {
    job: {
      ...job,
      parts: job.parts.map((part) => changed.get(part.id) ?? part),
      materialLayers: job.materialLayers!.map((one) => (one.material === material ? { ...one, layers: next } : one)),
    },
    report: { set: into === 'copy' ? copied : base, faces: null, madeOwn: '', alsoMoved: [...new Set(looks.moved)] },
  };
}

/** What is left of a placement once the UVs have it: what is seen outside. */
const restOf = ({ outsideU, outsideV }: ImagePlacement): ImagePlacement => ({ ...asItLies, outsideU, outsideV });

/** @throws JigError where nothing can be written */
function assertWritable(layer: Layer | null, placement: ImagePlacement): void {
  if (layer && layer.driver.kind !== 'set')
    throw new JigError('nothing-to-do', 'This layer is not driven by UVs.', '', 'Drive it by a UV set first; its picture keeps its size and heading.');
  if (isAsItLies({ ...placement, outsideU: 'repeat', outsideV: 'repeat' })) throw new JigError('nothing-to-do', 'The picture lies as the UVs have it already.');
}

/** The selected faces of a part. @throws JigError where there are none */
function selectedFaces(job: Job, part: Part): Uint8Array {
  const chosen = selectionByPart(job).find((one) => one.part === part);
  const faces = chosen && convertSelection(part.mesh, islandsOf(part.mesh, activeSet(part)), chosen.kind, chosen.ids, 'faces', 'within');
  if (!faces || faces.length === 0)
    throw new JigError('nothing-to-do', 'No face of this part is selected.', '', 'Select the faces or islands that are to have it, or write it for all.');
  const is = new Uint8Array(part.mesh.faceStart.length - 1);
  for (const f of faces) is[f] = 1;
  return is;
}

/**
 * A layer of a part, written into the UVs of some faces: it is shown on these as a layer of its own, at rest, and on the others as it was. Images of its set
 * that were laid as it was are parted in the same way.
 */
function facesWritten(job: Job, part: Part, layer: Layer, set: UvSet, copyName: string | null, is: Uint8Array) {
  const matrix = placementMatrix(layer.placement);
  const looks = new LooksKept(matrix);
  const written = placedFaces(part, set, matrix, (f) => is[f] === 1);
  const faces = listed(is);
  const layers = part.layers!;
  const laid = { ...layer, placement: restOf(layer.placement), ...(copyName === null ? {} : { driver: { kind: 'set' as const, set: copyName } }) };
  const along = layer.source.kind === 'image' ? layersAlong(job.images, layers, part, layer.source.image, layer, laid, layer.id) : layers;
  const next: Layer[] = [];
  for (const [k, one] of layers.entries()) {
    if (one !== layer && along[k] === one) {
      next.push(one);
      if (copyName === null && goesBy(part, set, one)) looks.moved.push(`“${one.name}”`);
      continue;
    }
    if (one.masks.length >= 8) throw new JigError('bad-parameter', `The layer “${one.name}” has eight masks already.`, '', 'Remove one of its masks.');
    const { alike: _, ...plain } = one;
    const mask = { kind: 'faces' as const, faces: [...faces], soft: 0, how: 'and' as const };
    next.push({ ...plain, masks: [...one.masks, { ...mask, isInverted: true }] });
    const own = looks.masksOf({ ...plain, placement: restOf(one.placement), driver: laid.driver });
    next.push({
      ...own,
      masks: [...own.masks, { ...mask, isInverted: false }],
      ...freshLayer([...layers, ...next], `${one.name}, ${plural(faces.length, 'face')}`),
    });
  }
  const uvSets = copyName === null ? part.uvSets.map((one) => (one === set ? written : one)) : [...part.uvSets, { ...written, name: copyName }];
  if (copyName === null && part.imageId !== null && set === activeSet(part)) looks.moved.unshift('the part’s own picture');
  return {
    job: withLayers({ ...job, parts: job.parts.map((one) => (one.id === part.id ? { ...part, uvSets } : one)) }, { part: part.id }, next),
    report: { set: copyName ?? set.name, faces: faces.length as number | null, madeOwn: '', alsoMoved: looks.moved },
  };
}

/** A part with its picture, or a layer of one of its materials, as a layer of its own that can be parted. @returns also that layer, by id */
function withOwnLayer(job: Job, part: Part, layerId: string | undefined, material: string | undefined): { part: Part; id: string } {
  const followed = part.layers ? null : madeOwn(job, part);
  const layers = part.layers ?? followed!.map(({ layer }) => layer);
  if (material !== undefined) {
    const number = part.mesh.materials.indexOf(material);
    const found = followed?.find((one) => one.material === number && one.from === layerId);
    if (!found)
      throw new JigError('not-found', `${part.name} does not follow this layer of ${material}.`, '', 'Choose faces of a part that does, or write it for all.');
    return { part: { ...part, layers }, id: found.layer.id };
  }
  const picture = pictureAsLayer(job, part);
  if (!picture) throw new JigError('nothing-to-do', `${part.name} shows no picture.`);
  const { placement: _, ...bare } = part;
  const own = { ...picture, ...freshLayer(layers, picture.name) };
  return { part: { ...bare, imageId: null, layers: [own, ...layers] }, id: own.id };
}

export function placementWritten(job: Job, { part: id, layer: layerId, material, into, faces }: WriteParams) {
  if (material !== undefined && faces === 'all') return materialWritten(job, material, layerId, into);
  const part = partOf(job, id);
  const is = faces === 'selected' ? selectedFaces(job, part) : null;
  if (material !== undefined) {
    const number = part.mesh.materials.indexOf(material);
    for (let f = 0; f < is!.length; f++) if (part.mesh.faceMaterial[f] !== number) is![f] = 0;
    if (!is!.includes(1))
      throw new JigError('nothing-to-do', `No face of ${material} is selected.`, '', 'Select the faces that are to have it, or write it for all.');
  }
  const isParted = is?.includes(0) === true;
  const own = material !== undefined || (isParted && layerId === undefined) ? withOwnLayer(job, part, layerId, material) : null;
  const of = own?.part ?? part;
  const wanted = own?.id ?? layerId;
  const layer = wanted === undefined ? null : of.layers?.find((one) => one.id === wanted);
  if (layer === undefined) throw new JigError('not-found', 'This layer is not there.');
  const placement: ImagePlacement = (layer ? layer.placement : of.placement) ?? asItLies;
  assertWritable(layer, placement);
  const name = layer?.driver.kind === 'set' ? layer.driver.set : '';
  const set = name === '' ? activeSet(of) : of.uvSets.find((one) => one.name === name);
  if (!set) throw new JigError('not-found', `There is no UV set “${name}”.`);
  let number = 2;
  while (of.uvSets.some((one) => one.name === `${set.name} ${number}`)) number++;
  const copyName = into === 'copy' ? `${set.name} ${number}` : null;
  if (layer && is && (isParted || own)) {
    const found = facesWritten(job, of, layer, set, copyName, is);
    const madeOwn = !own ? '' : material === undefined ? `the picture of ${part.name} is layers now` : `${part.name} has layers of its own now`;
    return { ...found, report: { ...found.report, madeOwn } };
  }
  return wholeWritten(job, part, layer, set, copyName);
}

/** A layer of a part, or its picture (null), written into the UVs of all its faces. */
function wholeWritten(job: Job, part: Part, layer: Layer | null, set: UvSet, copyName: string | null) {
  const placement = (layer ? layer.placement : part.placement) ?? asItLies;
  const matrix = placementMatrix(placement);
  const looks = new LooksKept(matrix);
  const written = placedFaces(part, set, matrix, null);
  const uvSets = copyName !== null ? [...part.uvSets, { ...written, name: copyName }] : part.uvSets.map((one) => (one === set ? written : one));
  const rest = restOf(placement);
  const { placement: _, ...bare } = part;
  const plain = isAsItLies(rest) ? bare : { ...bare, placement: rest };
  const after = layer ? { ...layer, placement: rest, ...(copyName !== null ? { driver: { kind: 'set' as const, set: copyName } } : {}) } : null;
  const own: Part = layer
    ? { ...part, uvSets, layers: part.layers!.map((one) => (one === layer ? after! : one)) }
    : { ...plain, uvSets, activeUv: copyName !== null ? uvSets.length - 1 : part.activeUv };
  let next = withMatesWritten(job, part, own, layer, after);
  if (layer && copyName === null && part.imageId !== null && set === activeSet(part) && next.placement === part.placement)
    next = looks.picture(next, 'the part’s own picture');
  const layers = next.layers?.map((one, k): Layer => {
    const before = part.layers![k]!;
    if (one !== before) return looks.masksOf(one);
    if (!goesBy(part, set, one)) return one;
    if (copyName === null) return looks.layer(one);
    // the copy is at work now: what went by the set at work goes on by it
    return layer ? one : { ...one, driver: { kind: 'set', set: set.name } };
  });
  if (layers) next = { ...next, layers };
  if (copyName === null || !layer) looks.moved.push(...followedBy(job, part, set));
  return {
    job: { ...job, parts: job.parts.map((one) => (one === part ? next : one)) },
    report: { set: copyName ?? set.name, faces: null, madeOwn: '', alsoMoved: looks.moved },
  };
}

export function varied(job: Job, { part: id, by, which, offset, turn, mirror, seed, texels }: VaryParams) {
  if (!offset && turn === 'none' && !mirror) throw new JigError('bad-parameter', 'Nothing is to vary.', '', 'Choose offsets, turns or mirroring.');
  const part = partOf(job, id);
  const set = activeSet(part);
  const { mesh } = part;
  const islands = islandsOf(mesh, set);
  const chosen = which === 'selected' ? selectionByPart(job).find((one) => one.part.id === part.id) : undefined;
  const meant = chosen ? new Set(placedIslandsOf(chosen)) : null;
  const random = seededRandom(seed + (by === 'part' ? job.parts.indexOf(part) : 0));
  const uv = set.uv.slice();
  const done = new Uint8Array(uv.length / 2);
  let count = 0;
  const numbers = () => ({ u: random(), v: random(), turn: random(), mirror: random() });
  const common = by === 'part' ? numbers() : null;
  // islands between which the picture is kept going on are varied as one, by the numbers of the first
  const first = continuingIslands(mesh, set);
  const together = new Map<number, number[]>();
  // drawn for each island, chosen or not: one that is varied again by the same seed stays what it was
  const drawn = Array.from(first, (root, i) => {
    together.set(root, [...(together.get(root) ?? []), i]);
    return common ?? numbers();
  });
  for (const [root, members] of together) {
    const own = drawn[root]!;
    const faces = members.flatMap((i) => [...islands.faces.subarray(islands.start[i], islands.start[i + 1])]);
    const isMeant = !meant || meant.size === 0 || members.every((i) => meant.has(i));
    if (!isMeant || faces.some((f) => set.unplaced[f] === 1 || set.locked?.[f] === 1)) continue;
    const points: number[] = [];
    for (const f of faces)
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        const p = set.cornerUv[c]!;
        if (done[p]) continue;
        done[p] = 1;
        points.push(p);
      }
    const parts = { none: 0, half: 2, quarter: 4, free: 0 }[turn];
    const angle = turn === 'free' ? own.turn * 2 * Math.PI : parts > 0 ? (Math.floor(own.turn * parts) * 2 * Math.PI) / parts : 0;
    const [cos, sin] = [portable.cos(angle), portable.sin(angle)].map((x) => (Math.abs(x) < 1e-12 ? 0 : x)) as [number, number];
    const flip = mirror && own.mirror < 0.5 ? -1 : 1;
    const [du, dv] = offset ? [Math.floor(own.u * texels) / texels, Math.floor(own.v * texels) / texels] : [0, 0];
    let [mu, mv] = [0, 0];
    for (const p of points) {
      mu += set.uv[p * 2]! / points.length;
      mv += set.uv[p * 2 + 1]! / points.length;
    }
    for (const p of points) {
      const [u, v] = [(set.uv[p * 2]! - mu) * flip, set.uv[p * 2 + 1]! - mv];
      uv[p * 2] = mu + u * cos - v * sin + du;
      uv[p * 2 + 1] = mv + u * sin + v * cos + dv;
    }
    count += members.length;
  }
  if (count === 0)
    throw new JigError(
      'nothing-to-do',
      'No island can be varied: they are locked, have no place yet, or go on over a seam that is kept so into one that is not meant.',
      '',
      'Unwrap, unlock, or select all that belong together.',
    );
  return { job: withSet(job, part.id, { ...set, uv }), report: { varied: count } };
}
