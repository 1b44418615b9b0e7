import { JigError } from '../jigError.ts';
import { quietContext, type Context } from '../context.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { separateFans } from '../seams/cut.ts';
import { islandFacts, islandLetter, islandsOf, shapeWords } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { nearestPlacement, uprightTurn } from './heading.ts';
import { pieceOf, type Piece } from './piece.ts';
import { solveIsland, type IslandResult, type IslandTask, type UnwrapMethod } from './solveIsland.ts';

export interface UnwrapReport {
  /** Islands that were laid flat (numbers of the layout). */
  islands: number[];
  /** Islands that were laid flat for the first time: they have no agreed place yet. */
  fresh: number[];
  triangles: number;
  flips: number;
  /** Islands that cannot lie flat as they are, and why. */
  left: { island: number; letter: string; why: string }[];
}

/**
 * Lays islands flat. One that had a place keeps its place, heading and scale; a new one is turned upright and sized like the rest.
 * Closed pieces and pieces with handles are left as they are and named in the report.
 *
 * @param which island numbers, or all
 * @throws JigError `cannot-lie-flat` when none of them can
 */
export async function unwrapIslands(
  mesh: Mesh,
  given: UvSet,
  which: readonly number[] | 'all',
  method: UnwrapMethod,
  context: Context = quietContext,
): Promise<{ set: UvSet; report: UnwrapReport }> {
  const islands = islandsOf(mesh, given);
  const facts = islandFacts(mesh, given);
  const wanted = which === 'all' ? facts.map((_, i) => i) : [...which];
  const left = wanted
    .filter((i) => facts[i]!.shape === 'closed' || facts[i]!.shape === 'handle')
    .map((island) => ({ island, letter: islandLetter(island), why: shapeWords[facts[island]!.shape] }));
  const ready = wanted.filter((i) => facts[i]!.shape === 'disk' || facts[i]!.shape === 'ring');
  if (ready.length === 0) {
    if (left.length === 0) throw new JigError('nothing-to-do', 'There is no island to unwrap.', '', 'Choose at least one island.');
    const first = left[0]!;
    throw new JigError('cannot-lie-flat', `Piece ${first.letter} is ${first.why}.`, '', 'Cut some seams, or let “Open it” cut the shortest ones.');
  }
  const faces = ready.flatMap((i) => Array.from(islands.faces.subarray(islands.start[i]!, islands.start[i + 1]!)));
  const set = separateFans(mesh, given, faces);
  const pieces = ready.map((i) => pieceOf(mesh, set, i));
  const tasks: IslandTask[] = pieces.map(({ positions, triangles }) => ({ positions, triangles, method }));
  context.progress(0, `Unwrapping ${ready.length} ${ready.length === 1 ? 'island' : 'islands'}`);
  const results = context.pool ? await context.pool.solve(tasks, context) : solveHere(tasks, context);
  context.throwIfCancelled();

  const uv = set.uv.slice();
  const density = commonDensity(mesh, given);
  const unplaced = set.unplaced.slice();
  const report: UnwrapReport = { islands: ready, fresh: [], triangles: 0, flips: 0, left };
  ready.forEach((island, k) => {
    const piece = pieces[k]!;
    const result = results[k]!;
    const isFresh = facts[island]!.unplaced;
    if (isFresh) report.fresh.push(island);
    placePiece(piece, result.uv, uv, isFresh, density);
    report.triangles += piece.triangles.length / 3;
    report.flips += result.flips;
    for (let f = islands.start[island]!; f < islands.start[island + 1]!; f++) unplaced[islands.faces[f]!] = 0;
  });
  return { set: { ...set, uv, unplaced }, report };
}

function solveHere(tasks: IslandTask[], context: Context): IslandResult[] {
  const total = tasks.reduce((sum, task) => sum + task.triangles.length, 0) || 1;
  let done = 0;
  return tasks.map((task) => {
    const result = solveIsland(task, () => context.throwIfCancelled());
    done += task.triangles.length;
    context.progress(done / total, 'Unwrapping');
    return result;
  });
}

/** UV length a unit of length: of what is placed, else so that everything covers about half the sheet. */
function commonDensity(mesh: Mesh, set: UvSet): number {
  const islands = islandsOf(mesh, set);
  let area = 0;
  let flat = 0;
  let all = 0;
  for (let i = 0; i < islands.count; i++) {
    for (let k = islands.start[i]!; k < islands.start[i + 1]!; k++) {
      const f = islands.faces[k]!;
      const [inSpace, onSheet] = faceAreasOf(mesh, set, f);
      all += inSpace;
      if (set.unplaced[f]) continue;
      area += inSpace;
      flat += onSheet;
    }
  }
  if (area > 0 && flat > 0) return Math.sqrt(flat / area);
  return all > 0 ? Math.sqrt(0.5 / all) : 1;
}

