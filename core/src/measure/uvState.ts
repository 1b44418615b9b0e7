import { faceCount, type Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { meanDirection } from '../unwrap/heading.ts';
import { islandFacts, islandsOf, shapeWords } from '../uv/islands.ts';
import { onceEach } from '../uv/stacks.ts';
import { trayFaces, trayIslands } from '../uv/tray.ts';
import { unplacedCount, type UvSet } from '../uv/uvSet.ts';
import { flippedFaces, outsideFaces } from './check.ts';
import { triangleStretch } from './distortion.ts';
import { faceStretch } from './faceStretch.ts';
import { tooCloseFaces } from './gaps.ts';
import { overlapFigures } from './overlap.ts';
import * as portable from '../numeric/portable.ts';

/** What can be wrong with faces of a layout. */
export const problemKinds = [
  'noUv',
  'copies',
  'strip',
  'shrunk',
  'overlapping',
  'flipped',
  'mirrored',
  'turned',
  'outside',
  'tray',
  'stretched',
  'close',
] as const;
export type ProblemKind = (typeof problemKinds)[number];

export interface ProblemLimits {
  width: number;
  height: number;
  /** Stretched: the picture is drawn out or squeezed more than this many times. */
  stretch: number;
  /** Too close: nearer than this many px to another island. */
  gapPx: number;
  /** Turned: the model's up is off the sheet's up by more than this many degrees. */
  angle: number;
  /** Tiles of the sheet; default 1. */
  tiles?: number;
}

/** 1 for each face that has the problem. */
export function facesWith(problem: ProblemKind, mesh: Mesh, set: UvSet, limits: ProblemLimits): Uint8Array {
  const { width, height } = limits;
  switch (problem) {
    case 'noUv':
      return set.unplaced.slice();
    case 'copies':
      return copiedFaces(mesh, set);
    case 'strip':
      return stripFaces(mesh, set);
    case 'shrunk':
      return shrunkFaces(mesh, set, width, height);
    case 'overlapping':
      // islands of a stack share their place on purpose
      return overlapFigures(mesh, onceEach(mesh, set)).overlapping;
    case 'flipped':
      return flippedFaces(mesh, set, triangleStretch(mesh, set, width, height).pxArea).faces;
    case 'mirrored':
      return mirroredFaces(mesh, set, width, height);
    case 'turned':
      return turnedFaces(mesh, set, width / height, limits.angle);
    case 'outside':
      return outsideButTray(mesh, set, outsideFaces(mesh, set, limits.tiles).faces);
    case 'tray':
      return trayFaces(mesh, set);
    case 'stretched': {
      const limit = portable.log2(Math.max(1, limits.stretch));
      return Uint8Array.from(faceStretch(mesh, set, width, height), (x) => (Math.abs(x) > limit + 1e-9 ? 1 : 0));
    }
    case 'close':
      return tooCloseFaces(mesh, onceEach(mesh, set), width, height, limits.gapPx);
  }
}

/** Faces outside the sheet that do not just wait in the tray. */
export function outsideButTray(mesh: Mesh, set: UvSet, outside: Uint8Array): Uint8Array {
  const waits = trayFaces(mesh, set);
  return outside.map((x, f) => (waits[f] ? 0 : x));
}

/** Faces that lie exactly on another face's UVs, where most of the placed faces do so: a mesh whose faces each show the whole image. */
function copiedFaces(mesh: Mesh, set: UvSet): Uint8Array {
  const out = new Uint8Array(faceCount(mesh));
  const groups = new Map<string, number[]>();
  for (let f = 0; f < out.length; f++) {
    if (set.unplaced[f]) continue;
    const places: string[] = [];
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const id = set.cornerUv[c]! * 2;
      places.push(`${set.uv[id]!.toFixed(5)},${set.uv[id + 1]!.toFixed(5)}`);
    }
    const key = places.sort().join(' ');
    const group = groups.get(key);
    if (group) group.push(f);
    else groups.set(key, [f]);
  }
  for (const group of groups.values()) if (group.length > 2) for (const f of group) out[f] = 1;
  const copied = out.reduce((sum, x) => sum + x, 0);
  return copied * 2 > out.length - unplacedCount(set) ? out : out.fill(0);
}

