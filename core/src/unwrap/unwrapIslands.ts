import { JigError } from '../jigError.ts';
import { quietContext, type Context } from '../context.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { separateFans } from '../seams/cut.ts';
import { islandFacts, islandLetter, islandsOf, shapeWords } from '../uv/islands.ts';
import { shrunkShare } from '../uv/shrunkShare.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import * as portable from '../numeric/portable.ts';
import { nearestPlacement, placedAt, uprightTurn } from './heading.ts';
import { hasWishes, headingStep, type Wishes } from './wishes.ts';
import { sizesByKept } from './keptLengths.ts';
import { pieceOf, type Piece } from './piece.ts';
import { earlierRank, keepRanks, ranksAt, type Ranks } from '../uv/ranks.ts';
import { safePolygons } from './safePolygons.ts';
import { solveIsland, type IslandResult, type IslandTask, type UnwrapMethod } from './solveIsland.ts';

export interface UnwrapReport {
  /** Islands that were laid flat (numbers of the layout). */
  islands: number[];
  /** Islands that were laid flat for the first time: they have no agreed place yet. */
  fresh: number[];
  triangles: number;
  flips: number;
  /** Symmetric Dirichlet energy of what was laid flat, area-weighted mean: 4 without stretch. */
  energy: number;
  /** Islands that another method had laid over themselves, or (“keep shapes”) whose triangles it had turned over, put right by least stretch. */
  putRight: number;
  /** Islands laid by angles that would have overlapped themselves, and are held apart: there angles give way. */
  heldApart: number;
  /** Share of the surface that keeping angles left hardly a px of (see `shrunkShare`). */
  shrunk: number;
  /** Faces that are convex on the model and stay concave on the sheet. */
  concave: number;
  /** Islands that cannot lie flat as they are, and why. */
  left: { island: number; letter: string; why: string }[];
}

export interface UnwrapHow {
  /** Only a first shape, to be seen at once. */
  quick?: boolean;
  /** No island may lie over itself. */
  apart?: boolean;
  /** A layout of the same UV points that says the size of islands whose pins were drawn away; default: the one given. */
  sizeOf?: UvSet;
  /** Start from the present layout. */
  warm?: boolean;
  /** Milliseconds an island may take: the best so far is good enough then. */
  timeLimit?: number;
  /** The way that the picture is to run over each face (3 numbers, a unit vector in its plane), and the axis of the sheet that it runs along there. */
  grain?: { grain: Float64Array; aim: number };
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
  how: UnwrapHow = {},
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
  const tasks: IslandTask[] = pieces.map((piece, k) => {
    const own = islands.faces.subarray(islands.start[ready[k]!]!, islands.start[ready[k]! + 1]!);
    const wishes: Wishes = { lines: piece.lines, lengths: piece.lengths, grain: how.grain && grainWay(mesh, own, piece, how.grain) };
    return { ...taskOf(set, piece, facts[ready[k]!]!.unplaced, method, how, ranksAt(given)), ...(hasWishes(wishes) ? { wishes } : {}) };
  });
  context.progress(0, `Unwrapping ${ready.length} ${ready.length === 1 ? 'island' : 'islands'}`);
  const results = context.pool?.solve ? await context.pool.solve(tasks, context) : solveHere(tasks, context);
  context.throwIfCancelled();

  const uv = set.uv.slice();
  // only what has no place yet needs it
  let known: number | undefined;
  const density = () => (known ??= commonDensity(mesh, given));
  const sizes = method === 'isometric' && !how.quick ? sizesByKept(mesh, set, ready) : [];
  const unplaced = set.unplaced.slice();
  const report: UnwrapReport = { islands: ready, fresh: [], triangles: 0, flips: 0, energy: 0, putRight: 0, heldApart: 0, shrunk: 0, concave: 0, left };
  let space = 0;
  ready.forEach((island, k) => {
    const piece = pieces[k]!;
    const result = results[k]!;
    const isFresh = facts[island]!.unplaced;
    if (isFresh) report.fresh.push(island);
    if (tasks[k]!.pins) keepPins(piece, set, result.uv, uv, carried(how.sizeOf, set));
    else {
      const { wishes } = tasks[k]!;
      placePiece(piece, result.uv, uv, isFresh, density, set.pins, method === 'isometric' && wishes && !how.quick ? wishes : {}, sizes[k] ?? undefined);
    }
    const own = signedArea(piece.triangles, result.uv).absolute;
    space += own;
    report.energy += own * result.energy;
    if (result.putRight) report.putRight++;
    if (result.heldApart) report.heldApart++;
    report.triangles += piece.triangles.length / 3;
    report.flips += result.flips;
    for (let f = islands.start[island]!; f < islands.start[island + 1]!; f++) unplaced[islands.faces[f]!] = 0;
  });
  report.energy = space > 0 ? report.energy / space : 4;
  const flat: UvSet = { ...set, uv, unplaced };
  // a first look need not be safe
  const safe = how.quick ? null : safePolygons(mesh, flat, ready);
  const laid = safe?.set ?? flat;
  report.concave = safe?.left ?? 0;
  if (method === 'conformal' && !how.quick) report.shrunk = shrunkShare(mesh, laid, islands, ready);
  const ranks = how.quick ? ranksAt(given) : withOrders(ranksAt(given), mesh.points.length / 3, pieces, tasks, results);
  if (ranks) keepRanks(laid, ranks);
  return { set: laid, report };
}

