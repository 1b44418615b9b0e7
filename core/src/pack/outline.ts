import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import * as portable from '../numeric/portable.ts';
import { hullOf } from '../shape/islandTurn.ts';

/** A closed line of points, 2 numbers a point, the solid on its left. */
export type Loop = Float64Array;

/**
 * The borders of each island as closed lines in px of the sheet, holes included. Islands that are mirrored run the other way round, so that the solid is on
 * the left of every line. Those of the last sheet asked for are kept with the set. O(corners).
 */
export function outlinesOf(mesh: Mesh, set: UvSet, width: number, height: number): readonly (readonly Loop[])[] {
  const kept = keptOutlines.get(set);
  if (kept && kept.mesh === mesh && kept.uv === set.uv && kept.width === width && kept.height === height) return kept.outlines;
  const outlines = walkedOutlines(mesh, set, width, height);
  keptOutlines.set(set, { mesh, uv: set.uv, width, height, outlines });
  return outlines;
}

const keptOutlines = new WeakMap<UvSet, { mesh: Mesh; uv: Float64Array; width: number; height: number; outlines: Loop[][] }>();

function walkedOutlines(mesh: Mesh, set: UvSet, width: number, height: number): Loop[][] {
  const islands = islandsOf(mesh, set);
  const topology = topologyOf(mesh);
  const out: Loop[][] = Array.from({ length: islands.count }, () => []);
  /** Border corners that begin at a UV point, per island walked: those not yet walked. */
  const from = new Map<number, number[]>();
  for (let i = 0; i < islands.count; i++) {
    from.clear();
    let area = 0;
    for (let k = islands.start[i]!; k < islands.start[i + 1]!; k++) {
      const f = islands.faces[k]!;
      if (set.unplaced[f]) continue;
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        const a = set.cornerUv[c]!;
        const b = set.cornerUv[nextCorner(mesh, c, topology.cornerFace[c]!)]!;
        area += set.uv[a * 2]! * set.uv[b * 2 + 1]! - set.uv[a * 2 + 1]! * set.uv[b * 2]!;
        if (islands.states[topology.cornerEdge[c]!] === EdgeState.joined) continue;
        const list = from.get(a);
        if (list) list.push(c);
        else from.set(a, [c]);
      }
    }
    for (const list of from.values()) {
      while (list.length > 0) {
        const points: number[] = [];
        for (let c = list.pop(); c !== undefined; c = from.get(set.cornerUv[nextCorner(mesh, c, topology.cornerFace[c]!)]!)?.pop()) {
          const a = set.cornerUv[c]!;
          points.push(set.uv[a * 2]! * width, set.uv[a * 2 + 1]! * height);
        }
        const loop = cleaned(points, area < 0);
        if (loop.length >= 6) out[i]!.push(loop);
      }
    }
  }
  return out;
}

/** Without points that repeat the one before them; turned round where asked. */
function cleaned(points: readonly number[], isReversed: boolean): Loop {
  const kept: number[] = [];
  const count = points.length / 2;
  for (let k = 0; k < count; k++) {
    const at = isReversed ? count - 1 - k : k;
    const x = points[at * 2]!;
    const y = points[at * 2 + 1]!;
    if (kept.length >= 2 && kept[kept.length - 2] === x && kept[kept.length - 1] === y) continue;
    kept.push(x, y);
  }
  while (kept.length >= 4 && kept[0] === kept[kept.length - 2] && kept[1] === kept[kept.length - 1]) kept.length -= 2;
  return Float64Array.from(kept);
}

/** The box round some lines: least x, least y, most x, most y. */
export function boxOfLoops(loops: readonly Loop[]): [number, number, number, number] {
  let [minX, minY, maxX, maxY] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const loop of loops) {
    for (let k = 0; k < loop.length; k += 2) {
      minX = Math.min(minX, loop[k]!);
      maxX = Math.max(maxX, loop[k]!);
      minY = Math.min(minY, loop[k + 1]!);
      maxY = Math.max(maxY, loop[k + 1]!);
    }
  }
  return [minX, minY, maxX, maxY];
}

