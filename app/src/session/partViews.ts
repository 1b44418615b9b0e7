import { BufferAttribute, BufferGeometry } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import {
  activeSet,
  bounds,
  islandFacts,
  islandLetter,
  islandsOf,
  blockOfIslands,
  lockedIslands,
  faceMaps,
  type FaceMaps,
  topologyOf,
  trayIslands,
  trianglesOf,
  straightCorners,
  keepsLength,
  gripOf,
  nextCorner,
  partOf,
  shadingNormals,
  type GripHow,
  type Job,
  type Mesh,
  type Part,
  type UvSet,
  notchesOf,
  notchPlace,
} from '@jig-peel/core';
import type { ContextGeometry, GripView, IslandView, LayoutView, PartGeometry, SheetPart } from './messages.ts';
import { indexOfPlaces } from './pool/indexing.ts';

/** Everything the views need of a mesh. O(T log T), once a mesh. */
export function partGeometry(part: Part, meshId: number): PartGeometry {
  const { mesh } = part;
  const topology = topologyOf(mesh);
  const triangles = trianglesOf(mesh);
  const normals = shadingNormals(mesh);
  const positions = new Float32Array(triangles.count * 9);
  const triNormals = new Float32Array(triangles.count * 9);
  for (let k = 0; k < triangles.count * 3; k++) {
    const c = triangles.corners[k]!;
    const p = mesh.corners[c]! * 3;
    for (let d = 0; d < 3; d++) {
      positions[k * 3 + d] = mesh.points[p + d]!;
      triNormals[k * 3 + d] = normals[c * 3 + d]!;
    }
  }
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(positions, 3));
  const bvh = MeshBVH.serialize(new MeshBVH(geometry, { indirect: true }), { cloneBuffers: false });
  return {
    part: part.id,
    meshId,
    triangles: triangles.count,
    faces: mesh.faceStart.length - 1,
    positions,
    normals: triNormals,
    triFace: triangles.face.slice(),
    triCorner: triangles.corners.slice(),
    points: Float32Array.from(mesh.points),
    corners: mesh.corners.slice(),
    faceStart: mesh.faceStart.slice(),
    cornerEdge: topology.cornerEdge.slice(),
    edgePoints: topology.edgePoints.slice(),
    edgeStart: topology.edgeStart.slice(),
    edgeCorners: topology.edgeCorners.slice(),
    bounds: [...bounds(mesh)],
    bvh,
  };
}

/** A part as mere context. O(T log T), once a mesh and set of hidden faces. */
export function contextGeometry(part: Part): ContextGeometry {
  const { mesh, hidden } = part;
  const triangles = trianglesOf(mesh);
  const normals = shadingNormals(mesh);
  let shown = 0;
  for (let t = 0; t < triangles.count; t++) if (!hidden?.[triangles.face[t]!]) shown++;
  const positions = new Float32Array(shown * 9);
  const triNormals = new Float32Array(shown * 9);
  let at = 0;
  for (let t = 0; t < triangles.count; t++) {
    if (hidden?.[triangles.face[t]!]) continue;
    for (let k = 0; k < 3; k++, at += 3) {
      const c = triangles.corners[t * 3 + k]!;
      const p = mesh.corners[c]! * 3;
      for (let d = 0; d < 3; d++) {
        positions[at + d] = mesh.points[p + d]!;
        triNormals[at + d] = normals[c * 3 + d]!;
      }
    }
  }
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(positions, 3));
  const bvh = MeshBVH.serialize(new MeshBVH(geometry, { indirect: true }), { cloneBuffers: false });
  return { part: part.id, positions, normals: triNormals, bounds: [...bounds(mesh)], bvh };
}

const sheetViews = new WeakMap<UvSet, { mesh: Mesh; hidden: Uint8Array | undefined; view: SheetPart }>();

