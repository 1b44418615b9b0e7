import * as portable from '../numeric/portable.ts';
/** A turn's share, −½ … ½, of the way round from the front. Where there is no direction (on the axis) it is NaN. */
export function turnOf(x: number, z: number, start: number): number {
  if (Math.abs(x) < 1e-12 && Math.abs(z) < 1e-12) return NaN;
  const turn = portable.atan2(x, z) / (2 * Math.PI) - start / 360;
  return turn - Math.round(turn);
}

/**
 * Turns of a face's corners next to one another: each within half a turn of the face's own direction, so that a face over the start line runs on
 * beyond the image's border and none runs backwards; a corner on the axis gets the mean of its neighbours.
 * @param turns changed in place
 */
export function besideOneAnother(turns: Float64Array, from: number, to: number): void {
  let least = Infinity;
  let most = -Infinity;
  let onAxis = false;
  for (let k = from; k < to; k++) {
    const t = turns[k]!;
    if (t < least) least = t;
    if (t > most) most = t;
    if (Number.isNaN(t)) onAxis = true;
  }
  // nearly all faces: less than a quarter turn wide and clear of the start line
  if (!onAxis && most - least <= 0.25) return;
  let [x, y] = [0, 0];
  for (let k = from; k < to; k++) {
    if (Number.isNaN(turns[k]!)) continue;
    x += portable.cos(2 * Math.PI * turns[k]!);
    y += portable.sin(2 * Math.PI * turns[k]!);
  }
  const middle = x === 0 && y === 0 ? 0 : portable.atan2(y, x) / (2 * Math.PI);
  for (let k = from; k < to; k++) {
    if (Number.isNaN(turns[k]!)) continue;
    turns[k] = middle + quarter(turns[k]! - middle - Math.round(turns[k]! - middle));
  }
  for (let k = from; k < to; k++) {
    if (!Number.isNaN(turns[k]!)) continue;
    const [before, after] = [turns[k === from ? to - 1 : k - 1]!, turns[k + 1 === to ? from : k + 1]!];
    const both = [before, after].filter((t) => !Number.isNaN(t));
    turns[k] = both.length > 0 ? both.reduce((sum, t) => sum + t, 0) / both.length : middle;
  }
}

/** No face spans more than half a turn: a corner further than a quarter from its middle (only faces round the axis have such) is held there. */
const quarter = (apart: number) => Math.max(-0.25, Math.min(0.25, apart));
