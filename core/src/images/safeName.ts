import { JigError } from '../jigError.ts';
import { imageFacts, isImageName } from './imageFacts.ts';

const endings = { 'image/png': ['.png'], 'image/jpeg': ['.jpg', '.jpeg'], 'image/webp': ['.webp'] } as const;
/** Names that some systems keep for devices. */
const devices = /^(con|prn|aux|nul|com\d|lpt\d)(\.|$)/i;

/**
 * The name under which an image may be written beside a model: the last part of its own, without signs that mean something to a file system, with
 * the ending of what it really is. Names that come from files are never trusted: one may be “..”, or that of another file.
 * @example safeImageName('../textures/wood grain.png', png) // 'wood grain.png'
 * @throws JigError `bad-image` for what is no picture
 */
export function safeImageName(name: string, bytes: Uint8Array): string {
  const { type } = imageFacts(bytes, name);
  const last = name.slice(Math.max(name.lastIndexOf('/'), name.lastIndexOf('\\')) + 1);
  const plain = Array.from(last, (sign) => (/[<>:"|?*]/.test(sign) || sign.codePointAt(0)! < 32 ? '-' : sign))
    .join('')
    .replace(/^\.+/, '')
    .replace(/[. ]+$/, '')
    .slice(0, 120);
  const [usual, ...others] = endings[type];
  const fits = [usual, ...others].some((ending) => plain.toLowerCase().endsWith(ending));
  const stem = isImageName(plain) ? plain.replace(/\.[^.]*$/, '') : plain;
  const safe = fits ? plain : `${stem || 'image'}${usual}`;
  if (safe.toLowerCase() === usual) return `image${usual}`;
  return devices.test(safe) ? `image-${safe}` : safe;
}

/** Safe names for several images, each its own whatever they are called. Those that are no pictures are left out. */
export function safeImageNames(images: readonly { name: string; bytes: Uint8Array }[], taken: readonly string[] = []): (string | null)[] {
  const used = new Set(taken.map((name) => name.toLowerCase()));
  return images.map(({ name, bytes }) => {
    let safe: string;
    try {
      safe = safeImageName(name, bytes);
    } catch (error) {
      if (error instanceof JigError) return null;
      throw error;
    }
    const at = safe.lastIndexOf('.');
    let free = safe;
    for (let k = 2; used.has(free.toLowerCase()); k++) free = `${safe.slice(0, at)}-${k}${safe.slice(at)}`;
    used.add(free.toLowerCase());
    return free;
  });
}
