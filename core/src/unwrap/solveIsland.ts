import { borderBarrier } from './borderBarrier.ts';
import { borderCrossings, borderSegments } from './borderCrossings.ts';
import { conformal, prepare, scaleToArea } from './conformal.ts';
import type { Pins, Prepared } from './prepared.ts';
import { coarseStart } from './coarseStart.ts';
import { convexStart } from './convexStart.ts';
import { nearestPlacement } from './heading.ts';
import { planeMap } from './planeMap.ts';
import { isometric, stretchEnergy, type IsometricOptions, type IsometricResult } from './isometric.ts';
import { rigid } from './rigid.ts';
import { softly } from './softly.ts';
import { layToWishes, type Wishes } from './wishes.ts';

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
  /** The island may not overlap itself: where it would, it is held apart, by least stretch where shapes are kept; what that costs is for the eye to see. */
  apart?: boolean;
  /** With `apart`: laid freely it is known to lie over itself, which is not tried again. */
  over?: boolean;
  /** Only a first shape: some steps from the start, to be seen at once. */
  quick?: boolean;
  /** See `isometric`; default 4e-4. */
  tolerance?: number;
  /** Most steps of holding apart. */
  apartSteps?: number;
  /** Milliseconds after which the best so far is good enough. */
  timeLimit?: number;
  /** How many times as much as others the stretch of each triangle counts (least stretch only). */
  care?: Float64Array;
  /** Edges that come out straight and a grain that is met (least stretch only, and not in a first shape). */
  wishes?: Wishes;
}

export interface IslandResult {
  /** 2 numbers a vertex; the area on the sheet is about the area in space. */
  uv: Float64Array;
  steps: number;
  flips: number;
  /** Symmetric Dirichlet energy, area-weighted mean: 4 without stretch, Infinity with a flip. */
  energy: number;
  /** The method turned triangles over, or laid the island over itself though it may not, and least stretch has put that right. */
  putRight: boolean;
  /** Keep angles: the map is held apart, and angles give way where they have to. */
  heldApart: boolean;
  /** Place of each vertex in the order of elimination, for the next solve of nearly the same piece; empty where nothing had to be solved. */
  rank: Int32Array;
}

/**
 * Lays one island flat. Only keep angles (conformal) may leave triangles turned over; where it is to be held apart, it is laid so by least stretch and goes
 * on from there by angles. Keep shapes (rigid) is put right by a few steps of least stretch where it does, and held apart like least stretch where asked.
 * Least stretch (isometric) starts from the present map, else from the conformal one, else from one with a convex border: the first of these without flips.
 * @throws JigError `singular`, or what `check` throws
 */
