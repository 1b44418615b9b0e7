import { placementMatrix, type Affine, type Outside } from '../placement.ts';
import { testGrid, type GridKind } from '../testGrid.ts';
import { colourMatrix, isAdjusted } from './adjust.ts';
import { parseColour } from './colours.ts';
import { type Layer, type LayerMask } from './layer.ts';
import { imageChannels, type ImageChannel } from './names.ts';
import type { Pixels } from './pixels.ts';
import { inSpace, type PlannedLayer, type SurfacePlan } from './plan.ts';

/** Px of the test grid where a layer shows it. */
export const layerGridSize = 1024;

const grids = new Map<GridKind, Pixels>();
const gridPixels = (kind: GridKind): Pixels => {
  const known = grids.get(kind) ?? testGrid(layerGridSize, 8, kind);
  grids.set(kind, known);
  return known;
};

export interface PreparedMask {
  mask: LayerMask;
  fields: Float64Array[];
  pixels: Pixels | null;
  channel: number;
  matrix: Affine;
  outside: [Outside, Outside];
  /** The colour that a key mask takes away. */
  key: [number, number, number];
}

/** A layer with all that is the same at every place. */
export interface PreparedLayer {
  layer: Layer;
  driver: Float64Array | null;
  /** What the driver says at the three corners of the triangle that is asked about. */
  ends: Float64Array;
  reach: Float64Array | null;
  pixels: Pixels | null;
  channel: number;
  matrix: Affine;
  outside: [Outside, Outside];
  colours: [[number, number, number], [number, number, number]];
  adjusts: boolean;
  hues: Float64Array;
  masks: PreparedMask[];
}

/** Whether a layer goes by the place in space. */
export const goesBySpace = ({ source, driver, masks }: Layer) =>
  source.kind === 'fade' ||
  source.kind === 'noise' ||
  driver.kind === 'triplanar' ||
  driver.kind === 'decal' ||
  masks.some(({ kind }) => kind === 'fade' || kind === 'noise' || kind === 'brush');

const channelNumber = (channel: ImageChannel) => imageChannels.indexOf(channel);

export function preparedLayer(
  { layer: given, driver, reach, fields, fieldCounts, origin }: PlannedLayer,
  plan: SurfacePlan,
  images: (id: string) => Pixels | null,
): PreparedLayer {
  const layer = { ...given, driver: inSpace(given.driver, origin) };
  const { source, placement, adjust } = layer;
  const black: [number, number, number] = [0, 0, 0];
  const outside: [Outside, Outside] = layer.driver.kind === 'decal' ? ['edge', 'edge'] : [placement.outsideU, placement.outsideV];
  return {
    layer,
    driver: driver >= 0 ? plan.drivers[driver]! : null,
    ends: new Float64Array(6),
    reach: reach >= 0 ? plan.fields[reach]! : null,
    pixels: source.kind === 'image' ? images(source.image) : source.kind === 'grid' ? gridPixels(source.grid) : null,
    channel: source.kind === 'image' ? channelNumber(source.channel) : 0,
    matrix: placementMatrix(placement),
    outside,
    colours:
      source.kind === 'colour'
        ? [parseColour(source.colour), black]
        : source.kind === 'fade' || source.kind === 'noise'
          ? [parseColour(source.colours[0]), parseColour(source.colours[1])]
          : [black, black],
    adjusts: isAdjusted(adjust),
    hues: colourMatrix(adjust),
    masks: layer.masks.map((mask, k) => {
      const own = mask.kind === 'image' ? mask.placement : null;
      return {
        mask,
        fields: fields[k]! >= 0 ? plan.fields.slice(fields[k], fields[k]! + fieldCounts[k]!) : [],
        pixels: mask.kind === 'image' ? images(mask.image) : null,
        channel: mask.kind === 'image' ? channelNumber(mask.channel) : 0,
        matrix: placementMatrix(own ?? placement),
        outside: own ? [own.outsideU, own.outsideV] : outside,
        key: mask.kind === 'key' ? parseColour(mask.colour) : black,
      };
    }),
  };
}
