import type { Factor } from '../numeric/factor.ts';
import { makeFactor } from '../numeric/makeFactor.ts';
import type { Pins, Prepared } from './prepared.ts';
import * as portable from '../numeric/portable.ts';
import { softly } from './softly.ts';

export interface IsometricOptions {
  /** What counts: stretch, or angles alone (see `angleEnergy`); default stretch. */
  of?: 'stretch' | 'angles';
  /** Most steps; default 200. */
  steps?: number;
  /** Stop once a step is expected to lower the energy by less than this share of it; default 1e-4. */
  tolerance?: number;
  /** Milliseconds after which the best so far is handed back; default none. */
  timeLimit?: number;
  /** Vertices drawn to places: 2 numbers a target. They are held there once they reach it. */
  targets?: Pins;
  /** Vertices that do not move. */
  held?: Iterable<number>;
  /** A further energy, for instance one that keeps borders apart. */
  extra?: ExtraEnergy;
  /** Directions that are to be level or upright. */
  directions?: DirectionTerms;
  /** Edges that are to have a length. */
  lengths?: LengthTerms;
  /** The start is near the end: Newton's steps from the first on. */
  near?: boolean;
  /** Called before each step; may throw to stop. */
  check?: () => void;
  /** Told of each step: the map so far and its energy (area-weighted mean, 4 without stretch). */
  onStep?: (uv: Float64Array, energy: number) => void;
  /** Told at each step how much of the way is behind it, by what the step is estimated to gain: 0 … 1, never less than before. */
  progress?: (share: number) => void;
}

/** Directions on triangles of which one coordinate is to vanish: weight · (Σ share · coordinate)² each, beside area · stretch of the triangles. */
export interface DirectionTerms {
  triangle: Uint32Array;
  /** 3 numbers a term: what each corner of the triangle adds. */
  share: Float64Array;
  /** The coordinate: 0 u, 1 v. */
  axis: Uint8Array;
  weight: Float64Array;
}

/** Edges of triangles that are to have a length: weight · (|edge| − length)² each, beside area · stretch of the triangles. */
export interface LengthTerms {
  triangle: Uint32Array;
  /** Which edge of it: from corner k to the next. */
  edge: Uint8Array;
  length: Float64Array;
  weight: Float64Array;
}

/** An energy of the vertices beside the stretch of the triangles. */
export interface ExtraEnergy {
  /** Its value, Infinity where the map is not allowed. */
  value(uv: Float64Array): number;
  /** Adds its gradient, and to each vertex's diagonal block (xx, xy, yy) what bounds its second derivatives. */
  derivatives(uv: Float64Array, gradient: Float64Array, diagonal: Float64Array): void;
  /** The largest step along `direction`, `most` times it at the most, that is allowed. */
  largestStep(uv: Float64Array, direction: Float64Array, most: number): number;
  /**
   * What would have to be otherwise for `most` times `direction` to be allowed: how far vertices may move along a unit normal.
   * @param slow told of a vertex, the normal, how far along it, and what part the vertex has in it (0 … 1)
   */
  obstacles?(uv: Float64Array, direction: Float64Array, most: number, slow: (v: number, nx: number, ny: number, along: number, share: number) => void): void;
}

export interface IsometricResult {
  /** 2 numbers a vertex. */
  uv: Float64Array;
  steps: number;
  /** Symmetric Dirichlet energy after each step, the start first: area-weighted mean, 4 without stretch. */
  energies: number[];
  /** Did it end by itself (not by the step or time limit)? */
  converged: boolean;
}

/**
 * Least stretch: minimises the symmetric Dirichlet energy |J|² + |J⁻¹|² from a start without flips; no triangle ever flips.
 *
 * Sources: the energy, J. Smith, S. Schaefer, "Bijective Parameterization with Free Boundaries", SIGGRAPH 2015; steps with reweighted proxies,
 * M. Rabinovich, R. Poranne, D. Panozzo, O. Sorkine-Hornung, "Scalable Locally Injective Mappings", TOG 2017; Newton's with the eigenvalues
 * of each triangle's second derivatives known in closed form and cut at zero, B. Smith, F. de Goes, T. Kim, "Analytic Eigensystems for
 * Isotropic Distortion Energies", TOG 2019. Both kinds of step solve H d = −g with the same g; only H differs.
 *
 * Of angles it minimises `angleEnergy` instead, by Newton's steps alone, cut at zero in the same way.
 *
 * Tried: proxies alone need 20–100 steps for the last per cent on hard disks, Newton alone from a convex-border start creeps at first.
 *
 * @param start 2 numbers a vertex, no triangle turned over
 * @throws RangeError if the start has a flip
 * One factorisation of 2 unknowns a vertex and O(T) beside it a step.
 */
