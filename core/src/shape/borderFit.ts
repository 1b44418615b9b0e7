import { isometric, stretchEnergy, type ExtraEnergy } from '../unwrap/isometric.ts';
import type { Prepared } from '../unwrap/prepared.ts';
import { boxOf, loopArea, type Loops } from './contours.ts';
import { matchBorder } from './borderMatch.ts';
import { borderLoops } from './strip.ts';

/** Price of a border that is off by the square root of the piece's area, beside the stretch of the whole: raised step by step, places on the line looked for again at each. */
const strengths = [3, 30, 300, 3000, 3e4];

/** The border is put on the line exactly where that costs less than this share more stretch: steps of px could fold small triangles. */
const mostForExact = 1.1;

export interface BorderFitOptions {
  /** Called often; may throw to stop. */
  check?: () => void;
  /** Vertices that stay where they are. */
  pinned?: readonly number[];
}

export interface BorderFitted {
  /** 2 numbers a vertex. */
  uv: Float64Array;
  /** Mean and largest distance of border vertices from their places on the line, in units of the map. */
  mean: number;
  most: number;
  /** Whether the border is on the line exactly. */
  isExact: boolean;
  /** Stretch before and after: symmetric Dirichlet energy, area-weighted mean, 4 without stretch. */
  before: number;
  after: number;
}

/**
 * Draws the border of a piece to given lines and relaxes what is inside: least stretch with a pull to the lines that grows, and at the end the border held on them,
 * where no triangle turns over by that. O(solves)
 * @param start 2 numbers a vertex, no triangle turned over
 * @param lines closed, the inside at their left, units of the map; a border of the piece goes to the nearest of its kind (outer, or round a hole)
 */
export function borderFit(prepared: Prepared, start: Float64Array, lines: Loops, options: BorderFitOptions = {}): BorderFitted {
  const { check, pinned = [] } = options;
  const pins = new Set(pinned);
  const loops = borderLoops(prepared);
  let area = 0;
  for (let t = 0; t < prepared.flat.count; t++) area += prepared.flat.area[t]!;
  const before = stretchEnergy(prepared, start) / area;
  let uv: Float64Array = Float64Array.from(start);
  const line = loops.map((loop) => lineFor(loop, uv, lines));
  let places = placesOf(loops, uv, line, pins);
  for (const strength of strengths) {
    const pull = pullTo(places, (strength * 4) / (area * Math.max(1, places.length)));
    uv = isometric(prepared, uv, { extra: pull, held: pins, near: true, steps: 60, check }).uv;
    places = placesOf(loops, uv, line, pins);
  }
  const soft = stretchEnergy(prepared, uv);
  const put = uv.slice();
  for (const { vertex, at } of places) put.set(at, vertex * 2);
  let isExact = false;
  if (Number.isFinite(stretchEnergy(prepared, put))) {
    const held = isometric(prepared, put, { held: [...pins, ...places.map(({ vertex }) => vertex)], near: true, steps: 60, check }).uv;
    isExact = stretchEnergy(prepared, held) <= soft * mostForExact;
    if (isExact) uv = held;
  }
  let [mean, most] = [0, 0];
  for (const { vertex, at } of places) {
    const off = Math.hypot(uv[vertex * 2]! - at[0], uv[vertex * 2 + 1]! - at[1]);
    mean += off / places.length;
    most = Math.max(most, off);
  }
  return { uv, mean, most, isExact, before, after: stretchEnergy(prepared, uv) / area };
}

const loopOf = (vertices: readonly number[], uv: Float64Array) => Float64Array.from(vertices.flatMap((v) => [uv[v * 2]!, uv[v * 2 + 1]!]));

/** The line that a border goes to: the nearest of those that run the same way round. */
function lineFor(vertices: readonly number[], uv: Float64Array, lines: Loops): Float64Array | null {
  const own = loopOf(vertices, uv);
  const way = Math.sign(loopArea(own));
  let [best, near]: [Float64Array | null, number] = [null, Infinity];
  for (const line of lines) {
    if (Math.sign(loopArea(line)) !== way) continue;
    // by the middles of their boxes and by size
    const [a, b] = [boxOf(own), boxOf(line)];
    const far = Math.hypot(a[0] + a[2] - b[0] - b[2], a[1] + a[3] - b[1] - b[3]) / 2 + Math.hypot(a[2] - a[0] - b[2] + b[0], a[3] - a[1] - b[3] + b[1]);
    if (far < near) [best, near] = [line, far];
  }
  return best;
}

interface Place {
  vertex: number;
  at: [number, number];
  /** Direction of the line there; null: a corner. */
  along: [number, number] | null;
}

/** Where each border vertex belongs; those of a border without a line have no place: they stay free. */
function placesOf(loops: readonly number[][], uv: Float64Array, line: readonly (Float64Array | null)[], pins: ReadonlySet<number>): Place[] {
  return loops.flatMap((vertices, n) => {
    if (!line[n]) return [];
    const { places, along, isCorner } = matchBorder(loopOf(vertices, uv), line[n]);
    return vertices.flatMap((vertex, k): Place[] =>
      pins.has(vertex) ? [] : [{ vertex, at: [places[k * 2]!, places[k * 2 + 1]!], along: isCorner[k] ? null : [along[k * 2]!, along[k * 2 + 1]!] }],
    );
  });
}

/** How much a vertex that is off along the line costs beside one that is off across it: it may slide, corners apart. */
const slideCounts = 0.02;

/** weight · distance² for each vertex that has a place, across the line; along it little. */
function pullTo(places: readonly Place[], weight: number): ExtraEnergy {
  const blocks = places.map(({ along }): [number, number, number] => {
    if (!along) return [weight, 0, weight];
    const [x, y] = along;
    // across: the unit matrix less the direction along
    const off = weight * (1 - slideCounts);
    return [weight - off * x * x, -off * x * y, weight - off * y * y];
  });
  return {
    value(uv) {
      let sum = 0;
      places.forEach(({ vertex: v, at }, k) => {
        const [xx, xy, yy] = blocks[k]!;
        const [dx, dy] = [uv[v * 2]! - at[0], uv[v * 2 + 1]! - at[1]];
        sum += xx * dx * dx + 2 * xy * dx * dy + yy * dy * dy;
      });
      return sum;
    },
    derivatives(uv, gradient, diagonal) {
      places.forEach(({ vertex: v, at }, k) => {
        const [xx, xy, yy] = blocks[k]!;
        const [dx, dy] = [uv[v * 2]! - at[0], uv[v * 2 + 1]! - at[1]];
        gradient[v * 2]! += 2 * (xx * dx + xy * dy);
        gradient[v * 2 + 1]! += 2 * (xy * dx + yy * dy);
        diagonal[v * 3]! += 2 * xx;
        diagonal[v * 3 + 1]! += 2 * xy;
        diagonal[v * 3 + 2]! += 2 * yy;
      });
    },
    largestStep: (_uv, _direction, most) => most,
  };
}