/** A part beside the one at work on the sheet. O(T log T), once a layout. */
export function sheetPartView(part: Part): SheetPart {
  const { mesh, hidden } = part;
  const set = activeSet(part);
  const known = sheetViews.get(set);
  if (known && known.mesh === mesh && known.hidden === hidden) return known.view;
  const islands = islandsOf(mesh, set);
  const { cornerEdge } = topologyOf(mesh);
  const triangles = trianglesOf(mesh);
  const cornerUv = cornerPlaces(mesh, set);
  const away = (f: number) => set.unplaced[f] === 1 || hidden?.[f] === 1;
  let count = 0;
  for (let t = 0; t < triangles.count; t++) if (!away(triangles.face[t]!)) count++;
  const triCorner = new Uint32Array(count * 3);
  const triIsland = new Uint32Array(count);
  for (let t = 0, at = 0; t < triangles.count; t++) {
    if (away(triangles.face[t]!)) continue;
    triIsland[at] = islands.ofFace[triangles.face[t]!]!;
    triCorner.set(triangles.corners.subarray(t * 3, t * 3 + 3), at++ * 3);
  }
  const border: number[] = [];
  const borderIsland: number[] = [];
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
    if (away(f)) continue;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      if (islands.states[cornerEdge[c]!] === 0) continue;
      border.push(c, nextCorner(mesh, c, f));
      borderIsland.push(islands.ofFace[f]!);
    }
  }
  const view: SheetPart = {
    part: part.id,
    cornerUv,
    triCorner,
    triIsland,
    border: Uint32Array.from(border),
    borderIsland: Uint32Array.from(borderIsland),
    islands: islandViews(mesh, set, cornerUv),
    index: indexOfPlaces(cornerUv, triCorner),
  };
  sheetViews.set(set, { mesh, hidden, view });
  return view;
}

function cornerPlaces(mesh: Mesh, set: UvSet): Float32Array {
  const out = new Float32Array(mesh.corners.length * 2);
  for (let c = 0; c < mesh.corners.length; c++) {
    const id = set.cornerUv[c]! * 2;
    out[c * 2] = set.uv[id]!;
    out[c * 2 + 1] = set.uv[id + 1]!;
  }
  return out;
}

function islandViews(mesh: Mesh, set: UvSet, cornerUv: Float32Array): IslandView[] {
  const { faces, start } = islandsOf(mesh, set);
  const waits = trayIslands(mesh, set);
  const locked = lockedIslands(mesh, set);
  const block = blockOfIslands(mesh, set);
  return islandFacts(mesh, set).map((fact, i): IslandView => ({
    ...fact,
    letter: islandLetter(i),
    waits: waits[i] === 1,
    locked: locked[i] === 1,
    ...(block[i] ? { block: block[i] } : {}),
    ...boxOf(mesh, cornerUv, faces.subarray(start[i], start[i + 1])),
  }));
}

/** What a hand moves, by corners. O(corners of the parts) */
export function gripViews(job: Job, how: GripHow): GripView[] {
  return gripOf(job, how).map(({ part: id, set, groups }) => {
    const part = partOf(job, id);
    const groupOf = new Int32Array(set.uv.length / 2).fill(-1);
    const shareOf = groups.some(({ share }) => share) ? new Float32Array(groupOf.length) : null;
    groups.forEach(({ points, share }, g) =>
      points.forEach((p, k) => {
        groupOf[p] = g;
        if (shareOf) shareOf[p] = share ? share[k]! : 1;
      }),
    );
    const corners: number[] = [];
    for (let c = 0; c < part.mesh.corners.length; c++) if (groupOf[set.cornerUv[c]!]! >= 0) corners.push(c);
    return {
      part: id,
      corners: Uint32Array.from(corners),
      share: shareOf && Float32Array.from(corners, (c) => shareOf[set.cornerUv[c]!]!),
      group: Uint32Array.from(corners, (c) => groupOf[set.cornerUv[c]!]!),
      boxes: groups.map(({ box }) => box),
      uvPoints: groups.reduce((sum, { points }) => sum + points.length, 0),
    };
  });
}

/** Stretch is shown as an image lands where that is asked for. */
export type Counted = { set: UvSet; width: number; height: number } | null;

/** Everything the views need of layouts; the last few are kept for undo and redo. O(corners) a new one. */
export class LayoutViews {
  private made: { set: UvSet; meshId: number; size: string; view: LayoutView }[] = [];

  of(part: Part, set: UvSet, meshId: number, width: number, height: number, counted: Counted = null): LayoutView {
    if (counted) return makeLayoutView(part, set, meshId, width, height, counted);
    const size = `${width}x${height}`;
    const kept = this.made.find((one) => one.set === set && one.meshId === meshId && one.size === size);
    if (kept) return kept.view;
    const view = makeLayoutView(part, set, meshId, width, height, null);
    this.made = [...this.made.slice(-5), { set, meshId, size, view }];
    return view;
  }
}

