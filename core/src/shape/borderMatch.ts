import { OutlineIndex, sampled } from './outlineIndex.ts';

/** Price of a direction that is off (2 where it is opposite), beside the square of a distance of a fortieth of the line's length; chosen by trying. */
const directionCounts = 2;
/** Directions are taken over an edge, and over this share of the line at least: less is noise where it comes from px. */
const leastSpan = 0.01;
/** Directions behind and before that agree less than this (cosine) make a corner: some 37°. */
const cornerBelow = 0.8;
/** Price of spacing that differs: the square of how much longer, or shorter, a stretch is beside what its share of the whole would be. */
const spacingCounts = 0.05;
/** Steps along the other line for a mean edge of the own one. */
const stepsPerEdge = 8;
/** A vertex is looked for within this share of the other line either side of where its share of the length has it. */
const reach = 0.14;

/** So many vertices of a border are matched one by one: memory grows by their square. */
const mostVertices = 1200;
/** Steps along the other line that vertices between these are placed by. */
const lineSteps = 65_536;

export interface BorderPlaces {
  /** Where each vertex belongs, 2 numbers. */
  places: Float64Array;
  /** Unit direction of the line there, 2 numbers. */
  along: Float64Array;
  /** 1 where the line has a corner. */
  isCorner: Uint8Array;
}

/**
 * Where each vertex of a closed line belongs on another closed line: in order round it, corners on corners, spaced as the vertices are, near. Both run the same
 * way. By dynamic programming over the vertices; the line is opened at a vertex whose place is plain, and once more half way round from there.
 * O(vertices · reach · steps).
 * @param own 2 numbers a vertex
 */