/** Area of a face in space (units²) and on the sheet (shares of it). */
export function faceAreasOf(mesh: Mesh, set: UvSet, f: number): [number, number] {
  const { points, corners, faceStart } = mesh;
  const first = faceStart[f]!;
  const o = corners[first]! * 3;
  const q = set.cornerUv[first]! * 2;
  let x = 0,
    y = 0,
    z = 0,
    flat = 0;
  for (let c = first + 1; c + 1 < faceStart[f + 1]!; c++) {
    const a = corners[c]! * 3,
      b = corners[c + 1]! * 3;
    const ux = points[a]! - points[o]!,
      uy = points[a + 1]! - points[o + 1]!,
      uz = points[a + 2]! - points[o + 2]!;
    const vx = points[b]! - points[o]!,
      vy = points[b + 1]! - points[o + 1]!,
      vz = points[b + 2]! - points[o + 2]!;
    x += uy * vz - uz * vy;
    y += uz * vx - ux * vz;
    z += ux * vy - uy * vx;
    const i = set.cornerUv[c]! * 2,
      j = set.cornerUv[c + 1]! * 2;
    flat += (set.uv[i]! - set.uv[q]!) * (set.uv[j + 1]! - set.uv[q + 1]!) - (set.uv[j]! - set.uv[q]!) * (set.uv[i + 1]! - set.uv[q + 1]!);
  }
  return [Math.hypot(x, y, z) / 2, Math.abs(flat) / 2];
}

function placePiece(piece: Piece, flat: Float64Array, uv: Float64Array, fresh: boolean, density: number) {
  const { vertices, uvPoint, triangles, positions } = piece;
  const old = new Float64Array(vertices * 2);
  for (let k = 0; k < vertices; k++) {
    old[k * 2] = uv[uvPoint[k]! * 2]!;
    old[k * 2 + 1] = uv[uvPoint[k]! * 2 + 1]!;
  }
  const oldArea = signedArea(triangles, old);
  let move;
  if (fresh || !(Math.abs(oldArea.sum) > 0)) {
    const { cos, sin } = uprightTurn(piece, flat);
    move = { a: cos * density, b: sin * density, x: 0, y: 0 };
    let u = 0,
      v = 0;
    for (let k = 0; k < vertices; k++) {
      u += move.a * flat[k * 2]! - move.b * flat[k * 2 + 1]!;
      v += move.b * flat[k * 2]! + move.a * flat[k * 2 + 1]!;
    }
    move.x = 0.5 - u / vertices;
    move.y = 0.5 - v / vertices;
  } else {
    const mirrored = oldArea.sum < 0;
    if (mirrored) for (let k = 0; k < vertices; k++) flat[k * 2]! *= -1;
    const size = Math.sqrt(oldArea.absolute / (signedArea(triangles, flat).absolute || 1));
    move = nearestPlacement(flat, old, vertexAreas(positions, triangles, vertices), size);
  }
  for (let k = 0; k < vertices; k++) {
    const x = flat[k * 2]!;
    const y = flat[k * 2 + 1]!;
    uv[uvPoint[k]! * 2] = move.a * x - move.b * y + move.x;
    uv[uvPoint[k]! * 2 + 1] = move.b * x + move.a * y + move.y;
  }
}

function signedArea(triangles: Uint32Array, uv: Float64Array) {
  let sum = 0;
  let absolute = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const a = triangles[t]! * 2,
      b = triangles[t + 1]! * 2,
      c = triangles[t + 2]! * 2;
    const area = ((uv[b]! - uv[a]!) * (uv[c + 1]! - uv[a + 1]!) - (uv[c]! - uv[a]!) * (uv[b + 1]! - uv[a + 1]!)) / 2;
    sum += area;
    absolute += Math.abs(area);
  }
  return { sum, absolute };
}

function vertexAreas(positions: Float64Array, triangles: Uint32Array, vertices: number): Float64Array {
  const weight = new Float64Array(vertices).fill(1e-30);
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t]! * 3, triangles[t + 1]! * 3, triangles[t + 2]! * 3];
    const ux = positions[b]! - positions[a]!,
      uy = positions[b + 1]! - positions[a + 1]!,
      uz = positions[b + 2]! - positions[a + 2]!;
    const vx = positions[c]! - positions[a]!,
      vy = positions[c + 1]! - positions[a + 1]!,
      vz = positions[c + 2]! - positions[a + 2]!;
    const area = Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx);
    for (let k = 0; k < 3; k++) weight[triangles[t + k]!]! += area;
  }
  return weight;
}
