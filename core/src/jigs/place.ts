import type { Mesh } from '../mesh/mesh.ts';
import { principalAxes } from '../numeric/principalAxes.ts';
import { cross, dot, makeJig, unit, type Jig, type JigKind, type Vector } from './jig.ts';

export const placementAxes = ['auto', 'x', 'y', 'z', 'facing'] as const;
export type PlacementAxis = (typeof placementAxes)[number];

/** What the places and facings of faces say of their form. */
interface FormFacts {
  /** Area-weighted mean facing, length 0 (closed) … 1 (flat). */
  facing: Vector;
  area: number;
  /** Principal axes of the facings, least first: a tube's axis is the least. */
  normalAxes: [Vector, Vector, Vector];
  points: Uint32Array;
}

/**
 * Places a jig on faces: its axis, its middle and its sizes. `auto` takes the mean facing for a flat one, the axis that the best cylinder has for a tube,
 * the model's own axes for ball and box; a named axis is the direction of the projection for a flat one and the axis of a tube or ball.
 * O(corners of the faces).
 * @param sizeFaces faces that say the size; default: the chosen ones
 */
export function placeJig(mesh: Mesh, faces: ArrayLike<number>, kind: JigKind, axis: PlacementAxis = 'auto', sizeFaces: ArrayLike<number> = faces): Jig {
  return placeBy(mesh, faces, formFacts(mesh, faces), kind, axis, sizeFaces);
}

/** Places jigs of several kinds on the same faces, what their form is like worked out once. */
export function placerOf(mesh: Mesh, faces: ArrayLike<number>): (kind: JigKind) => Jig {
  const facts = formFacts(mesh, faces);
  return (kind) => placeBy(mesh, faces, facts, kind, 'auto', faces);
}

function placeBy(mesh: Mesh, faces: ArrayLike<number>, facts: FormFacts, kind: JigKind, axis: PlacementAxis, sizeFaces: ArrayLike<number>): Jig {
  const sized = sizeFaces === faces ? facts.points : pointsOf(mesh, sizeFaces);
  if (kind === 'cylindrical') return around(mesh, sized, tubeAxis(mesh, faces, facts, axis));
  if (kind === 'spherical') return ball(mesh, sized, axis === 'auto' || axis === 'facing' ? [0, 1, 0] : named(axis));
  if (kind === 'box' || kind === 'flat-regions' || kind === 'each-face') return boxed(mesh, sized, kind);
  return flat(mesh, sized, kind, axis === 'auto' || axis === 'facing' ? flatFacing(facts, axis) : named(axis));
}

const named = (axis: 'x' | 'y' | 'z'): Vector => (axis === 'x' ? [1, 0, 0] : axis === 'y' ? [0, 1, 0] : [0, 0, 1]);

function pointsOf(mesh: Mesh, faces: ArrayLike<number>): Uint32Array {
  const used = new Uint8Array(mesh.points.length / 3);
  let count = 0;
  for (let k = 0; k < faces.length; k++) {
    for (let c = mesh.faceStart[faces[k]!]!; c < mesh.faceStart[faces[k]! + 1]!; c++) {
      if (used[mesh.corners[c]!]) continue;
      used[mesh.corners[c]!] = 1;
      count++;
    }
  }
  const out = new Uint32Array(count);
  for (let p = 0, at = 0; p < used.length; p++) if (used[p]) out[at++] = p;
  return out;
}

/** Newell's normal of a face, length twice its area. */
export function faceVector(mesh: Mesh, f: number): [number, number, number] {
  const from = mesh.faceStart[f]!;
  const to = mesh.faceStart[f + 1]!;
  const p = mesh.points;
  let x = 0;
  let y = 0;
  let z = 0;
  for (let c = from; c < to; c++) {
    const a = mesh.corners[c]! * 3;
    const b = mesh.corners[c + 1 === to ? from : c + 1]! * 3;
    x += (p[a + 1]! - p[b + 1]!) * (p[a + 2]! + p[b + 2]!);
    y += (p[a + 2]! - p[b + 2]!) * (p[a]! + p[b]!);
    z += (p[a]! - p[b]!) * (p[a + 1]! + p[b + 1]!);
  }
  return [x, y, z];
}

