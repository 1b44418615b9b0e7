import { plainMesh, type Mesh } from '../mesh/mesh.ts';

import { topologyOf } from '../mesh/topology.ts';
import { foldAngles } from '../seams/crease.ts';
import type { Jig, JigKind } from './jig.ts';
import { faceVector, placeJig, placerOf } from './place.ts';
import { project } from './project.ts';
import type { Projected } from './projected.ts';
import * as portable from '../numeric/portable.ts';

/** What a projection costs, measured on the faces it was asked for. */
export interface JigFigures {
  /** Symmetric Dirichlet energy at one common scale, area-weighted mean, 4 without stretch (Smith & Schaefer 2015); single faces count 100 at most. */
  energy: number;
  /** Share of the area that is turned over against the rest. */
  flipped: number;
  /** Share of the image's covered area that is covered more than once by one patch (sides of a box do not count against each other). */
  overlap: number;
  /** Length that the projection parts over the root of the area; along creases little of it counts. */
  parted: number;
  /** The same as a length along the model, creases counted whole: the seams it makes. Units of the model. */
  partedLength: number;
  /** Faces it serves well: stretched or squeezed less than 1.25 times, the right way up. Numbers into the faces given. */
  well: Uint32Array;
  /** And badly: more than 1.6 times, or turned over. */
  badly: Uint32Array;
}

export interface Advice {
  /** What is placed on what; several for a combination. */
  parts: { jig: Jig; faces: Uint32Array }[];
  figures: JigFigures;
  /** Lower is better: stretch, the area badly served, flips, overlap and parted edges in one number. */
  cost: number;
}

/** What the badly served share of the area counts, and what more beyond a quarter: half a form spoiled outweighs any seam. Common practice, no source. */
const badlyServed = { each: 0.8, more: 4, from: 0.25 };

/** What parted length counts: many seams are little worse than some. */
const partedCost = (parted: number) => 0.4 * (parted <= 3 ? parted : 3 + 1.5 * portable.log(parted / 3));

/** What is measured: each kind, a tube with its ends flat and without (a stepped one has ledges that are no ends). */
const candidates: { kind: JigKind; lids: boolean }[] = [
  { kind: 'planar', lids: false },
  { kind: 'cylindrical', lids: true },
  { kind: 'cylindrical', lids: false },
  { kind: 'spherical', lids: false },
  { kind: 'box', lids: false },
  { kind: 'flat-regions', lids: false },
];

/** Repeats that keep the image's proportions as well as the kind can: the scale along v is that along u at the middle. */
export function evenRepeats(jig: Jig): Jig {
  const { kind, size } = jig;
  const round = (Math.PI * (size[0] + size[2])) / 2;
  if (kind === 'cylindrical') return { ...jig, repeats: [1, size[1] / round] };
  if (kind === 'spherical') return { ...jig, repeats: [1, (Math.PI * size[1]) / 2 / round] };
  if (kind === 'planar' || kind === 'view') return { ...jig, repeats: [1, size[1] / size[0]] };
  return jig;
}

/**
 * Measures every kind of projection, each fitted to the faces, and ranks them, with the best combination where one is better than any alone (a
 * drum by a cylinder, its cap by a plane). O(n log n) of the corners.
 */
export function adviseJigs(mesh: Mesh, faces: ArrayLike<number>): Advice[] {
  const steps = adviceSteps(mesh, faces);
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
  }
}

