import type { Jig } from '../../jigs/jig.ts';
import { project } from '../../jigs/project.ts';
import { bounds, type Mesh } from '../../mesh/mesh.ts';
import type { UvSet } from '../../uv/uvSet.ts';
import { chanceOfFaces } from './chance.ts';
import type { Layer, LayerDriver, LayerMask } from './layer.ts';
import { mostFields } from './names.ts';
import { mostSoftFields, onFaces, softEdge } from './softEdge.ts';

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
  /** The first field of each mask that has some, else −1. */
  fields: readonly number[];
  /** How many fields each mask has, one after the other: the least counts, up to 1. */
  fieldCounts: readonly number[];
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

const hasField = ({ kind }: LayerMask) => kind === 'faces' || kind === 'material' || kind === 'each';
const isSoft = (mask: LayerMask) => (mask.kind === 'faces' || mask.kind === 'material') && mask.soft > 0;

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
  const counts = new Map<number, number>();
  const fieldsBy = (key: string, make: () => Float64Array[]) => {
    let at = numbered.get(key);
    if (at === undefined) {
      at = fields.length;
      const made = make();
      fields.push(...made);
      numbered.set(key, at);
      counts.set(at, made.length);
    }
    return at;
  };
  const field = (key: string, make: () => Float64Array) => fieldsBy(key, () => [make()]);
  // the graphics take so many in all: what other masks and reaches leave is shared out
  const softMasks = new Set(layers.flatMap(({ layer }) => (layer.isOn ? layer.masks.filter((mask) => isSoft(mask)).map((mask) => JSON.stringify(mask)) : [])));
  const others = layers.reduce((sum, { layer }) => sum + (layer.isOn ? 1 + layer.masks.filter((mask) => hasField(mask) && !isSoft(mask)).length : 0), 0);
  const most = Math.max(1, Math.min(mostSoftFields, Math.floor((mostFields - others) / Math.max(1, softMasks.size))));
  const fieldOf = (mask: LayerMask): number => {
    if (mask.kind === 'faces') {
      const on = new Set(mask.faces);
      return fieldsBy(`faces ${mask.soft} ${mask.faces.join()}`, () => softEdge(mesh, (f) => on.has(f), mask.soft, most));
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
    return fieldsBy(`material ${number} ${mask.soft}`, () => softEdge(mesh, (f) => number >= 0 && mesh.faceMaterial[f] === number, mask.soft, most));
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
    const own = layer.masks.map(fieldOf);
    planned.push({ layer, driver, reach: at, fields: own, fieldCounts: own.map((first) => counts.get(first) ?? 0), origin: originOf(layer.driver, mesh) });
  }
  return { drivers, fields, layers: planned };
}
