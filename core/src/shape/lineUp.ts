import * as portable from '../numeric/portable.ts';
/** What becomes of a line of edges on the sheet: level, upright, straight as it runs, or its points spaced by their lengths on the model. */
export const lineUpWays = ['level', 'upright', 'straight', 'evenly'] as const;
export type LineUpWay = (typeof lineUpWays)[number];

export interface UvLine {
  /** UV points in order. */
  points: readonly number[];
  /** Length in space between each and the next. */
  lengths: readonly number[];
}

/**
 * Where the points of a line go. Level and upright: at the mean of their v or u weighted by length, the other value kept. Straight: onto the line of least
 * squares through them. Evenly: between the ends, by their lengths in space, along the way the line runs on the sheet.
 * @param at u, v of each point, a unit square on the sheet
 * @returns the same for the moved points
 */
export function lineUp({ points, lengths }: UvLine, at: (point: number) => readonly [number, number], way: LineUpWay): [number, number][] {
  const places = points.map((p) => [...at(p)] as [number, number]);
  const weight = points.map((_, k) => ((lengths[k - 1] ?? 0) + (lengths[k] ?? 0)) / 2 || 1e-12);
  const total = weight.reduce((sum, x) => sum + x, 0);
  const mean = (d: number) => places.reduce((sum, place, k) => sum + weight[k]! * place[d]!, 0) / total;
  const [u, v] = [mean(0), mean(1)];
  if (way === 'level') return places.map(([x]) => [x, v]);
  if (way === 'upright') return places.map(([, y]) => [u, y]);
  if (way === 'straight') {
    let [xx, xy, yy] = [0, 0, 0];
    places.forEach(([x, y], k) => {
      xx += weight[k]! * (x - u) ** 2;
      xy += weight[k]! * (x - u) * (y - v);
      yy += weight[k]! * (y - v) ** 2;
    });
    const angle = portable.atan2(2 * xy, xx - yy) / 2;
    const [cos, sin] = [portable.cos(angle), portable.sin(angle)];
    return places.map(([x, y]) => {
      const along = (x - u) * cos + (y - v) * sin;
      return [u + along * cos, v + along * sin];
    });
  }
  // by their lengths along the line as it lies
  const laid = [0];
  for (let k = 1; k < places.length; k++) laid.push(laid[k - 1]! + Math.hypot(places[k]![0] - places[k - 1]![0], places[k]![1] - places[k - 1]![1]));
  const space = [0];
  for (let k = 1; k < places.length; k++) space.push(space[k - 1]! + lengths[k - 1]!);
  const [whole, all] = [laid.at(-1)!, space.at(-1)! || 1];
  return places.map((place, k) => {
    if (k === 0 || k === places.length - 1) return place;
    const target = (space[k]! / all) * whole;
    let n = 1;
    while (n < laid.length - 1 && laid[n]! < target) n++;
    const share = laid[n]! > laid[n - 1]! ? (target - laid[n - 1]!) / (laid[n]! - laid[n - 1]!) : 0;
    return [0, 1].map((d) => places[n - 1]![d]! + share * (places[n]![d]! - places[n - 1]![d]!)) as [number, number];
  });
}
