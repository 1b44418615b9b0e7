import type { Factor } from '../numeric/factor.ts';
import { makeFactor } from '../numeric/makeFactor.ts';
import type { Pins, Prepared } from './prepared.ts';

export interface RigidOptions {
  /** Most local/global steps; default 40. */
  steps?: number;
  /** Stop once a step lowers the energy by less than this share; default 1e-4. */
  tolerance?: number;
  /** Called before each step; may throw to stop. */
  check?: () => void;
  /** Vertices that are held at places: 2 numbers a place. */
  pins?: Pins;
  /** Asked once, after eight steps: is it not worth going on from this map? */
  giveUp?: (uv: Float64Array) => boolean;
}

export interface RigidResult {
  uv: Float64Array;
  steps: number;
  /** The energy after each step, as a share of the first. */
  energies: number[];
}

/**
 * As-rigid-as-possible map: keeps shapes. Each step turns every triangle to fit its flat image best (local), then solves one
 * Laplacian system for all vertices (global), factored once.
 *
 * Source: L. Liu, L. Zhang, Y. Xu, C. Gotsman, S. Gortler, "A Local/Global Approach to Mesh Parameterization", SGP 2008.
 *
 * @param start 2 numbers a vertex, e.g. from `conformal`
 * One factorisation, then O(n log n) a step.
 */
export function rigid(prepared: Prepared, start: Float64Array, options: RigidOptions = {}): RigidResult {
  const { steps = 40, tolerance = 1e-4, check = () => {}, pins, giveUp } = options;
  const solver = new RigidSolver(prepared, pins?.vertices ?? []);
  const places = pins?.places ?? [];
  try {
    const early = giveUp ? Math.min(8, steps) : steps;
    const first = solver.run(start, places, early, tolerance, check);
    if (first.steps < early || early === steps || giveUp?.(first.uv)) return first;
    const rest = solver.run(first.uv, places, steps - early, tolerance, check);
    return { uv: rest.uv, steps: first.steps + rest.steps, energies: [...first.energies, ...rest.energies] };
  } finally {
    solver.release();
  }
}

/**
 * The local/global steps with their matrix factored once: for a drag, where only the places of the held vertices change.
 *
 * @example
 * const solver = new RigidSolver(prepared, [4, 9]);
 * uv = solver.run(uv, [0, 0, 1, 0], 4, 0).uv; // as often as the places move
 * solver.release();
 */
export class RigidSolver {
  private readonly factor: Factor;
  private readonly held: Int32Array;
  /** Entries between a free and a held vertex: free, held (place in the list), weight. */
  private readonly pulls: number[] = [];

  /** @param pinned vertices that will be held */
  constructor(
    private readonly prepared: Prepared,
    private readonly pinned: ArrayLike<number>,
  ) {
    const { flat, entries, symbolic, vertices } = prepared;
    const { pattern } = symbolic;
    const values = new Float64Array(pattern.rows.length);
    for (let t = 0; t < flat.count; t++) {
      for (let k = 0; k < 3; k++) {
        const w = flat.cot[t * 3 + ((k + 2) % 3)]!;
        values[entries[t * 6 + 3 + k]!]! -= w;
        values[entries[t * 6 + k]!]! += w;
        values[entries[t * 6 + ((k + 1) % 3)]!]! += w;
      }
    }
    this.held = new Int32Array(vertices).fill(-1);
    for (let k = 0; k < pinned.length; k++) this.held[pinned[k]!] = k;
    // nothing held: the solution is free to move as a whole: vertex 0 is tied to the origin, which changes nothing else
    if (pinned.length === 0) values[pattern.columnStart[0]!]! += Math.max(1e-12, values[pattern.columnStart[0]!]!);
    for (let j = 0; pinned.length > 0 && j < pattern.size; j++) {
      for (let e = pattern.columnStart[j]!; e < pattern.columnStart[j + 1]!; e++) {
        const i = pattern.rows[e]!;
        const [hi, hj] = [this.held[i]!, this.held[j]!];
        if (hi < 0 && hj < 0) continue;
        if (i === j) {
          values[e] = 1;
          continue;
        }
        if (hi < 0) this.pulls.push(i, hj, values[e]!);
        else if (hj < 0) this.pulls.push(j, hi, values[e]!);
        values[e] = 0;
      }
    }
    this.factor = makeFactor(symbolic, 1);
    this.factor.factorise(values);
  }

