import type { LayoutView, PartGeometry } from '../../session/messages.ts';
import type { BenchState } from '../../store/bench.ts';

/** 1 for each corner that is part of the selection: corners at its points, at the ends of its edges, of its faces or islands. O(corners). */
export function chosenCorners(geometry: PartGeometry, layout: LayoutView, selection: NonNullable<BenchState['summary']>['selection']): Uint8Array {
  const { corners, faceStart, faces, edgePoints, cornerEdge } = geometry;
  const out = new Uint8Array(corners.length);
  if (selection.part !== geometry.part || selection.ids.length === 0) return out;
  const { kind, ids } = selection;
  if (kind === 'points') {
    const wanted = new Uint8Array(geometry.points.length / 3);
    for (const p of ids) wanted[p] = 1;
    // taken on the sheet: there alone, with all corners of the same place
    const places = selection.corners ? new Set(Array.from(selection.corners, (c) => placeKey(geometry, layout, c))) : null;
    for (let c = 0; c < out.length; c++) if (wanted[corners[c]!] && (!places || places.has(placeKey(geometry, layout, c)))) out[c] = 1;
    return out;
  }
  const halves = kind === 'edges' && selection.corners ? new Set(selection.corners) : null;
  const wanted = new Uint8Array(kind === 'edges' ? edgePoints.length / 2 : kind === 'faces' ? faces : layout.islands.length);
  for (const id of ids) wanted[id] = 1;
  for (let f = 0; f < faces; f++) {
    const [from, to] = [faceStart[f]!, faceStart[f + 1]!];
    for (let c = from; c < to; c++) {
      if (kind === 'faces') out[c] = wanted[f]!;
      else if (kind === 'islands') out[c] = wanted[layout.faceIsland[f]!]!;
      else if (halves ? halves.has(c) : wanted[cornerEdge[c]!]) {
        out[c] = 1;
        out[c + 1 === to ? from : c + 1] = 1;
      }
    }
  }
  return out;
}

const placeKey = ({ corners }: PartGeometry, { cornerUv }: LayoutView, c: number) => `${corners[c]!} ${cornerUv[c * 2]!} ${cornerUv[c * 2 + 1]!}`;

/** Numbers of the rows of the table: all corners, or the chosen ones only. */
export function rowCorners(chosen: Uint8Array, onlyChosen: boolean): Uint32Array | null {
  if (!onlyChosen) return null;
  let count = 0;
  for (let c = 0; c < chosen.length; c++) count += chosen[c]!;
  const out = new Uint32Array(count);
  for (let c = 0, at = 0; c < chosen.length; c++) if (chosen[c]) out[at++] = c;
  return out;
}

/** The face of each corner. */
export function facesOfCorners({ corners, faces, faceStart }: PartGeometry): Uint32Array {
  const out = new Uint32Array(corners.length);
  for (let f = 0; f < faces; f++) out.fill(f, faceStart[f]!, faceStart[f + 1]!);
  return out;
}
