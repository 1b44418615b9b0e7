import { faceCount, pointCount, type Mesh } from '../mesh/mesh.ts';
import { facesOfShell } from '../mesh/shells.ts';
import { topologyOf } from '../mesh/topology.ts';
import { pricesOf } from './alike.ts';
import { coloured, mirroredPatch, patchOf, walkTogether, waysToMatch, type Coloured } from './patch.ts';

export interface MeshMatch {
  /** For each corner of the second mesh the one of the first. */
  readonly corner: Uint32Array;
  /** Found by the order in the file, or by comparing connections. */
  readonly by: 'order' | 'connections';
  /** The most ways that one piece fits; of several the one that changes lengths least was taken. */
  readonly ways: number;
  /** Some faces run the other way round. */
  readonly mirrored: boolean;
}

export interface MatchOptions {
  /** Faces may run the other way round. */
  mirrored?: boolean;
  /** An edge of the first mesh and the one of the second that it has to lie on. */
  pair?: readonly [number, number];
}

/**
 * Which corner of one mesh corresponds to which of another by connections alone; points may be anywhere. Tried by order first, unless a pair is given.
 * @returns the match, or in words where they first differ
 * O(corners · ways) for meshes whose pieces are of few kinds; alike pieces are told apart by where they are round the middle of all
 */
export function matchMeshes(from: Mesh, to: Mesh, { mirrored = false, pair }: MatchOptions = {}): { match: MeshMatch } | { differs: string } {
  const counts = countsDiffer(from, to);
  if (counts) return { differs: counts };
  if (!pair && sameOrder(from, to))
    return { match: { corner: Uint32Array.from({ length: from.corners.length }, (_, c) => c), by: 'order', ways: 1, mirrored: false } };
  const [shellsFrom, shellsTo] = [shellsOf(from), shellsOf(to)];
  if (shellsFrom.length !== shellsTo.length) return { differs: `the first has ${pieces(shellsFrom.length)}, the second ${shellsTo.length}` };
  const corner = new Uint32Array(to.corners.length);
  const free = new Set(shellsFrom);
  let most = 1;
  let isMirrored = false;
  for (const shell of shellsTo) {
    const sides = [{ own: shell.coloured, back: false }, ...(mirrored ? [{ own: coloured(mirroredPatch(shell.coloured.patch)), back: true }] : [])];
    const near = [...free].filter((one) => sides.some(({ own }) => own.key === one.coloured.key)).sort((a, b) => far(a, shell) - far(b, shell));
    // the nearest that fits is the one meant
    let found: ReturnType<typeof waysOver> = null;
    for (const first of near) if ((found = waysOver(from, to, first, sides, pair))) break;
    if (!found) return { differs: firstDifference(from, shellsFrom, shell, pair !== undefined) };
    const { first, map, own } = found;
    most = Math.max(most, found.ways);
    free.delete(first);
    isMirrored ||= found.back;
    map.forEach((k, c) => (corner[own.patch.corners[k]!] = first.coloured.patch.corners[c]!));
  }
  return { match: { corner, by: 'connections', ways: most, mirrored: isMirrored } };
}

interface Side {
  own: Coloured;
  /** Its faces run the other way round. */
  back: boolean;
}

/** The best way to lay a piece over one of the first mesh, and how many there are; null for none. */
function waysOver(from: Mesh, to: Mesh, first: Shell, sides: readonly Side[], pair: readonly [number, number] | undefined) {
  let ways = 0;
  let best: (Side & { map: Int32Array; price: number }) | null = null;
  for (const { own, back } of sides) {
    const held = pair ? pairOf(from, to, first.coloured, own, pair) : null;
    if (held === 'elsewhere') continue;
    const maps = held ? held.flatMap((two) => waysToMatch(first.coloured, own, two)) : waysToMatch(first.coloured, own);
    ways = Math.max(ways, maps.length);
    for (const map of maps) {
      const price =
        pricesOf(
          to,
          Uint32Array.from(map, (k) => own.patch.corners[k]!),
          first.coloured.patch.corners,
          from,
        ) + (back ? 1e-9 : 0);
      if (!best || price < best.price) best = { own, back, map, price };
    }
  }
  return best && { ...best, first, ways };
}

interface Shell {
  faces: Uint32Array;
  coloured: Coloured;
  /** Its middle as seen from the middle of all. */
  middle: number[];
}

