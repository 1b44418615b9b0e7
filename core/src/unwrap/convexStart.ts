import { makeFactor } from '../numeric/makeFactor.ts';
import { trianglePattern } from '../numeric/pattern.ts';
import { analyse } from '../numeric/symbolic.ts';
import { JigError } from '../jigError.ts';
import type { Prepared } from './prepared.ts';
import * as portable from '../numeric/portable.ts';

/** Borders of a piece as closed runs of vertices, the longest (in space) first. O(border). */
export function borderLoops({ border, positions }: Pick<Prepared, 'border' | 'positions'>): number[][] {
  const next = new Map<number, number[]>();
  for (let k = 0; k < border.length; k += 2) {
    const list = next.get(border[k]!);
    if (list) list.push(border[k + 1]!);
    else next.set(border[k]!, [border[k + 1]!]);
  }
  const loops: number[][] = [];
  for (const [first, list] of next) {
    while (list.length > 0) {
      const loop = [first];
      for (let v = list.pop()!; v !== first;) {
        loop.push(v);
        const onward: number[] | undefined = next.get(v);
        if (!onward || onward.length === 0) break;
        v = onward.pop()!;
      }
      loops.push(loop);
    }
  }
  const lengthOf = (loop: number[]) => loop.reduce((sum, v, k) => sum + distance(positions, v, loop[(k + 1) % loop.length]!), 0);
  return loops
    .map((loop) => ({ loop, length: lengthOf(loop) }))
    .sort((x, y) => y.length - x.length)
    .map(({ loop }) => loop);
}

const distance = (p: Float64Array, a: number, b: number) =>
  Math.sqrt((p[a * 3]! - p[b * 3]!) ** 2 + (p[a * 3 + 1]! - p[b * 3 + 1]!) ** 2 + (p[a * 3 + 2]! - p[b * 3 + 2]!) ** 2);

/**
 * A map without flips: the longest border on a circle, every other vertex at the mean of its neighbours; other borders are spanned by a point of
 * their own.
 *
 * Source: W. Tutte, "How to Draw a Graph", Proc. London Math. Soc. 1963; M. Floater, "Parametrization and Smooth Approximation of Surface
 * Triangulations", CAGD 1997.
 *
 * @returns 2 numbers a vertex, as large as the piece
 * @throws JigError `cannot-lie-flat` for pieces without a border
 * One ordering and one factorisation.
 */
export function convexStart(prepared: Prepared): Float64Array {
  const { vertices, triangles, flat } = prepared;
  const [outer, ...holes] = borderLoops(prepared);
  if (!outer || outer.length < 3) throw new JigError('cannot-lie-flat', 'A piece without a border cannot lie flat.', '', 'Cut it open first.');
  const spanned = Uint32Array.from([
    ...triangles,
    // border edges run with the piece on the left, so the span's triangles run the other way
    ...holes.flatMap((loop, h) => loop.flatMap((v, k) => [loop[(k + 1) % loop.length]!, v, vertices + h])),
  ]);
  const size = vertices + holes.length;
  const pattern = trianglePattern(size, spanned);
  const onBorder = new Uint8Array(size);
  const place = new Float64Array(size * 2);
  let round = 0;
  const steps = outer.map((v, k) => (round += Math.max(1e-12, distance(prepared.positions, v, outer[(k + 1) % outer.length]!))));
  let area = 0;
  for (let t = 0; t < flat.count; t++) area += flat.area[t]!;
  const radius = Math.sqrt(area / Math.PI);
  outer.forEach((v, k) => {
    const turn = (2 * Math.PI * (k === 0 ? 0 : steps[k - 1]!)) / round;
    onBorder[v] = 1;
    place[v * 2] = radius * portable.cos(turn);
    place[v * 2 + 1] = radius * portable.sin(turn);
  });
  const values = new Float64Array(pattern.rows.length);
  const rhs = new Float64Array(size * 2);
  for (let j = 0; j < size; j++) {
    for (let e = pattern.columnStart[j]! + 1; e < pattern.columnStart[j + 1]!; e++) {
      const i = pattern.rows[e]!;
      if (!onBorder[i] && !onBorder[j]) values[e] = -1;
      for (const [v, other] of [
        [i, j],
        [j, i],
      ] as const) {
        if (onBorder[v]) continue;
        values[pattern.columnStart[v]!]! += 1;
        if (!onBorder[other]) continue;
        rhs[v * 2]! += place[other * 2]!;
        rhs[v * 2 + 1]! += place[other * 2 + 1]!;
      }
    }
  }
  for (let v = 0; v < size; v++) {
    if (!onBorder[v]) continue;
    values[pattern.columnStart[v]!] = 1;
    rhs[v * 2] = place[v * 2]!;
    rhs[v * 2 + 1] = place[v * 2 + 1]!;
  }
  const factor = makeFactor(analyse(pattern), 1);
  try {
    factor.factorise(values);
    return factor.solve(rhs, 2).slice(0, vertices * 2);
  } finally {
    factor.release();
  }
}