function taskOf(set: UvSet, piece: Piece, fresh: boolean, method: UnwrapMethod, how: UnwrapHow, ranks: Ranks | undefined): IslandTask {
  const { positions, triangles, uvPoint, point } = piece;
  const task: IslandTask = { positions, triangles, method, quick: how.quick, timeLimit: how.timeLimit, apart: how.apart };
  if (piece.care) task.care = piece.care;
  if (fresh) return task;
  const present = presentOf(piece, set, carried(how.sizeOf, set));
  if (how.warm || how.quick) {
    // pins that were drawn away are no start; the layout before is
    task.start = how.sizeOf ? presentOf(piece, carried(how.sizeOf, set) ?? set).start : present.start;
    task.rank = earlierRank(ranks, point);
  }
  const pinned = [...uvPoint.keys()].filter((v) => set.pins[uvPoint[v]!]);
  if (pinned.length > 1)
    task.pins = { vertices: Uint32Array.from(pinned), places: Float64Array.from(pinned.flatMap((v) => [present.start[v * 2]!, present.start[v * 2 + 1]!])) };
  return task;
}

/** A layout to take sizes from, if it still has the same UV points. */
const carried = (sizeOf: UvSet | undefined, set: UvSet) => (sizeOf && sizeOf.uv.length === set.uv.length ? sizeOf : undefined);

/** The piece as it lies, in its own units and the right way up, and what that was multiplied by. */
export function presentOf(
  { positions, triangles, vertices, uvPoint }: Pick<Piece, 'positions' | 'triangles' | 'vertices' | 'uvPoint'>,
  set: UvSet,
  sizeOf: UvSet = set,
) {
  const start = new Float64Array(vertices * 2);
  for (let v = 0; v < vertices; v++) {
    start[v * 2] = set.uv[uvPoint[v]! * 2]!;
    start[v * 2 + 1] = set.uv[uvPoint[v]! * 2 + 1]!;
  }
  const sized = sizeOf === set ? start : start.map((_, k) => sizeOf.uv[uvPoint[k >> 1]! * 2 + (k & 1)]!);
  const { sum, absolute } = signedArea(triangles, sized);
  const weight = vertexAreas(positions, triangles, vertices);
  const space = weight.reduce((total, w) => total + w, 0) / 6;
  const scale = absolute > 0 ? Math.sqrt(space / absolute) : 1;
  const mirror = sum < 0 ? -1 : 1;
  for (let k = 0; k < start.length; k += 2) {
    start[k]! *= scale * mirror;
    start[k + 1]! *= scale;
  }
  return { start, scale, mirror };
}

/** What the UVs of some faces are multiplied by to be as large as the faces in space, and whether they lie mirrored (−1). O(corners). */
export function presentScale(mesh: Mesh, set: UvSet, faces: ArrayLike<number>): { scale: number; mirror: number } {
  let [space, flat, sum] = [0, 0, 0];
  for (let k = 0; k < faces.length; k++) {
    const [inSpace, onSheet] = faceAreasOf(mesh, set, faces[k]!);
    space += inSpace;
    flat += Math.abs(onSheet);
    sum += onSheet;
  }
  return { scale: flat > 0 ? Math.sqrt(space / flat) : 1, mirror: sum < 0 ? -1 : 1 };
}

/** Two and more pins say place, heading and size. */
function keepPins(piece: Piece, set: UvSet, flat: Float64Array, uv: Float64Array, sizeOf: UvSet | undefined) {
  const { scale, mirror } = presentOf(piece, set, sizeOf);
  for (let v = 0; v < piece.vertices; v++) {
    uv[piece.uvPoint[v]! * 2] = (flat[v * 2]! / scale) * mirror;
    uv[piece.uvPoint[v]! * 2 + 1] = flat[v * 2 + 1]! / scale;
  }
}

/** What is known of orders with those that were found now; an order that was given is known already. */
function withOrders(known: Ranks | undefined, points: number, pieces: readonly Piece[], tasks: readonly IslandTask[], results: readonly IslandResult[]) {
  const found = pieces.map((_, k) => k).filter((k) => !tasks[k]!.rank && results[k]!.rank.length > 0);
  if (found.length === 0) return known;
  const rank = known ? known.rank.slice() : new Int32Array(points);
  const solve = known ? known.solve.slice() : new Int32Array(points).fill(-1);
  let solves = known?.solves ?? 0;
  for (const k of found) {
    const { point } = pieces[k]!;
    for (let v = 0; v < point.length; v++) {
      rank[point[v]!] = results[k]!.rank[v]!;
      solve[point[v]!] = solves;
    }
    solves++;
  }
  return { rank, solve, solves };
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
      flat += Math.abs(onSheet);
    }
  }
  if (area > 0 && flat > 0) return Math.sqrt(flat / area);
  return all > 0 ? Math.sqrt(0.5 / all) : 1;
}

