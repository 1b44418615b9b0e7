import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { edgeLengths, foldAngles } from './crease.ts';
import { pathTo, shortestPaths } from './shortestPaths.ts';

export interface PenOptions {
  /** How far from the stroke an edge may lie before it costs much more, in units; default: the mean length of the edges near it. */
  reach?: number;
  /** Price of a sharp crease relative to a flat edge; default 0.35. */
  creasePrice?: number;
}

/**
 * The edges that a stroke over the model clings to: the cheapest way along edges from the point nearest the stroke's start to the one
 * nearest its end, where edges far from the stroke are expensive and creases cheap. A stroke that ends where it began closes.
 *
 * @param stroke 3 numbers a sample, on the surface, in order
 * @returns edges in order from start to end; empty for a stroke within one point's surroundings
 * O(S · E') for S samples and the E' edges within reach, plus one shortest path.
 */
export function penPath(mesh: Mesh, stroke: ArrayLike<number>, options: PenOptions = {}): number[] {
  const samples = stroke.length / 3;
  if (samples < 2) return [];
  const { edgePoints } = topologyOf(mesh);
  const lengths = edgeLengthsOf(mesh);
  const angles = foldAnglesOf(mesh);
  const start = nearestPoint(mesh, stroke, 0);
  const end = nearestPoint(mesh, stroke, samples - 1);
  const reach = options.reach ?? localEdgeLength(mesh, start, end, lengths);
  const creasePrice = options.creasePrice ?? 0.35;
  const p = mesh.points;
  const known = new Map<number, number>();
  const cost = (e: number) => {
    let value = known.get(e);
    if (value !== undefined) return value;
    const a = edgePoints[e * 2]! * 3;
    const b = edgePoints[e * 2 + 1]! * 3;
    const away = (distanceToStroke(stroke, p[a]!, p[a + 1]!, p[a + 2]!) + distanceToStroke(stroke, p[b]!, p[b + 1]!, p[b + 2]!)) / (2 * reach);
    value = lengths[e]! * (1 - (1 - creasePrice) * Math.min(1, angles[e]! / 50)) * (1 + 4 * away * away) + 1e-12;
    known.set(e, value);
    return value;
  };
  const strokeLength = lengthOf(stroke);
  if (start !== end || strokeLength < 4 * reach) return pathTo(mesh, shortestPaths(mesh, [start], cost, end), end).reverse();
  // a closed stroke: by way of its thirds
  const thirds = [1, 2].map((k) => nearestPoint(mesh, stroke, Math.round((k * (samples - 1)) / 3)));
  const stops = [start, ...thirds, end];
  const path: number[] = [];
  const used = new Set<number>();
  for (let k = 0; k + 1 < stops.length; k++) {
    const leg = pathTo(
      mesh,
      shortestPaths(mesh, [stops[k]!], (e) => cost(e) * (used.has(e) ? 50 : 1), stops[k + 1]!),
      stops[k + 1]!,
    ).reverse();
    for (const e of leg) used.add(e);
    for (const e of leg) path.push(e);
  }
  return [...new Set(path)];
}

const lengthCache = new WeakMap<Mesh, Float64Array>();
const angleCache = new WeakMap<Mesh, Float64Array>();

function edgeLengthsOf(mesh: Mesh) {
  let known = lengthCache.get(mesh);
  if (!known) lengthCache.set(mesh, (known = edgeLengths(mesh)));
  return known;
}

function foldAnglesOf(mesh: Mesh) {
  let known = angleCache.get(mesh);
  if (!known) angleCache.set(mesh, (known = foldAngles(mesh)));
  return known;
}

function lengthOf(stroke: ArrayLike<number>): number {
  let sum = 0;
  for (let k = 3; k < stroke.length; k += 3) sum += Math.hypot(stroke[k]! - stroke[k - 3]!, stroke[k + 1]! - stroke[k - 2]!, stroke[k + 2]! - stroke[k - 1]!);
  return sum;
}

function localEdgeLength(mesh: Mesh, a: number, b: number, lengths: Float64Array): number {
  const { pointStart, pointCorners, cornerEdge } = topologyOf(mesh);
  let sum = 0;
  let count = 0;
  for (const p of [a, b]) {
    for (let k = pointStart[p]!; k < pointStart[p + 1]!; k++) {
      sum += lengths[cornerEdge[pointCorners[k]!]!]!;
      count++;
    }
  }
  return count > 0 && sum > 0 ? sum / count : 1;
}

function nearestPoint(mesh: Mesh, stroke: ArrayLike<number>, sample: number): number {
  const { pointStart } = topologyOf(mesh);
  const x = stroke[sample * 3]!;
  const y = stroke[sample * 3 + 1]!;
  const z = stroke[sample * 3 + 2]!;
  const p = mesh.points;
  let best = -1;
  let nearest = Infinity;
  for (let k = 0; k < p.length / 3; k++) {
    if (pointStart[k + 1] === pointStart[k]) continue;
    const d = (p[k * 3]! - x) ** 2 + (p[k * 3 + 1]! - y) ** 2 + (p[k * 3 + 2]! - z) ** 2;
    if (d < nearest) {
      nearest = d;
      best = k;
    }
  }
  return best;
}

function distanceToStroke(stroke: ArrayLike<number>, x: number, y: number, z: number): number {
  let best = Infinity;
  for (let k = 0; k + 5 < stroke.length; k += 3) {
    const ax = stroke[k]!,
      ay = stroke[k + 1]!,
      az = stroke[k + 2]!;
    const dx = stroke[k + 3]! - ax,
      dy = stroke[k + 4]! - ay,
      dz = stroke[k + 5]! - az;
    const length = dx * dx + dy * dy + dz * dz;
    const t = length > 0 ? Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy + (z - az) * dz) / length)) : 0;
    const d = (ax + t * dx - x) ** 2 + (ay + t * dy - y) ** 2 + (az + t * dz - z) ** 2;
    if (d < best) best = d;
  }
  return Math.sqrt(best);
}
