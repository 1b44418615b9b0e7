import type { LayoutView, PartGeometry } from '../../../session/messages.ts';

const none = new Float32Array(0);

/** The cage's edges in pieces, and its points, on a form. */
export interface FormMarks {
  edges: Float32Array | null;
  pieces: number;
  points: Float32Array | null;
}

/** What lies next to what on the part at work, and where it is in both views. */
export class PartTopology {
  /** Where edges and points are while a form is looked at in place of the cage. */
  onForm: FormMarks | null = null;

  constructor(readonly geometry: PartGeometry) {}

  faceOfCorner(c: number): number {
    const { faceStart } = this.geometry;
    let low = 0;
    let high = faceStart.length - 2;
    while (low < high) {
      const mid = (low + high + 1) >> 1;
      if (faceStart[mid]! <= c) low = mid;
      else high = mid - 1;
    }
    return low;
  }

  nextCorner(c: number, f: number): number {
    const { faceStart } = this.geometry;
    return c + 1 === faceStart[f + 1]! ? faceStart[f]! : c + 1;
  }

  cornersOfEdges(edges: ArrayLike<number>): number[] {
    const { edgeStart, edgeCorners } = this.geometry;
    const out: number[] = [];
    for (let k = 0; k < edges.length; k++) for (let i = edgeStart[edges[k]!]!; i < edgeStart[edges[k]! + 1]!; i++) out.push(edgeCorners[i]!);
    return out;
  }

  /** Does an edge have a face that is not hidden? */
  isEdgeShown(e: number, hidden: Uint8Array | null): boolean {
    if (!hidden) return true;
    const { edgeStart, edgeCorners } = this.geometry;
    for (let i = edgeStart[e]!; i < edgeStart[e + 1]!; i++) if (!hidden[this.faceOfCorner(edgeCorners[i]!)]) return true;
    return false;
  }

  /** Places of mesh points in space, 3 numbers each. */
  pointPlaces(ids: ArrayLike<number>): Float32Array {
    const points = this.onForm?.points ?? this.geometry.points;
    const out = new Float32Array(ids.length * 3);
    for (let k = 0; k < ids.length; k++) for (let d = 0; d < 3; d++) out[k * 3 + d] = points[ids[k]! * 3 + d]!;
    return out;
  }

  /** Ends of edges in space, 6 numbers each. */
  edgeSegments(edges: ArrayLike<number>): Float32Array {
    if (this.onForm?.edges) {
      const { edges: all, pieces } = this.onForm;
      const out = new Float32Array(edges.length * pieces * 6);
      for (let k = 0; k < edges.length; k++) out.set(all.subarray(edges[k]! * pieces * 6, (edges[k]! + 1) * pieces * 6), k * pieces * 6);
      return out;
    }
    const { points, edgePoints } = this.geometry;
    const out = new Float32Array(edges.length * 6);
    for (let k = 0; k < edges.length; k++) {
      for (let end = 0; end < 2; end++) {
        const p = edgePoints[edges[k]! * 2 + end]! * 3;
        for (let d = 0; d < 3; d++) out[k * 6 + end * 3 + d] = points[p + d]!;
      }
    }
    return out;
  }

  /** Places of mesh points on the sheet, one for each different one, 3 numbers each. @param only at these corners */
  pointPlacesOnSheet(ids: ArrayLike<number>, layout: LayoutView, only: ArrayLike<number> | null = null): Float32Array {
    const { geometry } = this;
    if (ids.length === 0) return none;
    if (only) return placesOf(only, layout, (c) => layout.unplaced[this.faceOfCorner(c)] === 1);
    const wanted = new Uint8Array(geometry.points.length / 3);
    for (let k = 0; k < ids.length; k++) wanted[ids[k]!] = 1;
    const at: number[] = [];
    for (let c = 0; c < geometry.corners.length; c++) if (wanted[geometry.corners[c]!]) at.push(c);
    return placesOf(at, layout, (c) => layout.unplaced[this.faceOfCorner(c)] === 1);
  }

  /** Ends of half edges on the sheet, 6 numbers each; corners of faces without a place are left out. */
  cornerSegments(corners: ArrayLike<number>, layout: LayoutView): Float32Array {
    const out = new Float32Array(corners.length * 6);
    let at = 0;
    for (let k = 0; k < corners.length; k++) {
      const c = corners[k]!;
      const f = this.faceOfCorner(c);
      if (layout.unplaced[f]) continue;
      const n = this.nextCorner(c, f);
      out[at] = layout.cornerUv[c * 2]!;
      out[at + 1] = layout.cornerUv[c * 2 + 1]!;
      out[at + 3] = layout.cornerUv[n * 2]!;
      out[at + 4] = layout.cornerUv[n * 2 + 1]!;
      at += 6;
    }
    return at === out.length ? out : out.slice(0, at);
  }

  /** Edges and half edges between chosen faces and the rest, and where the layout is split on the sheet. O(corners) */
  outlineOf(faces: Uint8Array, layout: LayoutView): { edges: number[]; corners: number[] } {
    const { edgeStart, edgeCorners, faceStart, cornerEdge } = this.geometry;
    const faceOf = new Int32Array(this.geometry.corners.length);
    for (let f = 0; f + 1 < faceStart.length; f++) faceOf.fill(f, faceStart[f]!, faceStart[f + 1]!);
    const edges: number[] = [];
    const corners: number[] = [];
    const rim = new Uint8Array(edgeStart.length - 1);
    for (let e = 0; e + 1 < edgeStart.length; e++) {
      let chosen = 0;
      const count = edgeStart[e + 1]! - edgeStart[e]!;
      for (let i = edgeStart[e]!; i < edgeStart[e + 1]!; i++) chosen += faces[faceOf[edgeCorners[i]!]!]!;
      if (chosen > 0 && (chosen < count || count === 1)) {
        rim[e] = 1;
        edges.push(e);
      }
    }
    for (let c = 0; c < faceOf.length; c++) if (faces[faceOf[c]!] && (rim[cornerEdge[c]!] || layout.edgeStates[cornerEdge[c]!] !== 0)) corners.push(c);
    return { edges, corners };
  }

  /** The border of an island: edges, and half edges on the sheet. */
  borderOfIsland(island: number, layout: LayoutView): { edges: number[]; corners: number[] } {
    const { faceStart, cornerEdge, faces } = this.geometry;
    const edges: number[] = [];
    const corners: number[] = [];
    for (let f = 0; f < faces; f++) {
      if (layout.faceIsland[f] !== island) continue;
      for (let c = faceStart[f]!; c < faceStart[f + 1]!; c++) {
        if (layout.edgeStates[cornerEdge[c]!] === 0) continue;
        corners.push(c);
        edges.push(cornerEdge[c]!);
      }
    }
    return { edges, corners };
  }
}

/** Different places of corners on the sheet, 3 numbers each. */
function placesOf(corners: ArrayLike<number>, { cornerUv }: LayoutView, without: (corner: number) => boolean): Float32Array {
  const out: number[] = [];
  const seen = new Set<string>();
  for (let k = 0; k < corners.length; k++) {
    const c = corners[k]!;
    if (without(c)) continue;
    const [u, v] = [cornerUv[c * 2]!, cornerUv[c * 2 + 1]!];
    const key = `${u},${v}`;
    if (seen.has(key)) continue;
    seen.add(key);
    out.push(u, v, 0);
  }
  return Float32Array.from(out);
}
