import { z } from 'zod';
import * as portable from '../numeric/portable.ts';

/** How a jig throws the image onto faces. */
export const jigKinds = ['planar', 'cylindrical', 'spherical', 'box', 'view', 'each-face', 'flat-regions'] as const;
export type JigKind = (typeof jigKinds)[number];

/** Sides of a box, as one looks at its front; top and bottom are a tube's lids, too. */
export const jigSides = ['right', 'left', 'top', 'bottom', 'front', 'back'] as const;
export type JigSide = (typeof jigSides)[number];

const triple = z.tuple([z.number(), z.number(), z.number()]);

/**
 * A placed projection. Its own space has x to the right, y up and z out of the image towards the one who looks; for the cylinder and the ball y is
 * the axis and the front is in the middle of the image.
 */
export const jigSchema = z.object({
  kind: z.enum(jigKinds),
  /** Middle, in units of the model. */
  origin: triple.default([0, 0, 0]),
  /** Unit vectors to the right and up; out is their cross product. */
  right: triple.default([1, 0, 0]),
  up: triple.default([0, 1, 0]),
  /** Full extent along right, up and out, units. */
  size: triple.default([1, 1, 1]),
  /** How often the image runs over the jig along u and v. */
  repeats: z.tuple([z.number().positive().max(10_000), z.number().positive().max(10_000)]).default([1, 1]),
  /** The image is so many units wide: repeats follow from it and the sizes. */
  imageWidth: z.number().positive().max(1e9).nullable().default(null),
  /** Height of the image over its width. */
  imageAspect: z.number().positive().max(1000).default(1),
  mirrorU: z.boolean().default(false),
  mirrorV: z.boolean().default(false),
  /** Quarter turns of the image, counter-clockwise. */
  quarter: z.number().int().min(0).max(3).default(0),
  /** Degrees by which the image is turned on the jig, counter-clockwise about its middle, in units and so without skew. */
  turn: z.number().min(-3600).max(3600).default(0),
  /** By how many images it slides along u and v. */
  offset: z.tuple([z.number().min(-1e6).max(1e6), z.number().min(-1e6).max(1e6)]).default([0, 0]),
  /** Repeats of a box's side or a tube's lid where it has its own. */
  own: z.partialRecord(z.enum(jigSides), z.tuple([z.number().positive().max(10_000), z.number().positive().max(10_000)])).default({}),
  /** Degrees by which the start line of a cylinder or ball is turned from the back, to the right. */
  start: z.number().min(-360).max(360).default(0),
  /** A cylinder's faces that look along its axis get the image flat, at the side's scale. */
  lids: z.boolean().default(true),
  /** Degrees from the axis up to which a face belongs to a lid. */
  lidAngle: z.number().min(0).max(90).default(45),
  /** Degrees between faces of one flat region. */
  flatAngle: z.number().min(0).max(90).default(1),
  /** Box: patches smaller than this share of the area of all go with their neighbours. */
  group: z.number().min(0).max(0.5).default(0),
  /** View: distance of the eye along out; null for a parallel view. */
  eye: z.number().positive().nullable().default(null),
});
export type Jig = z.infer<typeof jigSchema>;

/** A jig with what is given, everything else as it starts. */
export const makeJig = (given: z.input<typeof jigSchema>): Jig => jigSchema.parse(given);

export type Vector = readonly [number, number, number];
export const cross = (a: Vector, b: Vector): [number, number, number] => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
export const dot = (a: Vector, b: Vector) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const unit = (a: Vector, otherwise: Vector = [0, 0, 1]): [number, number, number] => {
  const length = Math.hypot(...a);
  return length > 1e-300 ? [a[0] / length, a[1] / length, a[2] / length] : [...otherwise];
};

/** Right, up and out as orthonormal vectors, whatever was given: up is kept, right turned square to it. */
export function axesOf({ right, up }: Pick<Jig, 'right' | 'up'>): [Vector, Vector, Vector] {
  const y = unit(up, [0, 1, 0]);
  let x = unit([right[0] - dot(right, y) * y[0], right[1] - dot(right, y) * y[1], right[2] - dot(right, y) * y[2]], [0, 0, 0]);
  if (Math.hypot(...x) < 0.5) x = unit(cross(y, Math.abs(y[2]) < 0.9 ? [0, 0, 1] : [1, 0, 0]));
  return [x, y, cross(x, y)];
}

/** How far the jig's own u and v reach, units. Round a cylinder or ball the circumference counts, on a ball half of it for v. */
export function extentsOf({ kind, size }: Pick<Jig, 'kind' | 'size'>): [number, number] {
  const round = kind === 'cylindrical' || kind === 'spherical';
  return [round ? (Math.PI * (size[0] + size[2])) / 2 : size[0], kind === 'spherical' ? (Math.PI * size[1]) / 2 : size[1]];
}

/**
 * Repeats along u and v: as given, or from the image's width in units, so that a label of that width is that wide wherever the jig does not
 * stretch.
 */
export function repeatsOf(jig: Jig): [number, number] {
  const { repeats, imageWidth, imageAspect, quarter } = jig;
  if (imageWidth === null) return [repeats[0], repeats[1]];
  const [across, along] = extentsOf(jig);
  const tall = imageWidth * imageAspect;
  // a quarter turn lays the image's width along v
  return quarter % 2 === 0 ? [across / imageWidth, along / tall] : [across / tall, along / imageWidth];
}

/** Size of one image on the jig along its u and v, units. */
export function imageSizeOf(jig: Jig): [number, number] {
  const [across, along] = extentsOf(jig);
  const [ru, rv] = repeatsOf(jig);
  return [across / ru, along / rv];
}

/** How many times wider than its own proportions the image is thrown (1: even); `aspect` is the image's height over its width. */
export function unevenness(jig: Jig, aspect: number): number {
  const [wide, tall] = imageSizeOf(jig);
  return jig.quarter % 2 === 0 ? (wide / tall) * aspect : (tall / wide) * aspect;
}

export type Put = (out: Float64Array, k: number, u: number, v: number) => void;

/**
 * The image's place from a place on the jig (0 … 1 both ways over its size): mirrored, turned, repeated, turned by quarters, slid. Repeats count
 * along the jig's own u and v, whichever way the image is turned.
 * @param own repeats of a side that has its own
 */
export function imagePlace(jig: Jig, own?: readonly [number, number]): Put {
  const [ru, rv] = own ?? repeatsOf(jig);
  const { mirrorU, mirrorV, quarter } = jig;
  const [slideU, slideV] = jig.offset;
  const [across, along] = extentsOf(jig);
  const sin = portable.sin((jig.turn * Math.PI) / 180);
  const cos = portable.cos((jig.turn * Math.PI) / 180);
  const turned = jig.turn % 360 !== 0;
  return (out, k, u, v) => {
    let x = mirrorU ? 1 - u : u;
    let y = mirrorV ? 1 - v : v;
    if (turned) {
      // the image turns one way, so that what is seen through it turns the other
      const a = (x - 0.5) * across;
      const b = (y - 0.5) * along;
      x = 0.5 + (cos * a + sin * b) / across;
      y = 0.5 + (cos * b - sin * a) / along;
    }
    x *= ru;
    y *= rv;
    out[k] = (quarter === 0 ? x : quarter === 1 ? y : quarter === 2 ? ru - x : rv - y) + slideU;
    out[k + 1] = (quarter === 0 ? y : quarter === 1 ? ru - x : quarter === 2 ? rv - y : x) + slideV;
  };
}
