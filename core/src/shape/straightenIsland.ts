import { JigError } from '../jigError.ts';
import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { cut, separateFans } from '../seams/cut.ts';
import { shortestPaths, pathTo } from '../seams/shortestPaths.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { pieceOfFaces, type Piece } from '../unwrap/piece.ts';
import { presentOf } from '../unwrap/unwrapIslands.ts';
import { borderLoops } from './strip.ts';
import { mainRun } from './mainRun.ts';
import { judgePiece, orNull, straightenPiece, withHeld, type Straightened, type StraightenHow } from './straighten.ts';
import * as portable from '../numeric/portable.ts';

/** How a straight strip is turned: its kept line along u, along v, whichever of these is nearer to how it lies, or as it lies. */
export const layWays = ['nearest', 'level', 'upright', 'asLies'] as const;
export type LayWay = (typeof layWays)[number];

export interface StraightenedIsland extends Omit<Straightened, 'flat' | 'fits'> {
  island: number;
  /** Faces that fit no grid of quads, of an island laid by one. */
  unfit: number[];
  /** Faces of branches, which follow the longest run. */
  follow: number;
  /** UV units a unit of length: what the lengths are multiplied by on the sheet. */
  scale: number;
  /** Edges that were cut to open a ring. */
  opened: number[];
}

/**
 * Lays an island of a layout straight (see `straightenPiece`) in its place, at its size; a closed ring is opened along the shortest way across.
 * @param set u scaled so that a unit is square
 * @param px length that the kept line is given on the sheet, in heights of it; absent: its own on the model
 * @param edges of the line to keep, with `keep: 'edges'`
 * @throws JigError `nothing-to-do` for an island without a place, or one that is no strip
 */
export function straightenIsland(
  mesh: Mesh,
  given: UvSet,
  island: number,
  { px, ...how }: Omit<StraightenHow, 'line' | 'length'> & { px?: number },
  lay: LayWay,
  edges: ReadonlySet<number> = new Set(),
): { set: UvSet; report: StraightenedIsland } {
  const fact = islandFacts(mesh, given)[island]!;
  if (fact.unplaced) throw new JigError('nothing-to-do', 'It has no place on the sheet yet.', '', 'Unwrap it first.');
  const facesOf = (set: UvSet, i: number) => {
    const islands = islandsOf(mesh, set);
    return islands.faces.slice(islands.start[i], islands.start[i + 1]);
  };
  const faces = facesOf(given, island);
  const opened = fact.shape === 'ring' ? openRing(mesh, given, faces) : [];
  const cutSet = opened.length > 0 ? cut(mesh, given, opened).set : given;
  const set = separateFans(mesh, cutSet, faces);
  const piece = pieceOfFaces(mesh, set, faces);
  const { start, scale, mirror } = presentOf(piece, set);
  const { flat, ...report } = straightFaces(mesh, set, faces, px === undefined ? how : { ...how, length: px * scale }, edges);
  const turn = turnFor(lay, headingNear(start, flat));
  const [cos, sin] = [portable.cos(turn), portable.sin(turn)];
  const uv = set.uv.slice();
  const at = new Float64Array(flat.length);
  let [x, y, oldX, oldY] = [0, 0, 0, 0];
  for (let v = 0; v < piece.vertices; v++) {
    at[v * 2] = cos * flat[v * 2]! - sin * flat[v * 2 + 1]!;
    at[v * 2 + 1] = sin * flat[v * 2]! + cos * flat[v * 2 + 1]!;
    x += at[v * 2]!;
    y += at[v * 2 + 1]!;
    oldX += start[v * 2]!;
    oldY += start[v * 2 + 1]!;
  }
  for (let v = 0; v < piece.vertices; v++) {
    const p = piece.uvPoint[v]! * 2;
    uv[p] = ((at[v * 2]! + (oldX - x) / piece.vertices) / scale) * mirror;
    uv[p + 1] = (at[v * 2 + 1]! + (oldY - y) / piece.vertices) / scale;
  }
  return { set: { ...set, uv }, report: { ...report, island, scale: 1 / scale, opened } };
}

