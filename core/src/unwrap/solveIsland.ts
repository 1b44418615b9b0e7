import { conformal, prepare } from './conformal.ts';
import { rigid } from './rigid.ts';

export type UnwrapMethod = 'conformal' | 'rigid';

/** Everything one island's solve needs, in plain arrays, so that it can be sent to a worker. */
export interface IslandTask {
  positions: Float64Array;
  triangles: Uint32Array;
  method: UnwrapMethod;
}

export interface IslandResult {
  /** 2 numbers a vertex; the area on the sheet is about the area in space. */
  uv: Float64Array;
  steps: number;
  flips: number;
}

/** Lays one island flat. @throws JigError `singular`, or what `check` throws */
export function solveIsland(task: IslandTask, check: () => void = () => {}): IslandResult {
  check();
  const prepared = prepare(task.positions, task.triangles);
  check();
  let uv = conformal(prepared);
  let steps = 0;
  if (task.method === 'rigid') {
    const result = rigid(prepared, uv, { check });
    uv = result.uv;
    steps = result.steps;
  }
  return { uv, steps, flips: flipCount(task.triangles, uv) };
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
