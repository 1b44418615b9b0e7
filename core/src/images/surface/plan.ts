import TinyQueue from 'tinyqueue';
import type { Jig } from '../../jigs/jig.ts';
import { project } from '../../jigs/project.ts';
import { bounds, type Mesh } from '../../mesh/mesh.ts';
import { topologyOf } from '../../mesh/topology.ts';
import type { UvSet } from '../../uv/uvSet.ts';
import { chanceOfFaces } from './chance.ts';
import type { Layer, LayerDriver, LayerMask } from './layer.ts';

/** A jig as layers use it. @param faces those that it drives on this part; null: all */
export interface DriverJig {
  jig: Jig;
  faces: Uint32Array | null;
}

/** What a surface is made of; layers from the bottom to the top. */
export interface SurfaceInput {
  mesh: Mesh;
  /** UV sets of the part by name, and the one at work. */
  sets: readonly UvSet[];
  activeSet: UvSet;
  jigs: ReadonlyMap<string, DriverJig>;
  layers: readonly SurfaceLayer[];
  /** The part by id: alike parts get other values by chance. */
  part?: string;
}

/** A layer on some faces of a part: those of a material that it is kept with, or all. */
export interface SurfaceLayer {
  layer: Layer;
  material: number | null;
}

/** What does not depend on the place within a face, for each corner of the mesh: shared by core and graphics. */
export interface SurfacePlan {
  /** 2 numbers a corner for each UV set and jig that drives something. */
  drivers: readonly Float64Array[];
  /** A number from 0 to 1 a corner: where a driver reaches, chosen faces, materials. */
  fields: readonly Float64Array[];
  layers: readonly PlannedLayer[];
}

export interface PlannedLayer {
  layer: Layer;
  /** Which of the drivers; −1: the place in space says it. */
  driver: number;
  /** The field of faces that it is on at all; −1: all. */
  reach: number;
  /** The field of each mask that has one, else −1. */
  fields: readonly number[];
  /** Where the offset of a picture from three sides is counted from. */
  origin: readonly [number, number, number];
}

const atZero = [0, 0, 0] as const;

/** Where the offset of a driver from three sides is counted from on a mesh. O(points) for one that belongs to its part. */
export function originOf(driver: LayerDriver, mesh: Mesh): PlannedLayer['origin'] {
  if (driver.kind !== 'triplanar' || driver.belongs !== 'part') return atZero;
  const box = bounds(mesh);
  return [(box[0] + box[3]) / 2, (box[1] + box[4]) / 2, (box[2] + box[5]) / 2];
}

/** A driver with its offset from three sides counted from the origin of space. */
export function inSpace(driver: LayerDriver, [x, y, z]: PlannedLayer['origin']): LayerDriver {
  if (driver.kind !== 'triplanar') return driver;
  const { belongs: _, offset, ...rest } = driver;
  return { ...rest, offset: [offset[0] + x, offset[1] + y, offset[2] + z] };
}

/** 1 on the corners of some faces. */
function onFaces(mesh: Mesh, has: (face: number) => boolean): Float64Array {
  const out = new Float64Array(mesh.corners.length);
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) if (has(f)) out.fill(1, mesh.faceStart[f], mesh.faceStart[f + 1]);
  return out;
}

/**
 * As `onFaces`, rising from 0 at the border of the faces to 1 at a distance of `soft`, measured along edges (E. W. Dijkstra, 1959). Between corners it is
 * linear, so that large faces show a wider edge. O(corners log corners).
 */
export function softFaces(mesh: Mesh, has: (face: number) => boolean, soft: number): Float64Array {
  const hard = onFaces(mesh, has);
  if (soft <= 0) return hard;
  const { edgeStart, edgeCorners, cornerFace, edgePoints, edgeCount } = topologyOf(mesh);
  const distance = new Float64Array(mesh.points.length / 3).fill(Infinity);
  const neighbours: number[][] = Array.from({ length: distance.length }, () => []);
  const queue = new TinyQueue<{ point: number; at: number }>([], (a, b) => a.at - b.at);
  for (let e = 0; e < edgeCount; e++) {
    let [inside, outside] = [false, false];
    for (let i = edgeStart[e]!; i < edgeStart[e + 1]!; i++) {
      if (has(cornerFace[edgeCorners[i]!]!)) inside = true;
      else outside = true;
    }
    const [a, b] = [edgePoints[e * 2]!, edgePoints[e * 2 + 1]!];
    if (inside && outside) {
      for (const p of [a, b])
        if (distance[p] !== 0) {
          distance[p] = 0;
          queue.push({ point: p, at: 0 });
        }
    }
    if (!inside) continue;
    neighbours[a]!.push(b);
    neighbours[b]!.push(a);
  }
  const length = (a: number, b: number) =>
    Math.hypot(mesh.points[a * 3]! - mesh.points[b * 3]!, mesh.points[a * 3 + 1]! - mesh.points[b * 3 + 1]!, mesh.points[a * 3 + 2]! - mesh.points[b * 3 + 2]!);
  for (let next = queue.pop(); next; next = queue.pop()) {
    const p = next.point;
    if (next.at > distance[p]!) continue;
    for (const q of neighbours[p]!) {
      const d = next.at + length(p, q);
      if (d >= distance[q]! || d > soft) continue;
      distance[q] = d;
      queue.push({ point: q, at: d });
    }
  }
  return hard.map((on, c) => (on === 0 ? 0 : Math.min(1, distance[mesh.corners[c]!]! / soft)));
}