type Way = Omit<StraightenHow, 'line'>;
type Straight = Omit<Straightened, 'fits'> & Pick<StraightenedIsland, 'unfit' | 'follow'>;

/** The faces as one strip or grid; of a piece that branches its longest run, which the rest follows with the least stretch. */
function straightFaces(mesh: Mesh, set: UvSet, faces: Uint32Array, how: Way, edges: ReadonlySet<number>): Straight {
  const isAllQuads = faces.every((f) => mesh.faceStart[f + 1]! - mesh.faceStart[f]! === 4);
  // a grid may have any outline
  const grid = isAllQuads ? orNull(() => straightWhole(mesh, set, faces, how, edges)) : null;
  if (grid?.isGrid && grid.unfit.length === 0) return grid;
  const run = mainRun(mesh, set, faces);
  const straight = run && orNull(() => straightWhole(mesh, set, run, how, edges));
  if (!run || !straight) return grid ?? straightWhole(mesh, set, faces, how, edges);
  const piece = pieceOfFaces(mesh, set, faces);
  const vertexOf = new Map<number, number>();
  piece.uvPoint.forEach((p, v) => vertexOf.set(p, v));
  const flat = new Float64Array(piece.vertices * 2);
  const held = Array.from(pieceOfFaces(mesh, set, run).uvPoint, (p, v) => {
    const at = vertexOf.get(p)!;
    flat.set(straight.flat.subarray(v * 2, v * 2 + 2), at * 2);
    return at;
  });
  const whole = orNull(() => withHeld(piece, flat, held));
  const { crosses, ...judged } = judgePiece(piece, whole ?? flat);
  // branches that came to lie on one another or on the run
  if (!whole || crosses) return grid ?? straightWhole(mesh, set, faces, how, edges);
  return { ...straight, flat: whole, ...judged, follow: faces.length - run.length };
}

function straightWhole(mesh: Mesh, set: UvSet, faces: Uint32Array, how: Way, edges: ReadonlySet<number>): Straight {
  const piece = pieceOfFaces(mesh, set, faces);
  const local = new Map<number, number>();
  piece.uvPoint.forEach((p, v) => local.set(p, v));
  const line = how.keep === 'edges' ? chosenLine(mesh, set, faces, edges, local) : undefined;
  const quads = quadsOf(mesh, set, faces, local);
  const { fits, ...straight } = straightenPiece(piece, quads.vertices, { ...how, line });
  const fitting = new Set(fits ? quads.faces.filter((_, q) => fits[q] === 1) : []);
  return { ...straight, unfit: fits ? [...faces].filter((f) => !fitting.has(f)) : [], follow: 0 };
}

/** Right angles are exact, so that level lines are level to the last bit. */
function turnFor(lay: LayWay, near: number): number {
  const quarter = Math.PI / 2;
  if (lay === 'asLies') return near;
  const halfTurns = Math.round(near / Math.PI);
  if (lay === 'level') return halfTurns * Math.PI;
  if (lay === 'upright') return Math.round((near - quarter) / Math.PI) * Math.PI + quarter;
  return Math.round(near / quarter) * quarter;
}

/** The turn that takes places nearest to others, radians: the angle of Σ conj(from) · to about their means. */
function headingNear(to: Float64Array, from: Float64Array): number {
  const n = to.length / 2;
  const mean = (of: Float64Array, d: number) => of.reduce((sum, x, k) => sum + (k % 2 === d ? x : 0), 0) / n;
  const [tx, ty, fx, fy] = [mean(to, 0), mean(to, 1), mean(from, 0), mean(from, 1)];
  let [cos, sin] = [0, 0];
  for (let k = 0; k < to.length; k += 2) {
    const [a, b, c, d] = [from[k]! - fx, from[k + 1]! - fy, to[k]! - tx, to[k + 1]! - ty];
    cos += a * c + b * d;
    sin += a * d - b * c;
  }
  return portable.atan2(sin, cos);
}

