import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { visibleShare, type VisibilityOptions } from './visibility.ts';

/* One notion of how much seams are seen, for proposals, measures and reports alike. */

export const viewingSides = ['standing', 'around', 'front', 'back', 'left', 'right', 'above', 'below'] as const;
export type ViewingSide = (typeof viewingSides)[number];

/** What directions from below count for something that stands on the ground, against those from above. Common practice, no source: undersides are seldom seen. */
const fromBelow = 0.2;

/** From the model to the eye where it is seen from one side most, and what directions from below count. */
export const viewingDirections: Record<ViewingSide, Pick<VisibilityOptions, 'towards' | 'below'>> = {
  standing: { towards: null, below: fromBelow },
  around: { towards: null },
  front: { towards: [0, 0, 1] },
  back: { towards: [0, 0, -1] },
  left: { towards: [-1, 0, 0] },
  right: { towards: [1, 0, 0] },
  above: { towards: [0, 1, 0] },
  below: { towards: [0, -1, 0] },
};

/** The sides in words. */
export const viewingWords: Record<ViewingSide, string> = {
  standing: 'around and above',
  around: 'all around alike',
  front: 'the front',
  back: 'the back',
  left: 'the left',
  right: 'the right',
  above: 'above',
  below: 'below',
};

/**
 * A seam is in plain sight where at least this share of all directions sees it: a place on an open, flat surface is seen from half of them.
 * Common practice, no source.
 */
export const plainSight = 0.4;

export type SightOptions = Pick<VisibilityOptions, 'blockers' | 'towards' | 'below'>;

export interface SeamSight {
  /** Units. */
  seamLength: number;
  /** Share of the length out of sight, averaged over directions all round, where a place on an open, flat surface counts as wholly in sight; null without seams. */
  hiddenSeamShare: number | null;
  /** Length in plain sight, units. */
  seamInSight: number;
}

/** The middle of each edge, 3 numbers an edge. */
export function edgeMiddles(mesh: Mesh): Float64Array {
  const { edgeCount, edgePoints } = topologyOf(mesh);
  const out = new Float64Array(edgeCount * 3);
  for (let e = 0; e < edgeCount; e++)
    for (let d = 0; d < 3; d++) out[e * 3 + d] = (mesh.points[edgePoints[e * 2]! * 3 + d]! + mesh.points[edgePoints[e * 2 + 1]! * 3 + d]!) / 2;
  return out;
}

interface Known {
  blockers: readonly Mesh[];
  from: string;
  seen: Float64Array;
}
const keyOf = ({ towards, below }: Omit<SightOptions, 'blockers'>) => `${String(towards ?? null)} ${below ?? 1}`;
const known = new WeakMap<Mesh, Known>();

/** What was found last for a mesh, if it was for the same blockers and direction. */
export function knownEdgeSight(mesh: Mesh, { blockers = [], ...from }: SightOptions): Float64Array | null {
  const last = known.get(mesh);
  const same = last?.from === keyOf(from) && last.blockers.length === blockers.length && last.blockers.every((one, k) => one === blockers[k]);
  return same ? last.seen : null;
}

/** Keeps what was found elsewhere, in another thread. */
export function keepEdgeSight(mesh: Mesh, { blockers = [], ...from }: SightOptions, seen: Float64Array): void {
  known.set(mesh, { blockers: [...blockers], from: keyOf(from), seen });
}

/**
 * Share of all directions from which the middle of each edge is seen, 0 to 1; an open, flat place is seen from half. With a direction those near it
 * count most. The last answer for a mesh is kept. O(T + E).
 */
export function edgeSight(mesh: Mesh, options: SightOptions = {}): Float64Array {
  const last = knownEdgeSight(mesh, options);
  if (last) return last;
  const seen = visibleShare(mesh, edgeMiddles(mesh), options);
  keepEdgeSight(mesh, options, seen);
  return seen;
}

/** @param seen of each edge of the mesh, see `edgeSight` @param length of each edge */
export function seamSight(length: ArrayLike<number>, seen: ArrayLike<number>, edges: Iterable<number>): SeamSight {
  let seamLength = 0;
  let hidden = 0;
  let seamInSight = 0;
  for (const e of edges) {
    seamLength += length[e]!;
    hidden += length[e]! * (1 - Math.min(1, 2 * seen[e]!));
    if (seen[e]! >= plainSight) seamInSight += length[e]!;
  }
  return { seamLength, hiddenSeamShare: seamLength > 0 ? hidden / seamLength : null, seamInSight };
}
