import * as Comlink from 'comlink';
import { checkLayout, solveIsland, uvState, type IslandResult, type IslandTask, type Mesh, type UvSet } from '@jig-peel/core';

let heldMesh: { id: number; mesh: Mesh } | null = null;

/** One worker of the pool: solves islands, and measures a layout of the mesh it holds. */
const api = {
  solve(task: IslandTask): IslandResult {
    const result = solveIsland(task);
    return Comlink.transfer(result, [result.uv.buffer as ArrayBuffer]);
  },

  holdsMesh: (id: number) => heldMesh?.id === id,

  holdMesh(id: number, mesh: Mesh): void {
    heldMesh = { id, mesh };
  },

  check(id: number, set: UvSet, width: number, height: number, margin: number) {
    if (heldMesh?.id !== id) throw new Error('the mesh is not here');
    const { report, faults } = checkLayout(heldMesh.mesh, set, width, height);
    const state = uvState(heldMesh.mesh, set, { width, height, stretch: 1.5, gapPx: margin, angle: 45 }, faults);
    return { report, faults, state };
  },
};

export type SolverApi = typeof api;
Comlink.expose(api);
