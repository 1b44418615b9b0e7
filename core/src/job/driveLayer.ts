import { placementMatrix, placementSchema, placedAt, type ImagePlacement } from '../images/placement.ts';
import { triplanarPlace } from '../images/surface/frames.ts';
import { layerSchema, type Layer, type LayerDriver } from '../images/surface/layer.ts';
import { inSpace, originOf, planSurface } from '../images/surface/plan.ts';
import { imageFacts } from '../images/imageFacts.ts';
import { faceAreas, faceNormals } from '../mesh/normals.ts';
import { contentHash } from '../images/contentHash.ts';
import { activeSet, type Job, type Part } from './job.ts';
import { surfaceInputOf } from './layers.ts';
import * as portable from '../numeric/portable.ts';

/** Where a driver puts the corners of a part's faces (2 numbers each), and which faces it reaches. */
function placesBy(job: Job, part: Part, given: LayerDriver, aspect: number): { at: Float64Array; reaches: (face: number) => boolean } | null {
  const { mesh } = part;
  const driver = inSpace(given, originOf(given, mesh));
  if (driver.kind === 'decal') return null;
  if (driver.kind === 'triplanar') {
    const at = new Float64Array(mesh.corners.length * 2);
    const normals = faceNormals(mesh);
    const uv = new Float64Array(3);
    for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
      const n = [0, 1, 2].map((d) => Math.abs(normals[f * 3 + d]!));
      const axis = n.indexOf(Math.max(...n)) as 0 | 1 | 2;
      const sign = normals[f * 3 + axis]! < 0 ? -1 : 1;
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        const p = mesh.corners[c]! * 3;
        triplanarPlace(driver, axis, sign, mesh.points[p]!, mesh.points[p + 1]!, mesh.points[p + 2]!, aspect, uv);
        at.set(uv.subarray(0, 2), c * 2);
      }
    }
    return { at, reaches: () => true };
  }
  const layer = layerSchema.parse({ id: 'x', name: 'x', source: { kind: 'colour' }, driver });
  const { drivers, fields, layers } = planSurface({ ...surfaceInputOf(job, part), layers: [{ layer, material: null }] });
  const planned = layers[0];
  if (!planned) return null;
  const reach = planned.reach >= 0 ? fields[planned.reach]! : null;
  return { at: drivers[planned.driver]!, reaches: (f) => !reach || reach[mesh.faceStart[f]!] === 1 };
}

const marks = new WeakMap<object, string>();

/** What arrays of something immutable hold, as a short text. O(bytes), once for each. */
function markOf(of: object, arrays: readonly (Float64Array | Uint32Array)[]): string {
  const mark =
    marks.get(of) ?? arrays.map(({ buffer, byteOffset, byteLength }) => contentHash(new Uint8Array(buffer, byteOffset, byteLength)).slice(0, 16)).join('');
  marks.set(of, mark);
  return mark;
}

/** What a driver is made of on a part, as a short text that differs where that does; null: nothing that is there. */
function madeOf(job: Job, part: Part, driver: LayerDriver): string | null {
  // sizes and headings are those on this very form
  const on = `${part.id} ${markOf(part.mesh, [part.mesh.points, part.mesh.corners])}`;
  if (driver.kind === 'set') {
    const set = driver.set === '' ? activeSet(part) : part.uvSets.find(({ name }) => name === driver.set);
    if (!set) return null;
    return `${on} ${markOf(set, [set.uv, set.cornerUv])}`;
  }
  if (driver.kind === 'jig') {
    const jig = job.jigs?.find(({ id }) => id === driver.jig);
    return jig
      ? `${on} ${contentHash(new TextEncoder().encode(JSON.stringify([jig.jig, jig.drives.filter((drive) => drive.part === part.id)]))).slice(0, 16)}`
      : null;
  }
  return on;
}

const isSame = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** Whether a driver is the one that is asked for: of three sides any, since its size is part of what is converted. */
const isMeant = (kept: LayerDriver, asked: LayerDriver) =>
  kept.kind === 'triplanar' && asked.kind === 'triplanar' ? (kept.belongs ?? 'space') === (asked.belongs ?? 'space') : isSame(kept, asked);

/**
 * A layer driven otherwise, as `converted` has it; but where it was driven so before, and neither it nor that driver was changed since, exactly as it was then.
 */