/**
 * Faces that run backwards over half the image or more where a wrap closes: turned over inside their island, and more than half of the
 * island's width in u.
 */
export function stripFaces(mesh: Mesh, set: UvSet, flipped: Uint8Array = flippedFaces(mesh, set, triangleStretch(mesh, set, 1, 1).pxArea).faces): Uint8Array {
  if (!flipped.includes(1)) return new Uint8Array(faceCount(mesh));
  const islands = islandsOf(mesh, set);
  const low = new Float64Array(islands.count).fill(Infinity);
  const high = new Float64Array(islands.count).fill(-Infinity);
  const faces = faceCount(mesh);
  const from = new Float64Array(faces).fill(Infinity);
  const to = new Float64Array(faces).fill(-Infinity);
  for (let f = 0; f < faces; f++) {
    if (set.unplaced[f]) continue;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const u = set.uv[set.cornerUv[c]! * 2]!;
      from[f] = Math.min(from[f]!, u);
      to[f] = Math.max(to[f]!, u);
    }
    const i = islands.ofFace[f]!;
    low[i] = Math.min(low[i]!, from[f]!);
    high[i] = Math.max(high[i]!, to[f]!);
  }
  const out = new Uint8Array(faces);
  for (let f = 0; f < faces; f++) {
    const i = islands.ofFace[f]!;
    const wide = high[i]! - low[i]!;
    if (flipped[f] && wide > 0.5 && to[f]! - from[f]! > 0.5 * wide) out[f] = 1;
  }
  return out;
}

/**
 * Puts backward strips right: their corners on the low side get UV points of their own, one whole image further on. Other faces keep
 * theirs bit for bit.
 */
export function unwindStrips(mesh: Mesh, set: UvSet): { set: UvSet; faces: number } {
  const strip = stripFaces(mesh, set);
  const cornerUv = set.cornerUv.slice();
  const added: number[] = [];
  const moved = new Map<number, number>();
  let faces = 0;
  for (let f = 0; f < strip.length; f++) {
    if (!strip[f]) continue;
    faces++;
    let most = -Infinity;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) most = Math.max(most, set.uv[set.cornerUv[c]! * 2]!);
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const id = set.cornerUv[c]!;
      if (set.uv[id * 2]! > most - 0.5) continue;
      let fresh = moved.get(id);
      if (fresh === undefined) {
        fresh = set.uv.length / 2 + moved.size;
        moved.set(id, fresh);
        added.push(set.uv[id * 2]! + 1, set.uv[id * 2 + 1]!);
      }
      cornerUv[c] = fresh;
    }
  }
  if (faces === 0) return { set, faces };
  const uv = new Float64Array(set.uv.length + added.length);
  uv.set(set.uv);
  uv.set(added, set.uv.length);
  const pins = new Uint8Array(uv.length / 2);
  pins.set(set.pins);
  return { set: { ...set, cornerUv, uv, pins }, faces };
}

/** Faces with area in space but (next to) none on the sheet: shrunk to a line or point. */
function shrunkFaces(mesh: Mesh, set: UvSet, width: number, height: number): Uint8Array {
  const { pxArea, area } = triangleStretch(mesh, set, width, height);
  const triangles = trianglesOf(mesh);
  const faces = faceCount(mesh);
  const px = new Float64Array(faces);
  const space = new Float64Array(faces);
  let pxTotal = 0;
  let spaceTotal = 0;
  for (let t = 0; t < area.length; t++) {
    if (Number.isNaN(pxArea[t]!)) continue;
    px[triangles.face[t]!]! += Math.abs(pxArea[t]!);
    space[triangles.face[t]!]! += area[t]!;
    pxTotal += Math.abs(pxArea[t]!);
    spaceTotal += area[t]!;
  }
  const even = pxTotal > 0 ? pxTotal / spaceTotal : (width * height) / (spaceTotal || 1);
  return Uint8Array.from(px, (x, f) => (!set.unplaced[f] && space[f]! > 1e-12 * spaceTotal && x < 1e-6 * space[f]! * even ? 1 : 0));
}