export function solveIsland(task: IslandTask, check: () => void = () => {}, progress: (share: number) => void = () => {}): IslandResult {
  const { positions, triangles, method, quick = false, timeLimit, pins, tolerance = 4e-4, apart = false, apartSteps = 200 } = task;
  check();
  // flat in space already, so that nothing is to be solved
  const wishes = method === 'isometric' && !quick ? task.wishes : undefined;
  const plane = pins ? null : planeMap(positions, triangles);
  if (plane && !wishes) return { uv: plane, steps: 0, flips: 0, energy: 4, putRight: false, heldApart: false, rank: new Int32Array(0) };
  const prepared = prepare(positions, triangles, task.rank);
  const weighed = withCare(prepared, task.care);
  check();
  progress(0.05);
  // the border held apart may be needed after the free map: its share comes on top
  let [low, high] = [0.2, apart ? 0.75 : 1];
  const inPhase = (share: number) => progress(low + (high - low) * share);
  const present = task.start && flipCount(triangles, task.start) === 0 ? task.start : null;
  const presentEnergy = present ? meanEnergy(prepared, present) : Infinity;
  const presentIsGood = present !== null && presentEnergy < 20;
  const done = (uv: Float64Array, steps: number, putRight = false, isHeld = false): IslandResult => ({
    uv,
    steps,
    flips: flipCount(triangles, uv),
    energy: meanEnergy(prepared, uv),
    putRight,
    heldApart: isHeld,
    rank: prepared.symbolic.place,
  });
  if (method === 'conformal') {
    const uv = conformal(prepared, pins);
    // a triangle turned over overlaps its neighbours
    if (!apart || quick || (flipCount(triangles, uv) === 0 && !crosses(prepared, uv))) return done(uv, 0);
    check();
  }
  if (method === 'rigid' || quick) {
    const start = presentIsGood ? present : (softly(() => conformal(prepared, pins)) ?? convexStart(prepared));
    check();
    const result = softly(() => rigid(prepared, start, { check, pins, ...(quick ? { steps: 4 } : { giveUp: (uv) => flipCount(triangles, uv) > 0 }) }));
    const isSound = (uv: Float64Array) => flipCount(triangles, uv) === 0 && !(apart && crosses(prepared, uv));
    if (result && (quick || isSound(result.uv))) return done(result.uv, result.steps);
  }
  const report = ({ uv, steps }: { uv: Float64Array; steps: number }) => {
    if (method === 'conformal') {
      [low, high] = [0.85, 1];
      const kept = anglesHeldApart(prepared, uv, { check, pins, timeLimit, steps: apartSteps, progress: inPhase });
      if (kept) return done(kept.uv, steps + kept.steps, false, true);
    }
    if (!wishes || flipCount(triangles, uv) > 0) return done(uv, steps, method !== 'isometric');
    const extraFor = apart ? (from: Float64Array) => openedStart(prepared, from)?.barrier : undefined;
    return done(layToWishes(weighed, uv, wishes, { check, tolerance, timeLimit, pinned: pins?.vertices, extraFor }), steps);
  };
  if (plane) return report({ uv: plane, steps: 0 });
  // from a map that lies nowhere over itself, the border held apart
  const heldApart = (from: Float64Array | null, nearly: boolean) => {
    const opened = from && openedStart(prepared, from);
    [low, high] = [Math.max(low, 0.75), method === 'conformal' ? 0.85 : 1];
    return (
      opened &&
      isometric(weighed, opened.uv, { check, tolerance, timeLimit, targets: pins, extra: opened.barrier, steps: apartSteps, near: nearly, progress: inPhase })
    );
  };
  const again = () => heldApart(nearApart(prepared, check), true) ?? heldApart(convexStart(prepared), false);
  if (apart && (task.over || (presentIsGood && crosses(prepared, present)))) {
    const kept = again();
    if (kept) return report(kept);
  }
  progress(0.1);
  const near = presentIsGood ? null : nearStart(prepared, check);
  const found = presentIsGood ? present : (near ?? flipFreeStart(prepared));
  const start = found && pins ? towards(found, pins) : found;
  check();
  if (!start) {
    // so uneven that even the convex map loses triangles to rounding: the conformal map, its flips counted
    return done(conformal(prepared), 0);
  }
  const free = isometric(weighed, start, {
    check,
    tolerance: method === 'isometric' ? tolerance : 2e-3,
    timeLimit,
    targets: pins,
    near: near !== null || presentEnergy < 6,
    progress: inPhase,
  });
  if (!apart || !crosses(prepared, free.uv)) return report(free);
  const stretch = ({ energies }: IsometricResult) => energies.at(-1)! - 4;
  // as it lies now it may be apart, and stays so from step to step; from there it can end jammed
  let kept = heldApart(presentIsGood ? start : null, false);
  if (!kept || stretch(kept) > 1.5 * stretch(free) + 0.02) {
    const other = again();
    if (other && (!kept || stretch(other) < stretch(kept))) kept = other;
  }
  return report({ uv: (kept ?? free).uv, steps: free.steps + (kept?.steps ?? 0) });
}

/**
 * From a map that is nowhere over itself to one that keeps angles as well as it can while it stays so. Null where the map is not apart.
 */
function anglesHeldApart(
  prepared: Prepared,
  from: Float64Array,
  { pins, ...options }: Pick<IsometricOptions, 'check' | 'timeLimit' | 'steps' | 'progress'> & { pins?: Pins },
) {
  const opened = openedStart(prepared, from);
  if (!opened) return null;
  const { uv, steps: taken } = isometric(prepared, opened.uv, { ...options, of: 'angles', extra: opened.barrier, targets: pins, tolerance: 2e-3 });
  return { uv: pins ? uv : scaleToArea(prepared, uv), steps: taken };
}

/** Triangles that count more have so much more area to the solver: their energy is multiplied by it, and nothing else. */
export function withCare(prepared: Prepared, care: Float64Array | undefined): Prepared {
  if (!care) return prepared;
  return { ...prepared, flat: { ...prepared.flat, area: prepared.flat.area.map((area, t) => area * care[t]!) } };
}

const crosses = (prepared: Prepared, uv: Float64Array) => borderCrossings(borderSegments(prepared, uv)).length > 0;

