import type { ImagePlacement } from '../images/placement.ts';
import { fileLayer } from '../images/surface/names.ts';
import type { Job } from './job.ts';

/** The picture that a file gave a material beside that of the part. */
export function pictureFromFile(layers: Job['materialLayers'], material: string | undefined): { imageId: string; placement: ImagePlacement } | null {
  const [first] = layers?.find((one) => one.material === material)?.layers ?? [];
  return first?.id === fileLayer && first.source.kind === 'image' ? { imageId: first.source.image, placement: first.placement } : null;
}
