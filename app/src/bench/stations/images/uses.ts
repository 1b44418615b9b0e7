import { setOfImage, type Layer } from '@jig-peel/core';
import type { JobSummary } from '../../../session/messages.ts';

type Summary = Pick<JobSummary, 'parts' | 'materialLayers' | 'images'>;

const inLayers = (layers: readonly Layer[], image: string) =>
  layers.filter(
    ({ source, masks }) => (source.kind === 'image' && source.image === image) || masks.some((mask) => mask.kind === 'image' && mask.image === image),
  ).length;

/** Where an image is used: on parts as their own picture, in layers and masks. */
export function usesOf({ parts, materialLayers }: Omit<Summary, 'images'>, image: string): { parts: string[]; layers: number } {
  const own = parts.filter(({ imageId }) => imageId === image).map(({ name }) => name);
  const layers =
    parts.reduce((sum, part) => sum + inLayers(part.layers ?? [], image), 0) + materialLayers.reduce((sum, one) => sum + inLayers(one.layers, image), 0);
  return { parts: own, layers };
}

/** Bytes that the images which a part shows take in the graphics memory: four a px, and a third more for the reduced copies. @param mostPx the longest side that is taken */
export function shownBytes({ parts, materialLayers, images }: Summary, partId: string, mostPx: number): { images: number; bytes: number } {
  const part = parts.find(({ id }) => id === partId);
  if (!part) return { images: 0, bytes: 0 };
  const layers = part.layers ?? materialLayers.filter(({ material }) => part.materials.includes(material)).flatMap((one) => one.layers);
  const shown = images.filter(({ id }) => id === part.imageId || inLayers(layers, id) > 0);
  const bytes = shown.reduce((sum, { width, height }) => {
    const scale = Math.min(1, mostPx / Math.max(width, height));
    return sum + (width * height * scale * scale * 4 * 4) / 3;
  }, 0);
  return { images: shown.length, bytes };
}

/** Where it is used, in words. */
export function wordsOfUse(summary: Summary, image: string): string {
  const { parts, layers } = usesOf(summary, image);
  const words = [
    parts.length > 0 && `on ${parts.length === 1 ? parts[0]! : `${parts.length} parts`}`,
    layers > 0 && `in ${layers === 1 ? 'one layer' : `${layers} layers`}`,
  ].filter(Boolean);
  if (words.length > 0) return words.join(', ');
  // of a set that is used, what goes unseen into bakes and files
  const set = setOfImage(summary.images, image);
  const isSeen = set?.members.some(({ id }) => {
    const own = usesOf(summary, id);
    return own.parts.length > 0 || own.layers > 0;
  });
  return set && isSeen ? `with the set “${set.name}”` : 'not used';
}