export function isometric(prepared: Prepared, start: Float64Array, options: IsometricOptions = {}): IsometricResult {
  const { steps = 200, tolerance = 1e-4, timeLimit = Infinity, check = () => {}, onStep, extra, progress } = options;
  const { vertices, symbolic, flat } = prepared;
  const began = performance.now();
  let area = 0;
  for (let t = 0; t < flat.count; t++) area += flat.area[t]!;
  const work: Work = {
    prepared,
    angles: options.of === 'angles',
    gradient: new Float64Array(vertices * 2),
    rhs: new Float64Array(0),
    own: null,
    values: new Float64Array(symbolic.pattern.rows.length * 4),
    diagonal: extra || options.targets ? new Float64Array(vertices * 3) : null,
    held: new Uint8Array(vertices),
    targets: options.targets ?? null,
    pull: 0,
    extra: extra ?? null,
    directions: options.directions ?? null,
    lengths: options.lengths ?? null,
    weight: 1 / area,
  };
  for (const v of options.held ?? []) work.held[v] = 1;
  // a target missed by the size of the whole costs as much as a dozen times the stretch of a flat piece
  if (work.targets) work.pull = 50 / (area * Math.max(1, work.targets.vertices.length));
  const uv = Float64Array.from(start);
  let energy = energyOf(work, uv);
  if (!Number.isFinite(energy)) throw new RangeError('the start has a flipped triangle');
  const energies = [stretchEnergy(prepared, uv) / area];
  onStep?.(uv, energies[0]!);
  const trial = new Float64Array(uv.length);
  const factor = makeFactor(symbolic, 2);
  let converged = false;
  let creeping = 0;
  const way = progress ? wayBehind(tolerance) : null;
  // proxies as long as they gain much; Newton's from there, and proxies once more where Newton's steps get stuck
  let newton = work.angles || (options.near ?? false);
  try {
    for (let step = 0; step < steps && performance.now() - began < timeLimit; step++) {
      check();
      let direction: Float64Array | null = step === 0 ? directionOf(work, uv, factor, newton) : softly(() => directionOf(work, uv, factor, newton));
      // borders so near one another that no further step can be worked out: as it is now it is allowed
      if (!direction) break;
      let slope = dot(direction, work.gradient);
      if (!(slope < 0)) {
        converged = true;
        break;
      }
      // of angles, what is above the least there is, which is nearly all of the energy
      const whole = work.angles ? Math.max(energy - leastOfAngles, 1e-3) : energy;
      const estimate = -slope / 2 / whole;
      if (way) progress!(way(estimate));
      // little is left: this step is taken, since it has been worked out, and is the last
      const last = newton && estimate < tolerance;
      let length = Math.min(1, 0.9 * largestStep(prepared, uv, direction));
      if (extra) {
        let wanted = length;
        length = Math.min(length, extra.largestStep(uv, direction, length));
        // one place in the way of all the others would cut the step short: another direction slows down what would meet
        for (let round = 0; extra.obstacles && round < mostDetours && length < 0.25 * wanted; round++) {
          const tried: Float64Array = direction;
          const detour: Float64Array | null = softly(() => roundObstacles(work, uv, factor, tried, wanted));
          const fall = detour ? dot(detour, work.gradient) : 0;
          if (!detour || !(fall < 0)) break;
          const open = Math.min(1, 0.9 * largestStep(prepared, uv, detour));
          const free = Math.min(open, extra.largestStep(uv, detour, open));
          if (!(free * fall < length * slope)) break;
          [direction, slope, wanted, length] = [detour, fall, open, free];
        }
      }
      let next = Infinity;
      for (let tries = 0; tries < 30; tries++) {
        for (let k = 0; k < uv.length; k++) trial[k] = uv[k]! + length * direction[k]!;
        next = energyOf(work, trial);
        if (next <= energy + 1e-4 * length * slope) break;
        length *= 0.5;
        next = Infinity;
      }
      if (!(next < energy)) {
        converged = true;
        break;
      }
      const gain = (energy - next) / whole;
      creeping = gain < 1e-3 ? creeping + 1 : 0;
      const isWhole = newton && length > 0.9;
      newton = work.angles || (newton ? length > 0.05 || gain > 0.02 : gain < 0.15);
      energy = next;
      uv.set(trial);
      const taken = snapTargets(work, uv);
      energies.push(stretchEnergy(prepared, uv) / area);
      onStep?.(uv, energies.at(-1)!);
      // Newton's whole steps leave a third of the way and less
      if (!taken && (last || creeping >= 8 || (isWhole && gain < 2 * tolerance))) {
        converged = true;
        break;
      }
    }
  } finally {
    factor.release();
  }
  return { uv, steps: energies.length - 1, energies, converged };
}

