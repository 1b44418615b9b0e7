import { fromMtlOptions, isAsItLies, type ImagePlacement } from '../images/placement.ts';
import { layerSchema } from '../images/surface/layer.ts';
import { fileLayer } from '../images/surface/names.ts';
import type { Job, JobImage } from './job.ts';
import { materialImages, sameName } from './materialImages.ts';

/**
 * Parts without an image get the one that their first material names, where the job has it; further materials of a part that name other images get these as
 * their layer, so that each shows its own.
 */
export function withMaterialImages(job: Job): Job {
  const named = materialImages(job);
  if (named.length === 0) return job;
  const pictureOf = (material: string): { image: JobImage; placement: ImagePlacement } | null => {
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
