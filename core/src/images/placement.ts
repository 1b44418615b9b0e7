import { z } from 'zod';
import * as portable from '../numeric/portable.ts';

/** What is seen where the image has ended. */
export const outsideKinds = ['repeat', 'mirror', 'edge', 'nothing'] as const;
export type Outside = (typeof outsideKinds)[number];

const pair = (start: number) => z.tuple([z.number().min(-1e6).max(1e6), z.number().min(-1e6).max(1e6)]).default([start, start]);

/** How an image lies in its UVs, apart from them. Measured in the UV square; the image is sized along its own sides, so that no turn skews it. */
export const placementSchema = z.object({
  /** How often the image runs over the UV square along its own sides. */
  repeats: z.tuple([z.number().positive().max(1e5), z.number().positive().max(1e5)]).default([1, 1]),
  /** By how many images it slides to the right and up. */
  offset: pair(0),
  /** Degrees, counter-clockwise about the pivot. */
  turn: z.number().min(-3600).max(3600).default(0),
  /** The place in the UV square that turns and sizes leave where it is. */
  pivot: pair(0.5),
  mirrorU: z.boolean().default(false),
  mirrorV: z.boolean().default(false),
  outsideU: z.enum(outsideKinds).default('repeat'),
  outsideV: z.enum(outsideKinds).default('repeat'),
});
export type ImagePlacement = z.infer<typeof placementSchema>;

export const asItLies: ImagePlacement = placementSchema.parse({});

/** From a place in the UV square to one in the image: x = a u + b v + c, y = d u + e v + f. */
export type Affine = readonly [number, number, number, number, number, number];

export function placementMatrix({ repeats, offset, turn, pivot, mirrorU, mirrorV }: ImagePlacement): Affine {
  const angle = (turn * Math.PI) / 180;
  // exact at quarter turns, so that a turned image still ends at the square's edge
  const [c, s] = [portable.cos(angle), portable.sin(angle)].map((x) => (Math.abs(x) < 1e-15 ? 0 : Math.abs(Math.abs(x) - 1) < 1e-15 ? Math.sign(x) : x)) as [
    number,
    number,
  ];
  const [rx, ry] = [repeats[0] * (mirrorU ? -1 : 1), repeats[1] * (mirrorV ? -1 : 1)];
  const [a, b, d, e] = [rx * c, rx * s, -ry * s, ry * c];
  return [a, b, pivot[0] - a * pivot[0] - b * pivot[1] - offset[0], d, e, pivot[1] - d * pivot[0] - e * pivot[1] - offset[1]];
}

export const placedAt = ([a, b, c, d, e, f]: Affine, u: number, v: number): [number, number] => [a * u + b * v + c, d * u + e * v + f];

/** Nothing about it differs from an image that simply fills the UV square. */
export function isAsItLies(placement: ImagePlacement | undefined): boolean {
  if (!placement) return true;
  return (
    placementMatrix(placement).every((x, k) => Math.abs(x - (k === 0 || k === 4 ? 1 : 0)) < 1e-12) &&
    placement.outsideU === 'repeat' &&
    placement.outsideV === 'repeat'
  );
}

/**
 * A placement by its matrix; what is seen outside, and the pivot, as another has them. Null where none is: where the image would be skewed, or the numbers are
 * beyond what a placement may have.
 */
export function placementOfMatrix([a, b, c, d, e, f]: Affine, { pivot, outsideU, outsideV }: ImagePlacement): ImagePlacement | null {
  const [wide, tall] = [Math.hypot(a, b), Math.hypot(d, e)];
  if (!(Math.abs(a * d + b * e) <= 1e-9 * wide * tall)) return null;
  const short = (x: number) => Number(x.toPrecision(13)) + 0;
  const turn = short((portable.atan2(b, a) * 180) / Math.PI);
  const flat = placementSchema.safeParse({ repeats: [short(wide), short(tall)], turn, pivot, mirrorV: a * e - b * d < 0, outsideU, outsideV });
  if (!flat.success) return null;
  const m = placementMatrix(flat.data);
  const offset = [m[2] - c, m[5] - f].map((x) => (Math.abs(x) < 1e-12 ? 0 : short(x)));
  const found = placementSchema.safeParse({ ...flat.data, offset });
  if (!found.success) return null;
  return isAsItLies({ ...found.data, outsideU: 'repeat', outsideV: 'repeat' }) ? { ...asItLies, pivot, outsideU, outsideV } : found.data;
}

/** How an image is to be placed that it looks as before where the UVs have taken over another placement's matrix; null where no placement says that. */
export function placedAsBefore(placement: ImagePlacement, [a, b, c, d, e, f]: Affine): ImagePlacement | null {
  const area = a * e - b * d;
  const [p, q, r, s, t, w] = placementMatrix(placement);
  const [ia, ib, id, ie] = [e / area, -b / area, -d / area, a / area];
  const [x, y] = [-(ia * c + ib * f), -(id * c + ie * f)];
  return placementOfMatrix([p * ia + q * id, p * ib + q * ie, p * x + q * y + r, s * ia + t * id, s * ib + t * ie, s * x + t * y + w], placement);
}