export function makeLayoutView(part: Part, set: UvSet, meshId: number, width: number, height: number, counted: Counted): LayoutView {
  const { mesh } = part;
  const islands = islandsOf(mesh, set);
  const cornerUv = cornerPlaces(mesh, set);
  let anyUnplaced = false;
  let allUnplaced = true;
  for (let f = 0; f < set.unplaced.length; f++) {
    if (set.unplaced[f]) anyUnplaced = true;
    else allUnplaced = false;
  }
  return {
    part: part.id,
    meshId,
    cornerUv,
    faceIsland: islands.ofFace.slice(),
    unplaced: set.unplaced.slice(),
    edgeStates: islands.states.slice(),
    islands: islandViews(mesh, set, cornerUv),
    ...stretchMaps(counted ? faceMaps(mesh, counted.set, counted.width, counted.height) : keptStretch(mesh, set, cornerUv, width, height)),
    anyUnplaced,
    allUnplaced,
    pins: pinsOf(set),
    straight: markedPairs(mesh, set, 3),
    kept: markedPairs(mesh, set, keepsLength),
  };
}

/** Marked edges by their two corners. */
function markedPairs(mesh: Mesh, set: UvSet, bits: number): Uint32Array {
  if (!set.straight) return new Uint32Array(0);
  const { cornerFace } = topologyOf(mesh);
  const placed = [...set.unplaced.keys()].filter((f) => !set.unplaced[f]);
  return Uint32Array.from(straightCorners(mesh, set, placed, bits).flatMap((c) => [c, nextCorner(mesh, c, cornerFace[c]!)]));
}

function pinsOf(set: UvSet): LayoutView['pins'] {
  const out: LayoutView['pins'] = [];
  if (!set.pins.includes(1)) return out;
  const seen = new Uint8Array(set.pins.length);
  set.cornerUv.forEach((point, corner) => {
    if (!set.pins[point] || seen[point]) return;
    seen[point] = 1;
    out.push({ point, corner });
  });
  return out;
}

/** Marks on both sides of seams: letter, ticks, then u, v and the direction into the island; 6 numbers a side. */
export function notchMarks(mesh: Mesh, set: UvSet): Float32Array {
  const { cornerFace } = topologyOf(mesh);
  const out: number[] = [];
  for (const { letter, ticks, corners } of notchesOf(mesh, set))
    for (const corner of corners) if (!set.unplaced[cornerFace[corner]!]) out.push(letter, ticks, ...notchPlace(mesh, set, corner));
  return Float32Array.from(out);
}

function boxOf(mesh: Mesh, cornerUv: Float32Array, faces: Uint32Array) {
  let [minU, minV, maxU, maxV] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < faces.length; k++) {
    const f = faces[k]!;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const u = cornerUv[c * 2]!;
      const v = cornerUv[c * 2 + 1]!;
      if (u < minU) minU = u;
      if (u > maxU) maxU = u;
      if (v < minV) minV = v;
      if (v > maxV) maxV = v;
    }
  }
  // the letter stands in the middle of the face whose middle is nearest to that of the box
  const cu = (minU + maxU) / 2;
  const cv = (minV + maxV) / 2;
  let best = Infinity;
  let [u, v] = [cu, cv];
  for (let k = 0; k < faces.length; k++) {
    const from = mesh.faceStart[faces[k]!]!;
    const to = mesh.faceStart[faces[k]! + 1]!;
    let [mu, mv] = [0, 0];
    for (let c = from; c < to; c++) {
      mu += cornerUv[c * 2]!;
      mv += cornerUv[c * 2 + 1]!;
    }
    mu /= to - from;
    mv /= to - from;
    const far = (mu - cu) ** 2 + (mv - cv) ** 2;
    if (far >= best) continue;
    best = far;
    [u, v] = [mu, mv];
  }
  return { u, v, left: minU, bottom: minV, width: maxU - minU, height: maxV - minV };
}

function sameNumbers(a: Float32Array, b: Float32Array): boolean {
  for (let k = 0; k < a.length; k++) if (a[k] !== b[k] && !(Number.isNaN(a[k]!) && Number.isNaN(b[k]!))) return false;
  return a.length === b.length;
}

const stretchMaps = ({ size, shape }: FaceMaps) => ({ faceSize: size.slice(), faceShape: shape.slice() });

let lastStretch: { mesh: Mesh; cornerUv: Float32Array; unplaced: Uint8Array; size: string; stretch: FaceMaps } | null = null;

/** A cut moves nothing: the stretch of the layout before is still true. */
function keptStretch(mesh: Mesh, set: UvSet, cornerUv: Float32Array, width: number, height: number): FaceMaps {
  const size = `${width}x${height}/${islandsOf(mesh, set).count}`;
  const known = lastStretch;
  if (known && known.mesh === mesh && known.size === size && known.unplaced === set.unplaced && sameNumbers(known.cornerUv, cornerUv)) return known.stretch;
  const stretch = faceMaps(mesh, set, width, height);
  lastStretch = { mesh, cornerUv, unplaced: set.unplaced, size, stretch };
  return stretch;
}
