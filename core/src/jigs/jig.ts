import { z } from 'zod';

/** How a jig throws the image onto faces. */
export const jigKinds = ['planar', 'cylindrical', 'spherical', 'box', 'view', 'each-face', 'flat-regions'] as const;
export type JigKind = (typeof jigKinds)[number];

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

/**
 * Repeats along u and v: as given, or from the image's width in units, so that a label of that width is that wide wherever the jig does not
 * stretch. Round a cylinder or ball the circumference counts.
 */
export function repeatsOf(jig: Jig): [number, number] {
  const { kind, size, repeats, imageWidth, imageAspect, quarter } = jig;
  if (imageWidth === null) return [repeats[0], repeats[1]];
  const round = kind === 'cylindrical' || kind === 'spherical';
  const across = round ? (Math.PI * (size[0] + size[2])) / 2 : size[0];
  const along = kind === 'spherical' ? (Math.PI * size[1]) / 2 : size[1];
  const tall = imageWidth * imageAspect;
  // a quarter turn lays the image's width along v
  return quarter % 2 === 0 ? [across / imageWidth, along / tall] : [across / tall, along / imageWidth];
}

/**
 * The image's place from a place on the jig (0 … 1 both ways over its size): mirrored, repeated, turned by quarters. Repeats count along the jig's
 * own u and v, whichever way the image is turned.
 */
export function imagePlace(jig: Jig): (out: Float64Array, k: number, u: number, v: number) => void {
  const [ru, rv] = repeatsOf(jig);
  const { mirrorU, mirrorV, quarter } = jig;
  return (out, k, u, v) => {
    const x = (mirrorU ? 1 - u : u) * ru;
    const y = (mirrorV ? 1 - v : v) * rv;
    out[k] = quarter === 0 ? x : quarter === 1 ? y : quarter === 2 ? ru - x : rv - y;
    out[k + 1] = quarter === 0 ? y : quarter === 1 ? ru - x : quarter === 2 ? rv - y : x;
  };
}