/** The same kind by kind: between two the caller may do something else, or leave it. */
export function* adviceSteps(mesh: Mesh, faces: ArrayLike<number>): Generator<void, Advice[], void> {
  const chosen = Uint32Array.from(faces);
  const place = placerOf(mesh, chosen);
  const placed = new Map<JigKind, Jig>();
  const fitted = (kind: JigKind) => {
    if (!placed.has(kind)) placed.set(kind, evenRepeats(place(kind)));
    return placed.get(kind)!;
  };
  const measuredAll: Advice[] = [];
  for (const { kind, lids } of candidates) {
    yield;
    measuredAll.push(measured(mesh, chosen, [{ jig: { ...fitted(kind), lids }, faces: chosen }]));
  }
  // a tube whose ends are open is the same with lids and without
  const alone = measuredAll.filter((advice, k) => k === 0 || candidates[k]!.kind !== candidates[k - 1]!.kind || advice.cost !== measuredAll[k - 1]!.cost);
  const all = [...alone].sort((a, b) => a.cost - b.cost);
  // where one alone is nearly as good as can be, or far behind, a combination is not worth its seams
  if (all[0]!.cost > 0.1)
    for (const advice of alone) {
      if (advice.cost > all[0]!.cost + 3) continue;
      yield;
      const combined = combination(mesh, chosen, advice);
      if (combined) all.push(combined);
    }
  return all.sort((a, b) => a.cost - b.cost);
}

/** The same kind for what it serves, each larger connected piece of the rest by what suits it best. */
function combination(mesh: Mesh, faces: Uint32Array, { parts, figures }: Advice): Advice | null {
  const { jig } = parts[0]!;
  if (jig.kind === 'flat-regions' || jig.kind === 'box' || figures.badly.length === 0 || figures.badly.length > 0.9 * faces.length) return null;
  const bad = figures.badly.map((k) => faces[k]!);
  const badly = new Set(bad);
  const rest = faces.filter((f) => !badly.has(f));
  const list: Advice['parts'] = [{ jig: evenRepeats({ ...placeJig(mesh, rest, jig.kind), lids: false }), faces: rest }];
  const pieces = connected(mesh, bad);
  if (pieces.length > 6) return null;
  for (const piece of pieces) {
    const place = placerOf(mesh, piece);
    const best = (['planar', 'spherical', 'cylindrical'] as const)
      .map((kind) => measured(mesh, piece, [{ jig: evenRepeats(place(kind)), faces: piece }]))
      .sort((a, b) => a.cost - b.cost)[0]!;
    list.push(best.parts[0]!);
  }
  return measured(mesh, faces, list);
}

function connected(mesh: Mesh, faces: Uint32Array): Uint32Array[] {
  const { twin, cornerFace } = topologyOf(mesh);
  const left = new Uint8Array(mesh.faceStart.length - 1);
  for (const f of faces) left[f] = 1;
  const out: Uint32Array[] = [];
  for (const seed of faces) {
    if (!left[seed]) continue;
    left[seed] = 0;
    const list = [seed];
    for (let n = 0; n < list.length; n++) {
      const f = list[n]!;
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        const g = twin[c]! >= 0 ? cornerFace[twin[c]!]! : -1;
        if (g < 0 || !left[g]) continue;
        left[g] = 0;
        list.push(g);
      }
    }
    out.push(Uint32Array.from(list).sort());
  }
  return out;
}

/** Figures of faces, one number a face in each list. */
interface FaceFigures {
  area: Float64Array;
  /** Singular values of space → image, at the patch group's own scale. */
  large: Float64Array;
  small: Float64Array;
  flipped: Uint8Array;
}
const noFigures = (faces: number): FaceFigures => ({
  area: new Float64Array(faces),
  large: new Float64Array(faces).fill(1),
  small: new Float64Array(faces).fill(1),
  flipped: new Uint8Array(faces),
});

/** Work arrays of one mesh: the place of each face among the chosen, and the UVs of each corner. */
interface Scratch {
  at: Int32Array;
  uv: Float64Array;
}
const scratches = new WeakMap<Mesh, Scratch>();
function scratchOf(mesh: Mesh, faces: Uint32Array): Scratch {
  let scratch = scratches.get(mesh);
  if (!scratch) scratches.set(mesh, (scratch = { at: new Int32Array(mesh.faceStart.length - 1), uv: new Float64Array(mesh.corners.length * 2) }));
  scratch.at.fill(-1);
  for (let k = 0; k < faces.length; k++) scratch.at[faces[k]!] = k;
  return scratch;
}