/** Twice the area that a closed line encloses, positive where the solid is inside. */
export function doubleArea(loop: Loop): number {
  let sum = 0;
  for (let k = 0, j = loop.length - 2; k < loop.length; j = k, k += 2) sum += loop[j]! * loop[k + 1]! - loop[j + 1]! * loop[k]!;
  return sum;
}

/**
 * A closed line with fewer points whose solid holds all of the given one's: points in bays are left out, and edges are lengthened until they meet, as long as
 * no point of the new line is further than `tolerance` from the old one. O(points²) at worst.
 */
export function simplifiedOutward(loop: Loop, tolerance: number): Loop {
  const x: number[] = [];
  const y: number[] = [];
  for (let k = 0; k < loop.length; k += 2) {
    x.push(loop[k]!);
    y.push(loop[k + 1]!);
  }
  /** How far the line has moved at each point so far. */
  const moved = x.map(() => 0);
  let isChanged = true;
  while (isChanged && x.length > 3) {
    isChanged = false;
    for (let k = 0; k < x.length && x.length > 3; k++) {
      const n = x.length;
      const a = (k + n - 1) % n;
      const b = (k + 1) % n;
      const turn = (x[k]! - x[a]!) * (y[b]! - y[k]!) - (y[k]! - y[a]!) * (x[b]! - x[k]!);
      if (turn <= 0) {
        // a bay's point: the line from the one before to the one after covers it
        const base = Math.hypot(x[b]! - x[a]!, y[b]! - y[a]!);
        const depth = base > 0 ? -turn / base : Math.hypot(x[k]! - x[a]!, y[k]! - y[a]!);
        const whole = depth + Math.max(moved[k]!, moved[a]!, moved[b]!);
        if (whole > tolerance) continue;
        // not across a bay that is folded back upon itself
        const along = (x[k]! - x[a]!) * (x[b]! - x[a]!) + (y[k]! - y[a]!) * (y[b]! - y[a]!);
        if (along < 0 || along > base * base) {
          if (turn < 0) continue;
        }
        moved[a] = Math.max(moved[a]!, turn < 0 ? whole : moved[k]!);
        x.splice(k, 1);
        y.splice(k, 1);
        moved.splice(k, 1);
        isChanged = true;
        continue;
      }
      // two corners outward: the edge between them goes where its neighbours meet
      const c = (k + 2) % n;
      if (n < 5) continue;
      const ux = x[k]! - x[a]!;
      const uy = y[k]! - y[a]!;
      const vx = x[b]! - x[c]!;
      const vy = y[b]! - y[c]!;
      const turnB = (x[b]! - x[k]!) * (y[c]! - y[b]!) - (y[b]! - y[k]!) * (x[c]! - x[b]!);
      const spread = ux * vy - uy * vx;
      if (turnB <= 0 || Math.abs(spread) < 1e-12) continue;
      const s = ((x[b]! - x[k]!) * vy - (y[b]! - y[k]!) * vx) / spread;
      const t = ((x[b]! - x[k]!) * uy - (y[b]! - y[k]!) * ux) / spread;
      if (!(s > 0 && t > 0)) continue;
      const px = x[k]! + ux * s;
      const py = y[k]! + uy * s;
      const edge = Math.hypot(x[b]! - x[k]!, y[b]! - y[k]!);
      const height = edge > 0 ? Math.abs((px - x[k]!) * (y[b]! - y[k]!) - (py - y[k]!) * (x[b]! - x[k]!)) / edge : 0;
      const whole = height + Math.max(moved[k]!, moved[b]!);
      if (whole > tolerance || Math.hypot(px - x[k]!, py - y[k]!) > 4 * tolerance || Math.hypot(px - x[b]!, py - y[b]!) > 4 * tolerance) continue;
      x[k] = px;
      y[k] = py;
      moved[k] = whole;
      x.splice(b, 1);
      y.splice(b, 1);
      moved.splice(b, 1);
      isChanged = true;
    }
  }
  const out = new Float64Array(x.length * 2);
  for (let k = 0; k < x.length; k++) {
    out[k * 2] = x[k]!;
    out[k * 2 + 1] = y[k]!;
  }
  return out;
}

