import type { ImagePlacement } from '../images/placement.ts';
import type { Layer } from '../images/surface/layer.ts';
import { fileLayer, pictureLayer } from '../images/surface/names.ts';
import type { Job, Part } from './job.ts';
import { pictureFromFile } from './pictureFromFile.ts';
import { piecesOf } from './splitPart.ts';

/** The picture that a material of a part has in model files, which know one a material. */
export interface MaterialPicture {
  /** Name of the part, for what is said of it. */
  part: string;
  /** Null where no face has a material. */
  material: string | null;
  imageId: string | null;
  placement: ImagePlacement | undefined;
}

/** The picture that a part's own layers show on one material alone, whole and unmixed: what a copy of a file's picture is. */
function pictureFromOwn(part: Part, material: string): { imageId: string; placement: ImagePlacement } | null {
  for (const { isOn, to, source, opacity, blend, placement, masks } of part.layers ?? []) {
    const [mask] = masks;
    if (!isOn || to !== 'colour' || source.kind !== 'image' || opacity < 1 || blend !== 'normal' || masks.length !== 1) continue;
    if (mask!.kind === 'material' && mask!.material === material && !mask!.isInverted && mask!.soft === 0) return { imageId: source.image, placement };
  }
  return null;
}

/** Pictures of all materials of a part: what a file gave the material by itself, else that of the part, or of the piece which has the material. */
export function materialPictures(whole: Part, layers: Job['materialLayers']): MaterialPicture[] {
  return piecesOf(whole).flatMap((part) =>
    (part.mesh.materials.length > 0 ? part.mesh.materials : [null]).map((material) => {
      const found = material === null ? null : part.layers ? pictureFromOwn(part, material) : pictureFromFile(layers, material);
      return { part: part.name, material, imageId: found?.imageId ?? part.imageId, placement: found ? found.placement : part.placement };
    }),
  );
}

/** Whether a layer shows colour that model files cannot name as the picture of a part or material. */
export const isBeyondFiles = ({ id, isOn, to }: Pick<Layer, 'id' | 'isOn' | 'to'>): boolean =>
  isOn && to === 'colour' && id !== pictureLayer && id !== fileLayer;
