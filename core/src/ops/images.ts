import { z } from 'zod';
import { contentHash } from '../images/contentHash.ts';
import { imageFacts } from '../images/imageFacts.ts';
import { memberOf, setOfImage } from '../images/imageSets.ts';
import type { Layer } from '../images/surface/layer.ts';
import { JigError } from '../jigError.ts';
import { tileImages, tileOfName, type TileImage } from '../images/tileImages.ts';
import { partOf, type Job, type JobImage } from '../job/job.ts';
import { sheetOfPart, sheetsOf } from '../job/sheets.ts';
import { baseName, materialImages, sameName } from '../job/materialImages.ts';
import { withMaterialImages } from '../job/pictureParts.ts';
import { defineOperation, plural } from './operation.ts';

const bytesSchema = z.instanceof(Uint8Array) as unknown as z.ZodType<Uint8Array>;

export interface ImagesReport {
  /** Ids of the given images in the job, in their order; one that was there already keeps its id. */
  ids: string[];
  added: number;
  /** Files that are no pictures, in words. */
  refused: string[];
  /** Names of images that a material file asks for and that are here now. */
  found: string[];
  /** Images that came back changed, in words: what showed them shows the new ones. */
  replaced: string[];
}

export const addImages = defineOperation({
  name: 'addImages',
  label: 'Add images',
  words: 'texture picture load',
  changes: ['images', 'settings'],
  summary: 'Add images to the job: PNG, JPEG, WebP',
  params: z.object({
    images: z.array(z.object({ name: z.string().min(1), bytes: bytesSchema })).min(1),
    show: z.boolean().default(false).describe('show the first of them on the active part'),
    replace: z.boolean().default(true).describe('one of the name of an image that is there takes its place, wherever that is shown'),
  }),
  run(given, { images, show, replace }) {
    let job = given;
    const list = [...job.images];
    const report: ImagesReport = { ids: [], added: 0, refused: [], found: [], replaced: [] };
    for (const { name, bytes } of images) {
      try {
        const before = list.find((image) => sameName(image.name, name));
        const id = keep(list, name, bytes, report);
        report.ids.push(id);
        if (!replace || !before || before.id === id) continue;
        report.replaced.push(
          replacedWords(
            before,
            list.find((image) => image.id === id)!,
          ),
        );
        list.splice(list.indexOf(before), 1);
        if (before.use !== undefined)
          list.splice(
            list.findIndex((image) => image.id === id),
            1,
            { ...list.find((image) => image.id === id)!, use: before.use },
          );
        job = withOtherImage(job, before.id, id);
      } catch (error) {
        if (!(error instanceof JigError) || images.length === 1) throw error;
        report.refused.push(error.message);
      }
    }
    if (report.ids.length === 0) throw new JigError('bad-image', report.refused.join(' '), '', 'Use PNG, JPEG or WebP.');
    const wanted = materialImages(job).flatMap(({ missing }) => missing);
    report.found = wanted.filter((name) => list.some((image) => sameName(image.name, name)));
    const next = withMaterialImages({ ...job, images: list });
    if (!show) return { job: report.added === 0 ? job : next, report };
    // of a set its colour
    const set = setOfImage(list, report.ids[0]!);
    const first = (set && memberOf(set, 'colour', report.ids[0]!)?.id) ?? report.ids[0]!;
    const tiles = tileImages(list, first);
    const shown = tiles?.[0]!.id ?? first;
    return { job: withTiles({ ...next, parts: next.parts.map((part) => (part.id === job.activePart ? { ...part, imageId: shown } : part)) }, tiles), report };
  },
  sentence: (_, { added, ids, found, replaced }) =>
    replaced.length > 0
      ? `Took in changed: ${replaced.join(', ')}`
      : added === 0
        ? `${ids.length === 1 ? 'This image is' : 'These images are'} in the job already`
        : `Added ${plural(added, 'image')}${found.length > 0 ? `: ${found.join(', ')}` : ''}`,
});

/** The sheet at work has the tiles that there are images of. */
function withTiles(job: Job, tiles: readonly TileImage[] | null): Job {
  const sheet = sheetOfPart(job, partOf(job));
  const last = tiles ? tiles.at(-1)!.tile + 1 : 1;
  if (!sheet || sheet.tiles >= last) return job;
  return { ...job, sheets: sheetsOf(job).map((one) => (one.id === sheet.id ? { ...one, tiles: last } : one)) };
}

const sizeWords = (image: JobImage) => {
  const { width, height } = imageFacts(image.bytes, image.name);
  return `${width} × ${height} px`;
};

function replacedWords(before: JobImage, after: JobImage): string {
  const [was, is] = [sizeWords(before), sizeWords(after)];
  return was === is ? `“${after.name}”` : `“${after.name}”, now ${is} instead of ${was}`;
}

/** Whatever shows one image shows another: parts, layers and their masks. */
function withOtherImage(job: Job, from: string, to: string): Job {
  const inLayers = (layers: readonly Layer[]): Layer[] =>
    layers.map((layer) => ({
      ...layer,
      source: layer.source.kind === 'image' && layer.source.image === from ? { ...layer.source, image: to } : layer.source,
      masks: layer.masks.map((mask) => (mask.kind === 'image' && mask.image === from ? { ...mask, image: to } : mask)),
    }));
  return {
    ...job,
    parts: job.parts.map((part) => ({
      ...part,
      imageId: part.imageId === from ? to : part.imageId,
      ...(part.layers ? { layers: inLayers(part.layers) } : {}),
    })),
    ...(job.materialLayers ? { materialLayers: job.materialLayers.map((one) => ({ ...one, layers: inLayers(one.layers) })) } : {}),
  };
}

function keep(list: JobImage[], name: string, bytes: Uint8Array, report: ImagesReport): string {
  const { type } = imageFacts(bytes, name);
  const hash = contentHash(bytes);
  // two tiles may look alike and still are two
  const tile = tileOfName(baseName(name));
  const known = list.find((image) => contentHash(image.bytes) === hash && (!tile || sameName(image.name, name)));
  if (known) return known.id;
  const id = `image-${hash.slice(0, 16)}${tile ? `-${1001 + tile.tile}` : ''}`;
  list.push({ id, name: baseName(name), type, bytes });
  report.added++;
  return id;
}

export const removeImage = defineOperation({
  name: 'removeImage',
  label: 'Remove an image',
  words: 'texture picture delete',
  changes: ['images'],
  summary: 'Remove an image from the job',
  params: z.object({ image: z.string() }),
  run(job, { image: id }) {
    const image = job.images.find((candidate) => candidate.id === id);
    if (!image) throw new JigError('not-found', 'This image is not in the job.');
    const used = job.parts.filter((part) => part.imageId === id).length;
    return {
      job: {
        ...job,
        images: job.images.filter((candidate) => candidate !== image),
        parts: job.parts.map((part) => (part.imageId === id ? { ...part, imageId: null } : part)),
      },
      report: { name: image.name, parts: used },
    };
  },
  sentence: (_, { name, parts }) => `Removed “${name}”${parts > 0 ? `; ${plural(parts, 'part')} ${parts === 1 ? 'shows' : 'show'} the test grid instead` : ''}`,
});