/** An outline of more points than this is simplified by more, up to so many times the tolerance: a search takes too long otherwise. */
const mostPoints = 400;
const mostTimes = 32;

/**
 * The borders of a piece, sized by a factor and simplified outward (`simplifiedOutward`). Of one with very many points the tolerance is doubled until few are
 * left; where that does not help (steep teeth all along the border), its convex hull stands for it. O(points²) at worst.
 */
export function simplifiedOutline(loops: readonly Loop[], factor: number, tolerance: number): Loop[] {
  const sized = loops.map((loop) => loop.map((v) => v * factor));
  const points = (all: readonly Loop[]) => all.reduce((sum, loop) => sum + loop.length / 2, 0);
  let out = sized.map((loop) => simplifiedOutward(loop, tolerance));
  for (let times = 2; times <= mostTimes && points(out) > mostPoints; times *= 2) out = sized.map((loop) => simplifiedOutward(loop, tolerance * times));
  return points(out) > 2 * mostPoints ? [Float64Array.from(hullOf(sized.flatMap((loop) => [...loop])).flat())] : out;
}

/** Largest turn between neighbouring edges of an arc: its points stand outside the circle, by 1/cos of half of it. */
const arcStep = Math.PI / 5;

/**
 * Edges of the region that is nearer than `distance` to the solid of some lines, 4 numbers an edge: each edge moved outward, arcs round the corners that stand
 * out. In bays the moved edges end where they meet; where one is too short for that they cross, which adds nothing to the region. Nothing of it is missing.
 * O(points).
 * @param step largest turn between neighbouring edges of an arc
 */
export function offsetEdges(loops: readonly Loop[], distance: number, step = arcStep): Float64Array {
  const kept: number[] = [];
  for (const loop of loops) {
    const line = distance === 0 ? [...loop] : offsetLoop(loop, distance, step);
    const count = line.length;
    for (let k = 0; k < count; k += 2) {
      const [x0, y0, x1, y1] = [line[k]!, line[k + 1]!, line[(k + 2) % count]!, line[(k + 3) % count]!];
      // edges without length say nothing
      if (x0 !== x1 || y0 !== y1) kept.push(x0, y0, x1, y1);
    }
  }
  return Float64Array.from(kept);
}

