import { useOfName } from '../images/imageSets.ts';
import { JigError } from '../jigError.ts';
import { ZipReader } from './unzip.ts';

export interface NamedBytes {
  name: string;
  bytes: Uint8Array;
}

const isImage = (path: string) => /\.(png|jpe?g|webp)$/i.test(path) && !path.split('/').some((part) => part.startsWith('.') || part === '__MACOSX');
const baseName = (path: string) => path.slice(path.lastIndexOf('/') + 1);
const isColour = (path: string) => useOfName(baseName(path))?.role === 'colour';

export const isZip = (name: string): boolean => /\.zip$/i.test(name);

/**
 * The images in a zip, whichever folders they are in, those of colour first. They have their own names; where two have the same, their folders go before.
 *
 * @throws JigError `bad-file` for what is no whole zip or holds no image, `too-large` where it unpacks to far more than it should
 */
export function imagesOfZip({ name, bytes }: NamedBytes): NamedBytes[] {
  const zip = new ZipReader(bytes, name);
  const paths = zip
    .names()
    .filter(isImage)
    .sort((a, b) => Number(isColour(b)) - Number(isColour(a)) || (a < b ? -1 : 1));
  if (paths.length === 0) throw new JigError('bad-file', `${name} holds no image.`, '', 'PNG, JPEG and WebP are read.');
  const count = new Map<string, number>();
  for (const path of paths) count.set(baseName(path).toLowerCase(), (count.get(baseName(path).toLowerCase()) ?? 0) + 1);
  const found = zip.read(new Set(paths));
  return paths.map((path) => ({
    name: count.get(baseName(path).toLowerCase())! > 1 ? path.replaceAll('/', ' ') : baseName(path),
    bytes: found.get(path)!,
  }));
}
