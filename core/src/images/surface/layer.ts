import { z } from 'zod';
import { asItLies, placementSchema } from '../placement.ts';
import { gridKinds } from '../testGrid.ts';
import { blendModes, imageChannels, layerTargets } from './names.ts';

/* What a surface looks like: layers over the part's own picture, from the bottom to the top. Colours are sRGB, 0 to 1, blended as they are. */

const number = z.number().min(-1e6).max(1e6);
const length = z.number().positive().max(1e6);
const share = z.number().min(0).max(1);
const vector = z.tuple([number, number, number]);
const colour = z.string().regex(/^#[0-9a-f]{6}$/i, 'a colour as #rrggbb');
const seed = z.number().int().min(0).max(0xffffff);

/** A linear fade is 1 at `from` and 0 from `to` on; a radial one 1 within `inner` of its centre and 0 beyond `outer`. In units of the part. */
export const fadeSchema = z.discriminatedUnion('shape', [
  z.object({ shape: z.literal('linear'), from: vector, to: vector }),
  z.object({ shape: z.literal('radial'), centre: vector, inner: z.number().min(0).max(1e6), outer: length }),
]);
export type Fade = z.infer<typeof fadeSchema>;

/** Noise from the place in space: no seams, the same for the same seed. */
export const noiseSchema = z.object({
  seed: seed.default(1),
  /** Units from one bump to the next, about. */
  size: length.default(1),
  /** Layers of ever finer noise. */
  detail: z.number().int().min(1).max(6).default(3),
});
export type Noise = z.infer<typeof noiseSchema>;

export const sourceSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('image'), image: z.string().min(1).max(200), channel: z.enum(imageChannels).default('all') }),
  z.object({ kind: z.literal('grid'), grid: z.enum(gridKinds).default('letters') }),
  z.object({ kind: z.literal('colour'), colour: colour.default('#8a8f94') }),
  z.object({ kind: z.literal('fade'), fade: fadeSchema, colours: z.tuple([colour, colour]).default(['#ffffff', '#000000']) }),
  z.object({ kind: z.literal('noise'), noise: noiseSchema.default(noiseSchema.parse({})), colours: z.tuple([colour, colour]).default(['#000000', '#ffffff']) }),
]);
export type LayerSource = z.infer<typeof sourceSchema>;

/** What says which place of the picture a place of the surface shows. */
export const driverSchema = z.discriminatedUnion('kind', [
  /** A UV set by its name; empty: the one at work. */
  z.object({ kind: z.literal('set'), set: z.string().max(200).default('') }),
  z.object({ kind: z.literal('jig'), jig: z.string().min(1).max(200) }),
  /** From three sides, without UVs. */
  z.object({
    kind: z.literal('triplanar'),
    /** Width of the picture, units. */
    size: length.default(1),
    /** How wide the sides go over into one another: 0 sharp, 1 as wide as can be. */
    blend: share.default(0.3),
    offset: vector.default([0, 0, 0]),
    /** Degrees by which the picture is turned as seen along x, y and z. */
    turn: vector.default([0, 0, 0]),
    /** Of a part the offset is counted from the middle of its box; in space (so where it is left out) from the origin, over all parts alike. */
    belongs: z.enum(['part', 'space']).optional(),
  }),
  /** Once, on the surface before a frame. */
  z.object({
    kind: z.literal('decal'),
    centre: vector,
    /** To the right of the picture, and up; at right angles, of length 1. */
    right: vector,
    up: vector,
    /** Width and height, units. */
    size: z.tuple([length, length]),
    /** How far before and behind the frame it reaches, units. */
    depth: length.default(1),
    /** Faces turned away from the frame by more degrees than this do not take it. */
    facing: z.number().min(1).max(180).default(80),
    /** Degrees round which it is bent about its upright middle line: 0 flat. */
    bend: z.number().min(-350).max(350).default(0),
    /** Whether it is on other parts that it reaches, too. */
    others: z.boolean().optional(),
    /** Parts by id that it is not on, of those: a picture baked of it is shown there. */
    notOn: z.array(z.string().max(200)).max(10_000).optional(),
  }),
]);
export type LayerDriver = z.infer<typeof driverSchema>;
export type DecalFrame = Extract<LayerDriver, { kind: 'decal' }>;