/** Area of a face in space (units²) and on the sheet (shares of it; below 0 where it lies mirrored). */
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
  return [Math.hypot(x, y, z) / 2, flat / 2];
}

/** The grain of a piece's triangles, each in its own plane; undefined where none of its faces has one. O(T) */
function grainWay(
  mesh: Mesh,
  faces: ArrayLike<number>,
  { positions, triangles }: Piece,
  { grain, aim }: NonNullable<UnwrapHow['grain']>,
): Wishes['grain'] | undefined {
  const { faceStart } = trianglesOf(mesh);
  const along = aim === Math.PI / 2 ? 'v' : 'u';
  // a picture that runs aslant: what is turned back by as much is to run along u
  const lean = along === 'u' ? aim : 0;
  const [cos, sin] = [portable.cos(lean), portable.sin(lean)];
  const way = new Float64Array((triangles.length / 3) * 2);
  let any = false;
  let t = 0;
  for (let k = 0; k < faces.length; k++) {
    const f = faces[k]!;
    const wish = grain.subarray(f * 3, f * 3 + 3);
    for (let n = faceStart[f]!; n < faceStart[f + 1]!; n++, t++) {
      if (wish[0] === 0 && wish[1] === 0 && wish[2] === 0) continue;
      const at = (c: number, d: number) => positions[triangles[t * 3 + c]! * 3 + d]! - positions[triangles[t * 3]! * 3 + d]!;
      const [long, dot] = [0, 1, 2].reduce(([l, s], d) => [l! + at(1, d) ** 2, s! + at(1, d) * at(2, d)], [0, 0]) as [number, number];
      if (long === 0) continue;
      let [x, y, height] = [0, 0, 0];
      for (let d = 0; d < 3; d++) {
        const up = at(2, d) - (dot / long) * at(1, d);
        x += (wish[d]! * at(1, d)) / Math.sqrt(long);
        y += wish[d]! * up;
        height += up * up;
      }
      if (height === 0) continue;
      y /= Math.sqrt(height);
      way[t * 2] = x * cos + y * sin;
      way[t * 2 + 1] = y * cos - x * sin;
      any = true;
    }
  }
  return any ? { way, along, lean } : undefined;
}

/** A turn, given by its cosine and sine, to the nearest of so many quarter turns. */
function inSteps(cos: number, sin: number, quarters: number): [number, number] {
  const step = (quarters * Math.PI) / 2;
  const turns = (((Math.round(portable.atan2(sin, cos) / step) * quarters) % 4) + 4) % 4;
  return (
    [
      [1, 0],
      [0, 1],
      [-1, 0],
      [0, -1],
    ] as const
  )[turns] as [number, number];
}

/** @param given UV length a unit of length, where others say it */
function placePiece(
  piece: Piece,
  flat: Float64Array,
  uv: Float64Array,
  fresh: boolean,
  density: () => number,
  pins: Uint8Array,
  wishes: Wishes,
  given?: number,
) {
  const quarters = headingStep(wishes);
  const { vertices, uvPoint, triangles, positions } = piece;
  const old = new Float64Array(vertices * 2);
  for (let k = 0; k < vertices; k++) {
    old[k * 2] = uv[uvPoint[k]! * 2]!;
    old[k * 2 + 1] = uv[uvPoint[k]! * 2 + 1]!;
  }
  const oldArea = signedArea(triangles, old);
  let move;
  if (fresh || !(Math.abs(oldArea.sum) > 0)) {
    const upright = uprightTurn(piece, flat);
    const [cos, sin] = quarters > 0 ? inSteps(upright.cos, upright.sin, quarters) : [upright.cos, upright.sin];
    const scale = given ?? density();
    move = { a: cos * scale, b: sin * scale, x: 0, y: 0 };
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
    const size = given ?? Math.sqrt(oldArea.absolute / (signedArea(triangles, flat).absolute || 1));
    const weight = vertexAreas(positions, triangles, vertices);
    move = nearestPlacement(flat, old, weight, size);
    if (quarters > 0) {
      // mirrored, a picture that ran along u runs against it, and one that leaned leans the other way
      const back = 2 * (wishes.grain?.lean ?? 0);
      const [cos, sin] = mirrored && wishes.grain?.along === 'u' ? [-portable.cos(back), -portable.sin(back)] : inSteps(move.a, move.b, quarters);
      move = placedAt(flat, old, weight, cos * size, sin * size);
    }
    // one pin says the place
    const pin = uvPoint.findIndex((p) => pins[p] === 1);
    if (pin >= 0) {
      move.x = old[pin * 2]! - (move.a * flat[pin * 2]! - move.b * flat[pin * 2 + 1]!);
      move.y = old[pin * 2 + 1]! - (move.b * flat[pin * 2]! + move.a * flat[pin * 2 + 1]!);
    }
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
    const area = Math.sqrt((uy * vz - uz * vy) ** 2 + (uz * vx - ux * vz) ** 2 + (ux * vy - uy * vx) ** 2);
    for (let k = 0; k < 3; k++) weight[triangles[t + k]!]! += area;
  }
  return weight;
}