/** Faces below this number are looked at inside, too: on a few large faces the projection bends between the corners. */
const fewFaces = 1500;

function measured(mesh: Mesh, faces: Uint32Array, parts: Advice['parts']): Advice {
  const { at, uv: uvAt } = scratchOf(mesh, faces);
  const each = noFigures(faces.length);
  let overlap = 0;
  let covered = 0;
  const patchOf = new Int32Array(faces.length);
  let patches = 0;
  for (const { jig, faces: mine } of parts) {
    const done = project(mesh, mine, jig);
    const list = mine.length <= fewFaces ? innerFigures(mesh, done, jig) : faceFigures(mesh, done);
    const doubled = overlapOf(done);
    overlap += doubled.twice;
    covered += doubled.once;
    let most = 0;
    for (let f = 0; f < mine.length; f++) {
      const k = at[mine[f]!]!;
      each.area[k] = list.area[f]!;
      each.large[k] = list.large[f]!;
      each.small[k] = list.small[f]!;
      each.flipped[k] = list.flipped[f]!;
      patchOf[k] = patches + done.patch[f]!;
      most = Math.max(most, done.patch[f]! + 1);
      for (let c = done.start[f]!; c < done.start[f + 1]!; c++) {
        uvAt[done.corners[c]! * 2] = done.uv[c * 2]!;
        uvAt[done.corners[c]! * 2 + 1] = done.uv[c * 2 + 1]!;
      }
    }
    patches += most;
  }
  let [area, energy, excess, flippedArea] = [0, 0, 0, 0];
  const well: number[] = [];
  const badly: number[] = [];
  for (let k = 0; k < faces.length; k++) {
    const a = each.area[k]!;
    if (!(a > 0)) continue;
    const large = each.large[k]!;
    const small = each.small[k]!;
    const flipped = each.flipped[k] === 1;
    area += a;
    const e = small > 0 ? Math.min(100, large * large + small * small + 1 / (large * large) + 1 / (small * small)) : 100;
    energy += a * e;
    excess += a * portable.log2(e / 4);
    if (flipped) flippedArea += a;
    const off = small > 0 ? Math.max(large, 1 / small) : Infinity;
    if (!flipped && off < 1.25) well.push(k);
    else if (flipped || off > 1.6) badly.push(k);
  }
  const parted = partedLengths(mesh, faces, at, patchOf, uvAt);
  const figures: JigFigures = {
    energy: area > 0 ? energy / area : 4,
    flipped: area > 0 ? flippedArea / area : 0,
    overlap: covered > 0 ? overlap / covered : 0,
    parted: area > 0 ? parted.seen / Math.sqrt(area) : 0,
    partedLength: parted.length,
    well: Uint32Array.from(well),
    badly: Uint32Array.from(badly),
  };
  // stretch counts by its logarithm face by face, so that a few smeared faces do not drown the rest; another jig has to earn its place
  const smeared = figures.badly.length > 0 ? sumAt(each, figures.badly) / (area || 1) : 0;
  const cost =
    (area > 0 ? excess / area : 0) +
    badlyServed.each * smeared +
    badlyServed.more * Math.max(0, smeared - badlyServed.from) +
    4 * figures.flipped +
    3 * figures.overlap +
    partedCost(figures.parted) +
    0.06 * (parts.length - 1);
  return { parts, figures, cost };
}

const sumAt = ({ area }: FaceFigures, list: Uint32Array) => list.reduce((sum, k) => sum + area[k]!, 0);