/** glTF’s KHR_texture_transform: offset, rotation (radians) and scale; null where it cannot say it. */
export interface TextureTransform {
  offset: [number, number];
  rotation: number;
  scale: [number, number];
}

/**
 * glTF counts v down and scales before it turns: uv′ = offset + [cos, sin; −sin, cos] · scale · uv (KHR_texture_transform; the sense of the turn as
 * three’s own texture matrix has it). An image that is both turned by other than quarters and sized unevenly is beyond it.
 */
export function toTextureTransform(placement: ImagePlacement): TextureTransform | null {
  const [a, b, c, d, e, f] = placementMatrix(placement);
  // with v down at both ends
  const [p, q, r, s] = [a, -b, -d, e];
  if (Math.abs(p * q + r * s) > 1e-9 * Math.max(1, Math.hypot(p, r) * Math.hypot(q, s))) return null;
  const wide = Math.hypot(p, r);
  const rotation = portable.atan2(-r, p);
  const tall = q * portable.sin(rotation) + s * portable.cos(rotation);
  // (u, 1 − v′) → (x, 1 − y)
  return { offset: [c + b + 0, 1 - (e + f)], rotation, scale: [wide, tall] };
}

/** The opposite of `toTextureTransform`; outside as the sampler says. */
export function fromTextureTransform({ offset, rotation, scale }: TextureTransform, outsideU: Outside, outsideV: Outside): ImagePlacement {
  const [c, s] = [portable.cos(rotation), portable.sin(rotation)];
  // v up again
  const [a, b, d, e] = [c * scale[0], -s * scale[1], s * scale[0], c * scale[1]];
  const [x0, y0] = [offset[0] - b, 1 - offset[1] - e];
  const even = Math.abs(scale[0]) === Math.abs(scale[1]);
  // sized along its own sides: what glTF scales first is, at quarter turns, the other side of the image
  const quarter = Math.abs(s) > Math.abs(c);
  const repeats: [number, number] = even || !quarter ? [Math.abs(scale[0]), Math.abs(scale[1])] : [Math.abs(scale[1]), Math.abs(scale[0])];
  const mirrorV = a * e - b * d < 0;
  const turn = (portable.atan2(b, a) * 180) / Math.PI;
  const flat = placementSchema.parse({ repeats: repeats.map((x) => Math.max(1e-6, x)), turn, mirrorV, outsideU, outsideV });
  const m = placementMatrix(flat);
  return { ...flat, offset: [m[2] - x0, m[5] - y0] };
}

/** OBJ’s material file: x = s · u + o along each side, nothing else; null where it cannot say it. */
export function toMtlOptions(placement: ImagePlacement): string | null {
  const [a, b, c, d, e, f] = placementMatrix(placement);
  if (Math.abs(b) > 1e-12 || Math.abs(d) > 1e-12) return null;
  const number = (x: number) => String(Number(x.toFixed(9)));
  const words = [];
  if (c !== 0 || f !== 0) words.push(`-o ${number(c)} ${number(f)} 0`);
  if (a !== 1 || e !== 1) words.push(`-s ${number(a)} ${number(e)} 1`);
  if (placement.outsideU === 'edge' && placement.outsideV === 'edge') words.push('-clamp on');
  return words.join(' ');
}

/** Reads -o, -s and -clamp of a map statement. */
export function fromMtlOptions(statement: string): ImagePlacement {
  const numbers = (option: string, otherwise: number): [number, number] => {
    const found = new RegExp(`(?:^|\\s)-${option}\\s+(-?[\\d.eE+-]+)(?:\\s+(-?[\\d.eE+-]+))?`).exec(statement);
    const u = found ? Number(found[1]) : otherwise;
    const v = found?.[2] === undefined ? (found && option === 's' ? u : otherwise) : Number(found[2]);
    return [Number.isFinite(u) ? u : otherwise, Number.isFinite(v) ? v : otherwise];
  };
  const [o, s] = [numbers('o', 0), numbers('s', 1)];
  const clamp = /(?:^|\s)-clamp\s+on\b/i.test(statement) ? ('edge' as const) : ('repeat' as const);
  const flat = placementSchema.parse({
    repeats: s.map((x) => Math.max(1e-6, Math.min(1e5, Math.abs(x)))),
    mirrorU: s[0] < 0,
    mirrorV: s[1] < 0,
    outsideU: clamp,
    outsideV: clamp,
  });
  const m = placementMatrix(flat);
  return { ...flat, offset: [m[2] - o[0], m[5] - o[1]] };
}

/** What neither format can say of the outside, in words; empty if it can. */
export function outsideNote({ outsideU, outsideV }: ImagePlacement, format: 'glTF' | 'OBJ'): string {
  const sides = new Set([outsideU, outsideV]);
  if (sides.has('nothing')) return `“nothing” outside the image was written as ${format === 'glTF' ? 'the edge’s colour' : 'repeats'}`;
  if (format === 'OBJ' && sides.has('mirror')) return 'mirrored repeats were written as plain ones';
  if (format === 'OBJ' && outsideU !== outsideV) return 'the edge’s colour along one side only was written as repeats';
  return '';
}