/** The share of the way that lies behind a step, by the share of the energy that it is estimated to gain: it ends below the tolerance. */
function wayBehind(tolerance: number): (gain: number) => number {
  let first = 0;
  let behind = 0;
  return (gain) => {
    const ahead = Math.max(0, portable.log(gain / tolerance));
    first = Math.max(first, ahead, 1e-9);
    behind = Math.max(behind, 1 - ahead / first);
    return behind;
  };
}

interface Work {
  prepared: Prepared;
  /** Angles count, not stretch. */
  angles: boolean;
  gradient: Float64Array;
  /** What the last direction was solved for: the gradient turned round. */
  rhs: Float64Array;
  /** How stiff the triangles make each vertex there; null until it is asked for. */
  own: Float64Array | null;
  values: Float64Array;
  /** xx, xy, yy a vertex: what comes to the triangles' second derivatives. */
  diagonal: Float64Array | null;
  held: Uint8Array;
  targets: Pins | null;
  /** Strength of the pull to the targets. */
  pull: number;
  extra: ExtraEnergy | null;
  directions: DirectionTerms | null;
  lengths: LengthTerms | null;
  /** One over the area: the energy is a mean. */
  weight: number;
}

function energyOf({ prepared, angles, targets, pull, extra, directions, lengths, weight }: Work, uv: Float64Array): number {
  let sum = (angles ? angleEnergy : stretchEnergy)(prepared, uv) * weight;
  if (directions) for (let k = 0; k < directions.weight.length; k++) sum += weight * directions.weight[k]! * off(prepared, directions, k, uv) ** 2;
  if (lengths)
    for (let k = 0; k < lengths.weight.length; k++) sum += weight * lengths.weight[k]! * (edgeAt(prepared, lengths, k, uv)[2] - lengths.length[k]!) ** 2;
  if (targets) {
    for (let k = 0; k < targets.vertices.length; k++) {
      const v = targets.vertices[k]! * 2;
      sum += pull * ((uv[v]! - targets.places[k * 2]!) ** 2 + (uv[v + 1]! - targets.places[k * 2 + 1]!) ** 2);
    }
  }
  if (extra && Number.isFinite(sum)) sum += extra.value(uv);
  return sum;
}

/** What of a direction is not to be. */
function off({ triangles }: Prepared, { triangle, share, axis }: DirectionTerms, k: number, uv: Float64Array): number {
  const t = triangle[k]! * 3;
  const d = axis[k]!;
  return share[k * 3]! * uv[triangles[t]! * 2 + d]! + share[k * 3 + 1]! * uv[triangles[t + 1]! * 2 + d]! + share[k * 3 + 2]! * uv[triangles[t + 2]! * 2 + d]!;
}