/** Figures of faces from small triangles inside them, at each corner: how the projection itself stretches, not only what its corners' UVs make of it. */
function innerFigures(mesh: Mesh, { faces, start }: Projected, jig: Jig): FaceFigures {
  const corners = start[faces.length]!;
  const points = new Float64Array(corners * 9);
  const owner = new Uint32Array(corners);
  let n = 0;
  for (let f = 0; f < faces.length; f++) {
    const [from, to] = [mesh.faceStart[faces[f]!]!, mesh.faceStart[faces[f]! + 1]!];
    const middle = [0, 0, 0];
    for (let c = from; c < to; c++) for (let d = 0; d < 3; d++) middle[d]! += mesh.points[mesh.corners[c]! * 3 + d]! / (to - from);
    for (let c = from; c < to; c++, n++) {
      owner[n] = f;
      const [p, q, r] = [c, c + 1 === to ? from : c + 1, c === from ? to - 1 : c - 1].map((k) => mesh.corners[k]! * 3) as [number, number, number];
      for (let d = 0; d < 3; d++) {
        const own = mesh.points[p + d]! * 0.94 + middle[d]! * 0.06;
        points[n * 9 + d] = own;
        points[n * 9 + 3 + d] = own + 0.03 * (mesh.points[q + d]! - mesh.points[p + d]!);
        points[n * 9 + 6 + d] = own + 0.03 * (mesh.points[r + d]! - mesh.points[p + d]!);
      }
    }
  }
  const small = plainMesh(
    points,
    Uint32Array.from({ length: corners + 1 }, (_, k) => k * 3),
    Uint32Array.from({ length: corners * 3 }, (_, k) => k),
  );
  const list = faceFigures(
    small,
    project(
      small,
      Uint32Array.from({ length: corners }, (_, k) => k),
      { ...jig, group: 0 },
    ),
  );
  const out = noFigures(faces.length);
  out.large.fill(0);
  out.small.fill(0);
  const over = new Float64Array(faces.length);
  for (let k = 0; k < corners; k++) {
    const f = owner[k]!;
    const area = list.area[k]!;
    // weighted by area; of the two sizes the means of their logarithms
    out.area[f]! += area;
    out.large[f]! += area * portable.log(Math.max(1e-9, list.large[k]!));
    out.small[f]! += area * portable.log(Math.max(1e-9, list.small[k]!));
    if (list.flipped[k]) over[f]! += area;
  }
  for (let f = 0; f < faces.length; f++) {
    const area = out.area[f]!;
    if (!(area > 0)) continue;
    out.large[f] = portable.exp(out.large[f]! / area);
    out.small[f] = portable.exp(out.small[f]! / area);
    out.flipped[f] = over[f]! * 2 > area ? 1 : 0;
    out.area[f] = Math.hypot(...faceVector(mesh, faces[f]!)) / 2;
  }
  return out;
}

/** A face's figures from its fan: sums of the metric, weighted by area. O(corners). */
function faceFigures(mesh: Mesh, { faces, start, corners, uv }: Projected): FaceFigures {
  const out = noFigures(faces.length);
  const p = mesh.points;
  let space = 0;
  let image = 0;
  let sense = 0;
  const signed = new Float64Array(faces.length);
  for (let f = 0; f < faces.length; f++) {
    let area = 0;
    let e = 0;
    let g = 0;
    let h = 0;
    let flat = 0;
    const first = start[f]!;
    const last = start[f + 1]!;
    const o = mesh.corners[corners[first]!]! * 3;
    const u0 = uv[first * 2]!;
    const v0 = uv[first * 2 + 1]!;
    for (let k = first + 1; k + 1 < last; k++) {
      const a = mesh.corners[corners[k]!]! * 3;
      const b = mesh.corners[corners[k + 1]!]! * 3;
      const ux = p[a]! - p[o]!;
      const uy = p[a + 1]! - p[o + 1]!;
      const uz = p[a + 2]! - p[o + 2]!;
      const vx = p[b]! - p[o]!;
      const vy = p[b + 1]! - p[o + 1]!;
      const vz = p[b + 2]! - p[o + 2]!;
      const length = Math.sqrt(ux * ux + uy * uy + uz * uz);
      if (!(length > 0)) continue;
      // the triangle laid flat: (length, 0) and (x, y)
      const cx = uy * vz - uz * vy;
      const cy = uz * vx - ux * vz;
      const cz = ux * vy - uy * vx;
      const x = (ux * vx + uy * vy + uz * vz) / length;
      const y = Math.sqrt(cx * cx + cy * cy + cz * cz) / length;
      if (!(y > 0)) continue;
      const s1 = uv[k * 2]! - u0;
      const t1 = uv[k * 2 + 1]! - v0;
      const s2 = uv[k * 2 + 2]! - u0;
      const t2 = uv[k * 2 + 3]! - v0;
      const dux = s1 / length;
      const dvx = t1 / length;
      const duy = (s2 - dux * x) / y;
      const dvy = (t2 - dvx * x) / y;
      const a2 = (length * y) / 2;
      area += a2;
      e += a2 * (dux * dux + dvx * dvx);
      g += a2 * (duy * duy + dvy * dvy);
      h += a2 * (dux * duy + dvx * dvy);
      flat += (s1 * t2 - s2 * t1) / 2;
    }
    signed[f] = flat;
    sense += flat;
    space += area;
    image += Math.abs(flat);
    if (!(area > 0)) continue;
    const mid = (e + g) / area / 2;
    const off = Math.sqrt(((e - g) / area / 2) ** 2 + (h / area) ** 2);
    out.area[f] = area;
    out.large[f] = Math.sqrt(mid + off);
    out.small[f] = Math.sqrt(Math.max(0, mid - off));
  }
  const common = space > 0 && image > 0 ? Math.sqrt(image / space) : 1;
  for (let f = 0; f < faces.length; f++) {
    out.large[f]! /= common;
    out.small[f]! /= common;
    out.flipped[f] = signed[f]! * (sense < 0 ? -1 : 1) < 0 ? 1 : 0;
  }
  return out;
}

