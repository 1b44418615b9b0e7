import type { Box } from '../uv/box.ts';
import { seededRandom } from '../numeric/random.ts';
import type { Pixels } from './surface/pixels.ts';

/** A stretch of border that two islands share on the model, by places on both: u, v each, in the same order, and how much each place counts. */
export interface SharedBorder {
  islands: readonly [number, number];
  places: readonly [Float64Array, Float64Array];
  weight: Float64Array;
}

export interface FieldQuestion {
  /** Islands that are to go on fields, and the borders that they share. */
  islands: number;
  borders: readonly SharedBorder[];
  fields: readonly Box[];
  /** Turned by so many quarters, an island lies on a field by this: (u, v) → (a u + c v + e, b u + d v + f). */
  affine(island: number, field: number, quarters: number): readonly [number, number, number, number, number, number];
  /** Quarter turns that are allowed. */
  quarters: readonly number[];
  /** What it costs beside colours that an island lies on a field so: how far its proportion is off. */
  misfit(island: number, field: number, quarters: number): number;
  picture: Pixels;
}

export interface FieldAnswer {
  /** The field of each island, −1 for none, and its quarter turns. */
  field: number[];
  quarters: number[];
  /** Mean difference of colours on both sides of shared borders, 0 to 255; NaN where none is shared. */
  difference: number;
}

/** So often the search begins, the first time from what is given; but not once so many pairs have been compared, so that many fields take seconds, not minutes. */
const starts = 24;
const mostCompared = 1.5e6;

/**
 * Which field each island goes on, and how it is turned, so that the picture's colours meet along the borders that islands share on the model. From several
 * beginnings, two fields are swapped and islands turned as long as that helps; the best end is taken. No end is proved to be the best one there is.
 * O(beginnings · rounds · fields² · borders of an island · places)
 * @param first the fields to begin with
 * @param onStart called now and then with the share of the work that is done; may throw to stop
 */
export function fieldsByColour(question: FieldQuestion, first: readonly number[], onStart: (share: number) => void = () => {}): FieldAnswer {
  const { islands, borders, fields, quarters } = question;
  const random = seededRandom(7);
  const colours = colourCache(question);
  const bordersOf = Array.from({ length: islands }, (_, k) => borders.flatMap((border, n) => (border.islands.includes(k) ? [n] : [])));
  const whole = borders.reduce((sum, { weight }) => sum + weight.reduce((s, x) => s + x, 0), 0) || 1;
  let best: FieldAnswer & { cost: number } = { field: [...first], quarters: first.map(() => quarters[0]!), difference: NaN, cost: Infinity };
  let compared = 0;
  for (let start = 0; start < starts && compared < mostCompared; start++) {
    const told = () => onStart(Math.max(start / starts, Math.min(1, compared / mostCompared)));
    const field = start === 0 ? [...first] : shuffled(first, fields.length, random);
    const turn = field.map(() => quarters[0]!);
    const owner = new Int32Array(fields.length).fill(-1);
    field.forEach((f, k) => f >= 0 && (owner[f] = k));
    const pairCost = (n: number) => {
      const [a, b] = borders[n]!.islands;
      if (field[a]! < 0 || field[b]! < 0) return 0;
      compared++;
      return differenceOf(colours(n, 0, field[a]!, turn[a]!), colours(n, 1, field[b]!, turn[b]!), borders[n]!.weight) / (255 * whole);
    };
    const own = (k: number) => (field[k]! < 0 ? 0 : question.misfit(k, field[k]!, turn[k]!) / islands);
    /** Of some islands: what they and their borders cost. */
    const costOf = (some: readonly number[]) => {
      const near = new Set(some.flatMap((k) => bordersOf[k]!));
      let sum = some.reduce((s, k) => s + own(k), 0);
      for (const n of near) sum += pairCost(n);
      return sum;
    };
    const turnBest = (k: number) => {
      let [least, at] = [Infinity, turn[k]!];
      for (const q of quarters) {
        turn[k] = q;
        const cost = costOf([k]);
        if (cost < least - 1e-12) [least, at] = [cost, q];
      }
      turn[k] = at;
    };
    for (let k = 0; k < islands; k++) if (field[k]! >= 0) turnBest(k);
    for (let round = 0, better = true; round < 40 && better; round++) {
      better = false;
      for (let f = 0; f < fields.length; f++) {
        told();
        for (let g = f + 1; g < fields.length; g++) {
          const moved = [owner[f]!, owner[g]!].filter((k) => k >= 0);
          if (moved.length === 0) continue;
          const before = costOf(moved);
          const turns = moved.map((k) => turn[k]!);
          const swap = () => {
            [owner[f], owner[g]] = [owner[g]!, owner[f]!];
            for (const at of [f, g]) if (owner[at]! >= 0) field[owner[at]!] = at;
          };
          swap();
          for (let twice = 0; twice < 2; twice++) for (const k of moved) turnBest(k);
          if (costOf(moved) < before - 1e-9) better = true;
          else {
            swap();
            moved.forEach((k, n) => (turn[k] = turns[n]!));
          }
        }
      }
      for (let k = 0; k < islands; k++) {
        if (field[k]! < 0) continue;
        const before = costOf([k]);
        turnBest(k);
        if (costOf([k]) < before - 1e-9) better = true;
      }
    }
    const cost = costOf([...field.keys()]);
    if (cost < best.cost - 1e-12) {
      let [sum, weight] = [0, 0];
      borders.forEach((border, n) => {
        if (field[border.islands[0]]! < 0 || field[border.islands[1]]! < 0) return;
        sum += pairCost(n) * whole * 255;
        weight += border.weight.reduce((s, x) => s + x, 0);
      });
      best = { field: [...field], quarters: [...turn], difference: weight > 0 ? sum / weight : NaN, cost };
    }
  }
  return { field: best.field, quarters: best.quarters, difference: best.difference };
}

