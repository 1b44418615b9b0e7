import { faceCount, nextCorner, plainMesh, pointCount, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { edgeStates, EdgeState } from './seamEdges.ts';
import type { UvSet } from './uvSet.ts';

/** What becomes of island borders on the sheet: they are rounded like open edges of a mesh, or stay where they are. */
export const smoothBorders = ['smoothed', 'kept'] as const;
export type SmoothBorders = (typeof smoothBorders)[number];

export interface SmoothOptions {
  /** How many times each face is divided; a quad becomes 4^levels. */
  levels: number;
  borders: SmoothBorders;
}

export interface Smoothed {
  mesh: Mesh;
  set: UvSet;
  /** The face of the cage that each face is of. */
  faceFrom: Uint32Array;
  /** Corners whose half edges run along each edge of the cage, 2^levels an edge, in order. */
  alongEdge: Uint32Array;
}

/** A network of places whose borders are given: points of a mesh in space, or points of a layout on the sheet. */
interface Net {
  /** Place of each corner's point. */
  ofCorner: ArrayLike<number>;
  places: Float64Array;
  size: number;
  /** 1 for each corner whose half edge is a border of the net: one side only. */
  isBorder: Uint8Array;
  /** Borders and their points stay where they are. */
  keepsBorders: boolean;
}

/**
 * Smooths a mesh and a layout with it, by Catmull–Clark. The layout is smoothed island by island, each island a net of its own.
 *
 * Source: E. Catmull, J. Clark, "Recursively generated B-spline surfaces on arbitrary topological meshes", CAD 10 (1978): face points are means, edge points means of
 * ends and face points, a point of valence n goes to (F + 2R + (n − 3)P)/n; open edges as cubic B-splines (1/8, 3/4, 1/8), a border point of one face alone stays (the
 * rules common to open subdivision formats; from memory).
 * @returns a mesh of quads alone. O(corners · 4^levels)
 */
export function smoothed(mesh: Mesh, set: UvSet, { levels, borders }: SmoothOptions): Smoothed {
  let now: Smoothed = {
    mesh,
    set,
    faceFrom: Uint32Array.from({ length: faceCount(mesh) }, (_, f) => f),
    alongEdge: firstCorners(mesh),
  };
  for (let level = 0; level < levels; level++) now = divided(now, borders === 'kept');
  return now;
}

/** A corner of each edge. */
function firstCorners(mesh: Mesh): Uint32Array {
  const { edgeCount, edgeStart, edgeCorners } = topologyOf(mesh);
  return Uint32Array.from({ length: edgeCount }, (_, e) => edgeCorners[edgeStart[e]!]!);
}

function divided({ mesh, set, faceFrom, alongEdge }: Smoothed, keepsBorders: boolean): Smoothed {
  const { cornerEdge, cornerFace, edgeCount, twin } = topologyOf(mesh);
  const { corners, faceStart } = mesh;
  const count = corners.length;
  const faces = faceCount(mesh);
  const points = pointCount(mesh);
  const next = Uint32Array.from({ length: count }, (_, c) => nextCorner(mesh, c, cornerFace[c]!));
  const previous = new Uint32Array(count);
  next.forEach((n, c) => (previous[n] = c));

  // in space an edge is open where it has no plain other side; on the sheet also at seams
  const open = Uint8Array.from(twin, (t) => (t < 0 ? 1 : 0));
  const states = edgeStates(mesh, set);
  const parted = Uint8Array.from(cornerEdge, (e) => (states[e] === EdgeState.joined ? 0 : 1));
  const space = step({ ofCorner: corners, places: mesh.points, size: 3, isBorder: open, keepsBorders: false }, next, previous, twin, faceStart, cornerFace);
  const sheet = step({ ofCorner: set.cornerUv, places: set.uv, size: 2, isBorder: parted, keepsBorders }, next, previous, twin, faceStart, cornerFace);

  // of each corner a quad: its point, the edge after it, the face, the edge before it
  const cornerPoint = new Uint32Array(count * 4);
  const cornerUv = new Uint32Array(count * 4);
  const sides = sidesOf(parted, twin, count);
  const uvs = set.uv.length / 2;
  for (let c = 0; c < count; c++) {
    const [p, f] = [previous[c]!, cornerFace[c]!];
    cornerPoint.set([corners[c]!, points + cornerEdge[c]!, points + edgeCount + f, points + cornerEdge[p]!], c * 4);
    cornerUv.set([set.cornerUv[c]!, uvs + sides.of[c]!, uvs + sides.count + f, uvs + sides.of[p]!], c * 4);
  }
  const places = new Float64Array((points + edgeCount + faces) * 3);
  places.set(space.points);
  places.set(space.facePoints, (points + edgeCount) * 3);
  const uv = new Float64Array((uvs + sides.count + faces) * 2);
  uv.set(sheet.points);
  uv.set(sheet.facePoints, (uvs + sides.count) * 2);
  for (let c = 0; c < count; c++) {
    for (let d = 0; d < 3; d++) places[(points + cornerEdge[c]!) * 3 + d] = space.sidePoints[c * 3 + d]!;
    for (let d = 0; d < 2; d++) uv[(uvs + sides.of[c]!) * 2 + d] = sheet.sidePoints[c * 2 + d]!;
  }
  const fine = plainMesh(
    places,
    Uint32Array.from({ length: count + 1 }, (_, c) => c * 4),
    cornerPoint,
  );
  const along = new Uint32Array(alongEdge.length * 2);
  alongEdge.forEach((c, k) => along.set([c * 4, next[c]! * 4 + 3], k * 2));
  return {
    mesh: {
      ...fine,
      groups: mesh.groups,
      materials: mesh.materials,
      faceGroup: Int32Array.from(cornerFace, (f) => mesh.faceGroup[f]!),
      faceMaterial: Int32Array.from(cornerFace, (f) => mesh.faceMaterial[f]!),
    },
    set: {
      name: set.name,
      cornerUv,
      uv,
      unplaced: Uint8Array.from(cornerFace, (f) => set.unplaced[f]!),
      slits: new Uint32Array(0),
      pins: new Uint8Array(uv.length / 2),
    },
    faceFrom: Uint32Array.from(cornerFace, (f) => faceFrom[f]!),
    alongEdge: along,
  };
}

/** A number for each side of an edge that has a point of its own on the sheet: both sides of one inside of an island share it. */
function sidesOf(parted: Uint8Array, twin: Int32Array, count: number): { of: Uint32Array; count: number } {
  const of = new Uint32Array(count);
  let sides = 0;
  for (let c = 0; c < count; c++) {
    const t = parted[c] ? -1 : twin[c]!;
    of[c] = t >= 0 && t < c ? of[t]! : sides++;
  }
  return { of, count: sides };
}

/** New places of points, of the middle of each half edge, and of faces. */
function step(
  { ofCorner, places, size, isBorder, keepsBorders }: Net,
  next: Uint32Array,
  previous: Uint32Array,
  twin: Int32Array,
  faceStart: Uint32Array,
  cornerFace: Uint32Array,
): { points: Float64Array; sidePoints: Float64Array; facePoints: Float64Array } {
  const faces = faceStart.length - 1;
  const facePoints = new Float64Array(faces * size);
  for (let f = 0; f < faces; f++) {
    const n = faceStart[f + 1]! - faceStart[f]!;
    for (let c = faceStart[f]!; c < faceStart[f + 1]!; c++) for (let d = 0; d < size; d++) facePoints[f * size + d]! += places[ofCorner[c]! * size + d]! / n;
  }
  const count = ofCorner.length;
  const sidePoints = new Float64Array(count * size);
  // of each point: sums over its faces, over the middles of its edges, and of its neighbours along borders
  const total = places.length / size;
  const [face, middle, beside] = [0, 1, 2].map(() => new Float64Array(places.length)) as [Float64Array, Float64Array, Float64Array];
  const valence = new Uint32Array(total);
  const ends = new Uint32Array(total);
  for (let c = 0; c < count; c++) {
    const [a, b, f] = [ofCorner[c]! * size, ofCorner[next[c]!]! * size, cornerFace[c]! * size];
    const before = ofCorner[previous[c]!]! * size;
    const t = isBorder[c] ? -1 : twin[c]!;
    const g = t < 0 ? -1 : cornerFace[t]! * size;
    valence[ofCorner[c]!]!++;
    for (let d = 0; d < size; d++) {
      const half = (places[a + d]! + places[b + d]!) / 2;
      sidePoints[c * size + d] = g < 0 ? half : (half + (facePoints[f + d]! + facePoints[g + d]!) / 2) / 2;
      face[a + d]! += facePoints[f + d]!;
      // an inner edge is met from both sides at this point, once by each face: half of each of the corner's two edges
      middle[a + d]! += (half + (places[a + d]! + places[before + d]!) / 2) / 2;
    }
    if (!isBorder[c]) continue;
    ends[ofCorner[c]!]!++;
    ends[ofCorner[next[c]!]!]!++;
    for (let d = 0; d < size; d++) {
      beside[a + d]! += places[b + d]!;
      beside[b + d]! += places[a + d]!;
    }
  }
  const points = places.slice();
  for (let p = 0; p < total; p++) {
    const n = valence[p]!;
    if (n === 0) continue;
    if (ends[p]! > 0) {
      // a corner of one face, or where more than one border meets, stays
      if (keepsBorders || ends[p] !== 2 || n === 1) continue;
      for (let d = p * size; d < (p + 1) * size; d++) points[d] = (6 * places[d]! + beside[d]!) / 8;
    } else for (let d = p * size; d < (p + 1) * size; d++) points[d] = (face[d]! / n + (2 * middle[d]!) / n + (n - 3) * places[d]!) / n;
  }
  return { points, sidePoints, facePoints };
}

/**
 * Values at the corners of a cage, at those of the smoothed mesh: not smoothed themselves, but spread evenly over each face.
 * @param values `size` numbers a corner
 */
export function spreadValues(values: ArrayLike<number>, size: number, faceStart: Uint32Array, levels: number): Float32Array {
  let now = Float32Array.from(values);
  let start = faceStart;
  for (let level = 0; level < levels; level++) {
    const count = now.length / size;
    const out = new Float32Array(now.length * 4);
    for (let f = 0; f + 1 < start.length; f++) {
      const [from, to] = [start[f]!, start[f + 1]!];
      for (let d = 0; d < size; d++) {
        let mean = 0;
        for (let c = from; c < to; c++) mean += now[c * size + d]! / (to - from);
        for (let c = from; c < to; c++) {
          const [own, after, before] = [now[c * size + d]!, now[(c + 1 === to ? from : c + 1) * size + d]!, now[(c === from ? to - 1 : c - 1) * size + d]!];
          out[c * 4 * size + d] = own;
          out[(c * 4 + 1) * size + d] = (own + after) / 2;
          out[(c * 4 + 2) * size + d] = mean;
          out[(c * 4 + 3) * size + d] = (own + before) / 2;
        }
      }
    }
    now = out;
    start = Uint32Array.from({ length: count + 1 }, (_, c) => c * 4);
  }
  return now;
}