function formFacts(mesh: Mesh, faces: ArrayLike<number>): FormFacts {
  const sum: [number, number, number] = [0, 0, 0];
  let area = 0;
  const spread = new Float64Array(9);
  for (let k = 0; k < faces.length; k++) {
    const n = faceVector(mesh, faces[k]!);
    const length = Math.sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]);
    if (!(length > 0)) continue;
    area += length / 2;
    for (let i = 0; i < 3; i++) {
      sum[i]! += n[i]! / 2;
      for (let j = 0; j < 3; j++) spread[i * 3 + j]! += (n[i]! * n[j]!) / (2 * length);
    }
  }
  const facing = area > 0 ? (sum.map((x) => x / area) as [number, number, number]) : ([0, 0, 1] as const);
  return { facing, area, normalAxes: principalAxes(spread), points: pointsOf(mesh, faces) };
}

/** Up and right for a direction out: up is the model's y where it can be; a level one has the back for its up, seen from above, and the front from below. */
export function uprightAxes(out: Vector): { right: Vector; up: Vector } {
  const towards: Vector = Math.abs(out[1]) < 0.999 ? [0, 1, 0] : [0, 0, out[1] > 0 ? -1 : 1];
  const right = unit(cross(towards, out), [1, 0, 0]);
  return { right, up: cross(out, right) };
}

function flatFacing({ facing, normalAxes }: FormFacts, axis: 'auto' | 'facing'): Vector {
  // a closed form has no facing of its own: the direction that most of it faces either way
  if (Math.hypot(...facing) > (axis === 'facing' ? 1e-6 : 0.05)) return unit(facing);
  const most = normalAxes[2];
  const sign = most[2] + most[1] * 1e-3 + most[0] * 1e-6 < 0 ? -1 : 1;
  return [most[0] * sign, most[1] * sign, most[2] * sign];
}

interface Extents {
  middle: [number, number, number];
  size: [number, number, number];
}

function extents(mesh: Mesh, points: Uint32Array, axes: readonly [Vector, Vector, Vector]): Extents {
  const low = [0, 0, 0];
  const high = [0, 0, 0];
  for (let d = 0; d < 3; d++) {
    const [ax, ay, az] = axes[d]!;
    let least = Infinity;
    let most = -Infinity;
    for (let k = 0; k < points.length; k++) {
      const p = points[k]! * 3;
      const x = mesh.points[p]! * ax + mesh.points[p + 1]! * ay + mesh.points[p + 2]! * az;
      if (x < least) least = x;
      if (x > most) most = x;
    }
    low[d] = least;
    high[d] = most;
  }
  const most = Math.max(high[0]! - low[0]!, high[1]! - low[1]!, high[2]! - low[2]!, 1e-12);
  const mids = [0, 1, 2].map((d) => (low[d]! + high[d]!) / 2);
  return {
    middle: [0, 1, 2].map((d) => mids[0]! * axes[0][d]! + mids[1]! * axes[1][d]! + mids[2]! * axes[2][d]!) as [number, number, number],
    size: [0, 1, 2].map((d) => Math.max(high[d]! - low[d]!, most * 1e-6)) as [number, number, number],
  };
}

/** A flat jig of even size: the image keeps its proportions. */
function flat(mesh: Mesh, points: Uint32Array, kind: JigKind, out: Vector): Jig {
  const { right, up } = uprightAxes(out);
  const { middle, size } = extents(mesh, points, [right, up, out]);
  const side = Math.max(size[0], size[1]);
  return makeJig({ kind, origin: middle, right: [...right], up: [...up], size: [side, side, size[2]] });
}

function boxed(mesh: Mesh, points: Uint32Array, kind: JigKind): Jig {
  const { middle, size } = extents(mesh, points, [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ]);
  const side = Math.max(...size);
  return makeJig({ kind, origin: middle, size: [side, side, side] });
}

