import type { SelectionKind } from '@jig-peel/core';
import type { LayoutView, PartGeometry } from '../../worker/messages.ts';
import type { RegionMask } from './regionMask.ts';

/** Where things are in a view, in px; `shown` tells whether a place in space is in sight (always true when picking through). */
export interface ModelProjection {
  /** Column-major 4 × 4: projection · view. */
  matrix: ArrayLike<number>;
  width: number;
  height: number;
  shown: (x: number, y: number, depth: number) => boolean;
}

/**
 * What lies in a region of the model view: points inside; edges with their middle and both ends inside; faces with their middle inside;
 * islands with any face inside. O(points + corners).
 */
export function modelElementsIn(
  geometry: PartGeometry,
  layout: LayoutView,
  hidden: Uint8Array | null,
  kind: SelectionKind,
  mask: RegionMask,
  view: ModelProjection,
): number[] {
  const { points, corners, faceCenters, edgePoints, edgeStart, edgeCorners } = geometry;
  const m = view.matrix;
  const [m0, m1, m3, m4, m5, m7, m8, m9, m11, m12, m13, m15] = [0, 1, 3, 4, 5, 7, 8, 9, 11, 12, 13, 15].map((k) => m[k]!) as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  const { width, height, shown } = view;
  const { bytes } = mask;
  /** Is the place inside and in sight? */
  const inside = (x: number, y: number, z: number, sight: boolean): boolean => {
    const w = m3 * x + m7 * y + m11 * z + m15;
    if (!(w > 0)) return false;
    const px = (((m0 * x + m4 * y + m8 * z + m12) / w + 1) / 2) * width;
    const py = ((1 - (m1 * x + m5 * y + m9 * z + m13) / w) / 2) * height;
    if (!(px >= 0 && py >= 0 && px < mask.width && py < mask.height)) return false;
    return bytes[Math.floor(py) * mask.width + Math.floor(px)] === 1 && (!sight || shown(px, py, w));
  };
  const hiddenFace = (f: number) => hidden !== null && hidden[f] === 1;
  const out: number[] = [];
  if (kind === 'edges' || kind === 'points') {
    const faceOf = cornerFaces(geometry);
    const usable = (from: number, to: number, list: ArrayLike<number>) => {
      for (let i = from; i < to; i++) if (!hiddenFace(faceOf[list[i]!]!)) return true;
      return false;
    };
    if (kind === 'edges') {
      for (let e = 0; e + 1 < edgeStart.length; e++) {
        const a = edgePoints[e * 2]! * 3;
        const b = edgePoints[e * 2 + 1]! * 3;
        const [ax, ay, az, bx, by, bz] = [points[a]!, points[a + 1]!, points[a + 2]!, points[b]!, points[b + 1]!, points[b + 2]!];
        if (!inside((ax + bx) / 2, (ay + by) / 2, (az + bz) / 2, true) || !inside(ax, ay, az, false) || !inside(bx, by, bz, false)) continue;
        if (usable(edgeStart[e]!, edgeStart[e + 1]!, edgeCorners)) out.push(e);
      }
      return out;
    }
    const used = new Uint8Array(points.length / 3);
    for (let c = 0; c < corners.length; c++) if (!hiddenFace(faceOf[c]!)) used[corners[c]!] = 1;
    for (let p = 0; p < used.length; p++) if (used[p] && inside(points[p * 3]!, points[p * 3 + 1]!, points[p * 3 + 2]!, true)) out.push(p);
    return out;
  }
  const islands = new Set<number>();
  for (let f = 0; f < geometry.faces; f++) {
    if (hiddenFace(f)) continue;
    if (!inside(faceCenters[f * 3]!, faceCenters[f * 3 + 1]!, faceCenters[f * 3 + 2]!, true)) continue;
    if (kind === 'faces') out.push(f);
    else islands.add(layout.faceIsland[f]!);
  }
  return kind === 'faces' ? out : [...islands].sort((a, b) => a - b);
}

/** The same for the sheet view: everything on it is in sight. @param toPx px of a UV place */
export function sheetElementsIn(
  geometry: PartGeometry,
  layout: LayoutView,
  hidden: Uint8Array | null,
  kind: SelectionKind,
  mask: RegionMask,
  toPx: (u: number, v: number) => [number, number],
): number[] {
  const { corners, faceStart, cornerEdge } = geometry;
  const { cornerUv } = layout;
  const inside = (u: number, v: number) => mask.has(...toPx(u, v));
  const found = new Set<number>();
  for (let f = 0; f < geometry.faces; f++) {
    if (layout.unplaced[f] || hidden?.[f]) continue;
    const from = faceStart[f]!;
    const to = faceStart[f + 1]!;
    let [u, v] = [0, 0];
    for (let c = from; c < to; c++) {
      const [cu, cv] = [cornerUv[c * 2]!, cornerUv[c * 2 + 1]!];
      u += cu;
      v += cv;
      if (kind === 'points' && inside(cu, cv)) found.add(corners[c]!);
      if (kind === 'edges') {
        const next = c + 1 === to ? from : c + 1;
        if (inside(cu, cv) && inside(cornerUv[next * 2]!, cornerUv[next * 2 + 1]!)) found.add(cornerEdge[c]!);
      }
    }
    if ((kind === 'faces' || kind === 'islands') && inside(u / (to - from), v / (to - from))) found.add(kind === 'faces' ? f : layout.faceIsland[f]!);
  }
  return [...found].sort((a, b) => a - b);
}

const faceOfCorner = new WeakMap<PartGeometry, Uint32Array>();
function cornerFaces(geometry: PartGeometry): Uint32Array {
  let known = faceOfCorner.get(geometry);
  if (!known) {
    known = new Uint32Array(geometry.corners.length);
    for (let f = 0; f < geometry.faces; f++) known.fill(f, geometry.faceStart[f]!, geometry.faceStart[f + 1]!);
    faceOfCorner.set(geometry, known);
  }
  return known;
}

/** How far (views' linear depth) each px of the model view sees; asked with a little slack for the slope of the surface. */
export class DepthPicture {
  constructor(
    private readonly data: Uint8Array,
    private readonly width: number,
    private readonly height: number,
    private readonly far: number,
    private readonly slack: number,
  ) {}

  private read(x: number, y: number): number {
    // rows run up in the picture, down in the view
    const k = ((this.height - 1 - y) * this.width + x) * 4;
    return ((this.data[k]! + this.data[k + 1]! / 255 + this.data[k + 2]! / 65025) / 255) * this.far;
  }

  /** Is a place at this depth in sight at these px? */
  shows(x: number, y: number, depth: number): boolean {
    const cx = Math.min(this.width - 1, Math.max(0, Math.floor(x)));
    const cy = Math.min(this.height - 1, Math.max(0, Math.floor(y)));
    let deepest = 0;
    for (let dy = -1; dy <= 1; dy++) {
      for (let dx = -1; dx <= 1; dx++) {
        const [px, py] = [cx + dx, cy + dy];
        if (px >= 0 && py >= 0 && px < this.width && py < this.height) deepest = Math.max(deepest, this.read(px, py));
      }
    }
    return depth <= deepest + this.slack;
  }
}
