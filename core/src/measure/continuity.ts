import { asItLies, placedAt, placementMatrix, type ImagePlacement } from '../images/placement.ts';
import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import * as portable from '../numeric/portable.ts';

/** A seam between two islands (or one island's two sides), and how its picture jumps there. */
export interface SeamJump {
  /** Edges of the mesh, from one end to the other or in several pieces. */
  edges: readonly number[];
  /** The islands on both sides. */
  islands: readonly [number, number];
  /** Length, units. */
  length: number;
  /** How far the picture is off, px of the image: root mean square along the seam; whole repeats do not count. */
  offset: number;
  /** Degrees by which the picture is turned from one side to the other, 0 to 180. */
  turn: number;
  /** The larger size over the smaller one, 1 or more. */
  scale: number;
  /** The picture is mirrored from one side to the other. */
  isMirrored: boolean;
}

interface Side {
  face: number;
  /** Corner at the edge's first point, and at its second. */
  a: number;
  b: number;
}

/** The two faces of a plain inner edge, by corners at its ends. */
export function sidesOf(mesh: Mesh, e: number): [Side, Side] | null {
  const { edgeStart, edgeCorners, cornerFace, edgePoints } = topologyOf(mesh);
  if (edgeStart[e + 1]! - edgeStart[e]! !== 2) return null;
  const first = edgePoints[e * 2]!;
  const side = (c: number): Side => {
    const face = cornerFace[c]!;
    const n = nextCorner(mesh, c, face);
    return mesh.corners[c] === first ? { face, a: c, b: n } : { face, a: n, b: c };
  };
  return [side(edgeCorners[edgeStart[e]!]!), side(edgeCorners[edgeStart[e]! + 1]!)];
}

/** A seam's offset is looked for among whole repeats so far away. */
const wrap = (x: number, period: boolean) => (period ? x - Math.round(x) : x);

/**
 * Jumps of a part's picture along its seams, worst first: by offset in px, then by turn and scale. Edges between the same two islands are one seam. What is
 * the same on both sides (a whole number of repeats apart where the picture repeats) is no jump and is left out. O(edges).
 * @param image its size in px; a square of 1024 px where there is none
 */
