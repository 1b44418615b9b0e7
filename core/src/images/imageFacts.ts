import { imageSize } from 'image-size';
import { JigError } from '../jigError.ts';

export interface ImageFacts {
  type: 'image/png' | 'image/jpeg' | 'image/webp';
  /** Px. */
  width: number;
  height: number;
}

const types: Record<string, ImageFacts['type']> = { png: 'image/png', jpg: 'image/jpeg', webp: 'image/webp' };
/** Larger pictures than this on a side are turned away: no browser draws them. */
export const mostPx = 32_768;

/**
 * What an image file is, by its own bytes and not by its name. JPEGs that a camera turned count as they are shown.
 * @throws JigError `bad-image` for anything but a PNG, JPEG or WebP with a size
 */
export function imageFacts(bytes: Uint8Array, name: string): ImageFacts {
  if (bytes.length === 0) throw new JigError('bad-image', `“${name}” is empty.`, '', 'Copy or export it again.');
  let found: ReturnType<typeof imageSize>;
  try {
    found = imageSize(bytes);
  } catch {
    throw new JigError('bad-image', `“${name}” is no picture that can be read.`, '', 'Use PNG, JPEG or WebP.');
  }
  const type = types[found.type ?? ''];
  if (!type)
    throw new JigError('bad-image', `“${name}” is a picture of the kind ${found.type ?? 'unknown'}, which cannot be shown.`, '', 'Use PNG, JPEG or WebP.');
  const turned = (found.orientation ?? 1) > 4;
  const [width, height] = turned ? [found.height, found.width] : [found.width, found.height];
  if (!(width > 0 && height > 0)) throw new JigError('bad-image', `“${name}” has no size.`, '', 'Copy or export it again.');
  if (width > mostPx || height > mostPx)
    throw new JigError('bad-image', `“${name}” is ${width} × ${height} px; ${mostPx} px a side is the most.`, '', 'Make it smaller.');
  return { type, width, height };
}

/** The ending of a name says that it is meant as an image. */
export const isImageName = (name: string) => /\.(png|jpe?g|webp)$/i.test(name);
