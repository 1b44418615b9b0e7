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

/** The same in words. */
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