/** The front of a tube or ball: towards z where the axis allows it. */
function frontOf(up: Vector): { right: Vector; out: Vector } {
  const towards: Vector = Math.abs(up[2]) < 0.999 ? [0, 0, 1] : [0, -1, 0];
  const along = dot(towards, up);
  const out = unit([towards[0] - along * up[0], towards[1] - along * up[1], towards[2] - along * up[2]]);
  return { right: cross(up, out), out };
}

function around(mesh: Mesh, points: Uint32Array, up: Vector): Jig {
  const { right, out } = frontOf(up);
  const { middle, size } = extents(mesh, points, [right, up, out]);
  // one radius: a label that goes round a tube goes round a round one
  const wide = Math.max(size[0], size[2]);
  return makeJig({ kind: 'cylindrical', origin: middle, right: [...right], up: [...up], size: [wide, size[1], wide] });
}

function ball(mesh: Mesh, points: Uint32Array, up: Vector): Jig {
  const { right, out } = frontOf(up);
  const { middle, size } = extents(mesh, points, [right, up, out]);
  const wide = Math.max(...size);
  return makeJig({ kind: 'spherical', origin: middle, right: [...right], up: [...up], size: [wide, wide, wide] });
}

/**
 * The axis of the tube that the faces come nearest to: of the facings' principal axes and the model's own axes the one about which distances of the
 * faces that look away from it differ least and most of the area looks so. Ties go to y, x, z in this order.
 */
function tubeAxis(mesh: Mesh, faces: ArrayLike<number>, { normalAxes, points }: FormFacts, axis: PlacementAxis): Vector {
  if (axis === 'x' || axis === 'y' || axis === 'z') return named(axis);
  const candidates: Vector[] = [[0, 1, 0], [1, 0, 0], [0, 0, 1], ...normalAxes];
  let best = candidates[0]!;
  let least = Infinity;
  for (const candidate of candidates) {
    const deviation = tubeDeviation(mesh, faces, points, candidate);
    if (deviation < least - 1e-6) {
      least = deviation;
      best = candidate;
    }
  }
  // y up, else x to the right, else z to the front
  const sign = best[1] + best[0] * 1e-3 + best[2] * 1e-6 < 0 ? -1 : 1;
  return [best[0] * sign, best[1] * sign, best[2] * sign];
}

/** Spread of the distances from the axis over their mean, plus the share of area that looks along the axis or against the radius. */
function tubeDeviation(mesh: Mesh, faces: ArrayLike<number>, points: Uint32Array, up: Vector): number {
  const { right, out } = frontOf(up);
  const { middle } = extents(mesh, points, [right, up, out]);
  let [sides, lids, sum, square, against] = [0, 0, 0, 0, 0];
  // two thousand faces tell as much as all
  const step = Math.max(1, Math.floor(faces.length / 2000));
  for (let k = 0; k < faces.length; k += step) {
    const n = faceVector(mesh, faces[k]!);
    const area = Math.sqrt(dot(n, n)) / 2;
    if (!(area > 0)) continue;
    if (Math.abs(dot(n, up)) / (2 * area) > Math.SQRT1_2) {
      lids += area;
      continue;
    }
    const from = mesh.faceStart[faces[k]!]!;
    const to = mesh.faceStart[faces[k]! + 1]!;
    let x = 0;
    let y = 0;
    let z = 0;
    for (let c = from; c < to; c++) {
      const p = mesh.corners[c]! * 3;
      x += mesh.points[p]!;
      y += mesh.points[p + 1]!;
      z += mesh.points[p + 2]!;
    }
    const at: Vector = [x / (to - from) - middle[0], y / (to - from) - middle[1], z / (to - from) - middle[2]];
    const along = dot(at, up);
    const away: Vector = [at[0] - along * up[0], at[1] - along * up[1], at[2] - along * up[2]];
    const radius = Math.sqrt(dot(away, away));
    sides += area;
    sum += area * radius;
    square += area * radius * radius;
    if (radius > 0) against += area * (1 - Math.abs(dot(n, away)) / (2 * area * radius));
  }
  if (!(sides > 0)) return Infinity;
  const mean = sum / sides;
  const spread = Math.sqrt(Math.max(0, square / sides - mean * mean)) / (mean || 1);
  return spread + against / sides + 0.5 * (lids / (lids + sides));
}