function mirroredFaces(mesh: Mesh, set: UvSet, width: number, height: number): Uint8Array {
  const { pxArea } = triangleStretch(mesh, set, width, height);
  const triangles = trianglesOf(mesh);
  const islands = islandsOf(mesh, set);
  const sum = new Float64Array(islands.count);
  for (let t = 0; t < pxArea.length; t++) if (!Number.isNaN(pxArea[t]!)) sum[islands.ofFace[triangles.face[t]!]!]! += pxArea[t]!;
  return Uint8Array.from(islands.ofFace, (i, f) => (sum[i]! < 0 && !set.unplaced[f] ? 1 : 0));
}

/** Faces of islands on which the model's up is off the sheet's up by more than `limit` degrees; islands that lie level are passed over. */
function turnedFaces(mesh: Mesh, set: UvSet, aspect: number, limit: number): Uint8Array {
  const islands = islandsOf(mesh, set);
  const all = trianglesOf(mesh);
  const out = new Uint8Array(faceCount(mesh));
  for (let i = 0; i < islands.count; i++) {
    const mine = islands.faces.subarray(islands.start[i], islands.start[i + 1]);
    let count = 0;
    for (const f of mine) if (!set.unplaced[f]) count += all.faceStart[f + 1]! - all.faceStart[f]!;
    const positions = new Float64Array(count * 9);
    const uv = new Float64Array(count * 6);
    let at = 0;
    for (const f of mine) {
      if (set.unplaced[f]) continue;
      for (let t = all.faceStart[f]!; t < all.faceStart[f + 1]!; t++) {
        for (let k = 0; k < 3; k++) {
          const c = all.corners[t * 3 + k]!;
          const p = mesh.corners[c]! * 3;
          for (let d = 0; d < 3; d++) positions[at * 3 + d] = mesh.points[p + d]!;
          uv[at * 2] = set.uv[set.cornerUv[c]! * 2]! * aspect;
          uv[at * 2 + 1] = set.uv[set.cornerUv[c]! * 2 + 1]!;
          at++;
        }
      }
    }
    const piece = { positions, triangles: Uint32Array.from({ length: count * 3 }, (_, k) => k) };
    const up = meanDirection(piece, uv, 0, 1, 0);
    const level = Math.max(Math.hypot(...meanDirection(piece, uv, 1, 0, 0)), Math.hypot(...meanDirection(piece, uv, 0, 0, 1)));
    if (!(Math.hypot(...up) > 0.2 * level)) continue;
    if (Math.abs((portable.atan2(up[0], up[1]) * 180) / Math.PI) > limit) for (const f of mine) out[f] = 1;
  }
  return out;
}

/** One line of the state: a sentence, the faces it is about, and the operation that would put it right. */
export interface StateLine {
  kind: ProblemKind | 'closed' | 'fine';
  sentence: string;
  faces: number;
  /** The next sensible step: an operation's name, if there is one. */
  step: 'firstLayout' | 'unwindStrips' | 'open' | 'pack' | 'seams' | 'unwrap' | null;
}

const faceWords = (n: number) => `${n.toLocaleString('en')} ${n === 1 ? 'face' : 'faces'}`;

/**
 * The state of a part's UVs in plain words, worst first. O(T log T).
 * @param known faces with some of the problems, if they were found before
 * @param meant 1 for each face that may lie over others or beyond the sheet by design, since its image repeats: told as a use, not as a fault
 */