export function seamJumps(mesh: Mesh, set: UvSet, placement: ImagePlacement = asItLies, image = { width: 1024, height: 1024 }): SeamJump[] {
  const { edgePoints, edgeCount } = topologyOf(mesh);
  const islands = islandsOf(mesh, set);
  const matrix = placementMatrix(placement);
  const at = (c: number): [number, number] => {
    const id = set.cornerUv[c]! * 2;
    return placedAt(matrix, set.uv[id]!, set.uv[id + 1]!);
  };
  const repeats = [placement.outsideU === 'repeat', placement.outsideV === 'repeat'] as const;
  const groups = new Map<
    string,
    { edges: number[]; islands: [number, number]; squared: number; length: number; cos: number; sin: number; log: number; mirrored: number }
  >();
  for (let e = 0; e < edgeCount; e++) {
    if (islands.states[e] !== 1) continue;
    const sides = sidesOf(mesh, e);
    if (!sides || sides.some(({ face }) => set.unplaced[face] === 1)) continue;
    const [one, other] = sides;
    const [p, q] = [edgePoints[e * 2]! * 3, edgePoints[e * 2 + 1]! * 3];
    const length = Math.hypot(mesh.points[p]! - mesh.points[q]!, mesh.points[p + 1]! - mesh.points[q + 1]!, mesh.points[p + 2]! - mesh.points[q + 2]!);
    const [a0, b0, a1, b1] = [at(one.a), at(one.b), at(other.a), at(other.b)];
    // both ends by the same whole repeats: taken at the middle
    const middle = [0, 1].map((d) => (a1[d]! + b1[d]! - a0[d]! - b0[d]!) / 2) as [number, number];
    const shift = middle.map((x, d) => x - wrap(x, repeats[d]!)) as [number, number];
    const off = (from: readonly [number, number], to: readonly [number, number]) =>
      ((to[0] - from[0] - shift[0]) * image.width) ** 2 + ((to[1] - from[1] - shift[1]) * image.height) ** 2;
    // mean square of a line between both ends
    const [x0, y0] = [(a1[0] - a0[0] - shift[0]) * image.width, (a1[1] - a0[1] - shift[1]) * image.height];
    const [x1, y1] = [(b1[0] - b0[0] - shift[0]) * image.width, (b1[1] - b0[1] - shift[1]) * image.height];
    const squared = (off(a0, a1) + off(b0, b1) + x0 * x1 + y0 * y1) / 3;
    const along0 = [(b0[0] - a0[0]) * image.width, (b0[1] - a0[1]) * image.height] as const;
    const along1 = [(b1[0] - a1[0]) * image.width, (b1[1] - a1[1]) * image.height] as const;
    const [l0, l1] = [Math.hypot(...along0), Math.hypot(...along1)];
    const [i, j] = [islands.ofFace[one.face]!, islands.ofFace[other.face]!];
    const key = i < j ? `${i} ${j}` : `${j} ${i}`;
    const group = groups.get(key) ?? { edges: [], islands: i < j ? [i, j] : [j, i], squared: 0, length: 0, cos: 0, sin: 0, log: 0, mirrored: 0 };
    groups.set(key, group);
    group.edges.push(e);
    group.squared += squared * length;
    group.length += length;
    if (l0 > 0 && l1 > 0) {
      group.cos += (length * (along0[0] * along1[0] + along0[1] * along1[1])) / (l0 * l1);
      // whichever side is the first: a turn is a turn
      group.sin += (length * Math.abs(along0[0] * along1[1] - along0[1] * along1[0])) / (l0 * l1);
      group.log += length * Math.abs(portable.log(l1 / l0));
    }
    if (orientation(mesh, one.face, at) * orientation(mesh, other.face, at) < 0) group.mirrored += length;
  }
  return [...groups.values()]
    .map(({ edges, islands: of, squared, length, cos, sin, log, mirrored }): SeamJump => ({
      edges,
      islands: of,
      length,
      offset: Math.sqrt(squared / Math.max(1e-30, length)),
      turn: (portable.atan2(sin, cos) * 180) / Math.PI,
      scale: portable.exp(log / Math.max(1e-30, length)),
      isMirrored: mirrored > length / 2,
    }))
    .filter(({ offset, turn, scale }) => offset > 0.05 || turn > 0.05 || scale > 1.0005)
    .sort((a, b) => b.offset - a.offset || b.turn - a.turn || b.scale - a.scale);
}

/** What counts as a jump, for limits: px, degrees, and sizes over one another. */
const jumpPx = 1;
const jumpTurn = 1;
const jumpScale = 1.02;

/** Seams at which the picture visibly jumps, worst first. */
export const plainJumps = (mesh: Mesh, set: UvSet, placement: ImagePlacement | undefined, image: { width: number; height: number }): SeamJump[] =>
  seamJumps(mesh, set, placement, image).filter(({ offset, turn, scale }) => offset > jumpPx || turn > jumpTurn || scale > jumpScale);

/** Length of the seams at which the picture jumps, and of all seams between two laid faces; units. */
export function jumpLengths(
  mesh: Mesh,
  set: UvSet,
  placement: ImagePlacement | undefined,
  image: { width: number; height: number },
): { jumping: number; all: number } {
  const { edgePoints, edgeCount } = topologyOf(mesh);
  const { states } = islandsOf(mesh, set);
  let all = 0;
  for (let e = 0; e < edgeCount; e++) {
    if (states[e] !== 1) continue;
    const sides = sidesOf(mesh, e);
    if (!sides || sides.some(({ face }) => set.unplaced[face] === 1)) continue;
    const [p, q] = [edgePoints[e * 2]! * 3, edgePoints[e * 2 + 1]! * 3];
    all += Math.hypot(mesh.points[p]! - mesh.points[q]!, mesh.points[p + 1]! - mesh.points[q + 1]!, mesh.points[p + 2]! - mesh.points[q + 2]!);
  }
  return { jumping: plainJumps(mesh, set, placement, image).reduce((sum, { length }) => sum + length, 0), all };
}

