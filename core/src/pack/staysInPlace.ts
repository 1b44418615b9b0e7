import type { Mesh } from '../mesh/mesh.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { leastDistance } from './clearance.ts';
import { doubleArea, outlinesOf } from './outline.ts';
import type { PackOptions } from './packing.ts';

/**
 * Islands that found no room by the raster, but have it where they are: a slot that is just wide enough, measured by outlines.
 * @param before the layout that was packed @param after what came of it; those islands are in it as they were
 * @param left islands that found no room
 * @returns those of them that may stay, and the share of the sheet that they cover. O(their edges · edges near them)
 */
export function staysInPlace(
  mesh: Mesh,
  before: UvSet,
  after: UvSet,
  left: readonly number[],
  { width, height, gap, borderGap }: Pick<PackOptions, 'width' | 'height' | 'gap' | 'borderGap'>,
): { islands: number[]; coverage: number } {
  if (left.length === 0) return { islands: [], coverage: 0 };
  const own = outlinesOf(mesh, before, width, height);
  const waiting = new Set(left);
  const outlines = outlinesOf(mesh, after, width, height).map((loops, i) => (waiting.has(i) ? [] : loops));
  const slack = 1e-5;
  let area = 0;
  const islands = left.filter((i) => {
    const isWithin = own[i]!.every((loop) => loop.every((x, k) => x >= borderGap - slack && x <= (k % 2 === 0 ? width : height) - borderGap + slack));
    if (!isWithin || own[i]!.length === 0) return false;
    outlines[i] = own[i]!;
    if (leastDistance(outlines, gap + slack, (a, b) => a !== i && b !== i) >= gap - slack) {
      area += own[i]!.reduce((sum, loop) => sum + doubleArea(loop) / 2, 0);
      return true;
    }
    outlines[i] = [];
    return false;
  });
  return { islands, coverage: area / (width * height) };
}