export function matchBorder(own: Float64Array, onto: Float64Array): BorderPlaces {
  const n = own.length / 2;
  if (n > mostVertices) return matchSome(own, onto);
  const edge = Float64Array.from({ length: n }, (_, k) => {
    const j = ((k + 1) % n) * 2;
    return Math.hypot(own[j]! - own[k * 2]!, own[j + 1]! - own[k * 2 + 1]!);
  });
  const length = edge.reduce((sum, x) => sum + x, 0);
  const m = Math.min(8192, Math.max(64, 2 * n, Math.min(stepsPerEdge * n, 4096)));
  const line = evenly(onto, m);
  // directions a little behind and before each place: at a corner they differ
  const span = Math.max(1 / n, leastSpan);
  const mine = directionsOf(own, edge, length, span * length);
  const theirs = directionsOf(line, new Float64Array(m).fill(1), m, Math.max(2, span * m));
  const scale = (40 / length) ** 2;
  const price = (i: number, j: number) => {
    const k = ((j % m) + m) % m;
    const far = (own[i * 2]! - line[k * 2]!) ** 2 + (own[i * 2 + 1]! - line[k * 2 + 1]!) ** 2;
    let off = 0;
    for (let d = 0; d < 4; d += 2) off += 1 - mine[i * 4 + d]! * theirs[k * 4 + d]! - mine[i * 4 + d + 1]! * theirs[k * 4 + d + 1]!;
    return far * scale + directionCounts * off;
  };
  // opened where a vertex and a place agree best
  let [first, at, least] = [0, 0, Infinity];
  const index = new OutlineIndex(sampled([line], Infinity));
  for (let i = 0; i < n; i++) {
    const near = nearestIndex(index, line, own[i * 2]!, own[i * 2 + 1]!);
    for (let j = near - Math.round(m * 0.05); j <= near + Math.round(m * 0.05); j++) {
      const own = price(i, j);
      if (own < least) [first, at, least] = [i, j, own];
    }
  }
  let order = walk(first, at);
  const half = (first + (n >> 1)) % n;
  order = walk(half, order[half]!);
  const out: BorderPlaces = { places: new Float64Array(n * 2), along: new Float64Array(n * 2), isCorner: new Uint8Array(n) };
  for (let i = 0; i < n; i++) {
    const k = ((order[i]! % m) + m) % m;
    const [bx, by, ax, ay] = theirs.subarray(k * 4, k * 4 + 4) as unknown as [number, number, number, number];
    const length = Math.hypot(bx + ax, by + ay);
    out.places.set([line[k * 2]!, line[k * 2 + 1]!], i * 2);
    out.along.set(length > 0 ? [(bx + ax) / length, (by + ay) / length] : [ax, ay], i * 2);
    out.isCorner[i] = bx * ax + by * ay < cornerBelow ? 1 : 0;
  }
  return out;

  /** The cheapest places in order, one vertex's being given. */
  function walk(from: number, place: number): Int32Array {
    const wide = Math.ceil(reach * m);
    const width = 2 * wide + 1;
    const cost = new Float64Array((n + 1) * width).fill(Infinity);
    const back = new Int32Array((n + 1) * width).fill(-1);
    const middle = new Int32Array(n + 1);
    let passed = 0;
    for (let s = 0; s <= n; s++) {
      middle[s] = s === n ? place + m : place + Math.round((passed / length) * m);
      passed += edge[(from + s) % n]!;
    }
    cost[wide] = 0;
    for (let s = 1; s <= n; s++) {
      const i = (from + s) % n;
      const wanted = Math.max(1, (edge[(from + s - 1) % n]! / length) * m);
      const [fewest, most] = [Math.max(1, Math.floor(wanted * 0.25)), Math.ceil(wanted * 3) + 1];
      for (let w = 0; w < width; w++) {
        const j = middle[s]! - wide + w;
        // the last one is the first, once round
        if (s === n ? j !== place + m : j <= place || j >= place + m) continue;
        let [best, by] = [Infinity, -1];
        for (let step = fewest; step <= most; step++) {
          const before = j - step - middle[s - 1]! + wide;
          if (before < 0) break;
          if (before >= width) continue;
          const sum = cost[(s - 1) * width + before]! + spacingCounts * (step / wanted - 1) ** 2;
          if (sum < best) [best, by] = [sum, before];
        }
        if (by < 0) continue;
        cost[s * width + w] = best + price(i, j);
        back[s * width + w] = by;
      }
    }
    const out = new Int32Array(n);
    let w = wide;
    if (!Number.isFinite(cost[n * width + w]!)) {
      // no way round: by shares of the length
      for (let s = 0; s < n; s++) out[(from + s) % n] = middle[s]!;
      return out;
    }
    for (let s = n; s > 0; s--) {
      w = back[s * width + w]!;
      out[(from + s - 1) % n] = middle[s - 1]! - wide + w;
    }
    return out;
  }
}

function nearestIndex(index: OutlineIndex, line: Float64Array, x: number, y: number): number {
  let [best, near] = [0, Infinity];
  // whichever way it runs: both directions and across are asked for
  for (const [dx, dy] of [
    [1, 0],
    [0, 1],
    [-1, 0],
    [0, -1],
  ] as const) {
    const k = index.nearest(x, y, dx, dy);
    if (k < 0) continue;
    const { places } = index.samples;
    const d = Math.hypot(places[k * 2]! - x, places[k * 2 + 1]! - y);
    if (d < near) [best, near] = [Math.round((k / (places.length / 2)) * (line.length / 2)), d];
  }
  return best;
}

/** So many points evenly along a closed line, from its first point on. */
export function evenly(loop: Float64Array, count: number): Float64Array {
  const n = loop.length / 2;
  const at = new Float64Array(n + 1);
  for (let k = 0; k < n; k++) {
    const j = ((k + 1) % n) * 2;
    at[k + 1] = at[k]! + Math.hypot(loop[j]! - loop[k * 2]!, loop[j + 1]! - loop[k * 2 + 1]!);
  }
  const out = new Float64Array(count * 2);
  let k = 0;
  for (let i = 0; i < count; i++) {
    const wanted = (i / count) * at[n]!;
    while (k + 1 < n && at[k + 1]! <= wanted) k++;
    const own = at[k + 1]! - at[k]!;
    const share = own > 0 ? (wanted - at[k]!) / own : 0;
    const j = ((k + 1) % n) * 2;
    out[i * 2] = loop[k * 2]! + share * (loop[j]! - loop[k * 2]!);
    out[i * 2 + 1] = loop[k * 2 + 1]! + share * (loop[j + 1]! - loop[k * 2 + 1]!);
  }
  return out;
}

