import { JigError } from '../jigError.ts';
import { borderBarrier } from './borderBarrier.ts';
import { borderCrossings, borderSegments } from './borderCrossings.ts';
import { conformal, prepare, type Prepared } from './conformal.ts';
import { convexStart } from './convexStart.ts';
import { nearestPlacement } from './heading.ts';
import { isometric, stretchEnergy } from './isometric.ts';
import { rigid, type Pins } from './rigid.ts';

export const unwrapMethods = ['conformal', 'rigid', 'isometric'] as const;
export type UnwrapMethod = (typeof unwrapMethods)[number];

/** Everything one island's solve needs, in plain arrays, so that it can be sent to a worker. */
export interface IslandTask {
  positions: Float64Array;
  triangles: Uint32Array;
  method: UnwrapMethod;
  /** The map as it lies now, 2 numbers a vertex: a start where nothing in it is turned over. */
  start?: Float64Array;
  /** An order of elimination to go by, a number a vertex: of an earlier result. */
  rank?: Int32Array;
  /** Vertices that stay at places, in units of the piece; two and more, or the piece could turn and size itself. */
  pins?: Pins;
  /** The island may not lie over itself (least stretch only); what that costs in stretch is for the eye to see. */
  apart?: boolean;
  /** Only a first shape: some steps from the start, to be seen at once. */
  quick?: boolean;
  /** See `isometric`; default 4e-4. */
  tolerance?: number;
  /** Most steps of holding apart. */
  apartSteps?: number;
  /** Milliseconds after which the best so far is good enough. */
  timeLimit?: number;
}

export interface IslandResult {
  /** 2 numbers a vertex; the area on the sheet is about the area in space. */
  uv: Float64Array;
  steps: number;
  flips: number;
  /** Symmetric Dirichlet energy, area-weighted mean: 4 without stretch, Infinity with a flip. */
  energy: number;
  /** The method turned triangles over and least stretch has put them right. */
  putRight: boolean;
  /** Place of each vertex in the order of elimination, for the next solve of nearly the same piece. */
  rank: Int32Array;
}

/**
 * Lays one island flat. Only keep angles (conformal) may leave triangles turned over; keep shapes (rigid) is put right by a few steps of least
 * stretch where it does. Least stretch (isometric) starts from the present map, else from the conformal one, else from one with a convex border:
 * the first of these without flips.
 * @throws JigError `singular`, or what `check` throws
 */
export function solveIsland(task: IslandTask, check: () => void = () => {}): IslandResult {
  const { positions, triangles, method, quick = false, timeLimit, pins, tolerance = 4e-4, apart = false, apartSteps = 200 } = task;
  check();
  const prepared = prepare(positions, triangles, task.rank);
  check();
  const present = task.start && flipCount(triangles, task.start) === 0 ? task.start : null;
  const presentIsGood = present !== null && meanEnergy(prepared, present) < 20;
  const done = (uv: Float64Array, steps: number, putRight = false): IslandResult => ({
    uv,
    steps,
    flips: flipCount(triangles, uv),
    energy: meanEnergy(prepared, uv),
    putRight,
    rank: prepared.symbolic.place,
  });
  if (method === 'conformal') return done(conformal(prepared, pins), 0);
  if (method === 'rigid' || quick) {
    const start = presentIsGood ? present : (softly(() => conformal(prepared, pins)) ?? convexStart(prepared));
    check();
    const result = softly(() => rigid(prepared, start, { check, pins, ...(quick ? { steps: 4 } : {}) }));
    if (result && (quick || flipCount(triangles, result.uv) === 0)) return done(result.uv, result.steps);
  }
  const found = presentIsGood ? present : flipFreeStart(prepared);
  const start = found && pins ? towards(found, pins) : found;
  check();
  if (!start) {
    // so uneven that even the convex map loses triangles to rounding: the conformal map, its flips counted
    return done(conformal(prepared), 0);
  }
  if (apart && presentIsGood && borderCrossings(borderSegments(prepared, start)).length === 0) {
    // as it lies it is apart, and stays so from step to step; a fresh cut's sides still touch and are opened a little first
    const barrier = borderBarrier(prepared, start);
    const opened = Number.isFinite(barrier.value(start)) ? start : openedBorder(prepared, start);
    if (Number.isFinite(barrier.value(opened)) && flipCount(triangles, opened) === 0 && borderCrossings(borderSegments(prepared, opened)).length === 0) {
      const kept = isometric(prepared, opened, { check, tolerance, timeLimit, targets: pins, extra: barrier, steps: apartSteps });
      return done(kept.uv, kept.steps, method === 'rigid');
    }
  }
  const free = isometric(prepared, start, { check, tolerance: method === 'rigid' ? 2e-3 : tolerance, timeLimit, targets: pins });
  if (!apart || borderCrossings(borderSegments(prepared, free.uv)).length === 0) return done(free.uv, free.steps, method === 'rigid');
  // once more, from a map that lies nowhere over itself, the border held apart
  const convex = convexStart(prepared);
  if (!Number.isFinite(stretchEnergy(prepared, convex))) return done(free.uv, free.steps, method === 'rigid');
  const kept = isometric(prepared, convex, { check, tolerance, timeLimit, targets: pins, extra: borderBarrier(prepared, free.uv), steps: apartSteps });
  return done(kept.uv, free.steps + kept.steps, method === 'rigid');
}

