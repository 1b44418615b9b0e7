import * as Comlink from 'comlink';
import { encode } from 'fast-png';
import { holdWhileAlive } from './alive.ts';
import {
  adviceSteps,
  jigPicture,
  checkLayout,
  heightField,
  solveIsland,
  testGrid,
  uvState,
  type Advice,
  type GridKind,
  type IslandResult,
  type IslandTask,
  type Mesh,
  type SmallPicture,
  type UvSet,
} from '@jig-peel/core';

/** Cells of a test grid along each side. */
const gridCells = 8;

let advising = 0;
let holdUntil = 0;
let heldMesh: { id: number; mesh: Mesh } | null = null;

/** One worker of the pool: solves islands, and measures a layout of the mesh it holds. */
const api = {
  alive: holdWhileAlive,

  solve(tasks: IslandTask[]): IslandResult[] {
    const results = tasks.map((task) => solveIsland(task));
    return Comlink.transfer(
      results,
      results.map(({ uv }) => uv.buffer as ArrayBuffer),
    );
  },

  /** Runs what unwrapping needs on a small form a few times, so that the engine has compiled it before the first real task. */
  warm(): void {
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
  },

  /** A test grid as RGBA, first row on top. */
  grid(kind: GridKind, size: number): Uint8Array {
    const { data } = testGrid(size, gridCells, kind);
    return Comlink.transfer(data, [data.buffer as ArrayBuffer]);
  },

  /** A test grid as a PNG file. */
  gridPng: (kind: GridKind, size: number): Uint8Array =>
    encode({ width: size, height: size, data: testGrid(size, gridCells, kind).data, channels: 4, depth: 8 }),

  holdsMesh: (id: number) => heldMesh?.id === id,

  holdMesh(id: number, mesh: Mesh): void {
    heldMesh = { id, mesh };
  },

  /** Projections ranked for the faces. */
  async advise(id: number, faces: Uint32Array): Promise<Advice[] | null> {
    if (heldMesh?.id !== id) throw new Error('the mesh is not here');
    const mine = ++advising;
    const steps = adviceSteps(heldMesh.mesh, faces);
    for (;;) {
      const { done, value } = steps.next();
      if (done) return value;
      // newer questions come in between; while a hand moves a jig it has the machine for itself
      do await new Promise((next) => setTimeout(next, Math.min(200, Math.max(0, holdUntil - Date.now()))));
      while (mine === advising && Date.now() < holdUntil);
      if (mine !== advising) return null;
    }
  },

  /** Advice waits so long. */
  hold(ms: number): void {
    holdUntil = Date.now() + ms;
  },

  /** Gives up what advice is being worked out. */
  leaveAdvice(): void {
    advising++;
  },

  /** What each of them makes of the faces, small. */
  picture(id: number, list: Advice[]): SmallPicture[] {
    if (heldMesh?.id !== id) throw new Error('the mesh is not here');
    const { mesh } = heldMesh;
    return list.map(({ parts }) => jigPicture(mesh, parts));
  },

  /** @param meant faces that may overlap or go beyond the sheet by design */
  check(id: number, set: UvSet, width: number, height: number, margin: number, meant: Uint8Array | null) {
    if (heldMesh?.id !== id) throw new Error('the mesh is not here');
    const { report, faults } = checkLayout(heldMesh.mesh, set, width, height);
    const state = uvState(heldMesh.mesh, set, { width, height, stretch: 1.5, gapPx: margin, angle: 45 }, faults, meant);
    return { report, faults, state };
  },
};

export type SolverApi = typeof api;
Comlink.expose(api);
