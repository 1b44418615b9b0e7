import type { Adjust } from './layer.ts';
import * as portable from '../../numeric/portable.ts';

/** Luminance weights of the W3C's "Filter Effects Module Level 1" for saturation and hue. */
const [lr, lg, lb] = [0.213, 0.715, 0.072];

/** Saturation and hue as one matrix, three rows of three. */
export function colourMatrix({ saturation: s, hue }: Pick<Adjust, 'saturation' | 'hue'>): Float64Array {
  const saturate = [lr + (1 - lr) * s, lg - lg * s, lb - lb * s, lr - lr * s, lg + (1 - lg) * s, lb - lb * s, lr - lr * s, lg - lg * s, lb + (1 - lb) * s];
  const angle = (hue * Math.PI) / 180;
  const [c, n] = [portable.cos(angle), portable.sin(angle)];
  const rotate = [
    lr + c * (1 - lr) - n * lr,
    lg - c * lg - n * lg,
    lb - c * lb + n * (1 - lb),
    lr - c * lr + n * 0.143,
    lg + c * (1 - lg) + n * 0.14,
    lb - c * lb - n * 0.283,
    lr - c * lr - n * (1 - lr),
    lg - c * lg + n * lg,
    lb + c * (1 - lb) + n * lb,
  ];
  const out = new Float64Array(9);
  for (let r = 0; r < 3; r++) for (let k = 0; k < 3; k++) for (let j = 0; j < 3; j++) out[r * 3 + k]! += rotate[r * 3 + j]! * saturate[j * 3 + k]!;
  return out;
}

export const isAdjusted = (a: Adjust) =>
  a.black !== 0 || a.white !== 1 || a.gamma !== 1 || a.brightness !== 1 || a.contrast !== 1 || a.saturation !== 1 || a.hue !== 0;

/** The least distance of black and white: closer together all would be noise. */
export const leastRange = 1 / 255;

const clamped = (x: number) => (x < 0 ? 0 : x > 1 ? 1 : x);

/** Levels, brightness, contrast, saturation and hue of a colour, in place. @param matrix see `colourMatrix` */
export function adjustColour(a: Adjust, matrix: ArrayLike<number>, colour: Float64Array): void {
  const range = Math.max(leastRange, a.white - a.black);
  for (let k = 0; k < 3; k++) {
    const level = clamped((colour[k]! - a.black) / range);
    const even = a.gamma === 1 ? level : portable.pow(level, 1 / a.gamma);
    colour[k] = clamped((clamped(even * a.brightness) - 0.5) * a.contrast + 0.5);
  }
  if (a.saturation === 1 && a.hue === 0) return;
  const [r, g, b] = [colour[0]!, colour[1]!, colour[2]!];
  for (let k = 0; k < 3; k++) colour[k] = clamped(matrix[k * 3]! * r + matrix[k * 3 + 1]! * g + matrix[k * 3 + 2]! * b);
}
