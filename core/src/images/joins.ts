import type { Pixels } from './surface/pixels.ts';

/** How well a picture goes on in itself: the jump over its border beside that between neighbouring px inside, 0 to 255. */
export interface SelfJoin {
  /** From its right border to its left one, and from its top to its bottom. */
  across: number;
  up: number;
  /** Mean difference of neighbouring px inside, along and up. */
  inside: number;
}

/** Mean absolute difference of colours (weighed by alpha) over the borders. O(px). */
export function selfJoin({ width, height, data }: Pixels): SelfJoin {
  const between = (a: number, b: number) => {
    let sum = 0;
    for (let c = 0; c < 3; c++) sum += Math.abs((data[a * 4 + c]! * data[a * 4 + 3]!) / 255 - (data[b * 4 + c]! * data[b * 4 + 3]!) / 255);
    return sum / 3;
  };
  let [across, up, inside, count] = [0, 0, 0, 0];
  for (let y = 0; y < height; y++) across += between(y * width, y * width + width - 1) / height;
  for (let x = 0; x < width; x++) up += between(x, (height - 1) * width + x) / width;
  const step = Math.max(1, Math.floor((width * height) / 65_536));
  for (let k = 0; k < width * (height - 1) - 1; k += step) {
    inside += (k % width === width - 1 ? 0 : between(k, k + 1)) + between(k, k + width);
    count += 2;
  }
  return { across, up, inside: count > 0 ? inside / count : 0 };
}

/** Whether the border would be seen: the jump is well beyond what neighbouring px differ by anyway. Our own limits, found by eye. */
export const joinsWithItself = ({ across, up, inside }: SelfJoin): { across: boolean; up: boolean } => ({
  across: across <= Math.max(3, inside * 3),
  up: up <= Math.max(3, inside * 3),
});
