import { setOfImage, type NamedImage } from '../images/imageSets.ts';
import { asItLies, isAsItLies, type ImagePlacement } from '../images/placement.ts';
import type { Layer, LayerDriver } from '../images/surface/layer.ts';
import { activeSet, type Job, type Part } from './job.ts';

/* Images of one set move as one: what was laid as its mate goes where that goes. What was laid otherwise on purpose stays apart. */

/** Where a picture is, and what drives it. */
export interface Laid {
  readonly driver: LayerDriver;
  readonly placement: ImagePlacement;
}

const ofSet = (set: string): LayerDriver => ({ kind: 'set', set });
/** The UV set at work, by whichever of its two names: its own, or none. */
const plainDriver = (driver: LayerDriver, part: Part | null): LayerDriver =>
  driver.kind === 'set' && part && driver.set === activeSet(part).name ? ofSet('') : driver;

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

const isLaidAs = (one: Laid, other: Laid, part: Part | null) =>
  same(one.placement, other.placement) && same(plainDriver(one.driver, part), plainDriver(other.driver, part));

/** How a part's own picture is laid. */
export const pictureLaid = (part: Part): Laid => ({ driver: ofSet(''), placement: part.placement ?? asItLies });

/** Ids of the images that are in one set with this one, itself left out. */
export const matesOf = (images: readonly NamedImage[], id: string): ReadonlySet<string> =>
  new Set((setOfImage(images, id)?.members ?? []).flatMap((member) => (member.id === id ? [] : [member.id])));

const imageOf = ({ source }: Layer): string | null => (source.kind === 'image' ? source.image : null);

/** Layers, of which those that are mates of an image and were laid as it was are laid as it is now. @param part whose layers they are; null for those of a material */
export function layersAlong(
  images: readonly NamedImage[],
  layers: readonly Layer[],
  part: Part | null,
  image: string,
  before: Laid,
  after: Laid,
  except?: string,
): readonly Layer[] {
  if (isLaidAs(before, after, null)) return layers;
  const mates = matesOf(images, image);
  if (mates.size === 0) return layers;
  let isChanged = false;
  const moved = layers.map((layer): Layer => {
    const own = imageOf(layer);
    if (own === null || layer.id === except || !mates.has(own) || !isLaidAs(layer, before, part)) return layer;
    isChanged = true;
    return { ...layer, driver: after.driver, placement: after.placement };
  });
  return isChanged ? moved : layers;
}

/** A part, of which layers that are mates of its picture go where that went. */
export function withLayersAlong(job: Job, before: Part, after: Part): Part {
  if (!before.imageId || !after.layers) return after;
  const layers = layersAlong(job.images, after.layers, before, before.imageId, pictureLaid(before), pictureLaid(after));
  return layers === after.layers ? after : { ...after, layers };
}

/** A part's own picture, where it is a mate of a layer and was laid as that, laid as the layer is now. UVs at work alone can drive it. */
export function withPictureAlong(job: Job, part: Part, before: Layer, after: Layer): Part {
  const image = imageOf(before);
  if (image === null || part.imageId === null || isLaidAs(before, after, null) || !matesOf(job.images, image).has(part.imageId)) return part;
  if (!isLaidAs(pictureLaid(part), before, part) || !same(plainDriver(after.driver, part), ofSet(''))) return part;
  const { placement: _, ...rest } = part;
  return isAsItLies(after.placement) ? rest : { ...rest, placement: after.placement };
}

/** Ids of the layers of a part that move as one with its picture. @param part UV sets by their names, as the screen knows them */
export function layersWithPicture(
  images: readonly NamedImage[],
  part: { imageId: string | null; placement: ImagePlacement | null; layers: readonly Layer[] | null; uvSets: readonly string[]; activeUv: number },
): string[] {
  if (part.imageId === null || !part.layers) return [];
  const mates = matesOf(images, part.imageId);
  const isAtWork = ({ driver }: Layer) => driver.kind === 'set' && (driver.set === '' || driver.set === part.uvSets[part.activeUv]);
  return part.layers
    .filter((layer) => mates.has(imageOf(layer) ?? '') && isAtWork(layer) && same(layer.placement, part.placement ?? asItLies))
    .map(({ id }) => id);
}