function shuffled(first: readonly number[], fields: number, random: () => number): number[] {
  const all = Array.from({ length: fields }, (_, k) => k);
  for (let k = all.length - 1; k > 0; k--) {
    const n = Math.floor(random() * (k + 1));
    [all[k], all[n]] = [all[n]!, all[k]!];
  }
  return first.map((_, k) => all[k] ?? -1);
}

/** Colours of one side of a border as an island lies on a field: red, green, blue (weighed by alpha) and alpha a place. */
function colourCache({ borders, affine, picture }: FieldQuestion): (border: number, side: 0 | 1, field: number, quarters: number) => Float32Array {
  const known = new Map<string, Float32Array>();
  const { width, height, data } = picture;
  return (n, side, field, quarters) => {
    const key = `${n} ${side} ${field} ${quarters}`;
    const found = known.get(key);
    if (found) return found;
    const { islands, places } = borders[n]!;
    const own = places[side]!;
    const [a, b, c, d, e, f] = affine(islands[side]!, field, quarters);
    const out = new Float32Array((own.length / 2) * 4);
    for (let k = 0; k < own.length / 2; k++) {
      const [u, v] = [own[k * 2]!, own[k * 2 + 1]!];
      const x = Math.min(width - 1, Math.max(0, Math.floor((a * u + c * v + e) * width)));
      const y = Math.min(height - 1, Math.max(0, Math.floor((1 - (b * u + d * v + f)) * height)));
      const at = (y * width + x) * 4;
      const alpha = data[at + 3]!;
      for (let m = 0; m < 3; m++) out[k * 4 + m] = (data[at + m]! * alpha) / 255;
      out[k * 4 + 3] = alpha;
    }
    known.set(key, out);
    return out;
  };
}

/** Sum of mean differences of the channels, by weight. */
function differenceOf(a: Float32Array, b: Float32Array, weight: Float64Array): number {
  let sum = 0;
  for (let k = 0; k < weight.length; k++) {
    let own = 0;
    for (let m = 0; m < 4; m++) own += Math.abs(a[k * 4 + m]! - b[k * 4 + m]!);
    sum += weight[k]! * (own / 4);
  }
  return sum;
}