/** Adds the gradient and the second derivatives of directions, which are quadratic. O(directions) */
function addDirections(prepared: Prepared, directions: DirectionTerms, uv: Float64Array, gradient: Float64Array, values: Float64Array, weight: number): void {
  const { triangles, entries } = prepared;
  for (let k = 0; k < directions.weight.length; k++) {
    const t = directions.triangle[k]!;
    const d = directions.axis[k]!;
    const w = 2 * weight * directions.weight[k]!;
    const r = off(prepared, directions, k, uv);
    for (let i = 0; i < 3; i++) {
      const own = directions.share[k * 3 + i]!;
      const next = directions.share[k * 3 + ((i + 1) % 3)]!;
      gradient[triangles[t * 3 + i]! * 2 + d]! += w * r * own;
      // the blocks are (xx, xy, yx, yy)
      values[entries[t * 6 + i]! * 4 + 3 * d]! += w * own * own;
      values[entries[t * 6 + 3 + i]! * 4 + 3 * d]! += w * own * next;
    }
  }
}

/** An edge on the sheet: its direction and its length. */
function edgeAt({ triangles }: Prepared, { triangle, edge }: LengthTerms, k: number, uv: Float64Array): [number, number, number] {
  const [i, j] = [triangles[triangle[k]! * 3 + edge[k]!]! * 2, triangles[triangle[k]! * 3 + ((edge[k]! + 1) % 3)]! * 2];
  const [x, y] = [uv[j]! - uv[i]!, uv[j + 1]! - uv[i + 1]!];
  const long = Math.hypot(x, y);
  return long > 0 ? [x / long, y / long, long] : [1, 0, 0];
}

/** Adds the gradient of lengths and, of their second derivatives, what is along the edges (Gauss and Newton's; the rest is small near the end). O(lengths) */
function addLengths(prepared: Prepared, lengths: LengthTerms, uv: Float64Array, gradient: Float64Array, values: Float64Array, weight: number): void {
  const { triangles, entries } = prepared;
  for (let k = 0; k < lengths.weight.length; k++) {
    const [t, i] = [lengths.triangle[k]!, lengths.edge[k]!];
    const j = (i + 1) % 3;
    const [dx, dy, long] = edgeAt(prepared, lengths, k, uv);
    const w = 2 * weight * lengths.weight[k]!;
    const r = w * (long - lengths.length[k]!);
    const [a, b] = [triangles[t * 3 + i]! * 2, triangles[t * 3 + j]! * 2];
    gradient[a]! -= r * dx;
    gradient[a + 1]! -= r * dy;
    gradient[b]! += r * dx;
    gradient[b + 1]! += r * dy;
    for (const [entry, sign] of [
      [entries[t * 6 + i]!, w],
      [entries[t * 6 + j]!, w],
      [entries[t * 6 + 3 + i]!, -w],
    ] as const) {
      values[entry * 4]! += sign * dx * dx;
      values[entry * 4 + 1]! += sign * dx * dy;
      values[entry * 4 + 2]! += sign * dx * dy;
      values[entry * 4 + 3]! += sign * dy * dy;
    }
  }
}

/** Sum over the triangles of area · (|J|² + |J⁻¹|²); Infinity with a flip. O(T). */
export function stretchEnergy({ flat, triangles }: Pick<Prepared, 'flat' | 'triangles'>, uv: Float64Array): number {
  const { area, count } = flat;
  let sum = 0;
  for (let t = 0; t < count; t++) {
    const { squares, det } = jacobian(flat, triangles, uv, t);
    if (!(det > 0)) return Infinity;
    sum += area[t]! * squares * (1 + 1 / (det * det));
  }
  return sum;
}

/** How much sizes count beside angles: without any a map could shrink to a point. Common practice, no source. */
const sizeShare = 1e-3;
const leastOfAngles = 2 + 2 * sizeShare;

/**
 * Sum over the triangles of area · (|J|² / |J| + sizeShare · (|J| + 1/|J|)), with the determinant |J|: 2 a triangle where angles are kept, which is the ratio
 * of the singular values and its inverse added; Infinity with a flip. Source of the first term: K. Hormann, G. Greiner, "MIPS: An Efficient Global
 * Parametrization Method", Curve and Surface Design 2000. O(T).
 */
export function angleEnergy({ flat, triangles }: Pick<Prepared, 'flat' | 'triangles'>, uv: Float64Array): number {
  const { area, count } = flat;
  let sum = 0;
  for (let t = 0; t < count; t++) {
    const { squares, det } = jacobian(flat, triangles, uv, t);
    if (!(det > 0)) return Infinity;
    sum += area[t]! * (squares / det + sizeShare * (det + 1 / det));
  }
  return sum;
}

