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

/** How far what is seen differs over a seam, of 255: from here on a band is of the next kind. */
export const lookSteps = [0, 4, 16, 48] as const;

/** The kind of band for a difference of what is seen; where relief alone differs it is of the second kind. */
export const bandOfLook = ({ colour, relief }: { colour: number; relief: number }): number =>
  Math.max(
    relief > 0 ? 1 : 0,
    lookSteps.findLastIndex((from) => colour >= from),
  );

export interface BandedSeam {
  edges: readonly number[];
  /** The kind of band, 0 to 3. */
  band: number;
}

/** Segments of the bands in space, one list a kind: 6 numbers a segment. O(edges told) */
export function bandSegments({ edgePoints, points }: Pick<PartGeometry, 'edgePoints' | 'points'>, seams: readonly BandedSeam[]): Float32Array[] {
  const out: number[][] = jumpSteps.map(() => []);
  for (const { edges, band } of seams) {
    const into = out[band]!;
    for (const e of edges)
      for (let end = 0; end < 2; end++) {
        const p = edgePoints[e * 2 + end]! * 3;
        into.push(points[p]!, points[p + 1]!, points[p + 2]!);
      }
  }
  return out.map((list) => Float32Array.from(list));
}

/** Bands along seams over the model, under the seams' own lines: the wider and darker, the farther the picture is off. */
export function jumpBands(geometry: PartGeometry, seams: readonly BandedSeam[]): WideLines[] {
  return bandSegments(geometry, seams).map((segments, k) => {
    const lines = new WideLines({ width: 5 + 3 * k, casing: 7 + 3 * k, order: 5 + k });
    lines.recolor(oneWayScale[k + 2]!, '#f7f3ea');
    lines.set(segments);
    return lines;
  });
}
