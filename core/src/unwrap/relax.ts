import { quietContext, type Context } from '../context.ts';
import { JigError } from '../jigError.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { separateFans } from '../seams/cut.ts';
import { islandLetter, islandsOf } from '../uv/islands.ts';
import { keepsLength, straightCorners } from '../uv/straight.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { prepare } from './conformal.ts';
import { withCare } from './solveIsland.ts';
import { isometric, stretchEnergy } from './isometric.ts';
import { safePolygons } from './safePolygons.ts';
import { pieceOf } from './piece.ts';
import { keptRatio } from './keptLengths.ts';
import { hasWishes, layToWishes } from './wishes.ts';
import { presentOf } from './unwrapIslands.ts';

export interface RelaxOptions {
  /** Only these faces move; default all. */
  faces?: ArrayLike<number> | null;
  /** Borders of the islands stay. */
  holdBorder?: boolean;
  /** Most steps; default 40. */
  steps?: number;
}

/**
 * Least stretch from the layout as it lies, place, heading and size kept. Pins, held borders and faces that were not chosen do not move.
 * @returns energies before and after, area-weighted means over the islands
 * @throws JigError `flipped` for islands with triangles turned over: they have no way back by small steps
 */
export function relaxIslands(mesh: Mesh, given: UvSet, which: readonly number[], options: RelaxOptions = {}, context: Context = quietContext) {
  const { faces = null, holdBorder = false, steps = 40 } = options;
  const islands = islandsOf(mesh, given);
  const all = which.flatMap((i) => Array.from(islands.faces.subarray(islands.start[i]!, islands.start[i + 1]!)));
  const set = separateFans(mesh, given, all);
  const uv = set.uv.slice();
  const free = faces ? new Uint8Array(mesh.faceStart.length - 1) : null;
  if (free) for (let k = 0; k < faces!.length; k++) free[faces![k]!] = 1;
  let [before, after, area] = [0, 0, 0];
  for (const [n, island] of which.entries()) {
    context.progress(n / which.length, 'Relaxing');
    const piece = pieceOf(mesh, set, island);
    const { start, scale: byArea, mirror } = presentOf(piece, set);
    // edges that keep their length say the size
    const own = islands.faces.subarray(islands.start[island]!, islands.start[island + 1]!);
    const ratio = piece.lengths ? keptRatio(mesh, set, straightCorners(mesh, set, own, keepsLength)) : null;
    const scale = ratio ? 1 / ratio : byArea;
    if (ratio) for (let k = 0; k < start.length; k++) start[k]! *= scale / byArea;
    const prepared = prepare(piece.positions, piece.triangles);
    const first = stretchEnergy(prepared, start);
    if (!Number.isFinite(first))
      throw new JigError(
        'cannot-lie-flat',
        `Piece ${islandLetter(island)} has triangles turned over: small steps cannot put them right.`,
        '',
        'Unwrap it, then relax.',
      );
    const held = new Set<number>();
    piece.uvPoint.forEach((p, v) => set.pins[p] && held.add(v));
    if (holdBorder) for (const v of prepared.border) held.add(v);
    if (free) {
      // a vertex moves only if every face round it may
      const at = new Map<number, number>();
      piece.uvPoint.forEach((p, v) => at.set(p, v));
      for (let k = islands.start[island]!; k < islands.start[island + 1]!; k++) {
        const f = islands.faces[k]!;
        if (!free[f]) for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) held.add(at.get(set.cornerUv[c]!)!);
      }
    }
    const check = () => context.throwIfCancelled();
    const weighed = withCare(prepared, piece.care);
    // edges that are to be straight stay so
    const wishes = { lines: piece.lines, lengths: piece.lengths };
    const laid = hasWishes(wishes)
      ? layToWishes(weighed, start, wishes, { pinned: [...held], steps, check })
      : isometric(weighed, start, { held, steps, check }).uv;
    before += first;
    after += stretchEnergy(prepared, laid);
    for (let t = 0; t < prepared.flat.count; t++) area += prepared.flat.area[t]!;
    // nothing held: the island could have drifted and turned
    const move = held.size > 0 ? { x: 0, y: 0 } : drift(start, laid);
    for (let v = 0; v < piece.vertices; v++) {
      uv[piece.uvPoint[v]! * 2] = ((laid[v * 2]! + move.x) / scale) * mirror;
      uv[piece.uvPoint[v]! * 2 + 1] = (laid[v * 2 + 1]! + move.y) / scale;
    }
  }
  const relaxed = { ...set, uv };
  return { set: free || holdBorder ? relaxed : safePolygons(mesh, relaxed, which).set, before: before / area, after: after / area };
}

function drift(from: Float64Array, to: Float64Array): { x: number; y: number } {
  let [x, y] = [0, 0];
  for (let k = 0; k < from.length; k += 2) {
    x += from[k]! - to[k]!;
    y += from[k + 1]! - to[k + 1]!;
  }
  return { x: (2 * x) / from.length, y: (2 * y) / from.length };
}
