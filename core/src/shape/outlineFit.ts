import * as portable from '../numeric/portable.ts';
import { loopArea, type Loops } from './contours.ts';
import { OutlineIndex, sampled, type OutlineSamples } from './outlineIndex.ts';

/** Moved, turned and sized evenly: x′ = a x − b y + e, y′ = b x + a y + f. */
export type Similarity = readonly [a: number, b: number, e: number, f: number];

export const placedBy = ([a, b, e, f]: Similarity, x: number, y: number): [number, number] => [a * x - b * y + e, b * x + a * y + f];
export const sizeOf = ([a, b]: Similarity): number => Math.hypot(a, b);
export const turnOf = ([a, b]: Similarity): number => portable.atan2(b, a);

/** The similarity that takes two places to two others. @throws RangeError where the first two are one */
export function similarityOf(from: ArrayLike<number>, to: ArrayLike<number>): Similarity {
  const [x, y] = [from[2]! - from[0]!, from[3]! - from[1]!];
  const [u, v] = [to[2]! - to[0]!, to[3]! - to[1]!];
  const length = x * x + y * y;
  if (!(length > 0)) throw new RangeError('two places are one');
  const [a, b] = [(u * x + v * y) / length, (v * x - u * y) / length];
  return [a, b, to[0]! - a * from[0]! + b * from[1]!, to[1]! - b * from[0]! - a * from[1]!];
}

const inverse = ([a, b, e, f]: Similarity): Similarity => {
  const d = a * a + b * b || 1e-300;
  const [p, q] = [a / d, -b / d];
  return [p, q, -(p * e - q * f), -(q * e + p * f)];
};

/** An outline ready to be fitted, or fitted to. */
export class FitOutline {
  readonly loops: Loops;
  readonly area: number;
  readonly middle: readonly [number, number];
  /** Heading of the longest extent, radians, and how much longer it is than the extent across (1: none is). */
  readonly axis: number;
  readonly oblong: number;
  readonly index: OutlineIndex;

  /** @param points how many points stand for it, about. O(points + points of the loops) */
  constructor(loops: Loops, points = 320) {
    this.loops = loops;
    let [area, x, y, xx, xy, yy, length] = [0, 0, 0, 0, 0, 0, 0];
    // moments of what the loops go round, about the first point: far from the origin digits would be lost
    const [ox, oy] = [loops[0]?.[0] ?? 0, loops[0]?.[1] ?? 0];
    for (const loop of loops) {
      const n = loop.length / 2;
      for (let k = 0, last = n - 1; k < n; last = k++) {
        const [ax, ay, bx, by] = [loop[last * 2]! - ox, loop[last * 2 + 1]! - oy, loop[k * 2]! - ox, loop[k * 2 + 1]! - oy];
        const twice = ax * by - bx * ay;
        area += twice / 2;
        x += (twice * (ax + bx)) / 6;
        y += (twice * (ay + by)) / 6;
        xx += (twice * (ax * ax + ax * bx + bx * bx)) / 12;
        yy += (twice * (ay * ay + ay * by + by * by)) / 12;
        xy += (twice * (2 * ax * ay + ax * by + bx * ay + 2 * bx * by)) / 24;
        length += Math.hypot(bx - ax, by - ay);
      }
    }
    this.area = area;
    const [mx, my] = area > 0 ? [x / area, y / area] : [0, 0];
    this.middle = [mx + ox, my + oy];
    const [sxx, sxy, syy] = area > 0 ? [xx / area - mx * mx, xy / area - mx * my, yy / area - my * my] : [1, 0, 1];
    this.axis = portable.atan2(2 * sxy, sxx - syy) / 2;
    const spread = Math.hypot(sxx - syy, 2 * sxy);
    this.oblong = Math.sqrt((sxx + syy + spread) / Math.max(sxx + syy - spread, 1e-300));
    this.index = new OutlineIndex(sampled(loops, length / points));
  }

  get samples(): OutlineSamples {
    return this.index.samples;
  }
}

export interface OutlineFound {
  how: Similarity;
  /** Mean distance of the outlines from one another, both ways, in units of what was fitted to. */
  error: number;
}

export interface FitOptions {
  /** Places to begin from; the present one among them, if it counts. */
  starts?: readonly Similarity[];
  /** What of `onto` is near nothing does not count: there are other pieces in it. */
  isPart?: boolean;
  steps?: number;
}

/** Ways to lay one outline on another by size, middle and the headings of their longest extents, in quarter turns from there and from the present heading. */
export function startsBetween(own: FitOutline, onto: FitOutline): Similarity[] {
  const size = Math.sqrt(onto.area / Math.max(own.area, 1e-300));
  const turns = [0, onto.axis - own.axis].flatMap((turn) => [0, 1, 2, 3].map((quarter) => turn + (quarter * Math.PI) / 2));
  return turns.map((turn): Similarity => {
    const [a, b] = [size * portable.cos(turn), size * portable.sin(turn)];
    const [x, y] = own.middle;
    return [a, b, onto.middle[0] - a * x + b * y, onto.middle[1] - b * x - a * y];
  });
}

