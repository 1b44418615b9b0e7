import { JigError } from '../jigError.ts';
import type { Piece } from '../unwrap/piece.ts';
import * as portable from '../numeric/portable.ts';

/** A piece seen as a strip: its border as four sides, each from corner to corner, the piece on the left. Vertex numbers of the piece. */
export interface Strip {
  /** The two long sides run against one another, as the border does: bottom from left to right, top from right to left. */
  bottom: number[];
  right: number[];
  top: number[];
  left: number[];
}

/** A corner of a strip turns by more than this, radians. */
export const leastTurn = 0.6;
/** So many of the sharpest are looked at. */
const mostCorners = 14;

/** Border loops of a piece as vertices in order, the piece on the left. O(triangles) */
export function borderLoops({ triangles, vertices }: Pick<Piece, 'triangles' | 'vertices'>): number[][] {
  // the half edges that leave each vertex
  const start = new Uint32Array(vertices + 1);
  for (let k = 0; k < triangles.length; k++) start[triangles[k]! + 1]!++;
  for (let v = 0; v < vertices; v++) start[v + 1]! += start[v]!;
  const filled = start.slice(0, vertices);
  const ends = new Uint32Array(triangles.length);
  for (let k = 0; k < triangles.length; k++) ends[filled[triangles[k]!]!++] = triangles[k % 3 === 2 ? k - 2 : k + 1]!;
  const open = new Map<number, number>();
  for (let a = 0; a < vertices; a++)
    for (let k = start[a]!; k < start[a + 1]!; k++) {
      const b = ends[k]!;
      let hasTwin = false;
      for (let n = start[b]!; n < start[b + 1]! && !hasTwin; n++) hasTwin = ends[n] === a;
      if (!hasTwin) open.set(a, b);
    }
  const loops: number[][] = [];
  for (const start of open.keys()) {
    const loop: number[] = [];
    let at = start;
    while (open.has(at)) {
      loop.push(at);
      const next = open.get(at)!;
      open.delete(at);
      at = next;
    }
    if (loop.length > 0 && at === start) loops.push(loop);
  }
  return loops;
}

const lengthBetween = (positions: Float64Array, a: number, b: number) =>
  Math.hypot(positions[a * 3]! - positions[b * 3]!, positions[a * 3 + 1]! - positions[b * 3 + 1]!, positions[a * 3 + 2]! - positions[b * 3 + 2]!);

/** Length of a line of vertices in space. */
export function lineLength(positions: Float64Array, line: readonly number[]): number {
  let sum = 0;
  for (let k = 1; k < line.length; k++) sum += lengthBetween(positions, line[k - 1]!, line[k]!);
  return sum;
}

/** How much the border turns at each of its vertices, radians: what its angle on the surface lacks of a half turn; 0 elsewhere. O(triangles) */
export function turns({ positions, triangles, vertices }: Pick<Piece, 'positions' | 'triangles' | 'vertices'>, border: readonly number[]): Float64Array {
  const out = new Float64Array(vertices);
  const onBorder = new Uint8Array(vertices);
  for (const v of border) {
    onBorder[v] = 1;
    out[v] = Math.PI;
  }
  for (let k = 0; k < triangles.length; k++) {
    const v = triangles[k]!;
    if (!onBorder[v]) continue;
    const t = k - (k % 3);
    const [a, b, c] = [v * 3, triangles[t + ((k + 1) % 3)]! * 3, triangles[t + ((k + 2) % 3)]! * 3];
    let [dot, uu, vv] = [0, 0, 0];
    for (let d = 0; d < 3; d++) {
      const x = positions[b + d]! - positions[a + d]!;
      const y = positions[c + d]! - positions[a + d]!;
      dot += x * y;
      uu += x * x;
      vv += y * y;
    }
    const size = Math.sqrt(uu * vv) || 1;
    out[v]! -= portable.acos(Math.max(-1, Math.min(1, dot / size)));
  }
  return out;
}

/**
 * Finds the four sides of a strip by where its border turns: the four corners that turn most and whose opposite sides are nearest to one another in length.
 * @throws JigError `nothing-to-do` for a piece that has no four corners, or several borders
 */
