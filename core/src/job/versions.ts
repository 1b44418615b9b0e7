import { contentHash } from '../images/contentHash.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { faceMarksFrom, withoutIdleMarks } from '../uv/faceMarks.ts';
import { islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { type Job, type Part } from './job.ts';

/** How many versions a job keeps. */
export const mostVersions = 50;

/** The layout of one part as it was. */
export interface VersionLayout {
  part: string;
  /** Of the part then. */
  name: string;
  /** What its faces were, without where its points lay: a layout fits these alone. */
  faces: string;
  uvSets: readonly UvSet[];
  activeUv: number;
}

export interface VersionFigures {
  sheet: string;
  islands: number;
  /** Symmetric Dirichlet energy inside the islands; null where there is none to be had. */
  energy: number | null;
  /** Shares of the sheet. */
  coverage: number;
  overlap: number;
  flips: number;
}

/** The layout of all parts, kept under a name. */
export interface Version {
  id: string;
  name: string;
  note: string;
  /** When, ms since 1970; 0: not known. */
  made: number;
  layouts: readonly VersionLayout[];
  figures: readonly VersionFigures[];
  /** The sheet that was at work, small, PNG. */
  picture: Uint8Array;
}

/** The faces of a mesh by their points, as a short name: two meshes with the same can have each other's layouts. O(corners). */
export function facesKey({ corners, faceStart }: Mesh): string {
  let known = keys.get(corners);
  if (!known) {
    const bytes = (list: Uint32Array) => new Uint8Array(list.buffer, list.byteOffset, list.byteLength);
    const both = new Uint8Array(corners.byteLength + faceStart.byteLength);
    both.set(bytes(corners));
    both.set(bytes(faceStart), corners.byteLength);
    known = contentHash(both);
    keys.set(corners, known);
  }
  return known;
}
const keys = new WeakMap<Uint32Array, string>();

/** The layout that a version has for a part; null where it has none that fits. */
export function layoutIn(version: Version, part: Part): VersionLayout | null {
  const found = version.layouts.find((one) => one.part === part.id);
  return found && found.faces === facesKey(part.mesh) ? found : null;
}

/** The layouts as they are now. */
export const layoutsOf = (job: Job): VersionLayout[] =>
  job.parts.map(({ id, name, mesh, uvSets, activeUv }) => ({ part: id, name, faces: facesKey(mesh), uvSets, activeUv }));

/** How faces lie in a layout against another one. */
export const faceChanges = ['same', 'moved', 'reshaped', 'recut'] as const;
export type FaceChange = (typeof faceChanges)[number];

/** How near the places of an island have to be to count as the same, and its shape as the same, of its size. */
const samePlace = 1e-9;
const sameShape = 1e-5;

/**
 * What became of each face from one layout of a mesh to another: same; moved with its island, turned, sized or mirrored; its island reshaped; or the island is of
 * other faces. O(corners).
 * @returns a number of `faceChanges` a face
 */
export function changesBetweenSets(mesh: Mesh, a: UvSet, b: UvSet): Uint8Array {
  const [was, now] = [islandsOf(mesh, a), islandsOf(mesh, b)];
  const out = new Uint8Array(mesh.faceStart.length - 1);
  for (let i = 0; i < now.count; i++) {
    const faces = now.faces.subarray(now.start[i]!, now.start[i + 1]!);
    const j = was.ofFace[faces[0]!]!;
    const sameFaces = was.start[j + 1]! - was.start[j]! === faces.length && faces.every((f) => was.ofFace[f] === j && a.unplaced[f] === b.unplaced[f]);
    const change = !sameFaces ? 3 : b.unplaced[faces[0]!] ? 0 : changeOf(mesh, a, b, faces);
    for (const f of faces) out[f] = change;
  }
  return out;
}

/** 0 where all corners lie as they did, 1 where a similarity brings them there, 2 else. */
function changeOf(mesh: Mesh, a: UvSet, b: UvSet, faces: Uint32Array): 0 | 1 | 2 {
  let [ax, ay, bx, by, n] = [0, 0, 0, 0, 0];
  let still = true;
  const each = (visit: (p: number, q: number) => void) => {
    for (const f of faces) for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) visit(a.cornerUv[c]! * 2, b.cornerUv[c]! * 2);
  };
  each((p, q) => {
    if (Math.abs(a.uv[p]! - b.uv[q]!) > samePlace || Math.abs(a.uv[p + 1]! - b.uv[q + 1]!) > samePlace) still = false;
    ax += a.uv[p]!;
    ay += a.uv[p + 1]!;
    bx += b.uv[q]!;
    by += b.uv[q + 1]!;
    n++;
  });
  if (still) return 0;
  [ax, ay, bx, by] = [ax / n, ay / n, bx / n, by / n];
  // the best turn and size, for the island as it is and mirrored, as complex numbers
  const sums = [0, 0, 0, 0];
  let size = 0;
  let whole = 0;
  each((p, q) => {
    const [x, y, u, v] = [a.uv[p]! - ax, a.uv[p + 1]! - ay, b.uv[q]! - bx, b.uv[q + 1]! - by];
    sums[0]! += x * u + y * v;
    sums[1]! += x * v - y * u;
    sums[2]! += x * u - y * v;
    sums[3]! += x * v + y * u;
    size += x * x + y * y;
    whole += u * u + v * v;
  });
  if (size === 0) return 2;
  // what is left of the squares once the best is taken away
  const left = (re: number, im: number) => whole - (re * re + im * im) / size;
  return Math.min(left(sums[0]!, sums[1]!), left(sums[2]!, sums[3]!)) <= sameShape ** 2 * whole ? 1 : 2;
}

/** A set with some faces as another one has them, the rest as they are: pins, stacks and other marks go along. O(corners). */
export function mixedSet(mesh: Mesh, now: UvSet, then: UvSet, takes: Uint8Array): UvSet {
  const cornerUv = new Uint32Array(mesh.corners.length);
  const straight = now.straight || then.straight ? new Uint8Array(mesh.corners.length) : undefined;
  const uv: number[] = [];
  const pins: number[] = [];
  const ids = [new Map<number, number>(), new Map<number, number>()];
  for (let f = 0; f < takes.length; f++) {
    const which = takes[f] ? 1 : 0;
    const from = which ? then : now;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const old = from.cornerUv[c]!;
      let id = ids[which]!.get(old);
      if (id === undefined) {
        id = pins.length;
        ids[which]!.set(old, id);
        uv.push(from.uv[old * 2]!, from.uv[old * 2 + 1]!);
        pins.push(from.pins[old]!);
      }
      cornerUv[c] = id;
      if (straight) straight[c] = from.straight?.[c] ?? 0;
    }
  }
  const marks = faceMarksFrom(
    [now, then],
    takes.length,
    (f) => (takes[f] ? 1 : 0),
    (f) => f,
  );
  return {
    name: now.name,
    cornerUv,
    uv: Float64Array.from(uv),
    unplaced: Uint8Array.from(takes, (take, f) => (take ? then : now).unplaced[f]!),
    slits: Uint32Array.from(new Set([...now.slits, ...then.slits])).sort(),
    pins: Uint8Array.from(pins),
    ...withoutIdleMarks(marks),
    ...(straight?.some((x) => x !== 0) ? { straight } : {}),
  };
}
