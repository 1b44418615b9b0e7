import type { Mesh } from '../mesh/mesh.ts';
import { islandsOf } from './islands.ts';
import type { UvSet } from './uvSet.ts';

export const alignSides = ['left', 'right', 'top', 'bottom', 'middleU', 'middleV'] as const;
export type AlignSide = (typeof alignSides)[number];

/**
 * Moves islands so that their boxes end at the same line: the outermost of theirs, or the middle of the box round all of them. They keep size and heading;
 * UV points are moved once, however many corners share them.
 * @returns the layout, and how many islands moved; O(corners)
 */
export function alignIslands(mesh: Mesh, set: UvSet, wanted: readonly number[], side: AlignSide): { set: UvSet; moved: number } {
  const islands = islandsOf(mesh, set);
  const axis = side === 'left' || side === 'right' || side === 'middleU' ? 0 : 1;
  const points = wanted.map((i) => {
    const own = new Set<number>();
    for (let k = islands.start[i]!; k < islands.start[i + 1]!; k++) {
      const f = islands.faces[k]!;
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) own.add(set.cornerUv[c]!);
    }
    return own;
  });
  const ranges = points.map((own) => {
    let [low, high] = [Infinity, -Infinity];
    for (const p of own) {
      low = Math.min(low, set.uv[p * 2 + axis]!);
      high = Math.max(high, set.uv[p * 2 + axis]!);
    }
    return { low, high };
  });
  const low = Math.min(...ranges.map((range) => range.low));
  const high = Math.max(...ranges.map((range) => range.high));
  const uv = set.uv.slice();
  let moved = 0;
  ranges.forEach((range, k) => {
    const by =
      side === 'left' || side === 'bottom'
        ? low - range.low
        : side === 'right' || side === 'top'
          ? high - range.high
          : (low + high - range.low - range.high) / 2;
    if (by === 0) return;
    moved++;
    for (const p of points[k]!) uv[p * 2 + axis]! += by;
  });
  return { set: moved === 0 ? set : { ...set, uv }, moved };
}