/** Squared norm and determinant of a triangle's map. */
function jacobian({ shape }: Prepared['flat'], triangles: Uint32Array, uv: Float64Array, t: number): { squares: number; det: number } {
  const i = triangles[t * 3]! * 2;
  const j = triangles[t * 3 + 1]! * 2;
  const k = triangles[t * 3 + 2]! * 2;
  const x1 = shape[t * 3]!;
  const x2 = shape[t * 3 + 1]!;
  const y2 = shape[t * 3 + 2]!;
  const a = (uv[j]! - uv[i]!) / x1;
  const c = (uv[j + 1]! - uv[i + 1]!) / x1;
  const b = (uv[k]! - uv[i]! - a * x2) / y2;
  const d = (uv[k + 1]! - uv[i + 1]! - c * x2) / y2;
  return { squares: a * a + b * b + c * c + d * d, det: a * d - b * c };
}

/** Fills gradient and matrix at `uv` and solves for the step. */
function directionOf(work: Work, uv: Float64Array, factor: Factor, newton: boolean): Float64Array {
  const { prepared, angles, gradient, values, diagonal, held, targets, pull, extra, directions, lengths, weight } = work;
  gradient.fill(0);
  values.fill(0);
  diagonal?.fill(0);
  addTriangles(prepared, uv, gradient, values, weight, newton, angles);
  if (targets) {
    for (let k = 0; k < targets.vertices.length; k++) {
      const v = targets.vertices[k]!;
      gradient[v * 2]! += 2 * pull * (uv[v * 2]! - targets.places[k * 2]!);
      gradient[v * 2 + 1]! += 2 * pull * (uv[v * 2 + 1]! - targets.places[k * 2 + 1]!);
      diagonal![v * 3]! += 2 * pull;
      diagonal![v * 3 + 2]! += 2 * pull;
    }
  }
  if (extra) extra.derivatives(uv, gradient, diagonal!);
  const { columnStart, rows, size } = prepared.symbolic.pattern;
  const holds = held.includes(1);
  let trace = 0;
  for (let v = 0; v < size; v++) trace += values[columnStart[v]! * 4]! + values[columnStart[v]! * 4 + 3]!;
  // moving and turning as a whole cost nothing: a very small price makes the step the smallest one
  const least = (trace / (2 * size)) * 1e-8 + 1e-300;
  if (directions) addDirections(prepared, directions, uv, gradient, values, weight);
  if (lengths) addLengths(prepared, lengths, uv, gradient, values, weight);
  for (let v = 0; v < size; v++) {
    const e = columnStart[v]! * 4;
    values[e]! += least;
    values[e + 3]! += least;
    if (diagonal) {
      values[e]! += diagonal[v * 3]!;
      values[e + 1]! += diagonal[v * 3 + 1]!;
      values[e + 2]! += diagonal[v * 3 + 1]!;
      values[e + 3]! += diagonal[v * 3 + 2]!;
    }
  }
  for (let j = 0; j < size && holds; j++) {
    const fixed = held[j] === 1;
    if (fixed) gradient[j * 2] = gradient[j * 2 + 1] = 0;
    for (let e = columnStart[j]!; e < columnStart[j + 1]!; e++) {
      if (!fixed && held[rows[e]!] !== 1) continue;
      const unit = rows[e] === j ? 1 : 0;
      values[e * 4] = unit;
      values[e * 4 + 1] = 0;
      values[e * 4 + 2] = 0;
      values[e * 4 + 3] = unit;
    }
  }
  const rhs = new Float64Array(gradient.length);
  for (let k = 0; k < rhs.length; k++) rhs[k] = -gradient[k]!;
  work.rhs = rhs;
  work.own = null;
  factor.factorise(values);
  return factor.solve(rhs.slice());
}

/** How often a step looks for another direction. */
const mostDetours = 3;

/** How many times as stiff as it is by itself a vertex becomes along what it would meet. */
const stiffness = 10;

