import { encode } from 'fast-png';
import { quietContext, type Context } from '../context.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { TriangleTree } from '../mesh/triangleTree.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { Baker, bandRows, type Band, type BakePart } from './bake.ts';
import { isNumbered, type BakeOptions } from './bakeKinds.ts';
import { bleedAll, bleedNearest } from './bleed.ts';
import { Bumps } from './bumps.ts';
import { decodeImage, type OtherDecoder } from './decode.ts';
import type { ImagePlacement } from './placement.ts';
import { imagesOfLayers } from './surface/layer.ts';
import type { Pixels } from './surface/pixels.ts';
import { planSurface, type SurfaceInput } from './surface/plan.ts';
import { Surface } from './surface/surface.ts';
import { noMemory } from './surface/surfaceKernel.ts';

/** All that baking needs; it can be sent to another thread. */
export interface BakeInput {
  parts: readonly {
    input: SurfaceInput;
    /** The UV set that is baked to. */
    set: UvSet;
    hidden?: Uint8Array | undefined;
    /** Normals that go with its pictures: the image, how it is laid, and the material by number that it is of (see `Bumps`). */
    bumps?: readonly { image: string; set: UvSet; placement: ImagePlacement; material: number | null; isGreenDown?: boolean }[] | undefined;
    /** A surface that is looked up instead of its own, and how far away it may be, units. */
    source?: { input: SurfaceInput; within: number } | undefined;
  }[];
  /** Meshes that cast rays' shadows, too. */
  around: readonly Mesh[];
  images: readonly { id: string; name: string; bytes: Uint8Array }[];
  options: BakeOptions;
  /** Of threads that share the work, which this is, and how many there are: every so many bands are its own. */
  share?: { of: number; at: number };
  /** Where its bands are written, shared by the threads (see `sharedCanvas`); left out: each has memory of its own. */
  canvas?: BakeCanvas | null;
  /** For a first look: images are read by the other decoder, which may make them smaller. */
  isRough?: boolean;
}

/** The numbers of a whole picture, 4 a px, and which of its px are covered. */
export interface BakeCanvas {
  data: Uint8Array | Uint16Array;
  covered: Uint8Array;
}

const canvasIn = (buffer: ArrayBufferLike, { width, height, depth }: BakeOptions): BakeCanvas => {
  const px = width * height;
  return {
    data: depth === 16 ? new Uint16Array(buffer, 0, px * 4) : new Uint8Array(buffer, 0, px * 4),
    covered: new Uint8Array(buffer, (px * 4 * depth) / 8, px),
  };
};
const canvasBytes = ({ width, height, depth }: BakeOptions): number => width * height * (depth / 2 + 1);

/** A canvas that several threads write on and that goes from one to the next without a copy; null where there is no such memory, or not enough. */
export function sharedCanvas(options: BakeOptions): BakeCanvas | null {
  if (typeof SharedArrayBuffer === 'undefined') return null;
  try {
    return canvasIn(new SharedArrayBuffer(canvasBytes(options)), options);
  } catch {
    return null;
  }
}

/** @throws JigError `too-large` where no memory is left */
function ownCanvas(options: BakeOptions): BakeCanvas {
  try {
    return canvasIn(new ArrayBuffer(canvasBytes(options)), options);
  } catch {
    throw noMemory(canvasBytes(options));
  }
}

/** The canvas that all bands are on, where there is one; else they are put onto one. */
function canvasOf(bands: readonly Band[], options: BakeOptions): BakeCanvas {
  const { buffer } = bands[0]!.data;
  if (buffer.byteLength === canvasBytes(options) && bands.every(({ data, covered }) => data.buffer === buffer && covered.buffer === buffer))
    return canvasIn(buffer, options);
  const canvas = ownCanvas(options);
  for (const { from, data, covered } of bands) {
    canvas.data.set(data, from * options.width * 4);
    canvas.covered.set(covered, from * options.width);
  }
  return canvas;
}

/** Images that layers ask for, decoded; one that cannot be read is left out and named. */
export async function decodedImages(
  images: BakeInput['images'],
  wanted: ReadonlySet<string>,
  other?: OtherDecoder,
  always = false,
): Promise<{ pixels: Map<string, Pixels>; unread: string[] }> {
  const pixels = new Map<string, Pixels>();
  const unread: string[] = [];
  for (const { id, name, bytes } of images) {
    if (!wanted.has(id)) continue;
    try {
      pixels.set(id, await decodeImage(bytes, name, other, always));
    } catch {
      unread.push(name);
    }
  }
  return { pixels, unread };
}

/** Images by their ids that a picture of that kind is made of. */
function wantedImages(parts: BakeInput['parts'], what: BakeOptions['what']): Set<string> {
  const wantsNormals = what.endsWith('normal');
  const wanted = new Set<string>();
  if (what !== 'colour' && what !== 'mask' && what !== 'relief' && !wantsNormals) return wanted;
  for (const { input, source, bumps = [] } of parts) {
    for (const { layers } of source ? [input, source.input] : [input]) for (const image of imagesOfLayers(layers.map(({ layer }) => layer))) wanted.add(image);
    if (wantsNormals) for (const { image } of bumps) wanted.add(image);
  }
  return wanted;
}

/** What is sent to another thread is copied: images that nothing is made of stay here. */
export function ofWantedImages(input: BakeInput): BakeInput {
  const wanted = wantedImages(input.parts, input.options.what);
  return { ...input, images: input.images.filter(({ id }) => wanted.has(id)) };
}

