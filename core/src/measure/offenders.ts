import type { ImagePlacement } from '../images/placement.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { faceAreas } from '../mesh/normals.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandDensities } from '../pack/density.ts';
import { edgeLengths } from '../seams/crease.ts';
import { islandLetter, islandsOf } from '../uv/islands.ts';
import { edgesInState, EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import type { LimitKey } from './judge.ts';
import { limitProblems } from './offenderKinds.ts';
import { plainJumps } from './continuity.ts';
import { plainSight } from './seamSight.ts';
import { facesWith, type ProblemLimits } from './uvState.ts';

/** One place where a limit is broken: faces, islands or edges that belong together. */
export interface Offender {
  kind: 'faces' | 'islands' | 'edges';
  ids: Uint32Array;
  /** What it is, short: "piece C, 12 faces". */
  words: string;
}

export interface OffenderOptions {
  width: number;
  height: number;
  tiles?: number;
  /** Smallest gap asked for, px. */
  gap: number;
  /** Density asked for, px per unit; null: the mean of the islands. */
  density: number | null;
  /** How far from the mean a density may be, as a share, and that mean, px per unit; default: of the mesh's own islands. */
  spread: number;
  mean?: number;
  /** How many times a place may be drawn out or squeezed. */
  stretch: number;
  /** How much each edge is seen; null: seams have no offenders. */
  sight: Float64Array | null;
  /** How the part’s picture lies, and its size in px; without it no seam makes it jump. */
  placement?: ImagePlacement | undefined;
  picture?: { width: number; height: number } | null;
  /** Faces that have the problem, where more than this mesh tells them. */
  marked?: Uint8Array;
  /** 1 for each face that may be over others or beyond the sheet. */
  meant?: Uint8Array | null;
}

/** So many are listed. */
const mostOffenders = 200;

/** Where a layout breaks a limit, the largest places first, up to 200. O(T log T). */
export function offendersOf(key: LimitKey, mesh: Mesh, set: UvSet, options: OffenderOptions): Offender[] {
  if (key === 'density' || key === 'spread') return unevenIslands(key, mesh, set, options);
  if (key === 'inSight') return openSeams(mesh, set, options.sight);
  if (key === 'continuity') return jumpingSeams(mesh, set, options);
  const problem = limitProblems[key];
  if (!problem) return [];
  const marked = options.marked ?? facesWith(problem, mesh, set, problemLimits(options));
  const { meant } = options;
  return facePatches(mesh, set, meant && (problem === 'overlapping' || problem === 'outside') ? marked.map((x, f) => (meant[f] ? 0 : x)) : marked);
}

/** The limits as the search for faces takes them. */
export const problemLimits = ({ width, height, stretch, gap, tiles }: OffenderOptions): ProblemLimits => ({
  width,
  height,
  stretch,
  gapPx: gap,
  angle: 45,
  ...(tiles === undefined ? {} : { tiles }),
});

/** Marked faces in patches that hang together within their island. */
function facePatches(mesh: Mesh, set: UvSet, marked: Uint8Array): Offender[] {
  const { twin, cornerFace } = topologyOf(mesh);
  const { ofFace } = islandsOf(mesh, set);
  const areas = faceAreas(mesh);
  const seen = new Uint8Array(marked.length);
  const found: { faces: number[]; area: number }[] = [];
  for (let seed = 0; seed < marked.length; seed++) {
    if (!marked[seed] || seen[seed]) continue;
    const faces = [seed];
    seen[seed] = 1;
    let area = 0;
    for (let k = 0; k < faces.length; k++) {
      const f = faces[k]!;
      area += areas[f]!;
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        const g = twin[c]! < 0 ? -1 : cornerFace[twin[c]!]!;
        if (g < 0 || !marked[g] || seen[g] || ofFace[g] !== ofFace[f]) continue;
        seen[g] = 1;
        faces.push(g);
      }
    }
    found.push({ faces, area });
  }
  found.sort((a, b) => b.area - a.area || a.faces[0]! - b.faces[0]!);
  return found.slice(0, mostOffenders).map(({ faces }) => ({
    kind: 'faces',
    ids: Uint32Array.from(faces).sort(),
    words: `piece ${islandLetter(ofFace[faces[0]!]!)}, ${faces.length} ${faces.length === 1 ? 'face' : 'faces'}`,
  }));
}