/** The direction once more, with all that would meet along the last one slowed down: matrix and right side of `directionOf` are added to. */
function roundObstacles(work: Work, uv: Float64Array, factor: Factor, direction: Float64Array, most: number): Float64Array {
  const { prepared, values, diagonal, held, extra, rhs } = work;
  const { columnStart } = prepared.symbolic.pattern;
  // as stiff as the triangles make it, whatever comes to that
  const own = (work.own ??= Float64Array.from(held, (_, v) => {
    const e = columnStart[v]! * 4;
    return Math.max(0, (values[e]! + values[e + 3]! - diagonal![v * 3]! - diagonal![v * 3 + 2]!) / 2);
  }));
  extra!.obstacles!(uv, direction, most, (v, nx, ny, along, share) => {
    if (held[v]) return;
    const k = stiffness * own[v]! * share;
    const e = columnStart[v]! * 4;
    values[e]! += k * nx * nx;
    values[e + 1]! += k * nx * ny;
    values[e + 2]! += k * nx * ny;
    values[e + 3]! += k * ny * ny;
    rhs[v * 2]! += k * along * nx;
    rhs[v * 2 + 1]! += k * along * ny;
  });
  factor.factorise(values);
  return factor.solve(rhs.slice());
}

function dot(a: Float64Array, b: Float64Array): number {
  let sum = 0;
  for (let k = 0; k < a.length; k++) sum += a[k]! * b[k]!;
  return sum;
}