  /** @param places 2 numbers a held vertex; @param tolerance stop once a step lowers the energy by less than this share */
  run(start: Float64Array, places: ArrayLike<number>, steps: number, tolerance: number, check: () => void = () => {}): RigidResult {
    const { triangles, vertices } = this.prepared;
    let uv: Float64Array = start;
    const rhs = new Float64Array(vertices * 2);
    const energies: number[] = [];
    let last = Infinity;
    let step = 0;
    for (; step < steps; step++) {
      check();
      const energy = localStep(this.prepared, triangles, uv, rhs);
      energies.push(energy);
      // held places may cost something first
      if (step > (this.pinned.length > 0 ? 1 : 0) && last - energy <= tolerance * last) break;
      last = energy;
      for (let k = 0; k < this.pulls.length; k += 3) {
        const at = this.pulls[k]! * 2;
        const from = this.pulls[k + 1]! * 2;
        rhs[at]! -= this.pulls[k + 2]! * places[from]!;
        rhs[at + 1]! -= this.pulls[k + 2]! * places[from + 1]!;
      }
      for (let k = 0; k < this.pinned.length; k++) {
        rhs[this.pinned[k]! * 2] = places[k * 2]!;
        rhs[this.pinned[k]! * 2 + 1] = places[k * 2 + 1]!;
      }
      uv = this.factor.solve(rhs, 2);
    }
    return { uv, steps: step, energies };
  }

  release(): void {
    this.factor.release();
  }
}

/** Fills the right-hand side with every triangle's edges turned to its best fit; returns the energy of `uv`. */
function localStep({ flat }: Prepared, triangles: Uint32Array, uv: Float64Array, rhs: Float64Array): number {
  rhs.fill(0);
  let energy = 0;
  const { shape, cot, count } = flat;
  for (let t = 0; t < count; t++) {
    const i0 = triangles[t * 3]! * 2;
    const i1 = triangles[t * 3 + 1]! * 2;
    const i2 = triangles[t * 3 + 2]! * 2;
    const x1 = shape[t * 3]!;
    const x2 = shape[t * 3 + 1]!;
    const y2 = shape[t * 3 + 2]!;
    // edges 0→1, 1→2, 2→0 in the triangle's own plane, each weighted by the cotangent across
    const w01 = cot[t * 3 + 2]!;
    const w12 = cot[t * 3]!;
    const w20 = cot[t * 3 + 1]!;
    const ex12 = x2 - x1;
    const u01 = uv[i1]! - uv[i0]!,
      v01 = uv[i1 + 1]! - uv[i0 + 1]!;
    const u12 = uv[i2]! - uv[i1]!,
      v12 = uv[i2 + 1]! - uv[i1 + 1]!;
    const u20 = uv[i0]! - uv[i2]!,
      v20 = uv[i0 + 1]! - uv[i2 + 1]!;
    let c = w01 * u01 * x1 + w12 * (u12 * ex12 + v12 * y2) - w20 * (u20 * x2 + v20 * y2);
    let s = w01 * v01 * x1 + w12 * (v12 * ex12 - u12 * y2) - w20 * (v20 * x2 - u20 * y2);
    const length = Math.sqrt(c * c + s * s);
    if (length > 0) {
      c /= length;
      s /= length;
    } else {
      c = 1;
      s = 0;
    }
    const r01x = w01 * c * x1,
      r01y = w01 * s * x1;
    const r12x = w12 * (c * ex12 - s * y2),
      r12y = w12 * (s * ex12 + c * y2);
    const r20x = -w20 * (c * x2 - s * y2),
      r20y = -w20 * (s * x2 + c * y2);
    rhs[i0]! += r20x - r01x;
    rhs[i0 + 1]! += r20y - r01y;
    rhs[i1]! += r01x - r12x;
    rhs[i1 + 1]! += r01y - r12y;
    rhs[i2]! += r12x - r20x;
    rhs[i2 + 1]! += r12y - r20y;
    const lengths =
      w01 * (u01 * u01 + v01 * v01 + x1 * x1) + w12 * (u12 * u12 + v12 * v12 + ex12 * ex12 + y2 * y2) + w20 * (u20 * u20 + v20 * v20 + x2 * x2 + y2 * y2);
    energy += lengths - 2 * length;
  }
  return energy;
}