/** Twice the area of a face in the picture: below 0 where it is mirrored. */
function orientation(mesh: Mesh, f: number, at: (corner: number) => [number, number]): number {
  let sum = 0;
  for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
    const [u, v] = at(c);
    const [x, y] = at(nextCorner(mesh, c, f));
    sum += u * y - v * x;
  }
  return sum;
}

export const goOnWays = ['move', 'turn', 'size'] as const;
/** What is allowed to an island that is to go on from another: moved alone, also turned, also sized. */
export type GoOnWay = (typeof goOnWays)[number];

/** A change of places on the sheet: u′ = a u − b v + c, v′ = b u + a v + d. */
export interface Similarity {
  a: number;
  b: number;
  c: number;
  d: number;
  /** What is left between both sides of the seam after it: root mean square, heights of the sheet. */
  left: number;
}

/**
 * The change of an island's places that lays its side of a seam on the other side, by least squares over the ends of the seam's edges, weighed by length
 * (S. Umeyama, "Least-Squares Estimation of Transformation Parameters Between Two Point Patterns", IEEE PAMI 1991, in the plane). Null without a common seam.
 * @param aspect width of the sheet over its height
 */
export function goOnFrom(mesh: Mesh, set: UvSet, island: number, from: number, way: GoOnWay, aspect: number): Similarity | null {
  const { edgeCount } = topologyOf(mesh);
  const islands = islandsOf(mesh, set);
  const pairs: PairedPlace[] = [];
  const place = (c: number): [number, number] => [set.uv[set.cornerUv[c]! * 2]! * aspect, set.uv[set.cornerUv[c]! * 2 + 1]!];
  for (let e = 0; e < edgeCount; e++) {
    if (islands.states[e] !== 1) continue;
    const sides = sidesOf(mesh, e);
    if (!sides) continue;
    const own = sides.find(({ face }) => islands.ofFace[face] === island);
    const other = sides.find(({ face }) => islands.ofFace[face] === from);
    if (!own || !other || own === other) continue;
    for (const end of ['a', 'b'] as const) {
      const [p, q] = [mesh.corners[own.a]! * 3, mesh.corners[own.b]! * 3];
      const w = Math.hypot(mesh.points[p]! - mesh.points[q]!, mesh.points[p + 1]! - mesh.points[q + 1]!, mesh.points[p + 2]! - mesh.points[q + 2]!);
      const [u, v] = place(own[end]);
      const [x, y] = place(other[end]);
      pairs.push({ u, v, x, y, w });
    }
  }
  return similarityOf(pairs, way);
}

/** A place u, v that is to come to x, y, and its weight. */
export interface PairedPlace {
  u: number;
  v: number;
  x: number;
  y: number;
  w: number;
}

/** The change that brings places as near as can be to others, by least squares (S. Umeyama, as above). Null without any weight. */
export function similarityOf(pairs: readonly PairedPlace[], way: GoOnWay): Similarity | null {
  const all = pairs.reduce((sum, { w }) => sum + w, 0);
  if (!(all > 0)) return null;
  const mean = (of: (pair: PairedPlace) => number) => pairs.reduce((sum, pair) => sum + of(pair) * pair.w, 0) / all;
  const [mu, mv, mx, my] = [mean(({ u }) => u), mean(({ v }) => v), mean(({ x }) => x), mean(({ y }) => y)];
  let [dot, cross, size] = [0, 0, 0];
  for (const { u, v, x, y, w } of pairs) {
    dot += w * ((u - mu) * (x - mx) + (v - mv) * (y - my));
    cross += w * ((u - mu) * (y - my) - (v - mv) * (x - mx));
    size += w * ((u - mu) ** 2 + (v - mv) ** 2);
  }
  const length = Math.hypot(dot, cross);
  const scale = way === 'size' && size > 0 ? length / size : 1;
  const [a, b] = way === 'move' || length === 0 ? [1, 0] : [(dot / length) * scale, (cross / length) * scale];
  const [c, d] = [mx - a * mu + b * mv, my - b * mu - a * mv];
  const left = Math.sqrt(pairs.reduce((sum, { u, v, x, y, w }) => sum + w * ((a * u - b * v + c - x) ** 2 + (b * u + a * v + d - y) ** 2), 0) / all);
  return { a, b, c, d, left };
}
