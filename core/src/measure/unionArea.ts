/**
 * Area of the union of convex polygons that all lie within a region of area `whole`: exact, by vertical slabs between all corners and all
 * crossings of edges. More than 64 polygons: the 64 largest, so the answer is then a lower bound.
 * O(e² log e) for e edges.
 */
export function unionArea(polygons: Float64Array[], whole: number): number {
  if (polygons.length === 0) return 0;
  if (polygons.length === 1) return polygonArea(polygons[0]!);
  const areas = polygons.map(polygonArea);
  const largest = areas.reduce((most, area) => Math.max(most, area), 0);
  if (largest >= whole * (1 - 1e-12)) return whole;
  let use = polygons;
  if (use.length > 64) {
    const order = areas.map((_, k) => k).sort((a, b) => areas[b]! - areas[a]!);
    use = order.slice(0, 64).map((k) => polygons[k]!);
  }
  const edges: number[][] = [];
  const xs: number[] = [];
  use.forEach((polygon, owner) => {
    for (let k = 0; k < polygon.length; k += 2) {
      const m = (k + 2) % polygon.length;
      xs.push(polygon[k]!);
      if (polygon[k] !== polygon[m]) edges.push([polygon[k]!, polygon[k + 1]!, polygon[m]!, polygon[m + 1]!, owner]);
    }
  });
  for (let i = 0; i < edges.length; i++) {
    for (let j = i + 1; j < edges.length; j++) {
      if (edges[i]![4] === edges[j]![4]) continue;
      const x = crossing(edges[i]!, edges[j]!);
      if (x !== null) xs.push(x);
    }
  }
  xs.sort((a, b) => a - b);
  let sum = 0;
  for (let k = 0; k + 1 < xs.length; k++) {
    const width = xs[k + 1]! - xs[k]!;
    if (!(width > 0)) continue;
    const x = (xs[k]! + xs[k + 1]!) / 2;
    const spans: [number, number][] = [];
    for (let owner = 0; owner < use.length; owner++) {
      const span = spanAt(use[owner]!, x);
      if (span) spans.push(span);
    }
    spans.sort((a, b) => a[0] - b[0]);
    let reach = -Infinity;
    let length = 0;
    for (const [low, high] of spans) {
      if (high <= reach) continue;
      length += high - Math.max(low, reach);
      reach = high;
    }
    sum += width * length;
  }
  return sum;
}

function crossing(a: number[], b: number[]): number | null {
  const [x1, y1, x2, y2] = a as [number, number, number, number];
  const [x3, y3, x4, y4] = b as [number, number, number, number];
  const d = (x2 - x1) * (y4 - y3) - (y2 - y1) * (x4 - x3);
  if (d === 0) return null;
  const t = ((x3 - x1) * (y4 - y3) - (y3 - y1) * (x4 - x3)) / d;
  const s = ((x3 - x1) * (y2 - y1) - (y3 - y1) * (x2 - x1)) / d;
  return t > 0 && t < 1 && s > 0 && s < 1 ? x1 + t * (x2 - x1) : null;
}

function spanAt(polygon: Float64Array, x: number): [number, number] | null {
  let low = Infinity;
  let high = -Infinity;
  for (let k = 0; k < polygon.length; k += 2) {
    const m = (k + 2) % polygon.length;
    const x1 = polygon[k]!,
      x2 = polygon[m]!;
    if (x < Math.min(x1, x2) || x > Math.max(x1, x2) || x1 === x2) continue;
    const y = polygon[k + 1]! + ((x - x1) / (x2 - x1)) * (polygon[m + 1]! - polygon[k + 1]!);
    low = Math.min(low, y);
    high = Math.max(high, y);
  }
  return low < high ? [low, high] : null;
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
