import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { pathTo, shortestPaths } from '../seams/shortestPaths.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { flatTriangles } from '../unwrap/flatTriangles.ts';
import { pieceOfFaces, type Piece } from '../unwrap/piece.ts';
import { borderLoops, leastTurn, lineLength, turns } from './strip.ts';

/** A branch is at least so many times as far round as across where it sets out. */
const leastReach = 1.5;
/** So many branches are taken off at most. */
const mostBranches = 24;
/** What is left is the run of a strip where it has so much of the area, share. */
const leastRun = 0.5;

/**
 * The longest run of a branching piece: its faces without its branches. A branch sets out between two corners at which the border bends inwards and has two
 * corners of its own; it ends at the shortest way over edges between those, and the branches that are shortest round go first.
 * @param set layout whose fans are separate
 * @returns null for a piece that does not branch, or has more in its branches than in its run. O(branches · faces · log faces)
 */
export function mainRun(mesh: Mesh, set: UvSet, faces: Uint32Array): Uint32Array | null {
  let run = faces;
  for (let n = 0; n < mostBranches; n++) {
    const rest = withoutShortestBranch(mesh, set, run);
    if (!rest) break;
    run = rest;
  }
  if (run.length === faces.length) return null;
  const areaOf = (of: Uint32Array) => {
    const { positions, triangles } = pieceOfFaces(mesh, set, of);
    return flatTriangles(positions, triangles).area.reduce((sum, x) => sum + x, 0);
  };
  return areaOf(run) >= leastRun * areaOf(faces) ? run : null;
}

function withoutShortestBranch(mesh: Mesh, set: UvSet, faces: Uint32Array): Uint32Array | null {
  const piece = pieceOfFaces(mesh, set, faces);
  const loops = borderLoops(piece);
  if (loops.length !== 1) return null;
  const [loop] = loops as [number[]];
  const turn = turns(piece, loop);
  const inward = loop.flatMap((v, k) => (turn[v]! < -leastTurn ? [k] : []));
  if (inward.length < 2) return null;
  const branches = inward.flatMap((from, n) => {
    const to = inward[(n + 1) % inward.length]!;
    const arc = arcOf(loop, from, to);
    const corners = arc.slice(1, -1).filter((v) => turn[v]! > leastTurn).length;
    const round = lineLength(piece.positions, arc);
    const across = lineLength(piece.positions, [arc[0]!, arc.at(-1)!]);
    return corners >= 2 && round > leastReach * across ? [{ arc, round }] : [];
  });
  branches.sort((a, b) => a.round - b.round);
  for (const { arc } of branches) {
    const rest = without(mesh, set, faces, piece, arc);
    if (rest) return rest;
  }
  return null;
}

function arcOf(loop: readonly number[], from: number, to: number): number[] {
  const arc: number[] = [];
  for (let k = from; ; k = (k + 1) % loop.length) {
    arc.push(loop[k]!);
    if (k === to) return arc;
  }
}

/** The faces on the other side of the shortest way between the ends of a stretch of border; null where that way parts nothing. */
function without(mesh: Mesh, set: UvSet, faces: Uint32Array, piece: Piece, arc: readonly number[]): Uint32Array | null {
  const { cornerEdge, twin, cornerFace, edgePoints } = topologyOf(mesh);
  const isOwn = new Set(faces);
  /** Whether the piece goes on across a corner's half edge. */
  const goesOn = (c: number) => {
    const other = twin[c]!;
    if (other < 0 || !isOwn.has(cornerFace[other]!)) return false;
    return set.cornerUv[c] === set.cornerUv[nextIn(other)] && set.cornerUv[nextIn(c)] === set.cornerUv[other];
  };
  const nextIn = (c: number) => {
    const f = cornerFace[c]!;
    return c + 1 < mesh.faceStart[f + 1]! ? c + 1 : mesh.faceStart[f]!;
  };
  const inside = new Set<number>();
  for (const f of faces) for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) if (goesOn(c)) inside.add(cornerEdge[c]!);
  const at = (p: number) => [0, 1, 2].map((d) => mesh.points[p * 3 + d]!) as [number, number, number];
  const length = (e: number) => {
    const [[ax, ay, az], [bx, by, bz]] = [at(edgePoints[e * 2]!), at(edgePoints[e * 2 + 1]!)];
    return Math.hypot(ax - bx, ay - by, az - bz);
  };
  const [from, to] = [piece.point[arc[0]!]!, piece.point[arc.at(-1)!]!];
  const tree = shortestPaths(mesh, [from], (e) => (inside.has(e) ? length(e) : Infinity), to);
  if (!(tree.distance[to]! < Infinity)) return null;
  const way = new Set(pathTo(mesh, tree, to));
  // what is reached from one face without crossing that way
  const reached = new Set<number>([faces[0]!]);
  const stack = [faces[0]!];
  while (stack.length > 0) {
    const f = stack.pop()!;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      if (!goesOn(c) || way.has(cornerEdge[c]!)) continue;
      const other = cornerFace[twin[c]!]!;
      if (reached.has(other)) continue;
      reached.add(other);
      stack.push(other);
    }
  }
  // the branch holds the border between the two corners
  const branchPoint = arc[1]!;
  const hasBranch = faces.some((f) => {
    if (!reached.has(f)) return false;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) if (set.cornerUv[c] === piece.uvPoint[branchPoint]) return true;
    return false;
  });
  const rest = faces.filter((f) => reached.has(f) !== hasBranch);
  return rest.length > 0 && rest.length < faces.length ? rest : null;
}