/** The faces that are quads, and their 4 vertices each. */
function quadsOf(mesh: Mesh, set: UvSet, faces: ArrayLike<number>, local: ReadonlyMap<number, number>): { faces: number[]; vertices: number[] } {
  const out = { faces: [] as number[], vertices: [] as number[] };
  for (let k = 0; k < faces.length; k++) {
    const f = faces[k]!;
    if (mesh.faceStart[f + 1]! - mesh.faceStart[f]! !== 4) continue;
    out.faces.push(f);
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) out.vertices.push(local.get(set.cornerUv[c]!)!);
  }
  return out;
}

/** Chosen edges as one line of the piece's vertices. @throws JigError `nothing-to-do` where they are none */
function chosenLine(mesh: Mesh, set: UvSet, faces: ArrayLike<number>, edges: ReadonlySet<number>, local: ReadonlyMap<number, number>): number[] {
  const { cornerEdge } = topologyOf(mesh);
  const next = new Map<number, Set<number>>();
  const link = (a: number, b: number) => (next.get(a) ?? next.set(a, new Set()).get(a)!).add(b);
  for (let k = 0; k < faces.length; k++) {
    const f = faces[k]!;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      if (!edges.has(cornerEdge[c]!)) continue;
      const [a, b] = [local.get(set.cornerUv[c]!)!, local.get(set.cornerUv[nextCorner(mesh, c, f)]!)!];
      link(a, b);
      link(b, a);
    }
  }
  const ends = [...next].filter(([, to]) => to.size === 1).map(([v]) => v);
  const isLine = ends.length === 2 && [...next.values()].every((to) => to.size <= 2);
  if (!isLine) throw new JigError('nothing-to-do', 'The chosen edges are not one line on it.', '', 'Choose edges that run from one end to the other.');
  const line = [ends[0]!];
  for (let before = -1, at = ends[0]!; ;) {
    const to = [...next.get(at)!].find((v) => v !== before);
    if (to === undefined) break;
    line.push(to);
    [before, at] = [at, to];
  }
  if (line.length !== next.size)
    throw new JigError('nothing-to-do', 'The chosen edges are not one line on it.', '', 'Choose edges that run from one end to the other.');
  return line;
}

/** The shortest way over edges from one border of a ring to the other. */
function openRing(mesh: Mesh, given: UvSet, faces: Uint32Array): number[] {
  const set = separateFans(mesh, given, faces);
  const piece: Piece = pieceOfFaces(mesh, set, faces);
  const loops = borderLoops(piece);
  if (loops.length !== 2) throw new JigError('nothing-to-do', 'It has several holes: it is no band.', '', 'Cut it open first.');
  const { edgePoints, cornerEdge } = topologyOf(mesh);
  const { states } = islandsOf(mesh, given);
  const inside = new Set<number>();
  for (const f of faces) for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) if (states[cornerEdge[c]!] === 0) inside.add(cornerEdge[c]!);
  const length = (e: number) => Math.hypot(...[0, 1, 2].map((d) => mesh.points[edgePoints[e * 2]! * 3 + d]! - mesh.points[edgePoints[e * 2 + 1]! * 3 + d]!));
  const tree = shortestPaths(mesh, new Set(loops[0]!.map((v) => piece.point[v]!)), (e) => (inside.has(e) ? length(e) : Infinity));
  let best = -1;
  for (const v of loops[1]!) {
    const p = piece.point[v]!;
    if (best < 0 || tree.distance[p]! < tree.distance[best]!) best = p;
  }
  if (!(tree.distance[best]! < Infinity)) throw new JigError('nothing-to-do', 'No way over edges leads across it.', '', 'Cut it open first.');
  return pathTo(mesh, tree, best);
}