/**
 * The conformal map where it is free of flips, else one with a convex border; null if rounding turns triangles of that over. As large as
 * the piece: scaled to the least energy instead, hard ones took twice the steps.
 */
function flipFreeStart(prepared: Prepared): Float64Array | null {
  const free = softly(() => conformal(prepared));
  if (free && flipCount(prepared.triangles, free) === 0) return free;
  const convex = convexStart(prepared);
  return Number.isFinite(stretchEnergy(prepared, convex)) ? convex : null;
}

/** Border vertices drawn a little towards the middle of their neighbours, so that two sides of a cut no longer touch. O(T). */
function openedBorder({ vertices, triangles, border }: Prepared, uv: Float64Array): Float64Array {
  const sum = new Float64Array(vertices * 3);
  for (let t = 0; t < triangles.length; t += 3) {
    for (let k = 0; k < 3; k++) {
      const v = triangles[t + k]! * 3;
      for (const other of [triangles[t + ((k + 1) % 3)]!, triangles[t + ((k + 2) % 3)]!]) {
        sum[v]! += uv[other * 2]!;
        sum[v + 1]! += uv[other * 2 + 1]!;
        sum[v + 2]!++;
      }
    }
  }
  const out = uv.slice();
  for (const v of border) for (let d = 0; d < 2; d++) out[v * 2 + d] = uv[v * 2 + d]! + 0.04 * (sum[v * 3 + d]! / sum[v * 3 + 2]! - uv[v * 2 + d]!);
  return out;
}

/** The map turned and moved so that its vertices lie nearest to their pins. */
function towards(uv: Float64Array, { vertices, places }: Pins): Float64Array {
  const from = Float64Array.from({ length: vertices.length * 2 }, (_, k) => uv[vertices[k >> 1]! * 2 + (k & 1)]!);
  const { a, b, x, y } = nearestPlacement(from, Float64Array.from(places), new Float64Array(vertices.length).fill(1), 1);
  return uv.map((_, k) => (k & 1 ? b * uv[k - 1]! + a * uv[k]! + y : a * uv[k]! - b * uv[k + 1]! + x));
}

/** What a solver makes of it, or null where its matrix is singular. */
function softly<T>(work: () => T): T | null {
  try {
    return work();
  } catch (error) {
    if (error instanceof JigError && error.code === 'singular') return null;
    throw error;
  }
}

function meanEnergy(prepared: Prepared, uv: Float64Array): number {
  let area = 0;
  for (let t = 0; t < prepared.flat.count; t++) area += prepared.flat.area[t]!;
  return stretchEnergy(prepared, uv) / area;
}

/** Triangles turned over (negative area). */
export function flipCount(triangles: Uint32Array, uv: Float64Array): number {
  let flips = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const a = triangles[t]! * 2;
    const b = triangles[t + 1]! * 2;
    const c = triangles[t + 2]! * 2;
    if ((uv[b]! - uv[a]!) * (uv[c + 1]! - uv[a + 1]!) - (uv[c]! - uv[a]!) * (uv[b + 1]! - uv[a + 1]!) < 0) flips++;
  }
  return flips;
}