/** Islands whose density is below what is asked for, or too far from the others'. */
function unevenIslands(key: 'density' | 'spread', mesh: Mesh, set: UvSet, { width, height, density: asked, spread, mean: given }: OffenderOptions): Offender[] {
  const all = islandDensities(mesh, set, width, height).filter(({ density, area }) => density > 0 && area > 0);
  const area = all.reduce((sum, one) => sum + one.area, 0);
  const mean = given ?? all.reduce((sum, one) => sum + (one.area * one.density) / one.weight, 0) / (area || 1);
  const off = all.map((one) => ({
    ...one,
    off: key === 'density' ? Math.max(0, (asked ?? 0) / one.density - 1) : Math.abs(one.density / one.weight / (mean || 1) - 1),
  }));
  return off
    .filter((one) => one.off > (key === 'density' ? 1e-6 : spread))
    .sort((a, b) => b.off - a.off || a.island - b.island)
    .slice(0, mostOffenders)
    .map(({ island, density }) => ({
      kind: 'islands',
      ids: Uint32Array.of(island),
      words: `piece ${islandLetter(island)}, ${density.toPrecision(3)} px per unit`,
    }));
}

/** Seams at which the picture jumps, the worst first. */
function jumpingSeams(mesh: Mesh, set: UvSet, { placement, picture }: OffenderOptions): Offender[] {
  if (!picture) return [];
  return plainJumps(mesh, set, placement, picture)
    .slice(0, mostOffenders)
    .map(({ edges, offset, turn, scale, isMirrored }) => ({
      kind: 'edges',
      ids: Uint32Array.from(edges),
      words: [
        `off by ${offset.toFixed(offset < 10 ? 1 : 0)} px`,
        turn > 1 && `turned ${turn.toFixed(0)}°`,
        scale > 1.02 && `${scale.toFixed(2)} times the size`,
        isMirrored && 'mirrored',
      ]
        .filter(Boolean)
        .join(', '),
    }));
}

/** Seams in plain sight, in runs that hang together, the longest first. */
function openSeams(mesh: Mesh, set: UvSet, sight: Float64Array | null): Offender[] {
  if (!sight) return [];
  const { edgePoints } = topologyOf(mesh);
  const lengths = edgeLengths(mesh);
  const open = edgesInState(islandsOf(mesh, set).states, EdgeState.seam).filter((e) => sight[e]! >= plainSight);
  const at = new Map<number, number[]>();
  for (const e of open)
    for (let k = 0; k < 2; k++) {
      const list = at.get(edgePoints[e * 2 + k]!);
      if (list) list.push(e);
      else at.set(edgePoints[e * 2 + k]!, [e]);
    }
  const seen = new Set<number>();
  const runs: { edges: number[]; length: number }[] = [];
  for (const seed of open) {
    if (seen.has(seed)) continue;
    const edges = [seed];
    seen.add(seed);
    for (let k = 0; k < edges.length; k++)
      for (let end = 0; end < 2; end++)
        for (const e of at.get(edgePoints[edges[k]! * 2 + end]!)!) {
          if (seen.has(e)) continue;
          seen.add(e);
          edges.push(e);
        }
    runs.push({ edges, length: edges.reduce((sum, e) => sum + lengths[e]!, 0) });
  }
  runs.sort((a, b) => b.length - a.length || a.edges[0]! - b.edges[0]!);
  return runs.slice(0, mostOffenders).map(({ edges }) => ({
    kind: 'edges',
    ids: Uint32Array.from(edges).sort(),
    words: `${edges.length} ${edges.length === 1 ? 'edge' : 'edges'} of seam`,
  }));
}