/** A map with its border apart, and what keeps it so: sides of a fresh cut that still touch are opened a little. Null where it lies over itself or is turned over. */
function openedStart(prepared: Prepared, uv: Float64Array): { uv: Float64Array; barrier: ReturnType<typeof borderBarrier> } | null {
  if (!Number.isFinite(stretchEnergy(prepared, uv)) || crosses(prepared, uv)) return null;
  const barrier = borderBarrier(prepared, uv);
  for (const share of [0, 0.04, 0.01, 2.5e-3, 6e-4]) {
    const opened = share === 0 ? uv : openedBorder(prepared, uv, share);
    if (Number.isFinite(barrier.value(opened)) && flipCount(prepared.triangles, opened) === 0 && !crosses(prepared, opened)) return { uv: opened, barrier };
  }
  return null;
}

/** Pieces of more triangles than this are laid coarsely first; to be held apart, where the way is longer, of more than the other. */
const large = 6000;
const largeApart = 800;

/** A start from a coarser piece, null where the piece is small or it does not come to one without flips. */
export function nearStart(prepared: Prepared, check: () => void = () => {}): Float64Array | null {
  const { positions, triangles, border } = prepared;
  const count = triangles.length / 3;
  if (count <= large || border.length === 0) return null;
  const lay = (coarse: Float64Array, left: Uint32Array) => {
    const { uv, flips } = solveIsland({ positions: coarse, triangles: left, method: 'isometric', tolerance: 5e-3 }, check);
    return flips === 0 ? uv : null;
  };
  const start = coarseStart(positions, triangles, border, Math.max(large / 2, count / 20), lay, false, check);
  return start && Number.isFinite(stretchEnergy(prepared, start)) ? start : null;
}

/** The same of a coarser piece whose border is held apart. */
function nearApart({ positions, triangles, border }: Prepared, check: () => void): Float64Array | null {
  const count = triangles.length / 3;
  if (count <= largeApart || border.length === 0) return null;
  const lay = (coarse: Float64Array, left: Uint32Array) => {
    // only the coarsest is tried freely: if it lies nowhere over itself, the finer ones start from there
    const over = left.length / 3 > largeApart;
    const { uv, flips } = solveIsland({ positions: coarse, triangles: left, method: 'isometric', tolerance: 5e-3, apart: true, over }, check);
    return flips === 0 ? uv : null;
  };
  return coarseStart(positions, triangles, border, Math.max(largeApart / 2, count / 5), lay, true, check);
}

/**
 * The conformal map where it is free of flips, else one with a convex border; null if rounding turns triangles of that over. As large as
 * the piece: scaled to the least energy instead, hard ones took twice the steps.
 */
function flipFreeStart(prepared: Prepared): Float64Array | null {
  const free = softly(() => conformal(prepared));
  if (free && Number.isFinite(stretchEnergy(prepared, free))) return free;
  const convex = convexStart(prepared);
  return Number.isFinite(stretchEnergy(prepared, convex)) ? convex : null;
}

/** Border vertices moved inwards by a share of their shorter border edge, so that two sides of a cut no longer touch. O(B). */
function openedBorder({ border }: Prepared, uv: Float64Array, share: number): Float64Array {
  // the sum of the inward normals of each vertex's two border edges, and the shorter one's length
  const inward = new Map<number, [number, number, number]>();
  for (let k = 0; k < border.length; k += 2) {
    const a = border[k]!;
    const b = border[k + 1]!;
    const x = uv[b * 2]! - uv[a * 2]!;
    const y = uv[b * 2 + 1]! - uv[a * 2 + 1]!;
    const length = Math.hypot(x, y) || 1;
    for (const v of [a, b]) {
      const sum = inward.get(v) ?? [0, 0, Infinity];
      inward.set(v, [sum[0] - y / length, sum[1] + x / length, Math.min(sum[2], length)]);
    }
  }
  const out = uv.slice();
  for (const [v, [x, y, length]] of inward) {
    const size = Math.hypot(x, y);
    // the end of a cut stays: its neighbours part
    if (size < 1e-3) continue;
    out[v * 2]! += (share * length * x) / size;
    out[v * 2 + 1]! += (share * length * y) / size;
  }
  return out;
}

/** The map turned and moved so that its vertices lie nearest to their pins. */
function towards(uv: Float64Array, { vertices, places }: Pins): Float64Array {
  const from = Float64Array.from({ length: vertices.length * 2 }, (_, k) => uv[vertices[k >> 1]! * 2 + (k & 1)]!);
  const { a, b, x, y } = nearestPlacement(from, Float64Array.from(places), new Float64Array(vertices.length).fill(1), 1);
  return uv.map((_, k) => (k & 1 ? b * uv[k - 1]! + a * uv[k]! + y : a * uv[k]! - b * uv[k + 1]! + x));
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
