import { facesOfShell } from '../mesh/shells.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';

/**
 * How some faces of a mesh hang together, apart from where they are: corners counted from 0, each standing for the half edge that starts at it. Comparing two
 * patches compares their connections alone.
 */
export interface Patch {
  /** The mesh's corner of each corner of the patch. */
  readonly corners: Uint32Array;
  readonly next: Int32Array;
  readonly prev: Int32Array;
  /** The corner across the half edge; −1 where the patch ends. */
  readonly across: Int32Array;
  /** Corners of the face that a corner belongs to. */
  readonly sides: Uint16Array;
}

/** Faces of a mesh as a patch. @param crosses whether the patch goes on across a corner's half edge; it must have a twin. O(corners) */
export function patchOf(mesh: Mesh, faces: ArrayLike<number>, crosses: (corner: number) => boolean = () => true): Patch {
  const { twin } = topologyOf(mesh);
  let total = 0;
  for (let k = 0; k < faces.length; k++) total += mesh.faceStart[faces[k]! + 1]! - mesh.faceStart[faces[k]!]!;
  const corners = new Uint32Array(total);
  const next = new Int32Array(total);
  const prev = new Int32Array(total);
  const across = new Int32Array(total).fill(-1);
  const sides = new Uint16Array(total);
  const local = new Map<number, number>();
  let at = 0;
  for (let k = 0; k < faces.length; k++) {
    const from = mesh.faceStart[faces[k]!]!;
    const n = mesh.faceStart[faces[k]! + 1]! - from;
    for (let s = 0; s < n; s++) {
      corners[at + s] = from + s;
      next[at + s] = at + ((s + 1) % n);
      prev[at + s] = at + ((s + n - 1) % n);
      sides[at + s] = Math.min(n, 65535);
      local.set(from + s, at + s);
    }
    at += n;
  }
  for (let k = 0; k < total; k++) {
    const c = corners[k]!;
    if (twin[c]! >= 0 && crosses(c)) across[k] = local.get(twin[c]!) ?? -1;
  }
  return { corners, next, prev, across, sides };
}

/** The same faces seen from behind: their corners run the other way round. */
export function mirroredPatch({ corners, next, prev, across, sides }: Patch): Patch {
  // the half edge that leaves a corner backwards is its predecessor's; across it waits the corner at the predecessor's point
  const back = Int32Array.from(prev, (p) => (across[p]! < 0 ? -1 : next[across[p]!]!));
  return { corners, next: prev, prev: next, across: back, sides };
}

const mix = (h: number, x: number) => {
  const k = Math.imul(x ^ (x >>> 15), 0x2c1b3c6d);
  return Math.imul(h ^ (k ^ (k >>> 12)), 0x297a2d39) + 0x165667b1;
};

/** Rounds of refinement: corners further apart than so many steps are not told apart, which only costs tries. */
const rounds = 10;

/**
 * A number for each corner that is the same for corners with the same surroundings (colour refinement: B. Weisfeiler, A. Leman, 1968; from memory), and one
 * for the patch that equal patches share. O(corners)
 */
export function coloursOf({ next, prev, across, sides }: Patch): { colour: Int32Array; key: string } {
  const count = next.length;
  let colour = Int32Array.from({ length: count }, (_, c) => mix(mix(sides[c]!, across[c]! < 0 ? 1 : 2), across[prev[c]!]! < 0 ? 3 : 4));
  let other = new Int32Array(count);
  for (let round = 0; round < rounds; round++) {
    for (let c = 0; c < count; c++) other[c] = mix(mix(mix(colour[c]!, colour[next[c]!]!), colour[prev[c]!]!), across[c]! < 0 ? 7 : colour[across[c]!]!);
    [colour, other] = [other, colour];
  }
  let [sum, squares] = [0, 0];
  for (let c = 0; c < count; c++) {
    sum = (sum + colour[c]!) | 0;
    squares = (squares + Math.imul(colour[c]!, colour[c]! | 1)) | 0;
  }
  return { colour, key: `${count} ${sum} ${squares}` };
}

/**
 * Carries a patch over another one from one pair of corners on; connections alone decide. @returns for each corner of `a` the one of `b`, or where they
 * first differ. O(corners)
 */
export function walkTogether(a: Patch, b: Patch, from: number, to: number): { map: Int32Array } | { differsAt: number } {
  const map = new Int32Array(a.next.length).fill(-1);
  const taken = new Uint8Array(b.next.length);
  const stack = [from];
  map[from] = to;
  taken[to] = 1;
  while (stack.length > 0) {
    const c = stack.pop()!;
    const d = map[c]!;
    if (a.sides[c] !== b.sides[d]) return { differsAt: c };
    for (const [x, y] of [
      [a.next[c]!, b.next[d]!],
      [a.across[c]!, b.across[d]!],
    ] as const) {
      if (x < 0 !== y < 0) return { differsAt: c };
      if (x < 0) continue;
      if (map[x] === -1) {
        if (taken[y]) return { differsAt: x };
        map[x] = y;
        taken[y] = 1;
        stack.push(x);
      } else if (map[x] !== y) return { differsAt: x };
    }
  }
  return { map };
}

/** A patch with what comparing it needs. */
export interface Coloured {
  readonly patch: Patch;
  readonly colour: Int32Array;
  readonly key: string;
}
export const coloured = (patch: Patch): Coloured => ({ patch, ...coloursOf(patch) });

/** Ways one connected patch can be laid over another are tried from at most so many corners, of large patches from fewer: so many corners are walked in all. */
const mostTries = 256;
const mostWalked = 4e6;

/**
 * All ways to lay one connected patch over another, by connections. @param only a pair of corners that has to lie on one another
 * O(corners · corners with the rarest surroundings), at most `mostTries` of these and some `mostWalked` in all
 */
export function waysToMatch(a: Coloured, b: Coloured, only?: readonly [number, number]): Int32Array[] {
  if (a.key !== b.key || a.patch.next.length === 0) return [];
  const [from, starts] = only ? [only[0], [only[1]]] : rarest(a, b);
  const tries = Math.max(8, Math.min(mostTries, Math.floor(mostWalked / a.patch.next.length)));
  return starts.slice(0, tries).flatMap((to) => {
    const found = walkTogether(a.patch, b.patch, from, to);
    return 'map' in found ? [found.map] : [];
  });
}

/** A corner of `a` whose surroundings are the rarest, and those of `b` that look the same. */
function rarest(a: Coloured, b: Coloured): [number, number[]] {
  const count = new Map<number, number>();
  for (const x of a.colour) count.set(x, (count.get(x) ?? 0) + 1);
  let best = 0;
  a.colour.forEach((x, c) => {
    if (count.get(x)! < count.get(a.colour[best]!)!) best = c;
  });
  const wanted = a.colour[best]!;
  const starts: number[] = [];
  b.colour.forEach((x, c) => {
    if (x === wanted) starts.push(c);
  });
  return [best, starts];
}

/** Pieces of a mesh that hang together, as patches. */
export const shellPatches = (mesh: Mesh): Patch[] => facesOfShell(mesh).map((faces) => patchOf(mesh, faces));