/** Bakes its share of the bands, the topmost first. O(px · samples · layers). */
export async function bakeBands(input: BakeInput, context: Context = quietContext, other?: OtherDecoder): Promise<Band[]> {
  const { parts, options, around, share = { of: 1, at: 0 } } = input;
  const canvas = input.canvas ?? (share.of === 1 ? ownCanvas(options) : null);
  const needsSpace = options.what !== 'colour' && options.what !== 'mask' && options.what !== 'coverage';
  const reading = decodedImages(input.images, wantedImages(parts, options.what), other, input.isRough);
  // beside images that the browser reads in a thread of its own
  for (const { input: own } of parts) trianglesOf(own.mesh);
  const { pixels } = await reading;
  context.throwIfCancelled();
  const surfaceOf = (one: SurfaceInput, space: boolean) => new Surface(one.mesh, planSurface(one), (id) => pixels.get(id) ?? null, space);
  const traces = options.what === 'occlusion' || options.what === 'thickness';
  const treesAround = traces ? around.map((mesh) => new TriangleTree(mesh)) : [];
  const sources = new Map<SurfaceInput, { surface: Surface; tree: TriangleTree }>();
  const ready = parts.map(({ input: own, set, hidden, source, bumps }): BakePart => {
    const made: BakePart = { mesh: own.mesh, set, hidden, surface: surfaceOf(own, needsSpace || source !== undefined) };
    if (bumps)
      made.bumps = bumps.flatMap(({ image, set: from, placement, material, isGreenDown }) => {
        const read = pixels.get(image);
        return read ? [new Bumps(own.mesh, from, placement, read, material, isGreenDown)] : [];
      });
    if (traces) made.trees = [new TriangleTree(own.mesh), ...(options.what === 'occlusion' ? treesAround : [])];
    if (source) {
      const known = sources.get(source.input) ?? { surface: surfaceOf(source.input, false), tree: new TriangleTree(source.input.mesh) };
      sources.set(source.input, known);
      made.source = { ...known, mesh: source.input.mesh, within: source.within };
    }
    return made;
  });
  const baker = new Baker(ready, options);
  baker.takeOver(pixels.values());
  const bands: Band[] = [];
  const all = Math.ceil(options.height / bandRows);
  for (let k = share.at; k < all; k += share.of) {
    context.throwIfCancelled();
    const band = baker.band(k * bandRows, Math.min(options.height, (k + 1) * bandRows), () => context.throwIfCancelled());
    bands.push(canvas ? onCanvas(band, canvas, options.width) : band);
    context.progress((k + 1) / all, 'Baking');
  }
  return bands;
}

function onCanvas(band: Band, { data, covered }: BakeCanvas, width: number): Band {
  const [from, to] = [band.from * width, band.to * width];
  data.set(band.data, from * 4);
  covered.set(band.covered, from);
  return { ...band, data: data.subarray(from * 4, to * 4), covered: covered.subarray(from, to) };
}

/** A finished picture: first row on top, straight alpha. */
export interface BakedPicture {
  width: number;
  height: number;
  channels: 3 | 4;
  depth: 8 | 16;
  data: Uint8Array | Uint16Array;
  /** Share of the px that islands cover, 0 to 1. */
  coverage: number;
  /** Share of the covered samples that more than one island wanted. */
  contested: number;
}

/**
 * Puts bands together and fills what is between the islands. @param bands used up: where they are on one canvas the picture is made there @param bleed
 * px, or `full` for all that is left. Without transparency three channels are enough. O(px).
 */
export function finishBake(bands: readonly Band[], options: BakeOptions, bleed: number | 'full'): BakedPicture {
  const { width, height, depth, what } = options;
  const { data, covered } = canvasOf(bands, options);
  let [contested, taken, count] = [0, 0, 0];
  for (const band of bands) {
    contested += band.contested;
    taken += band.taken;
  }
  for (let k = 0; k < covered.length; k++) count += covered[k]!;
  const picture = { width, height, channels: 4, data, covered };
  const isOpen = count > 0 && count < width * height;
  if (isOpen && bleed === 'full' && !isNumbered(what)) bleedAll(picture);
  else if (isOpen) bleedNearest(picture, bleed === 'full' ? width + height : bleed);
  const most = depth === 16 ? 65_535 : 255;
  let isOpaque = true;
  for (let k = 3; k < data.length && isOpaque; k += 4) isOpaque = data[k] === most;
  const result = { width, height, depth, coverage: count / (width * height), contested: taken > 0 ? contested / taken : 0 };
  if (!isOpaque) return { ...result, channels: 4, data };
  const three = width * height * 3;
  for (let from = 0, to = 0; to < three; from += 4, to += 3) {
    data[to] = data[from]!;
    data[to + 1] = data[from + 1]!;
    data[to + 2] = data[from + 2]!;
  }
  return { ...result, channels: 3, data: data.subarray(0, three) };
}

/** A finished picture as a PNG file, and what is told of it. */
export interface BakedFile {
  png: Uint8Array;
  coverage: number;
  contested: number;
}

export function bakedFile(bands: readonly Band[], options: BakeOptions, bleed: number | 'full'): BakedFile {
  const { width, height, data, channels, depth, coverage, contested } = finishBake(bands, options, bleed);
  return { png: encode({ width, height, data, channels, depth }), coverage, contested };
}