/** Levels first, then as the W3C's "Filter Effects" define them. */
export const adjustSchema = z.object({
  black: share.default(0),
  white: share.default(1),
  gamma: z.number().min(0.05).max(20).default(1),
  brightness: z.number().min(0).max(10).default(1),
  contrast: z.number().min(0).max(10).default(1),
  saturation: z.number().min(0).max(10).default(1),
  /** Degrees. */
  hue: z.number().min(-360).max(360).default(0),
});
export type Adjust = z.infer<typeof adjustSchema>;

const faceList = z.array(z.number().int().min(0)).max(4_000_000);
const common = { isInverted: z.boolean().default(false), how: z.enum(['and', 'or']).default('and') };

/** Where a layer is seen. Several masks of a layer are taken one after the other: with `and` they are multiplied, with `or` the larger counts. */
export const maskSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('image'),
    image: z.string().min(1).max(200),
    channel: z.enum(imageChannels).default('all'),
    /** Its own place on the layer's driver; null: that of the layer. */
    placement: placementSchema.nullable().default(null),
    ...common,
  }),
  z.object({
    kind: z.literal('fade'),
    fade: fadeSchema,
    /** The jig by id whose frame it goes with. */
    jig: z.string().max(200).optional(),
    ragged: share.default(0),
    noise: noiseSchema.default(noiseSchema.parse({})),
    ...common,
  }),
  /** Noise below `low` is 0, above `high` 1. */
  z.object({ kind: z.literal('noise'), noise: noiseSchema.default(noiseSchema.parse({})), low: share.default(0.4), high: share.default(0.6), ...common }),
  /** Chosen faces; the edge is soft over so many units inward, from corner to corner. */
  z.object({ kind: z.literal('faces'), faces: faceList, soft: z.number().min(0).max(1e6).default(0), ...common }),
  z.object({ kind: z.literal('material'), material: z.string().max(1000), soft: z.number().min(0).max(1e6).default(0), ...common }),
  /** One value by chance for each island of the layout at work, each connected piece, or the whole part: between `low` and `high`. */
  z.object({
    kind: z.literal('each'),
    by: z.enum(['island', 'piece', 'part']).default('island'),
    seed: z.number().int().min(0).max(0xffffff).default(1),
    low: share.default(0),
    high: share.default(1),
    ...common,
  }),
  /** The layer's own picture without what has about this colour: nothing as near to it as `near`, all from `soft` further on; shares of the way from black to white. */
  z.object({ kind: z.literal('key'), colour: colour.default('#ffffff'), near: share.default(0.1), soft: share.default(0.1), ...common }),
  /** Brushed on the model: x, y, z, radius and strength (negative: taken away) of each dab, one after the other. */
  z.object({ kind: z.literal('brush'), dabs: z.array(z.number().min(-1e6).max(1e6)).max(5 * 4096), ...common }),
]);
export type LayerMask = z.infer<typeof maskSchema>;

export const layerSchema = z.object({
  id: z.string().min(1).max(60),
  name: z.string().min(1).max(200),
  isOn: z.boolean().default(true),
  /** Relief: the source's lightness is height. */
  to: z.enum(layerTargets).default('colour'),
  source: sourceSchema,
  driver: driverSchema.default({ kind: 'set', set: '' }),
  placement: placementSchema.default(asItLies),
  opacity: share.default(1),
  /** Of colour. Relief is mixed by its opacity, or added. */
  blend: z.enum(blendModes).default('normal'),
  isAdded: z.boolean().default(false),
  /** Height of white over black, units. */
  strength: z.number().min(-1e6).max(1e6).default(0.01),
  adjust: adjustSchema.prefault({}),
  masks: z.array(maskSchema).max(8).default([]),
  /** The jig by id whose smears it covers: its faces are found again where the jig changes. */
  covers: z.string().max(200).optional(),
  /**
   * The layer as it was and is driven, with the same look on the mean: while nothing about it is changed, going back to one of them gives it back exactly.
   * `of` is what the driver was made of then.
   */
  alike: z
    .array(z.object({ driver: driverSchema, placement: placementSchema, of: z.string().max(1000) }))
    .max(8)
    .optional(),
});
export type Layer = z.infer<typeof layerSchema>;

/** Images that layers ask for. */
export function imagesOfLayers(layers: readonly Layer[]): string[] {
  const ids = new Set<string>();
  for (const { source, masks } of layers) {
    if (source.kind === 'image') ids.add(source.image);
    for (const mask of masks) if (mask.kind === 'image') ids.add(mask.image);
  }
  return [...ids];
}