/** Adds each triangle's gradient and second derivatives: Newton's with negative curvature left out, or the reweighted proxy's. O(T). */
function addTriangles(
  { flat, triangles, entries }: Prepared,
  uv: Float64Array,
  gradient: Float64Array,
  values: Float64Array,
  weight: number,
  newton: boolean,
  angles: boolean,
): void {
  const { shape, area, count } = flat;
  for (let t = 0; t < count; t++) {
    const v0 = triangles[t * 3]!;
    const v1 = triangles[t * 3 + 1]!;
    const v2 = triangles[t * 3 + 2]!;
    const x1 = shape[t * 3]!;
    const x2 = shape[t * 3 + 1]!;
    const y2 = shape[t * 3 + 2]!;
    // gradients of the hat functions
    const g1x = 1 / x1;
    const g1y = -x2 / (x1 * y2);
    const g2y = 1 / y2;
    const g0x = -g1x;
    const g0y = -g1y - g2y;
    const u10 = uv[v1 * 2]! - uv[v0 * 2]!;
    const w10 = uv[v1 * 2 + 1]! - uv[v0 * 2 + 1]!;
    const u20 = uv[v2 * 2]! - uv[v0 * 2]!;
    const w20 = uv[v2 * 2 + 1]! - uv[v0 * 2 + 1]!;
    const a = u10 * g1x;
    const c = w10 * g1x;
    const b = u10 * g1y + u20 * g2y;
    const d = w10 * g1y + w20 * g2y;
    // J = turn(φ) · diag(s1, s2) · turn(θ)
    const E = (a + d) / 2;
    const F = (a - d) / 2;
    const G = (c + b) / 2;
    const H = (c - b) / 2;
    const Q = Math.sqrt(E * E + H * H);
    const R = Math.sqrt(F * F + G * G);
    const s1 = Q + R;
    // Q − R loses digits where they are alike
    const s2 = (a * d - b * c) / s1;
    const cq = Q > 0 ? E / Q : 1;
    const sq = Q > 0 ? H / Q : 0;
    const cr = R > 0 ? F / R : 1;
    const sr = R > 0 ? G / R : 0;
    const cosSum = cq * cr - sq * sr;
    const sinSum = sq * cr + cq * sr;
    let cp: number;
    let sp: number;
    if (cosSum > -0.5) {
      cp = Math.sqrt((1 + cosSum) / 2);
      sp = sinSum / (2 * cp);
    } else {
      sp = Math.sqrt((1 - cosSum) / 2);
      cp = sinSum / (2 * sp);
    }
    const ct = cq * cp + sq * sp;
    const st = sq * cp - cq * sp;
    const A = area[t]! * weight;
    const i1 = 1 / s1;
    const i2 = 1 / s2;
    // how the energy changes with both singular values, first and, where both change, second derivative
    let f1 = 2 * A * (s1 - i1 * i1 * i1);
    let f2 = 2 * A * (s2 - i2 * i2 * i2);
    let both = 0;
    // of angles, so that it depends on the quotient above all
    const inverse = angles ? i1 * i2 : 0;
    if (angles) {
      f1 = A * (i2 - s2 * i1 * i1 + sizeShare * (s2 - inverse * i1));
      f2 = A * (i1 - s1 * i2 * i2 + sizeShare * (s1 - inverse * i2));
    }
    // the hat functions' gradients along the two directions of J: v1 = (ct, −st), v2 = (st, ct)
    const p0 = ct * g0x - st * g0y;
    const p1 = ct * g1x - st * g1y;
    const p2 = -st * g2y;
    const q0 = st * g0x + ct * g0y;
    const q1 = st * g1x + ct * g1y;
    const q2 = ct * g2y;
    // gradient: f1 u1 (v1 · g) + f2 u2 (v2 · g), u1 = (cp, sp), u2 = (−sp, cp)
    gradient[v0 * 2]! += f1 * p0 * cp - f2 * q0 * sp;
    gradient[v0 * 2 + 1]! += f1 * p0 * sp + f2 * q0 * cp;
    gradient[v1 * 2]! += f1 * p1 * cp - f2 * q1 * sp;
    gradient[v1 * 2 + 1]! += f1 * p1 * sp + f2 * q1 * cp;
    gradient[v2 * 2]! += f1 * p2 * cp - f2 * q2 * sp;
    gradient[v2 * 2 + 1]! += f1 * p2 * sp + f2 * q2 * cp;
    let l1: number;
    let l2: number;
    let half1: number;
    let half2: number;
    let cross: number;
    if (angles) {
      const squares = (s1 * s1 + s2 * s2) * inverse * inverse;
      const sizes = sizeShare * (1 - inverse * inverse);
      const twist = A * Math.max(0, 2 * inverse - squares + sizes);
      const flip = A * Math.max(0, 2 * inverse + squares - sizes);
      half1 = half2 = (twist + flip) / 2;
      cross = (flip - twist) / 2;
      // the two by two of both singular values, its negative curvature left out
      [l1, both, l2] = positivePart(
        2 * A * (s2 + sizeShare * i2) * i1 * i1 * i1,
        A * (sizeShare * (1 + inverse * inverse) - i1 * i1 - i2 * i2),
        2 * A * (s1 + sizeShare * i1) * i2 * i2 * i2,
      );
    } else if (newton) {
      l1 = A * (2 + 6 * i1 * i1 * i1 * i1);
      l2 = A * (2 + 6 * i2 * i2 * i2 * i2);
      const twist = Math.max(0, (f1 + f2) / (s1 + s2));
      const flip = 2 * A * (1 + (s1 * s1 + s1 * s2 + s2 * s2) * i1 * i1 * i1 * i2 * i2 * i2);
      half1 = half2 = (twist + flip) / 2;
      cross = (flip - twist) / 2;
    } else {
      l1 = 2 * A * (1 + i1 + i1 * i1 + i1 * i1 * i1);
      l2 = 2 * A * (1 + i2 + i2 * i2 + i2 * i2 * i2);
      half1 = l1;
      half2 = l2;
      cross = 0;
    }
    // block of vertices i, j in the turned frame: [l1 p p + half1 q q, cross q_i p_j + both p_i q_j; cross p_i q_j + both q_i p_j, l2 q q + half2 p p]
    const cc = cp * cp;
    const ss = sp * sp;
    const cs = cp * sp;
    const e = t * 6;
    for (let m = 0; m < 6; m++) {
      let pi: number;
      let qi: number;
      let pj: number;
      let qj: number;
      let swap = false;
      switch (m) {
        case 0:
          pi = pj = p0;
          qi = qj = q0;
          break;
        case 1:
          pi = pj = p1;
          qi = qj = q1;
          break;
        case 2:
          pi = pj = p2;
          qi = qj = q2;
          break;
        case 3:
          pi = p0;
          qi = q0;
          pj = p1;
          qj = q1;
          swap = v0 < v1;
          break;
        case 4:
          pi = p1;
          qi = q1;
          pj = p2;
          qj = q2;
          swap = v1 < v2;
          break;
        default:
          pi = p2;
          qi = q2;
          pj = p0;
          qj = q0;
          swap = v2 < v0;
      }
      const b11 = l1 * pi * pj + half1 * qi * qj;
      const b22 = l2 * qi * qj + half2 * pi * pj;
      const b12 = cross * qi * pj + both * pi * qj;
      const b21 = cross * pi * qj + both * qi * pj;
      // back to the sheet's frame: U B Uᵀ
      const xx = cc * b11 - cs * (b12 + b21) + ss * b22;
      const yy = ss * b11 + cs * (b12 + b21) + cc * b22;
      const xy = cs * (b11 - b22) + cc * b12 - ss * b21;
      const yx = cs * (b11 - b22) + cc * b21 - ss * b12;
      const at = entries[e + m]! * 4;
      values[at]! += xx;
      // the matrix keeps the block of (larger, smaller) vertex
      values[at + 1]! += swap ? yx : xy;
      values[at + 2]! += swap ? xy : yx;
      values[at + 3]! += yy;
    }
  }
}

