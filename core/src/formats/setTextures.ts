import { encode } from 'fast-png';
import { decodeImage } from '../images/decode.ts';
import { memberOf, setOfImage } from '../images/imageSets.ts';
import { samplePixels, type Pixels } from '../images/surface/pixels.ts';
import type { JobImage } from '../job/job.ts';

/** An image of a file's material. */
export interface SlotImage {
  name: string;
  type: string;
  bytes: Uint8Array;
}

/** What of a set glTF's metallic-roughness material can say beside the colour (glTF 2.0, 3.9.2 and 3.9.3). */
export interface SetTextures {
  normal?: SlotImage;
  /** Red is occlusion. */
  occlusion?: SlotImage;
  /** Green is roughness, blue metalness. */
  roughMetal?: SlotImage;
  hasRoughness: boolean;
  hasMetalness: boolean;
}

/**
 * The other images of the set that a colour image is in, as glTF has them: roughness and metalness in two channels of one image. Null where it is in no set.
 * @param notes what was left out, in words. O(px) where two images become one
 */
export async function texturesOfSet(images: readonly JobImage[], colour: string, notes: Set<string>): Promise<SetTextures | null> {
  const set = setOfImage(images, colour);
  if (!set) return null;
  const imageOf = (role: Parameters<typeof memberOf>[1]) => {
    const id = memberOf(set, role, colour)?.id;
    return images.find((image) => image.id === id && id !== colour);
  };
  const [normal, occlusion, roughness, metalness] = [imageOf('normal'), imageOf('occlusion'), imageOf('roughness'), imageOf('metalness')];
  if (!normal && !occlusion && !roughness && !metalness) return null;
  const out: SetTextures = {
    hasRoughness: roughness !== undefined,
    hasMetalness: metalness !== undefined,
    ...(normal ? { normal } : {}),
    ...(occlusion ? { occlusion } : {}),
  };
  if (metalness) {
    try {
      out.roughMetal = { name: `${set.name} roughness metalness.png`, type: 'image/png', bytes: await inOne(roughness, metalness) };
    } catch (error) {
      out.hasMetalness = false;
      notes.add(`“${metalness.name}” was left out: ${error instanceof Error ? error.message : 'it cannot be read'}`);
    }
  }
  // a grey image says the same in green
  if (!out.roughMetal && roughness) out.roughMetal = roughness;
  return out;
}

/** Roughness in green (white where there is none) and metalness in blue, as large as the larger of both. */
async function inOne(roughness: JobImage | undefined, metalness: JobImage): Promise<Uint8Array> {
  const [rough, metal] = await Promise.all([roughness ? decodeImage(roughness.bytes, roughness.name) : null, decodeImage(metalness.bytes, metalness.name)]);
  const [width, height] = [Math.max(rough?.width ?? 1, metal.width), Math.max(rough?.height ?? 1, metal.height)];
  const data = new Uint8Array(width * height * 3);
  const value = new Float64Array(4);
  const at = (from: Pixels, x: number, y: number) => {
    if (from.width === width && from.height === height) return from.data[(y * width + x) * 4]!;
    samplePixels(from, (x + 0.5) / width, 1 - (y + 0.5) / height, 'edge', 'edge', value);
    return Math.round(value[0]! * 255);
  };
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const px = (y * width + x) * 3;
      data[px] = 255;
      data[px + 1] = rough ? at(rough, x, y) : 255;
      data[px + 2] = at(metal, x, y);
    }
  return encode({ width, height, data, channels: 3, depth: 8 });
}