const raster = 192;

/** Cells of the image's box that one patch covers at all, and more than once. Faces count where their middle and corners' means lie: coarse, but quick. */
function overlapOf({ start, uv, patch }: Projected): { once: number; twice: number } {
  let once = 0;
  let twice = 0;
  const order = byPatch(patch);
  const count = new Uint8Array(raster * raster);
  for (let from = 0; from < order.length;) {
    let to = from;
    while (to < order.length && patch[order[to]!] === patch[order[from]!]) to++;
    let left = Infinity;
    let low = Infinity;
    let far = -Infinity;
    let high = -Infinity;
    for (let n = from; n < to; n++) {
      for (let k = start[order[n]!]!, end = start[order[n]! + 1]!; k < end; k++) {
        const u = uv[k * 2]!;
        const v = uv[k * 2 + 1]!;
        if (u < left) left = u;
        if (u > far) far = u;
        if (v < low) low = v;
        if (v > high) high = v;
      }
    }
    // few faces need few cells
    const cells = Math.max(8, Math.min(raster, Math.round(Math.sqrt((to - from) * 24))));
    count.fill(0, 0, cells * cells);
    const [sx, sy] = [cells / (far - left || 1), cells / (high - low || 1)];
    for (let n = from; n < to; n++) coverFace(count, cells, uv, start[order[n]!]!, start[order[n]! + 1]!, left, low, sx, sy);
    const weight = 1 / (sx * sy);
    for (let c = 0; c < cells * cells; c++) {
      if (count[c]! > 0) once += weight;
      if (count[c]! > 1) twice += weight;
    }
    from = to;
  }
  return { once, twice };
}

/** Faces in the order of their patches. O(faces + patches). */
function byPatch(patch: Int32Array): Uint32Array {
  let most = 0;
  for (let f = 0; f < patch.length; f++) if (patch[f]! > most) most = patch[f]!;
  const at = new Uint32Array(most + 2);
  for (let f = 0; f < patch.length; f++) at[patch[f]! + 1]!++;
  for (let k = 0; k <= most; k++) at[k + 1]! += at[k]!;
  const out = new Uint32Array(patch.length);
  for (let f = 0; f < patch.length; f++) out[at[patch[f]!]!++] = f;
  return out;
}

