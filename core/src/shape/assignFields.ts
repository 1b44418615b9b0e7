import type { Box } from '../uv/box.ts';
import * as portable from '../numeric/portable.ts';

/** An island that is to go on a field. */
export interface FieldGuest {
  /** Width over height of its box, in px. */
  readonly aspect: number;
  /** How much border it shares with each of the others on the model, any unit. */
  readonly shared: readonly number[];
}

/** How much a wrong proportion counts beside neighbours that come to be far apart. */
export const proportionCounts = 0.35;

/**
 * Which field each island goes on: neighbours on the model on neighbouring fields, long ones on long fields. A first order by proportion, then swaps of two as
 * long as any helps (a small quadratic assignment; local search finds no worse than it begins with). O(rounds · islands² · (islands + fields))
 * @param aspects width over height of each field in px @returns the field of each guest; −1 where there are too few
 */
export function assignFields(guests: readonly FieldGuest[], fields: readonly Box[], aspects: readonly number[]): number[] {
  const places = fields.length;
  const of = guests.map((_, k) => (k < places ? k : -1));
  // fields that nobody has take part in the swaps as guests without wishes
  const owner = fields.map((_, f) => (f < guests.length ? f : -1));
  const middle = fields.map(([l, b, r, t]) => [(l + r) / 2, (b + t) / 2] as const);
  const whole = guests.reduce((sum, { shared }) => sum + shared.reduce((s, x) => s + x, 0), 0) || 1;
  const far = (f: number, g: number) => Math.hypot(middle[f]![0] - middle[g]![0], middle[f]![1] - middle[g]![1]);
  const costOf = (k: number) => {
    const f = of[k]!;
    if (f < 0) return 0;
    let cost = (proportionCounts * misfit(guests[k]!.aspect, aspects[f]!)) / guests.length;
    guests[k]!.shared.forEach((w, j) => {
      if (w > 0 && j !== k && of[j]! >= 0) cost += (w / whole) * far(f, of[j]!);
    });
    return cost;
  };
  const swap = (f: number, g: number) => {
    const [a, b] = [owner[f]!, owner[g]!];
    [owner[f], owner[g]] = [b, a];
    if (a >= 0) of[a] = g;
    if (b >= 0) of[b] = f;
  };
  const total = () => guests.reduce((sum, _, k) => sum + costOf(k), 0);
  let now = total();
  for (let round = 0; round < 50; round++) {
    let better = false;
    for (let f = 0; f < places; f++)
      for (let g = f + 1; g < places; g++) {
        if (owner[f]! < 0 && owner[g]! < 0) continue;
        swap(f, g);
        const next = total();
        if (next < now - 1e-12) {
          now = next;
          better = true;
        } else swap(f, g);
      }
    if (!better) break;
  }
  return of;
}

/** How far proportions are from one another, whichever way round: 0 for the same. */
const misfit = (a: number, b: number) => Math.min(Math.abs(portable.log(a / b)), Math.abs(portable.log(a * b)));

/** Whether a quarter turn brings the proportion of a box nearer to that of a field. */
export const wantsQuarterTurn = (aspect: number, field: number): boolean =>
  Math.abs(portable.log(aspect * field)) < Math.abs(portable.log(aspect / field)) - 1e-9;