/**
 * Moves, turns and sizes an outline evenly so that it meets another as nearly as can be: from each start nearest points both ways, distances along the normals
 * in the least squares, far ones counting little; the end with the least error is taken, the one nearest to its start's own order where two are alike.
 * O(starts · steps · points).
 *
 * Sources: iterated closest points, P. Besl and N. McKay, "A Method for Registration of 3-D Shapes", PAMI 1992; distances along normals, Y. Chen and G. Medioni,
 * "Object Modelling by Registration of Multiple Range Images", 1992. Both ways, so that the outline can neither shrink into the other nor slip off it.
 */
export function fitOutline(own: FitOutline, onto: FitOutline, { starts, isPart = false, steps = 40 }: FitOptions = {}): OutlineFound {
  const from = starts ?? startsBetween(own, onto);
  let best: { how: Similarity; price: number } | null = null;
  // a few steps tell which starts lead anywhere
  const tried = from.map((start) => steppedFit(own, onto, start, 8)).map((how) => ({ how, price: priceOf(own, onto, how, isPart) }));
  const least = Math.min(...tried.map(({ price }) => price));
  for (const { how: start } of tried.filter(({ price }) => price <= least * 2 + 1e-12)) {
    const how = steppedFit(own, onto, start, steps);
    const price = priceOf(own, onto, how, isPart);
    if (!best || price < best.price * 0.95) best = { how, price };
  }
  return { how: best!.how, error: errorOf(own, onto, best!.how, isPart) };
}

/** What a fit to a part is judged by grows as the outline shrinks: a point lies well on any line. */
const priceOf = (own: FitOutline, onto: FitOutline, how: Similarity, isPart: boolean) => errorOf(own, onto, how, isPart) / (isPart ? sizeOf(how) : 1);

/** Mean distance of the two outlines, both ways; of a part, only from it to the other. */
export function errorOf(own: FitOutline, onto: FitOutline, how: Similarity, isPart = false): number {
  const forward = distances(own.samples, how, onto.index);
  const back = distances(onto.samples, inverse(how), own.index).map((d) => d * sizeOf(how));
  const mean = (all: Float64Array) => all.reduce((sum, d) => sum + d, 0) / Math.max(1, all.length);
  if (isPart) return mean(forward);
  return (mean(forward) + mean(back)) / 2;
}

/** How far each point of an outline is from another once it is placed; what runs nowhere the same way counts as far as the whole is large. */
export function distances({ places, along }: OutlineSamples, how: Similarity, onto: OutlineIndex): Float64Array {
  const size = sizeOf(how) || 1;
  const { places: others } = onto.samples;
  const reach = reachOf(onto.samples);
  return Float64Array.from({ length: places.length / 2 }, (_, k) => {
    const [x, y] = placedBy(how, places[k * 2]!, places[k * 2 + 1]!);
    const [dx, dy] = [(how[0] * along[k * 2]! - how[1] * along[k * 2 + 1]!) / size, (how[1] * along[k * 2]! + how[0] * along[k * 2 + 1]!) / size];
    const n = onto.nearest(x, y, dx, dy);
    if (n < 0) return reach;
    // along the normal where the points are spaced wider than they are far apart
    const [px, py] = [others[n * 2]! - x, others[n * 2 + 1]! - y];
    const { along: run } = onto.samples;
    const across = Math.abs(py * run[n * 2]! - px * run[n * 2 + 1]!);
    return Math.hypot(px, py) < onto.spacing ? across : Math.hypot(px, py);
  });
}

function reachOf({ places }: OutlineSamples): number {
  let [left, low, right, high] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < places.length; k += 2) {
    left = Math.min(left, places[k]!);
    right = Math.max(right, places[k]!);
    low = Math.min(low, places[k + 1]!);
    high = Math.max(high, places[k + 1]!);
  }
  return Math.max(0, right - left + high - low);
}

function steppedFit(own: FitOutline, onto: FitOutline, start: Similarity, steps: number): Similarity {
  let how = start;
  for (let step = 0; step < steps; step++) {
    const normal = new Float64Array(16);
    const right = new Float64Array(4);
    const row = new Float64Array(4);
    const pairs: number[] = [];
    collect(own, onto, how, pairs);
    collectBack(own, onto, how, pairs);
    if (pairs.length === 0) return how;
    const far = Float64Array.from({ length: pairs.length / 6 }, (_, k) => Math.abs(miss(how, pairs, k * 6))).sort();
    // half of the points are nearer than the first; a piece of another's outline is far beyond
    const sigma = Math.max(2 * far[far.length >> 1]!, onto.index.spacing / 4, 1e-300);
    for (let k = 0; k < pairs.length; k += 6) {
      const r = miss(how, pairs, k);
      const weight = (1 / (1 + (r / sigma) ** 2)) ** 2;
      const [x, y, nx, ny] = [pairs[k]!, pairs[k + 1]!, pairs[k + 4]!, pairs[k + 5]!];
      row[0] = nx * x + ny * y;
      row[1] = ny * x - nx * y;
      row[2] = nx;
      row[3] = ny;
      for (let i = 0; i < 4; i++) {
        right[i]! -= weight * row[i]! * r;
        for (let j = 0; j < 4; j++) normal[i * 4 + j]! += weight * row[i]! * row[j]!;
      }
    }
    const change = solve4(normal, right);
    if (!change) return how;
    const next: Similarity = [how[0] + change[0]!, how[1] + change[1]!, how[2] + change[2]!, how[3] + change[3]!];
    // one that collapses is no fit
    if (!next.every(Number.isFinite) || sizeOf(next) < sizeOf(start) * 0.2 || sizeOf(next) > sizeOf(start) * 5) return how;
    const [x, y] = own.middle;
    const [before, after] = [placedBy(how, x, y), placedBy(next, x, y)];
    const moved = Math.hypot(after[0] - before[0], after[1] - before[1]) + Math.hypot(next[0] - how[0], next[1] - how[1]) * Math.sqrt(own.area);
    how = next;
    if (moved < 1e-7 * Math.sqrt(onto.area)) break;
  }
  return how;
}

