/**
 * Area of the union of convex polygons that all lie within a region of area `whole`: exact, by vertical slabs between all corners and all
 * crossings of edges. More than 64 polygons: the 64 largest, so the answer is then a lower bound.
 * @param polygons 2 numbers a corner
 * O(e² + s (p + e)) for e edges of p polygons and s slabs, of which there are up to e² where all edges cross; edges apart in x are not compared.
 */
export function unionArea(polygons: readonly Float64Array[], whole: number): number {
  if (polygons.length === 0) return 0;
  if (polygons.length === 1) return polygonArea(polygons[0]!);
  const areas = polygons.map(polygonArea);
  const largest = areas.reduce((most, area) => Math.max(most, area), 0);
  if (largest >= whole * (1 - 1e-12)) return whole;
  let use = polygons;
  if (use.length > mostPolygons) {
    const order = areas.map((_, k) => k).sort((a, b) => areas[b]! - areas[a]!);
    use = order.slice(0, mostPolygons).map((k) => polygons[k]!);
  }
  const edges = edgesFromLeft(use);
  const xs = slabBounds(use, edges);
  const { count, xy, owner } = edges;
  // the edges at the slab's middle, and the polygons there from low to high: both change little from slab to slab
  const active = new Uint16Array(count);
  let actives = 0;
  let next = 0;
  const low = new Float64Array(use.length).fill(Infinity);
  const high = new Float64Array(use.length).fill(-Infinity);
  const order = Uint16Array.from(use.keys());
  let sum = 0;
  for (let k = 0; k + 1 < xs.length; k++) {
    const width = xs[k + 1]! - xs[k]!;
    if (!(width > 0)) continue;
    const x = (xs[k]! + xs[k + 1]!) / 2;
    while (next < count && xy[next * 4]! <= x) active[actives++] = next++;
    low.fill(Infinity);
    high.fill(-Infinity);
    let kept = 0;
    for (let a = 0; a < actives; a++) {
      const e = active[a]!;
      const o = e * 4;
      if (xy[o + 2]! < x) continue;
      active[kept++] = e;
      const y = xy[o + 1]! + ((x - xy[o]!) / (xy[o + 2]! - xy[o]!)) * (xy[o + 3]! - xy[o + 1]!);
      const p = owner[e]!;
      if (y < low[p]!) low[p] = y;
      if (y > high[p]!) high[p] = y;
    }
    actives = kept;
    for (let i = 1; i < order.length; i++) {
      const p = order[i]!;
      let j = i;
      for (; j > 0 && low[order[j - 1]!]! > low[p]!; j--) order[j] = order[j - 1]!;
      order[j] = p;
    }
    let reach = -Infinity;
    let length = 0;
    for (const p of order) {
      // those that are not in this slab come last
      if (low[p] === Infinity) break;
      if (high[p]! <= reach) continue;
      length += high[p]! - Math.max(low[p]!, reach);
      reach = high[p]!;
    }
    sum += width * length;
  }
  return sum;
}

const mostPolygons = 64;

interface Edges {
  count: number;
  /** 4 numbers an edge: its left end, then its right one; in order of the left end's x. */
  xy: Float64Array;
  /** Polygon of each edge. */
  owner: Uint16Array;
}

/** The edges of all polygons that are not vertical. */
function edgesFromLeft(polygons: readonly Float64Array[]): Edges {
  const found: { x: number; polygon: number; from: number; to: number }[] = [];
  polygons.forEach((polygon, p) => {
    for (let k = 0; k < polygon.length; k += 2) {
      const m = (k + 2) % polygon.length;
      if (polygon[k] === polygon[m]) continue;
      const [from, to] = polygon[k]! < polygon[m]! ? [k, m] : [m, k];
      found.push({ x: polygon[from]!, polygon: p, from, to });
    }
  });
  found.sort((a, b) => a.x - b.x);
  const xy = new Float64Array(found.length * 4);
  const owner = new Uint16Array(found.length);
  found.forEach(({ polygon: p, from, to }, e) => {
    const polygon = polygons[p]!;
    xy[e * 4] = polygon[from]!;
    xy[e * 4 + 1] = polygon[from + 1]!;
    xy[e * 4 + 2] = polygon[to]!;
    xy[e * 4 + 3] = polygon[to + 1]!;
    owner[e] = p;
  });
  return { count: found.length, xy, owner };
}

/** The x of all corners and of all crossings of edges of different polygons, from left to right. */
function slabBounds(polygons: readonly Float64Array[], { count, xy, owner }: Edges): Float64Array {
  const xs: number[] = [];
  for (const polygon of polygons) for (let k = 0; k < polygon.length; k += 2) xs.push(polygon[k]!);
  for (let i = 0; i < count; i++) {
    const o = i * 4;
    const [x1, y1, x2, y2] = [xy[o]!, xy[o + 1]!, xy[o + 2]!, xy[o + 3]!];
    const [bottom, top] = y1 < y2 ? [y1, y2] : [y2, y1];
    for (let j = i + 1; j < count; j++) {
      const q = j * 4;
      const x3 = xy[q]!;
      if (x3 >= x2) break;
      if (owner[i] === owner[j]) continue;
      const [y3, y4] = [xy[q + 1]!, xy[q + 3]!];
      if ((y3 > top && y4 > top) || (y3 < bottom && y4 < bottom)) continue;
      const x4 = xy[q + 2]!;
      const d = (x2 - x1) * (y4 - y3) - (y2 - y1) * (x4 - x3);
      if (d === 0) continue;
      const t = ((x3 - x1) * (y4 - y3) - (y3 - y1) * (x4 - x3)) / d;
      const s = ((x3 - x1) * (y2 - y1) - (y3 - y1) * (x2 - x1)) / d;
      if (t > 0 && t < 1 && s > 0 && s < 1) xs.push(x1 + t * (x2 - x1));
    }
  }
  return Float64Array.from(xs).sort();
}

/** Area of a simple polygon, 2 numbers a corner. */
export function polygonArea(polygon: Float64Array): number {
  let twice = 0;
  const n = polygon.length;
  for (let k = 0; k < n; k += 2) {
    const m = (k + 2) % n;
    twice += (polygon[k]! - polygon[0]!) * (polygon[m + 1]! - polygon[1]!) - (polygon[m]! - polygon[0]!) * (polygon[k + 1]! - polygon[1]!);
  }
  return Math.abs(twice) / 2;
}