/** The points of a closed line moved outward, see `offsetEdges`. */
function offsetLoop(given: Loop, distance: number, step: number): number[] {
  const loop: number[] = [];
  for (let k = 0, j = given.length - 2; k < given.length; j = k, k += 2)
    if (given[k] !== given[j] || given[k + 1] !== given[j + 1]) loop.push(given[k]!, given[k + 1]!);
  const n = loop.length / 2;
  /** Of the edge that begins at a point: its length, and the direction outward, to its right. */
  const length = new Float64Array(n);
  const nx = new Float64Array(n);
  const ny = new Float64Array(n);
  for (let k = 0; k < n; k++) {
    const next = ((k + 1) % n) * 2;
    const [dx, dy] = [loop[next]! - loop[k * 2]!, loop[next + 1]! - loop[k * 2 + 1]!];
    length[k] = Math.hypot(dx, dy);
    nx[k] = dy / length[k]!;
    ny[k] = -dx / length[k]!;
  }
  const turn = new Float64Array(n);
  /** By how much both edges at a corner of a bay become shorter where they end at their meeting. */
  const cut = new Float64Array(n);
  for (let k = 0; k < n; k++) {
    const a = (k + n - 1) % n;
    turn[k] = portable.atan2(nx[a]! * ny[k]! - ny[a]! * nx[k]!, nx[a]! * nx[k]! + ny[a]! * ny[k]!);
    const half = turn[k]! / 2;
    if (turn[k]! < 0) cut[k] = turn[k]! > -3 ? (-distance * portable.sin(half)) / portable.cos(half) : Infinity;
  }
  const out: number[] = [];
  for (let k = 0; k < n; k++) {
    const a = (k + n - 1) % n;
    const [x, y] = [loop[k * 2]!, loop[k * 2 + 1]!];
    const [ux, uy, vx, vy] = [nx[a]!, ny[a]!, nx[k]!, ny[k]!];
    if (turn[k]! >= 0) {
      const steps = Math.max(1, Math.ceil(turn[k]! / step));
      const from = portable.atan2(uy, ux);
      // the first and the last of the points are on the moved edges
      const reach = distance / portable.cos(turn[k]! / steps / 2);
      for (let s = 0; s < steps; s++) {
        const angle = from + (turn[k]! * (s + 0.5)) / steps;
        out.push(x + portable.cos(angle) * reach, y + portable.sin(angle) * reach);
      }
    } else if (cut[k]! + cut[a]! <= length[a]! && cut[k]! + cut[(k + 1) % n]! <= length[k]!) {
      // half way between both directions, as far as where the moved edges meet
      const far = distance / (1 + ux * vx + uy * vy);
      out.push(x + (ux + vx) * far, y + (uy + vy) * far);
    } else out.push(x + ux * distance, y + uy * distance, x + vx * distance, y + vy * distance);
  }
  return out;
}

/** A point well inside a region: of the middles of some rows, the one with most room. @returns x, y; null where the region has no inside */
export function innerPoint(edges: Float64Array): [number, number] | null {
  let [low, high, left, right] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let k = 0; k < edges.length; k += 2) {
    low = Math.min(low, edges[k + 1]!);
    high = Math.max(high, edges[k + 1]!);
    left = Math.min(left, edges[k]!);
    right = Math.max(right, edges[k]!);
  }
  let best: [number, number] | null = null;
  let room = 0;
  const rows = 24;
  for (let r = 0; r < rows; r++) {
    // not at regular heights, where corners of regular shapes stand
    const y = low + ((high - low) * (r + 0.4711)) / rows;
    const cuts: { x: number; up: number }[] = [];
    for (let k = 0; k < edges.length; k += 4) {
      const [x0, y0, x1, y1] = [edges[k]!, edges[k + 1]!, edges[k + 2]!, edges[k + 3]!];
      if (y0 > y === y1 > y) continue;
      cuts.push({ x: x0 + ((y - y0) / (y1 - y0)) * (x1 - x0), up: y1 > y0 ? -1 : 1 });
    }
    cuts.sort((a, b) => a.x - b.x);
    let sum = 0;
    for (let k = 0; k + 1 < cuts.length; k++) {
      sum += cuts[k]!.up;
      if (sum === 0) continue;
      const wide = cuts[k + 1]!.x - cuts[k]!.x;
      // the room above and below counts as much: rows near the rim are short of it
      const own = Math.min(wide, 2 * Math.min(y - low, high - y));
      if (own > room) {
        room = own;
        best = [(cuts[k]!.x + cuts[k + 1]!.x) / 2, y];
      }
    }
  }
  return best;
}

/**
 * Places of a region by which it is found out whether another holds it where no borders cross: an inner point, and, where it has several border lines, one point
 * of each (a line may be within the other although the inner point is not). 2 numbers a place.
 * @param known the inner point, where it is known
 */
export function testPlaces(edges: Float64Array, known?: readonly [number, number]): Float64Array {
  const inner = known ?? innerPoint(edges) ?? [edges[0]!, edges[1]!];
  const starts: number[] = [];
  for (let k = 0; k < edges.length; k += 4) if (k === 0 || edges[k] !== edges[k - 2] || edges[k + 1] !== edges[k - 1]) starts.push(edges[k]!, edges[k + 1]!);
  return Float64Array.from(starts.length > 2 ? [...inner, ...starts] : inner);
}
