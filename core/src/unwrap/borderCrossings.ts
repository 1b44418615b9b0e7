import Flatbush from 'flatbush';
import { orient2d } from 'robust-predicates';
import type { Prepared } from './prepared.ts';

/** Border edges of a laid piece, 4 numbers an edge. */
export function borderSegments({ border }: Pick<Prepared, 'border'>, uv: Float64Array): Float64Array {
  const out = new Float64Array(border.length * 2);
  for (let k = 0; k < border.length; k++) {
    out[k * 2] = uv[border[k]! * 2]!;
    out[k * 2 + 1] = uv[border[k]! * 2 + 1]!;
  }
  return out;
}

/**
 * Places where a border crosses itself. A piece laid flat without flips lies over itself just where its border does, so this tells an overlap
 * within an island without looking at its inside.
 *
 * @param segments 4 numbers a border edge: x, y of both ends
 * @returns pairs of edges that cross, 2 numbers a pair; edges that only touch at a shared end do not
 * O(B log B + pairs) for B border edges.
 */
export function borderCrossings(segments: Float64Array): number[] {
  const count = segments.length / 4;
  if (count < 4) return [];
  const index = new Flatbush(count);
  for (let k = 0; k < count; k++) {
    const [ax, ay, bx, by] = [segments[k * 4]!, segments[k * 4 + 1]!, segments[k * 4 + 2]!, segments[k * 4 + 3]!];
    index.add(Math.min(ax, bx), Math.min(ay, by), Math.max(ax, bx), Math.max(ay, by));
  }
  index.finish();
  const out: number[] = [];
  for (let k = 0; k < count; k++) {
    const [ax, ay, bx, by] = [segments[k * 4]!, segments[k * 4 + 1]!, segments[k * 4 + 2]!, segments[k * 4 + 3]!];
    const near = index.search(Math.min(ax, bx), Math.min(ay, by), Math.max(ax, bx), Math.max(ay, by), (j) => j > k);
    for (const j of near) {
      const [cx, cy, dx, dy] = [segments[j * 4]!, segments[j * 4 + 1]!, segments[j * 4 + 2]!, segments[j * 4 + 3]!];
      if (orient2d(ax, ay, bx, by, cx, cy) * orient2d(ax, ay, bx, by, dx, dy) < 0 && orient2d(cx, cy, dx, dy, ax, ay) * orient2d(cx, cy, dx, dy, bx, by) < 0)
        out.push(k, j);
    }
  }
  return out;
}