function shellsOf(mesh: Mesh): Shell[] {
  const all = [0, 0, 0];
  for (let k = 0; k < mesh.points.length; k++) all[k % 3]! += mesh.points[k]! / (mesh.points.length / 3);
  return facesOfShell(mesh).map((faces) => {
    const patch = patchOf(mesh, faces);
    const middle = all.map((x) => -x);
    for (const c of patch.corners) for (let d = 0; d < 3; d++) middle[d]! += mesh.points[mesh.corners[c]! * 3 + d]! / patch.corners.length;
    return { faces, coloured: coloured(patch), middle };
  });
}

const far = (a: Shell, b: Shell) => Math.hypot(...a.middle.map((x, d) => x - b.middle[d]!));
const pieces = (n: number) => `${n} ${n === 1 ? 'piece' : 'pieces'}`;

function countsDiffer(from: Mesh, to: Mesh): string | null {
  const sides = (mesh: Mesh) => {
    const out = new Map<number, number>();
    for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
      const n = mesh.faceStart[f + 1]! - mesh.faceStart[f]!;
      out.set(n, (out.get(n) ?? 0) + 1);
    }
    return out;
  };
  if (faceCount(from) !== faceCount(to)) return `the first has ${faceCount(from)} faces, the second ${faceCount(to)}`;
  const [a, b] = [sides(from), sides(to)];
  for (const n of [...new Set([...a.keys(), ...b.keys()])].sort((x, y) => x - y))
    if ((a.get(n) ?? 0) !== (b.get(n) ?? 0)) return `the first has ${a.get(n) ?? 0} of the faces with ${n} corners, the second ${b.get(n) ?? 0}`;
  const [e, g] = [topologyOf(from), topologyOf(to)];
  if (e.edgeCount !== g.edgeCount) return `the first has ${e.edgeCount} edges, the second ${g.edgeCount}`;
  return e.borderEdges !== g.borderEdges ? `the first has ${e.borderEdges} border edges, the second ${g.borderEdges}` : null;
}

/** Corner k of one is corner k of the other: the points correspond one to one. O(corners) */
function sameOrder(from: Mesh, to: Mesh): boolean {
  if (from.faceStart.some((x, f) => x !== to.faceStart[f])) return false;
  const [there, back] = [new Int32Array(pointCount(from)).fill(-1), new Int32Array(pointCount(to)).fill(-1)];
  for (let c = 0; c < from.corners.length; c++) {
    const [p, q] = [from.corners[c]!, to.corners[c]!];
    if (there[p] === -1 && back[q] === -1) {
      there[p] = q;
      back[q] = p;
    } else if (there[p] !== q || back[q] !== p) return false;
  }
  return true;
}

/** Pairs of patch corners that lay one edge on the other; the edge is another piece's: `elsewhere`; neither edge is here: null. */
function pairOf(from: Mesh, to: Mesh, a: Coloured, b: Coloured, [edge, onto]: readonly [number, number]): [number, number][] | 'elsewhere' | null {
  const edgesOf = (mesh: Mesh, { patch }: Coloured, wanted: number) => {
    const { cornerEdge, cornerFace } = topologyOf(mesh);
    // the edge that a corner of the patch leaves by, which is the one before where the patch runs backwards
    return [...patch.corners.keys()].filter((k) => {
      const [c, n] = [patch.corners[k]!, patch.corners[patch.next[k]!]!];
      const face = cornerFace[c]!;
      const after = c + 1 < mesh.faceStart[face + 1]! ? c + 1 : mesh.faceStart[face]!;
      return cornerEdge[after === n ? c : n] === wanted;
    });
  };
  const [own, its] = [edgesOf(from, a, edge), edgesOf(to, b, onto)];
  if (own.length === 0 && its.length === 0) return null;
  return own.length === 0 || its.length === 0 ? 'elsewhere' : its.map((k): [number, number] => [own[0]!, k]);
}

function firstDifference(from: Mesh, shells: readonly Shell[], shell: Shell, pair: boolean): string {
  const alike = shells.filter(({ faces }) => faces.length === shell.faces.length);
  if (pair) return 'no way to lay one over the other has the two edges on one another';
  if (alike.length === 0) return `the second has a piece of ${shell.faces.length} faces that the first has none of`;
  // from a border, or wherever corners are alike, as far as it goes
  const a = alike[0]!.coloured;
  const at = a.colour.findIndex((x) => !shell.coloured.colour.includes(x));
  const face = at < 0 ? shell.faces[0]! : topologyOf(from).cornerFace[a.patch.corners[at]!]!;
  const walked = walkTogether(a.patch, shell.coloured.patch, 0, 0);
  const there = 'differsAt' in walked ? topologyOf(from).cornerFace[a.patch.corners[walked.differsAt]!]! : face;
  return `faces are connected differently, first at face ${at < 0 ? there : face} of the first`;
}
