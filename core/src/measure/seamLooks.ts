import type { Surface } from '../images/surface/surface.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { sidesOf } from './continuity.ts';

/** How differently a surface looks on the two sides of a seam: by what is seen, wherever the sides are on the sheet and whatever drives them. */
export interface SeamLook {
  edges: readonly number[];
  /** The islands on both sides. */
  islands: readonly [number, number];
  /** Length, units. */
  length: number;
  /** Difference of the colours, root mean square along the seam and over the channels, 0 to 255. */
  colour: number;
  /** Difference of the relief, root mean square, units. */
  relief: number;
}

/** Places that are compared along an edge. */
const samplesAnEdge = 8;
/** Differences under these are rounding: of 255, and of the largest relief. */
const leastColour = 0.5;

/**
 * Differences of what is seen across the seams of a layout, worst first; seams without any are left out. Between the same two islands it is one seam, as for
 * `seamJumps`. O(seam edges · layers).
 */
export function seamLooks(mesh: Mesh, set: UvSet, surface: Surface, throwIfCancelled: () => void = () => {}): SeamLook[] {
  const { edgeCount, edgePoints } = topologyOf(mesh);
  const islands = islandsOf(mesh, set);
  const { corners, faceStart } = trianglesOf(mesh);
  const groups = new Map<string, { edges: number[]; islands: [number, number]; length: number; colour: number; relief: number }>();
  const [one, other] = [new Float64Array(4), new Float64Array(4)];
  /** The triangle of a face at an edge of it, and which of its corners are the edge's. */
  const triangleAt = ({ face, a, b }: { face: number; a: number; b: number }): [number, number, number] | null => {
    for (let t = faceStart[face]!; t < faceStart[face + 1]!; t++) {
      const own = [corners[t * 3]!, corners[t * 3 + 1]!, corners[t * 3 + 2]!];
      const [i, j] = [own.indexOf(a), own.indexOf(b)];
      if (i >= 0 && j >= 0) return [t, i, j];
    }
    return null;
  };
  const look = ([t, i, j]: [number, number, number], share: number, into: Float64Array): number => {
    const weight = (k: number) => (k === i ? 1 - share : k === j ? share : 0);
    surface.at(t, weight(0), weight(1), weight(2));
    surface.colour(into);
    return surface.relief();
  };
  for (let e = 0; e < edgeCount; e++) {
    if ((e & 1023) === 0) throwIfCancelled();
    if (islands.states[e] !== 1) continue;
    const sides = sidesOf(mesh, e);
    const [first, second] = sides ? [triangleAt(sides[0]), triangleAt(sides[1])] : [null, null];
    if (!sides || !first || !second) continue;
    const [p, q] = [edgePoints[e * 2]! * 3, edgePoints[e * 2 + 1]! * 3];
    const length = Math.hypot(mesh.points[p]! - mesh.points[q]!, mesh.points[p + 1]! - mesh.points[q + 1]!, mesh.points[p + 2]! - mesh.points[q + 2]!);
    let [colour, relief] = [0, 0];
    for (let k = 0; k < samplesAnEdge; k++) {
      const share = (k + 0.5) / samplesAnEdge;
      const height = look(first, share, one) - look(second, share, other);
      relief += height * height;
      // what is clear has no colour
      for (let d = 0; d < 3; d++) colour += (one[d]! * one[3]! - other[d]! * other[3]!) ** 2 / 3;
    }
    const [i, j] = [islands.ofFace[sides[0].face]!, islands.ofFace[sides[1].face]!];
    const key = i < j ? `${i} ${j}` : `${j} ${i}`;
    const group = groups.get(key) ?? { edges: [], islands: i < j ? [i, j] : [j, i], length: 0, colour: 0, relief: 0 };
    groups.set(key, group);
    group.edges.push(e);
    group.length += length;
    group.colour += (colour / samplesAnEdge) * length;
    group.relief += (relief / samplesAnEdge) * length;
  }
  const all = [...groups.values()].map((group): SeamLook => ({
    ...group,
    colour: 255 * Math.sqrt(group.colour / Math.max(1e-30, group.length)),
    relief: Math.sqrt(group.relief / Math.max(1e-30, group.length)),
  }));
  const highest = Math.max(0, ...all.map(({ relief }) => relief));
  return all
    .filter(({ colour, relief }) => colour > leastColour || (relief > 0 && relief > highest * 1e-3))
    .sort((a, b) => b.colour - a.colour || b.relief - a.relief);
}