const miss = ([a, b, e, f]: Similarity, pairs: readonly number[], k: number) => {
  const [x, y] = [pairs[k]!, pairs[k + 1]!];
  return pairs[k + 4]! * (a * x - b * y + e - pairs[k + 2]!) + pairs[k + 5]! * (b * x + a * y + f - pairs[k + 3]!);
};

/** Points of the own outline with the nearest of the other: own place, other place, normal; 6 numbers each. */
function collect(own: FitOutline, onto: FitOutline, how: Similarity, pairs: number[]): void {
  const { places, along } = own.samples;
  const other = onto.samples;
  const size = sizeOf(how) || 1;
  for (let k = 0; k < places.length; k += 2) {
    const [x, y] = placedBy(how, places[k]!, places[k + 1]!);
    const n = onto.index.nearest(x, y, (how[0] * along[k]! - how[1] * along[k + 1]!) / size, (how[1] * along[k]! + how[0] * along[k + 1]!) / size);
    if (n < 0) continue;
    pairs.push(places[k]!, places[k + 1]!, other.places[n * 2]!, other.places[n * 2 + 1]!, -other.along[n * 2 + 1]!, other.along[n * 2]!);
  }
}

/** Points of the other outline with the nearest of the own one. */
function collectBack(own: FitOutline, onto: FitOutline, how: Similarity, pairs: number[]): void {
  const back = inverse(how);
  const size = sizeOf(back) || 1;
  const { places, along } = onto.samples;
  const mine = own.samples;
  for (let k = 0; k < places.length; k += 2) {
    const [x, y] = placedBy(back, places[k]!, places[k + 1]!);
    const n = own.index.nearest(x, y, (back[0] * along[k]! - back[1] * along[k + 1]!) / size, (back[1] * along[k]! + back[0] * along[k + 1]!) / size);
    if (n < 0) continue;
    pairs.push(mine.places[n * 2]!, mine.places[n * 2 + 1]!, places[k]!, places[k + 1]!, -along[k + 1]!, along[k]!);
  }
}

/** Four equations, by elimination with pivots; null where they have no one solution. */
function solve4(matrix: Float64Array, right: Float64Array): Float64Array | null {
  const m = matrix.slice();
  const x = right.slice();
  // the unknowns are of different sizes: equations are scaled by their diagonals
  const scale = Float64Array.from({ length: 4 }, (_, i) => 1 / Math.sqrt(m[i * 5]! || 1));
  for (let i = 0; i < 4; i++) {
    x[i]! *= scale[i]!;
    for (let j = 0; j < 4; j++) m[i * 4 + j]! *= scale[i]! * scale[j]!;
  }
  // turning a disc changes nothing: a little of the unit matrix says so
  for (let i = 0; i < 4; i++) m[i * 5]! += 1e-9;
  for (let i = 0; i < 4; i++) {
    let pivot = i;
    for (let r = i + 1; r < 4; r++) if (Math.abs(m[r * 4 + i]!) > Math.abs(m[pivot * 4 + i]!)) pivot = r;
    if (!(Math.abs(m[pivot * 4 + i]!) > 1e-14)) return null;
    for (let j = 0; j < 4; j++) [m[i * 4 + j], m[pivot * 4 + j]] = [m[pivot * 4 + j]!, m[i * 4 + j]!];
    [x[i], x[pivot]] = [x[pivot]!, x[i]!];
    for (let r = i + 1; r < 4; r++) {
      const by = m[r * 4 + i]! / m[i * 5]!;
      for (let j = i; j < 4; j++) m[r * 4 + j]! -= by * m[i * 4 + j]!;
      x[r]! -= by * x[i]!;
    }
  }
  for (let i = 3; i >= 0; i--) {
    for (let j = i + 1; j < 4; j++) x[i]! -= m[i * 4 + j]! * x[j]!;
    x[i]! /= m[i * 5]!;
  }
  return x.map((v, i) => v * scale[i]!);
}

/** The places of an outline's piece that has no inside cannot be fitted. */
export const hasInside = (loops: Loops): boolean => loops.reduce((sum, loop) => sum + loopArea(loop), 0) > 0;
