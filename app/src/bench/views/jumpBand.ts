import type { SeamJump } from '@jig-peel/core';
import type { PartGeometry } from '../../session/messages.ts';
import { oneWayScale } from '../../theme/palette.ts';
import { WideLines } from './layers/wideLines.ts';

/** How far a picture is off at a seam, px: from here on a band is of the next kind, wider and darker. */
export const jumpSteps = [0, 1, 4, 16] as const;

/** The kind of band for a jump, 0 to 3; a picture that is turned, sized otherwise or mirrored is of the last but one at least. */
export function bandOf({ offset, turn, scale, isMirrored }: Pick<SeamJump, 'offset' | 'turn' | 'scale' | 'isMirrored'>): number {
  const byOffset = jumpSteps.findLastIndex((from) => offset >= from);
  return isMirrored || turn > 2 || scale > 1.05 ? Math.max(2, byOffset) : byOffset;
}

/** Segments of the bands in space, one list a kind: 6 numbers a segment. O(edges told) */
export function bandSegments({ edgePoints, points }: Pick<PartGeometry, 'edgePoints' | 'points'>, jumps: readonly SeamJump[]): Float32Array[] {
  const out: number[][] = jumpSteps.map(() => []);
  for (const jump of jumps) {
    const into = out[bandOf(jump)]!;
    for (const e of jump.edges)
      for (let end = 0; end < 2; end++) {
        const p = edgePoints[e * 2 + end]! * 3;
        into.push(points[p]!, points[p + 1]!, points[p + 2]!);
      }
  }
  return out.map((list) => Float32Array.from(list));
}

/** Bands along seams over the model, under the seams' own lines: the wider and darker, the farther the picture is off. */
export function jumpBands(geometry: PartGeometry, jumps: readonly SeamJump[]): WideLines[] {
  return bandSegments(geometry, jumps).map((segments, k) => {
    const lines = new WideLines({ width: 5 + 3 * k, casing: 7 + 3 * k, order: 5 + k });
    lines.recolor(oneWayScale[k + 2]!, '#f7f3ea');
    lines.set(segments);
    return lines;
  });
}
