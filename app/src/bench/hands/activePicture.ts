import { useBench } from '../../store/bench.ts';
import { coreApi } from '../../worker/client.ts';

/** The image that the part at work shows, by id; null: none. */
export function activeImageId(): string | null {
  const { summary } = useBench.getState();
  return summary?.parts.find((part) => part.id === summary.activePart)?.imageId ?? null;
}

/** The px of the picture that the part at work shows, reduced so that no side is longer than `mostPx`; null: it shows none. @throws DOMException where it cannot be read */
export async function activePicture(mostPx: number): Promise<{ data: Uint8ClampedArray; width: number; height: number } | null> {
  const id = activeImageId();
  const image = id ? await coreApi().image(id) : null;
  if (!image) return null;
  const bitmap = await createImageBitmap(new Blob([image.bytes as Uint8Array<ArrayBuffer>], { type: image.type }), { premultiplyAlpha: 'none' });
  const scale = Math.min(1, mostPx / Math.max(bitmap.width, bitmap.height));
  const [width, height] = [Math.max(1, Math.round(bitmap.width * scale)), Math.max(1, Math.round(bitmap.height * scale))];
  const c = new OffscreenCanvas(width, height).getContext('2d')!;
  c.drawImage(bitmap, 0, 0, width, height);
  bitmap.close();
  return { data: c.getImageData(0, 0, width, height).data, width, height };
}
