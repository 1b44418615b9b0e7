import { encode } from 'fast-png';
import { decodeImage } from '../images/decode.ts';
import { normalsOf, sayingOf, setOfImage, type ImageRole, type ImageSet } from '../images/imageSets.ts';
import { samplePixels, type Pixels } from '../images/surface/pixels.ts';
import type { JobImage } from '../job/job.ts';

/** An image that says a role, and by which of its channels; of a grey one any will do. */
interface Saying {
  image: JobImage;
  channel: 'red' | 'green' | 'blue' | 'all';
}

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
  const saying = (role: ImageRole): Saying | undefined => {
    const found = sayingOf(set, role, colour);
    const image = images.find(({ id }) => id === found?.member.id && id !== colour);
    return image && found ? { image, channel: found.channel } : undefined;
  };
  const [roughness, metalness] = [saying('roughness'), saying('metalness')];
  // red is occlusion, in an image of its own as well as beside others
  const occlusion = saying('occlusion')?.image;
  const normal = await normalsUp(images, set, colour, notes);
  if (!normal && !occlusion && !roughness && !metalness) return null;
  const out: SetTextures = {
    hasRoughness: roughness !== undefined,
    hasMetalness: metalness !== undefined,
    ...(normal ? { normal } : {}),
    ...(occlusion ? { occlusion } : {}),
  };
  // both in one image, as glTF has them
  if (metalness && roughness?.image === metalness.image) out.roughMetal = metalness.image;
  else if (metalness) {
    try {
      out.roughMetal = { name: `${set.name} roughness metalness.png`, type: 'image/png', bytes: await inOne(roughness, metalness) };
    } catch (error) {
      out.hasMetalness = false;
      notes.add(`“${metalness.image.name}” was left out: ${error instanceof Error ? error.message : 'it cannot be read'}`);
    }
  }
  // a grey image says the same in green
  if (!out.roughMetal && roughness) out.roughMetal = roughness.image;
  return out;
}

/** The normals of a set with green up, as glTF has them. O(px) where green is down */
async function normalsUp(images: readonly JobImage[], set: ImageSet, colour: string, notes: Set<string>): Promise<SlotImage | undefined> {
  const found = normalsOf(set, colour);
  const image = images.find(({ id }) => id === found?.member.id && id !== colour);
  if (!image || !found!.isGreenDown) return image;
  try {
    const { width, height, data } = await decodeImage(image.bytes, image.name);
    const turned = new Uint8Array(width * height * 3);
    for (let k = 0; k < width * height; k++) {
      turned[k * 3] = data[k * 4]!;
      turned[k * 3 + 1] = 255 - data[k * 4 + 1]!;
      turned[k * 3 + 2] = data[k * 4 + 2]!;
    }
    const name = `${image.name.replace(/\.[a-z0-9]+$/i, '')} green up.png`;
    return { name, type: 'image/png', bytes: encode({ width, height, data: turned, channels: 3, depth: 8 }) };
  } catch (error) {
    notes.add(`“${image.name}” was left out: ${error instanceof Error ? error.message : 'it cannot be read'}`);
    return undefined;
  }
}

/** Roughness in green (white where there is none) and metalness in blue, as large as the larger of both. */
async function inOne(roughness: Saying | undefined, metalness: Saying): Promise<Uint8Array> {
  const read = ({ image }: Saying) => decodeImage(image.bytes, image.name);
  const [rough, metal] = await Promise.all([roughness ? read(roughness) : null, read(metalness)]);
  const [width, height] = [Math.max(rough?.width ?? 1, metal.width), Math.max(rough?.height ?? 1, metal.height)];
  const data = new Uint8Array(width * height * 3);
  const value = new Float64Array(4);
  const at = (from: Pixels, { channel }: Saying, x: number, y: number) => {
    const c = channel === 'all' ? 0 : ['red', 'green', 'blue'].indexOf(channel);
    if (from.width === width && from.height === height) return from.data[(y * width + x) * 4 + c]!;
    samplePixels(from, (x + 0.5) / width, 1 - (y + 0.5) / height, 'edge', 'edge', value);
    return Math.round(value[c]! * 255);
  };
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const px = (y * width + x) * 3;
      data[px] = 255;
      data[px + 1] = rough ? at(rough, roughness!, x, y) : 255;
      data[px + 2] = at(metal, metalness, x, y);
    }
  return encode({ width, height, data, channels: 3, depth: 8 });
}