export function uvState(
  mesh: Mesh,
  set: UvSet,
  limits: ProblemLimits,
  known: Partial<Record<ProblemKind, Uint8Array>> = {},
  meant: Uint8Array | null = null,
): StateLine[] {
  const faces = faceCount(mesh);
  const missing = unplacedCount(set);
  const closed = islandFacts(mesh, set).filter((fact) => fact.shape === 'closed' || fact.shape === 'handle');
  const closedLine = (): StateLine[] =>
    closed.length === 0
      ? []
      : [
          {
            kind: 'closed',
            sentence:
              closed.length === 1
                ? `One piece ${shapeWords[closed[0]!.shape]}.`
                : `${closed.length} pieces cannot lie flat yet: closed all round, or with a handle.`,
            faces: closed.reduce((sum, fact) => sum + fact.faces, 0),
            step: 'open',
          },
        ];
  if (missing === faces) return [{ kind: 'noUv', sentence: 'There are no UVs yet.', faces, step: 'firstLayout' }, ...closedLine()];
  const lines: StateLine[] = [];
  if (missing > 0) {
    // closed pieces have a line of their own, with the step that comes first for them
    const ready = islandFacts(mesh, set).some((fact) => fact.unplaced && (fact.shape === 'disk' || fact.shape === 'ring'));
    lines.push({
      kind: 'noUv',
      sentence: `${faceWords(missing)} of ${faces.toLocaleString('en')} have no UVs.`,
      faces: missing,
      step: ready ? 'unwrap' : null,
    });
  }
  const found = (kind: ProblemKind, words: (n: number) => string, step: StateLine['step']) => {
    const n = (known[kind] ?? facesWith(kind, mesh, set, limits)).reduce((sum, x) => sum + x, 0);
    if (n > 0) lines.push({ kind, sentence: words(n), faces: n, step });
    return n;
  };
  const shrunk = shrunkFaces(mesh, set, limits.width, limits.height);
  const on = known.overlapping ?? overlapFigures(mesh, onceEach(mesh, set)).overlapping;
  // copies lie on one another, or are shrunk to nothing: where half of the faces do neither, there is no need to look
  const mayBeCopies = on.reduce((sum, x, f) => sum + (x || shrunk[f] ? 1 : 0), 0) * 2 > faces - missing;
  known = { ...known, overlapping: on, shrunk, strip: stripFaces(mesh, set, known.flipped), ...(mayBeCopies ? {} : { copies: new Uint8Array(faces) }) };
  const copies = found('copies', (n) => `${faceWords(n)} each show a copy of the same piece of the image: no face has room of its own.`, 'firstLayout');
  found('strip', (n) => `${faceWords(n)} run backwards over the image where a wrap closes.`, 'unwindStrips');
  found('shrunk', (n) => `${faceWords(n)} ${n === 1 ? 'is' : 'are'} shrunk to a line or point on the sheet.`, 'unwrap');
  if (copies === 0) {
    const overlapping = meant ? on.map((x, f) => (meant[f] ? 0 : x)) : on;
    const { ofFace } = islandsOf(mesh, set);
    const several = overlapping.includes(1) && new Set(ofFace.filter((_, f) => overlapping[f])).size > 1;
    const n = overlapping.reduce((sum, x) => sum + x, 0);
    // an island that lies on itself is not helped by packing: it needs another cut
    if (n > 0)
      lines.push({
        kind: 'overlapping',
        sentence: several ? `${faceWords(n)} lie on one another.` : `${faceWords(n)} of one island lie on one another: a cut there lets it spread.`,
        faces: n,
        step: several ? 'pack' : 'seams',
      });
  }
  found('flipped', (n) => `${faceWords(n)} ${n === 1 ? 'is' : 'are'} turned over inside ${n === 1 ? 'its' : 'their'} island.`, 'unwrap');
  found('mirrored', (n) => `${faceWords(n)} lie in mirrored islands: pictures and letters read backwards there.`, null);
  found('turned', (n) => `${faceWords(n)} lie upside down or turned: the model’s up is not the sheet’s up there.`, null);
  const outside = outsideButTray(mesh, set, known.outside ?? outsideFaces(mesh, set, limits.tiles).faces);
  known = { ...known, outside: meant ? outside.map((x, f) => (meant[f] ? 0 : x)) : outside };
  found('outside', (n) => `${faceWords(n)} reach outside the sheet.`, 'pack');
  const repeated = meant ? outside.reduce((sum, x, f) => sum + (x && meant[f] ? 1 : 0), 0) : 0;
  if (repeated > 0)
    lines.push({ kind: 'outside', sentence: `${faceWords(repeated)} go beyond the sheet, where the image repeats: meant so.`, faces: repeated, step: null });
  lines.push(...closedLine());
  const waiting = trayIslands(mesh, set).reduce((sum, x) => sum + x, 0);
  if (waiting > 0)
    found('tray', (n) => `${waiting === 1 ? 'One island waits' : `${waiting} islands wait`} in the tray beside the sheet (${faceWords(n)}).`, 'pack');
  if (lines.length === 0) lines.push({ kind: 'fine', sentence: 'All faces have UVs, and nothing is wrong with them.', faces: 0, step: null });
  return lines;
}