export function drivenBy(job: Job, part: Part, layer: Layer, driver: LayerDriver): Layer {
  if (isSame(layer.driver, driver)) return layer;
  const { alike = [], ...plain } = layer;
  const here = madeOf(job, part, layer.driver);
  const isNow = (one: NonNullable<Layer['alike']>[number]) => one.of === here && isSame(one.driver, layer.driver) && isSame(one.placement, layer.placement);
  const known = alike.some(isNow) ? alike : here === null ? [] : [{ driver: layer.driver, placement: layer.placement, of: here }];
  // of its own kind it is asked for with other numbers
  const before = isMeant(layer.driver, driver) ? undefined : known.find((one) => isMeant(one.driver, driver) && one.of === madeOf(job, part, one.driver));
  const after = before ? { ...plain, driver: before.driver, placement: before.placement } : converted(job, part, plain, driver);
  const there = madeOf(job, part, after.driver);
  if (there === null) return after;
  const kept = before ? known : [...known.filter((one) => !isMeant(one.driver, after.driver)), { driver: after.driver, placement: after.placement, of: there }];
  return { ...after, alike: kept.slice(-mostAlike) };
}

const mostAlike = 8;

/**
 * A layer driven otherwise, its picture as large and turned as before on the mean of the faces that both drivers reach: the linear part by least squares over
 * the edges of faces, weighed by area, made into repeats and a turn; the offset from the largest face. Where there is nothing to go by it begins as it is.
 * O(corners).
 */
function converted(job: Job, part: Part, layer: Layer, driver: LayerDriver): Layer {
  if (layer.driver.kind === 'triplanar' && driver.kind === 'triplanar' && isSame({ ...layer.driver, belongs: null }, { ...driver, belongs: null })) {
    // from the part to space or back: the same places
    const offset = inSpace(layer.driver, originOf(layer.driver, part.mesh));
    const [x, y, z] = originOf(driver, part.mesh);
    if (offset.kind === 'triplanar') return { ...layer, driver: { ...driver, offset: [offset.offset[0] - x, offset.offset[1] - y, offset.offset[2] - z] } };
  }
  const image = layer.source.kind === 'image' ? layer.source.image : null;
  const bytes = job.images.find(({ id }) => id === image);
  let aspect = 1;
  if (bytes) {
    const { width, height } = imageFacts(bytes.bytes, bytes.name);
    aspect = height / width;
  }
  const before = placesBy(job, part, layer.driver, aspect);
  const after = placesBy(job, part, driver, aspect);
  if (!before || !after) return { ...layer, driver };
  const { mesh } = part;
  const areas = faceAreas(mesh);
  const matrix = placementMatrix(layer.placement);
  const old = (c: number) => placedAt(matrix, before.at[c * 2]!, before.at[c * 2 + 1]!);
  // normal equations of  A · Δnew = Δold  for both rows
  let [uu, uv, vv, xu, xv, yu, yv] = [0, 0, 0, 0, 0, 0, 0];
  let largest = -1;
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
    if (!before.reaches(f) || !after.reaches(f)) continue;
    if (largest < 0 || areas[f]! > areas[largest]!) largest = f;
    for (let c = mesh.faceStart[f]! + 1; c < mesh.faceStart[f + 1]!; c++) {
      const first = mesh.faceStart[f]!;
      const [u, v] = [after.at[c * 2]! - after.at[first * 2]!, after.at[c * 2 + 1]! - after.at[first * 2 + 1]!];
      const [p, q] = [old(c), old(first)];
      const [x, y] = [p[0] - q[0], p[1] - q[1]];
      const w = areas[f]!;
      uu += w * u * u;
      uv += w * u * v;
      vv += w * v * v;
      xu += w * x * u;
      xv += w * x * v;
      yu += w * y * u;
      yv += w * y * v;
    }
  }
  const det = uu * vv - uv * uv;
  if (largest < 0 || !(det > 1e-18 * (uu + vv) ** 2)) return { ...layer, driver };
  const [a, b] = [(xu * vv - xv * uv) / det, (xv * uu - xu * uv) / det];
  const [d, e] = [(yu * vv - yv * uv) / det, (yv * uu - yu * uv) / det];
  const wide = Math.hypot(a, b);
  const turn = portable.atan2(b, a);
  const tall = -portable.sin(turn) * d + portable.cos(turn) * e;
  const limit = (x: number) => Math.max(1e-6, Math.min(1e5, Math.abs(x)));
  const { outsideU, outsideV } = layer.placement;
  const flat: ImagePlacement = placementSchema.parse({
    repeats: [limit(wide), limit(tall)],
    turn: (turn * 180) / Math.PI,
    mirrorV: tall < 0,
    outsideU,
    outsideV,
  });
  const c = mesh.faceStart[largest]!;
  const [x, y] = placedAt(placementMatrix(flat), after.at[c * 2]!, after.at[c * 2 + 1]!);
  const [ox, oy] = old(c);
  return { ...layer, driver, placement: { ...flat, offset: [x - ox, y - oy] } };
}
