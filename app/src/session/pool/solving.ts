import { heightField } from '@jig-peel/core/mesh/starterForms';
import { solveIsland, type IslandResult, type IslandTask } from '@jig-peel/core/unwrap/solveIsland';
import type { Tools } from './tasks.ts';

/** Islands of more triangles tell how far they are. */
const tellsFrom = 5000;

export function solve(tasks: IslandTask[], { check, progress }: Tools): IslandResult[] {
  const total = tasks.reduce((sum, task) => sum + task.triangles.length, 0) || 1;
  let done = 0;
  return tasks.map((task) => {
    const part = task.triangles.length / total;
    // small ones are done before anyone could look
    const tells = task.triangles.length > tellsFrom * 3 ? (share: number) => progress(done + share * part, '') : undefined;
    const result = solveIsland(task, check, tells);
    done += part;
    return result;
  });
}

export function warm(): null {
  const { points, faceStart, corners } = heightField(24, 24, (u, v) => [u, v, 0.2 * Math.sin(6 * u) * Math.cos(5 * v)]);
  const triangles = new Uint32Array((faceStart.length - 1) * 6);
  for (let f = 0; f < faceStart.length - 1; f++)
    triangles.set(
      [0, 1, 2, 0, 2, 3].map((k) => corners[f * 4 + k]!),
      f * 6,
    );
  for (let k = 0; k < 4; k++) {
    const { uv, rank } = solveIsland({ positions: points, triangles, method: 'isometric', apart: true });
    solveIsland({ positions: points, triangles, method: 'isometric', quick: true, start: uv, rank });
    solveIsland({ positions: points, triangles, method: 'isometric', apart: true, over: k % 2 === 0, start: uv });
  }
  return null;
}