/** Adds one to each cell whose middle a triangle of a face's fan holds (half-open, so that neighbours never both count it). */
function coverFace(count: Uint8Array, cells: number, uv: Float64Array, first: number, end: number, left: number, bottom: number, sx: number, sy: number) {
  const ax = (uv[first * 2]! - left) * sx - 0.5;
  const ay = (uv[first * 2 + 1]! - bottom) * sy - 0.5;
  for (let k = first + 1; k + 1 < end; k++) {
    const bx = (uv[k * 2]! - left) * sx - 0.5;
    const by = (uv[k * 2 + 1]! - bottom) * sy - 0.5;
    const cx = (uv[k * 2 + 2]! - left) * sx - 0.5;
    const cy = (uv[k * 2 + 3]! - bottom) * sy - 0.5;
    const low = Math.max(0, Math.ceil(ay < by ? (ay < cy ? ay : cy) : by < cy ? by : cy));
    const high = Math.min(cells - 1, Math.ceil(ay > by ? (ay > cy ? ay : cy) : by > cy ? by : cy) - 1);
    for (let y = low; y <= high; y++) {
      let from = Infinity;
      let to = -Infinity;
      if (ay <= y !== by <= y) {
        from = ax + ((y - ay) / (by - ay)) * (bx - ax);
        to = from;
      }
      if (by <= y !== cy <= y) {
        const x = bx + ((y - by) / (cy - by)) * (cx - bx);
        if (x < from) from = x;
        if (x > to) to = x;
      }
      if (cy <= y !== ay <= y) {
        const x = cx + ((y - cy) / (ay - cy)) * (ax - cx);
        if (x < from) from = x;
        if (x > to) to = x;
      }
      const last = Math.min(cells - 1, Math.ceil(to) - 1);
      for (let column = Math.max(0, Math.ceil(from)), c = y * cells + column; column <= last; column++, c++) if (count[c]! < 255) count[c]!++;
    }
  }
}

/**
 * Length that is parted, as it is and as it is seen: what is parted along a crease costs little, nobody sees a seam there. Where only one end of an
 * edge comes apart (round a pole) a quarter counts.
 */
function partedLengths(mesh: Mesh, faces: Uint32Array, at: Int32Array, patchOf: Int32Array, uv: Float64Array): { length: number; seen: number } {
  const { twin, cornerFace, cornerEdge, edgePoints } = topologyOf(mesh);
  const folds = foldAngles(mesh);
  let all = 0;
  let seen = 0;
  const { points } = mesh;
  for (let n = 0; n < faces.length; n++) {
    const f = faces[n]!;
    const from = mesh.faceStart[f]!;
    const to = mesh.faceStart[f + 1]!;
    for (let c = from; c < to; c++) {
      const t = twin[c]!;
      if (t < c) continue;
      const g = cornerFace[t]!;
      const other = at[g]!;
      if (other < 0) continue;
      const next = c + 1 === to ? from : c + 1;
      const m = t + 1 === mesh.faceStart[g + 1]! ? mesh.faceStart[g]! : t + 1;
      const ends =
        (Math.abs(uv[c * 2]! - uv[m * 2]!) > 1e-9 || Math.abs(uv[c * 2 + 1]! - uv[m * 2 + 1]!) > 1e-9 ? 1 : 0) +
        (Math.abs(uv[next * 2]! - uv[t * 2]!) > 1e-9 || Math.abs(uv[next * 2 + 1]! - uv[t * 2 + 1]!) > 1e-9 ? 1 : 0);
      const share = patchOf[n] !== patchOf[other] || ends === 2 ? 1 : ends === 1 ? 0.25 : 0;
      if (share === 0) continue;
      const e = cornerEdge[c]!;
      const p = edgePoints[e * 2]! * 3;
      const q = edgePoints[e * 2 + 1]! * 3;
      const length = Math.hypot(points[p]! - points[q]!, points[p + 1]! - points[q + 1]!, points[p + 2]! - points[q + 2]!);
      // a fold of 40 degrees and more is a crease
      all += length * share;
      seen += length * share * Math.max(0.08, 1 - folds[e]! / 40);
    }
  }
  return { length: all, seen };
}