/** UVs of a set as 2 numbers a corner, and the faces that have a place. */
function setDriver(mesh: Mesh, set: UvSet): { uv: Float64Array; reach: Float64Array | null } {
  const uv = new Float64Array(mesh.corners.length * 2);
  for (let c = 0; c < mesh.corners.length; c++) {
    uv[c * 2] = set.uv[set.cornerUv[c]! * 2]!;
    uv[c * 2 + 1] = set.uv[set.cornerUv[c]! * 2 + 1]!;
  }
  return { uv, reach: set.unplaced.some((away) => away === 1) ? onFaces(mesh, (f) => set.unplaced[f] !== 1) : null };
}

function jigDriver(mesh: Mesh, { jig, faces }: DriverJig): { uv: Float64Array; reach: Float64Array | null } {
  const all = faces ?? Uint32Array.from({ length: mesh.faceStart.length - 1 }, (_, f) => f);
  const uv = new Float64Array(mesh.corners.length * 2);
  if (all.length > 0) {
    const done = project(mesh, all, jig);
    done.corners.forEach((c, k) => uv.set(done.uv.subarray(k * 2, k * 2 + 2), c * 2));
  }
  if (!faces) return { uv, reach: null };
  const on = new Set(faces);
  return { uv, reach: onFaces(mesh, (f) => on.has(f)) };
}

const nothing = Symbol('nothing');

/** Whether a layer is seen only where its driver has a place: a colour, a fade or noise is seen on faces without UVs, too, and a jig drives its own faces alone. */
const needsPlace = ({ source, driver, masks }: Layer) =>
  driver.kind !== 'set' || source.kind === 'image' || source.kind === 'grid' || masks.some(({ kind }) => kind === 'image');

/** Works out what is constant for each corner. Layers that are off are left out; one whose driver is gone shows nothing. O(corners · drivers). */
export function planSurface({ mesh, sets, activeSet, jigs, layers, part = '' }: SurfaceInput): SurfacePlan {
  const drivers: Float64Array[] = [];
  const fields: Float64Array[] = [];
  const known = new Map<string, { driver: number; reach: Float64Array | null | typeof nothing }>();
  const driverOf = ({ driver }: Layer) => {
    if (driver.kind !== 'set' && driver.kind !== 'jig') return { driver: -1, reach: null };
    const key = driver.kind === 'set' ? `set ${driver.set}` : `jig ${driver.jig}`;
    let found = known.get(key);
    if (!found) {
      const set = driver.kind === 'set' ? (driver.set === '' ? activeSet : sets.find(({ name }) => name === driver.set)) : undefined;
      const jig = driver.kind === 'jig' ? jigs.get(driver.jig) : undefined;
      const made = set ? setDriver(mesh, set) : jig ? jigDriver(mesh, jig) : null;
      found = made ? { driver: drivers.push(made.uv) - 1, reach: made.reach } : { driver: -1, reach: nothing };
      known.set(key, found);
    }
    return found;
  };
  const numbered = new Map<string, number>();
  const field = (key: string, make: () => Float64Array) => {
    let at = numbered.get(key);
    if (at === undefined) {
      at = fields.push(make()) - 1;
      numbered.set(key, at);
    }
    return at;
  };
  const fieldOf = (mask: LayerMask): number => {
    if (mask.kind === 'faces') {
      const on = new Set(mask.faces);
      return field(`faces ${mask.soft} ${mask.faces.join()}`, () => softFaces(mesh, (f) => on.has(f), mask.soft));
    }
    if (mask.kind === 'each')
      return field(`each ${mask.by} ${mask.seed} ${mask.low} ${mask.high}`, () => {
        const values = chanceOfFaces(mesh, activeSet, mask, part);
        const out = new Float64Array(mesh.corners.length);
        for (let f = 0; f + 1 < mesh.faceStart.length; f++) out.fill(values[f]!, mesh.faceStart[f], mesh.faceStart[f + 1]);
        return out;
      });
    if (mask.kind !== 'material') return -1;
    const number = mesh.materials.indexOf(mask.material);
    return field(`material ${number} ${mask.soft}`, () => softFaces(mesh, (f) => number >= 0 && mesh.faceMaterial[f] === number, mask.soft));
  };
  const planned: PlannedLayer[] = [];
  for (const { layer, material } of layers) {
    if (!layer.isOn) continue;
    const { driver, reach: driven } = driverOf(layer);
    if (driven === nothing) continue;
    const reach = needsPlace(layer) ? driven : null;
    let at = -1;
    if (reach !== null || material !== null)
      at = field(`reach ${reach ? driver : ''} ${material ?? ''}`, () => {
        const own = material === null ? null : onFaces(mesh, (f) => mesh.faceMaterial[f] === material);
        return reach && own ? reach.map((x, c) => x * own[c]!) : (reach ?? own)!;
      });
    planned.push({ layer, driver, reach: at, fields: layer.masks.map(fieldOf), origin: originOf(layer.driver, mesh) });
  }
  return { drivers, fields, layers: planned };
}
