import { fromMtlOptions, isAsItLies, type ImagePlacement } from '../images/placement.ts';
import { layerSchema } from '../images/surface/layer.ts';
import { fileLayer, mostLayers } from '../images/surface/names.ts';
import { JigError } from '../jigError.ts';
import type { Job, JobImage, Part } from './job.ts';
import { ownerLayers, withLayers } from './layers.ts';
import { materialImages, sameName } from './materialImages.ts';
import { pictureFromFile } from './pictureFromFile.ts';

/** The pictures that materials of a glTF have. */
export type KnownPictures = ReadonlyMap<string, { image: string; placement: ImagePlacement }>;

/**
 * Parts without an image get the one that their first material names, where the job has it; further materials of a part that name other images get these as
 * their layer, so that each shows its own.
 * @param known pictures of materials that no material file states
 */
export function withMaterialImages(job: Job, known: KnownPictures = new Map()): Job {
  const named = materialImages(job);
  if (named.length === 0 && known.size === 0) return job;
  const pictureOf = (material: string): { image: JobImage; placement: ImagePlacement } | null => {
    const stated = known.get(material);
    const own = job.images.find(({ id }) => id === stated?.image);
    if (own) return { image: own, placement: stated!.placement };
    const name = named.map(({ images }) => images.get(material)).find((found) => found !== undefined);
    const image = name === undefined ? undefined : job.images.find((candidate) => sameName(candidate.name, name));
    const statement = named.map(({ statements }) => statements.get(material)).find((found) => found !== undefined);
    return image ? { image, placement: fromMtlOptions(statement ?? '') } : null;
  };
  const parts = job.parts.map((part) => {
    if (part.imageId !== null) return part;
    const first = part.mesh.materials.map(pictureOf).find((found) => found !== null);
    if (!first) return part;
    return { ...part, imageId: first.image.id, ...(isAsItLies(first.placement) ? {} : { placement: first.placement }) };
  });
  const materialLayers = [...(job.materialLayers ?? [])];
  for (const part of parts)
    for (const material of part.mesh.materials) {
      const found = pictureOf(material);
      if (!found || found.image.id === part.imageId || materialLayers.some((one) => one.material === material)) continue;
      const { image, placement } = found;
      materialLayers.push({
        material,
        layers: [layerSchema.parse({ id: fileLayer, name: image.name, source: { kind: 'image', image: image.id }, placement })],
      });
    }
  return { ...job, parts, ...(materialLayers.length > 0 ? { materialLayers } : {}) };
}

/** Parts show the picture that a file gave their only material as their own, and not as a layer over another one. */
export function ownImages(job: Job, ids: ReadonlySet<string>): Job {
  if (!job.materialLayers) return job;
  const fromFile = (material: string | undefined) => pictureFromFile(job.materialLayers, material);
  const parts = job.parts.map((part) => {
    const found = ids.has(part.id) && part.mesh.materials.length === 1 ? fromFile(part.mesh.materials[0]) : null;
    if (!found || found.imageId === part.imageId) return part;
    const { placement: _, ...rest } = part;
    return { ...rest, imageId: found.imageId, ...(isAsItLies(found.placement) ? {} : { placement: found.placement }) };
  });
  /** Whether the layer would show what is below it already, wherever it is. */
  const isSpare = (material: string) => {
    const found = fromFile(material);
    const on = parts.filter((part) => part.mesh.materials.includes(material));
    return found !== null && on.length > 0 && on.every((part) => part.mesh.materials.length === 1 && part.imageId === found.imageId);
  };
  const materialLayers = job.materialLayers
    .map((one) => (isSpare(one.material) ? { ...one, layers: one.layers.slice(1) } : one))
    .filter(({ layers }) => layers.length > 0);
  const { materialLayers: _, ...rest } = job;
  return { ...rest, parts, ...(materialLayers.length > 0 ? { materialLayers } : {}) };
}

/**
 * The whole shows the picture of its first piece; those of others are what a file gives a material beside it.
 * @throws JigError `nothing-to-do` where a material has all the layers that it can have already
 */
export function withPicturesOfPieces(job: Job, whole: Part, pieces: readonly Part[]): Job {
  let next = job;
  for (const { mesh, imageId, placement } of pieces) {
    const [material] = mesh.materials;
    const image = job.images.find(({ id }) => id === imageId);
    if (mesh.materials.length !== 1 || !image || imageId === whole.imageId || pictureFromFile(next.materialLayers, material)) continue;
    const picture = layerSchema.parse({ id: fileLayer, name: image.name, source: { kind: 'image', image: image.id }, ...(placement ? { placement } : {}) });
    const owner = { material: material! };
    const layers = [picture, ...ownerLayers(next, owner)];
    if (layers.length > mostLayers)
      throw new JigError(
        'nothing-to-do',
        `Material “${material}” has ${mostLayers} layers, and the picture of its piece would be one more.`,
        '',
        'Bake some of them into one picture, or remove one, and join the parts then.',
      );
    next = withLayers(next, owner, layers);
  }
  return next;
}