/** A symmetric 2 × 2 matrix (xx, xy, yy) without its negative eigenvalues. */
function positivePart(xx: number, xy: number, yy: number): [number, number, number] {
  const middle = (xx + yy) / 2;
  const half = Math.hypot((xx - yy) / 2, xy);
  const [high, low] = [middle + half, middle - half];
  if (low >= 0) return [xx, xy, yy];
  if (high <= 0 || half === 0) return [0, 0, 0];
  // what is left is high · e eᵀ, and e eᵀ = (M − low) / (high − low)
  const share = high / (2 * half);
  return [share * (xx - low), share * xy, share * (yy - low)];
}

/** The largest step before the first triangle loses its area: per triangle the least positive root of a quadratic. O(T). */
export function largestStep({ triangles }: Pick<Prepared, 'triangles'>, uv: Float64Array, direction: Float64Array): number {
  let least = Infinity;
  for (let t = 0; t < triangles.length; t += 3) {
    const i = triangles[t]! * 2;
    const j = triangles[t + 1]! * 2;
    const k = triangles[t + 2]! * 2;
    const ax = uv[j]! - uv[i]!;
    const ay = uv[j + 1]! - uv[i + 1]!;
    const bx = uv[k]! - uv[i]!;
    const by = uv[k + 1]! - uv[i + 1]!;
    const cx = direction[j]! - direction[i]!;
    const cy = direction[j + 1]! - direction[i + 1]!;
    const dx = direction[k]! - direction[i]!;
    const dy = direction[k + 1]! - direction[i + 1]!;
    const q = cx * dy - cy * dx;
    const l = ax * dy - ay * dx + cx * by - cy * bx;
    const o = ax * by - ay * bx;
    // area of the triangle after a step s: q s² + l s + o
    if (q >= 0 && l >= 0) continue;
    const root = l * l - 4 * q * o;
    if (root < 0) continue;
    const r = -0.5 * (l + (l < 0 ? -1 : 1) * Math.sqrt(root));
    const s1 = q !== 0 ? r / q : Infinity;
    const s2 = r !== 0 ? o / r : Infinity;
    if (s1 > 0 && s1 < least) least = s1;
    if (s2 > 0 && s2 < least) least = s2;
  }
  return least;
}

/** Targets that are all but reached are taken and held, where no triangle flips by it. @returns were any? */
function snapTargets({ prepared, targets, held }: Work, uv: Float64Array): boolean {
  if (!targets) return false;
  const direction = new Float64Array(uv.length);
  let any = false;
  for (let k = 0; k < targets.vertices.length; k++) {
    const v = targets.vertices[k]!;
    if (held[v]) continue;
    direction[v * 2] = targets.places[k * 2]! - uv[v * 2]!;
    direction[v * 2 + 1] = targets.places[k * 2 + 1]! - uv[v * 2 + 1]!;
    any = true;
  }
  if (!any || largestStep(prepared, uv, direction) < 1.25) return false;
  for (let k = 0; k < targets.vertices.length; k++) {
    const v = targets.vertices[k]!;
    uv[v * 2] = targets.places[k * 2]!;
    uv[v * 2 + 1] = targets.places[k * 2 + 1]!;
    held[v] = 1;
  }
  return true;
}