/** Of a long border some vertices are matched, evenly; those between them lie between, by their lengths. */
function matchSome(own: Float64Array, onto: Float64Array): BorderPlaces {
  const n = own.length / 2;
  const some = Array.from({ length: mostVertices }, (_, k) => Math.floor((k * n) / mostVertices));
  const found = matchBorder(Float64Array.from(some.flatMap((v) => [own[v * 2]!, own[v * 2 + 1]!])), onto);
  // how far along the other line each of them is
  const line = evenly(onto, lineSteps);
  const index = new OutlineIndex({ places: line, along: new Float64Array(line.length).map((_, k) => (k % 2 === 0 ? 1 : 0)) });
  const at = some.map((_, k) => Math.max(0, index.nearest(found.places[k * 2]!, found.places[k * 2 + 1]!, 1, 0)));
  const out: BorderPlaces = { places: new Float64Array(n * 2), along: new Float64Array(n * 2), isCorner: new Uint8Array(n) };
  for (let k = 0; k < some.length; k++) {
    const [from, to] = [some[k]!, k + 1 < some.length ? some[k + 1]! : n];
    const onward = (((at[(k + 1) % some.length]! - at[k]!) % lineSteps) + lineSteps) % lineSteps;
    const lengths = Array.from({ length: to - from + 1 }, () => 0);
    for (let v = from; v < to; v++) {
      const j = ((v + 1) % n) * 2;
      lengths[v - from + 1] = lengths[v - from]! + Math.hypot(own[j]! - own[v * 2]!, own[j + 1]! - own[v * 2 + 1]!);
    }
    for (let v = from; v < to; v++) {
      const place = at[k]! + (onward * lengths[v - from]!) / (lengths.at(-1)! || 1);
      const [low, share] = [Math.floor(place), place - Math.floor(place)];
      const [p, q] = [(low % lineSteps) * 2, ((low + 1) % lineSteps) * 2];
      const [dx, dy] = [line[q]! - line[p]!, line[q + 1]! - line[p + 1]!];
      const length = Math.hypot(dx, dy) || 1;
      out.places.set([line[p]! + share * dx, line[p + 1]! + share * dy], v * 2);
      out.along.set([dx / length, dy / length], v * 2);
    }
    out.isCorner[from] = found.isCorner[k]!;
  }
  return out;
}

/** Unit directions from a little behind each point to it, and from it to a little before it: 4 numbers a point. */
function directionsOf(line: Float64Array, edge: ArrayLike<number>, length: number, span: number): Float64Array {
  const n = line.length / 2;
  const out = new Float64Array(n * 4);
  const most = Math.min(span, length / 4);
  for (let i = 0; i < n; i++) {
    for (const [d, sign] of [
      [0, -1],
      [2, 1],
    ] as const) {
      // on to the place that is `most` away along the line
      let [k, left] = [i, most];
      let [x, y] = [line[i * 2]!, line[i * 2 + 1]!];
      for (let guard = 0; guard < n; guard++) {
        const j = (k + sign + n) % n;
        const own = edge[sign > 0 ? k : j]!;
        const share = own > 0 ? Math.min(1, left / own) : 1;
        x = line[k * 2]! + share * (line[j * 2]! - line[k * 2]!);
        y = line[k * 2 + 1]! + share * (line[j * 2 + 1]! - line[k * 2 + 1]!);
        left -= own;
        k = j;
        if (left <= 0) break;
      }
      const [dx, dy] = [sign * (x - line[i * 2]!), sign * (y - line[i * 2 + 1]!)];
      const far = Math.hypot(dx, dy) || 1;
      out[i * 4 + d] = dx / far;
      out[i * 4 + d + 1] = dy / far;
    }
  }
  return out;
}