export function stripOf(piece: Pick<Piece, 'positions' | 'triangles' | 'vertices'>): Strip {
  const loops = borderLoops(piece);
  if (loops.length !== 1) throw new JigError('nothing-to-do', 'It has more than one border: it is no strip.', '', 'Cut it open first.');
  const loop = loops[0]!;
  const turn = turns(piece, loop);
  const at = [0];
  for (let k = 0; k < loop.length; k++) at.push(at[k]! + lengthBetween(piece.positions, loop[k]!, loop[(k + 1) % loop.length]!));
  const around = at[loop.length]!;
  const corners = [...loop.keys()]
    .filter((k) => turn[loop[k]!]! > leastTurn)
    .sort((a, b) => turn[loop[b]!]! - turn[loop[a]!]!)
    .slice(0, mostCorners)
    .sort((a, b) => a - b);
  if (corners.length < 4)
    throw new JigError('nothing-to-do', 'It has no four corners: it is no strip.', '', 'Choose a line of edges that is to become straight.');
  let best: { corners: number[]; score: number } | null = null;
  const spans = (k: number, n: number) => (at[n]! - at[k]! + around) % around;
  for (let a = 0; a < corners.length; a++)
    for (let b = a + 1; b < corners.length; b++)
      for (let c = b + 1; c < corners.length; c++)
        for (let d = c + 1; d < corners.length; d++) {
          const four = [corners[a]!, corners[b]!, corners[c]!, corners[d]!];
          const sides = four.map((k, i) => spans(k, four[(i + 1) % 4]!));
          const unlike = Math.abs(sides[0]! - sides[2]!) + Math.abs(sides[1]! - sides[3]!);
          const score = four.reduce((sum, k) => sum + Math.min(1, turn[loop[k]!]! / (Math.PI / 2)), 0) - (2 * unlike) / around;
          if (!best || score > best.score + 1e-9) best = { corners: four, score };
        }
  const four = best!.corners;
  const side = (from: number, to: number) => {
    const out: number[] = [];
    for (let k = from; ; k = (k + 1) % loop.length) {
      out.push(loop[k]!);
      if (k === to) return out;
    }
  };
  const sides = four.map((k, i) => side(k, four[(i + 1) % 4]!));
  const lengths = sides.map((line) => lineLength(piece.positions, line));
  const first = lengths[0]! + lengths[2]! >= lengths[1]! + lengths[3]! ? 0 : 1;
  const [bottom, right, top, left] = [0, 1, 2, 3].map((k) => sides[(first + k) % 4]!) as [number[], number[], number[], number[]];
  return { bottom, right, top, left };
}

/**
 * The rows of a strip that is a grid of quads, each from left to right, the bottom one first; null where it is none. O(quads)
 * @param quads 4 vertices each, the face on the left
 */
export function gridRows(strip: Strip, quads: ArrayLike<number>, vertices: number): number[][] | null {
  const across = strip.bottom.length;
  const up = strip.left.length;
  if (strip.top.length !== across || strip.right.length !== up || across * up !== vertices || quads.length !== (across - 1) * (up - 1) * 4) return null;
  const at = new Map<number, number>();
  for (let q = 0; q < quads.length; q += 4) for (let k = 0; k < 4; k++) at.set(quads[q + k]! * vertices + quads[q + ((k + 1) % 4)]!, q + k);
  const rows = [strip.bottom];
  const seen = new Set(strip.bottom);
  for (let r = 1; r < up; r++) {
    const below = rows[r - 1]!;
    const row: number[] = [];
    for (let c = 0; c + 1 < across; c++) {
      const half = at.get(below[c]! * vertices + below[c + 1]!);
      if (half === undefined) return null;
      const q = half - (half % 4);
      const [upper, lower] = [quads[q + ((half + 3) % 4)]!, quads[q + ((half + 2) % 4)]!];
      if (c === 0) row.push(upper);
      else if (row[c] !== upper) return null;
      row.push(lower);
    }
    for (const v of row) {
      if (seen.has(v)) return null;
      seen.add(v);
    }
    rows.push(row);
  }
  return rows;
}
