import type { Mesh } from '../mesh/mesh.ts';
import { bounds } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import type { TriangleTree } from '../mesh/triangleTree.ts';
import { islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { shadingNormals } from './shadingNormals.ts';
import type { BakeOptions } from './bakeKinds.ts';
import type { Bumps } from './bumps.ts';
import { FastColours, picturesOf } from './surface/fastColours.ts';
import type { Pixels } from './surface/pixels.ts';
import type { Surface } from './surface/surface.ts';
import { SurfaceKernel } from './surface/surfaceKernel.ts';
import { cornerTangents } from './tangents.ts';
import * as portable from '../numeric/portable.ts';

/** A surface that is looked up where another one is: nearest along the normal, within a distance. */
export interface BakeSource {
  surface: Surface;
  tree: TriangleTree;
  mesh: Mesh;
  within: number;
}

export interface BakePart {
  mesh: Mesh;
  /** Where it is baked to. */
  set: UvSet;
  surface: Surface;
  /** Faces that are left out: 1 a face. */
  hidden?: Uint8Array | undefined;
  /** For occlusion and thickness: its own, and what stands around it. */
  trees?: readonly TriangleTree[];
  source?: BakeSource;
  /** Normals that go with its pictures. */
  bumps?: readonly Bumps[];
}

/** Rows of a picture. */
export interface Band {
  from: number;
  to: number;
  /** 4 numbers a px. */
  data: Uint8Array | Uint16Array;
  covered: Uint8Array;
  /** Samples that more than one island wants: the first has them. */
  contested: number;
  taken: number;
}

/** Rows of a band at most. */
export const bandRows = 32;

/** Places of the samples within a px: its middle; four in a turned square; sixteen in a grid. */
const patterns: Record<number, readonly (readonly [number, number])[]> = {
  1: [[0.5, 0.5]],
  4: [
    [0.375, 0.125],
    [0.875, 0.375],
    [0.125, 0.625],
    [0.625, 0.875],
  ],
  16: Array.from({ length: 16 }, (_, k) => [((k & 3) + 0.5) / 4, ((k >> 2) + 0.5) / 4] as const),
};

/** A colour of its own for each number, far from those of its neighbours (steps of the golden ratio round the circle of hues). */
export function idColour(id: number, out: Float64Array): void {
  const hue = (id * 0.6180339887498949) % 1;
  const value = 0.95 - 0.35 * ((id * 0.7548776662466927) % 1);
  const saturation = 0.55 + 0.4 * ((id * 0.5698402909980532) % 1);
  for (let k = 0; k < 3; k++) {
    const n = ((k === 0 ? 5 : k === 1 ? 3 : 1) + hue * 6) % 6;
    out[k] = value - value * saturation * Math.max(0, Math.min(n, 4 - n, 1));
  }
  out[3] = 1;
}

/** Triangles of a part that are on the tile, in their order, and the rows that each reaches over. */
interface BandTriangles {
  part: number;
  triangles: Uint32Array;
  low: Float32Array;
  high: Float32Array;
}

/** Pictures of the UV sets of parts, band by band: made once, then asked for rows. Parts and faces go in their order: where islands overlap the first is seen. */
export class Baker {
  private readonly lists: BandTriangles[];
  private readonly box: [number, number, number, number, number, number];
  private readonly ids: Int32Array[];
  private readonly tangents: (Float64Array | null)[];
  private readonly kernel: SurfaceKernel;
  /** Of each part colours of many places at once; left out: place by place. */
  private readonly colours: (FastColours | undefined)[];
  private readonly rays: Float64Array;

  /** O(triangles), and what the kind needs */
  constructor(
    private readonly parts: readonly BakePart[],
    private readonly options: BakeOptions,
  ) {
    const { height, what } = options;
    const isFast = ({ source }: BakePart) => what === 'colour' && !source;
    const pictures = picturesOf(parts.filter(isFast).map(({ surface }) => surface));
    const holds = SurfaceKernel.holds(pictures);
    this.kernel = new SurfaceKernel(holds ? pictures : new Set(), options.width * bandRows);
    this.colours = parts.map((part) => (holds && isFast(part) ? new FastColours(part.surface, this.kernel) : undefined));
    this.box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
    this.tangents = parts.map(({ mesh, set }) => (what === 'tangent-normal' ? cornerTangents(mesh, set) : null));
    let islands = 0;
    this.ids = parts.map(({ mesh, set }) => {
      if (what === 'face') return Int32Array.from({ length: mesh.faceStart.length - 1 }, (_, f) => mesh.faceGroup[f]! + 1);
      if (what === 'material') return Int32Array.from({ length: mesh.faceStart.length - 1 }, (_, f) => mesh.faceMaterial[f]! + 1);
      if (what !== 'id') return new Int32Array(0);
      const { ofFace, count } = islandsOf(mesh, set);
      const own = Int32Array.from(ofFace, (i) => i + islands);
      islands += count;
      return own;
    });
    this.lists = parts.map(({ mesh, set, hidden }, part) => {
      const b = bounds(mesh);
      for (let d = 0; d < 3; d++) {
        this.box[d] = Math.min(this.box[d]!, b[d]!);
        this.box[d + 3] = Math.max(this.box[d + 3]!, b[d + 3]!);
      }
      const { count, corners, face } = trianglesOf(mesh);
      const triangles = new Uint32Array(count);
      const lows = new Float32Array(count);
      const highs = new Float32Array(count);
      let kept = 0;
      for (let t = 0; t < count; t++) {
        if (set.unplaced[face[t]!] || hidden?.[face[t]!]) continue;
        let [low, high] = [Infinity, -Infinity];
        for (let k = 0; k < 3; k++) {
          const y = (1 - (set.uv[set.cornerUv[corners[t * 3 + k]!]! * 2 + 1]! - options.tile[1])) * height;
          low = Math.min(low, y);
          high = Math.max(high, y);
        }
        // NaN and what is beyond the tile fall out here
        if (!(high >= 0 && low <= height)) continue;
        triangles[kept] = t;
        // whole rows: as many bits as are kept hold them exactly
        lows[kept] = Math.floor(low);
        highs[kept++] = Math.ceil(high);
      }
      return { part, triangles: triangles.subarray(0, kept), low: lows, high: highs };
    });
    // at least one for each sample of a px
    this.rays = hemisphere(Math.max(options.rays, options.samples));
  }

  /** Pictures that nobody else reads are not kept twice. */
  takeOver(pictures: Iterable<Pixels>): void {
    for (const picture of pictures) this.kernel.takeOver(picture);
  }

  /** @param throwIfCancelled asked now and then. O(px · samples · layers) */
  band(from: number, to: number, throwIfCancelled: () => void = () => {}): Band {
    const { kernel } = this;
    const { functions } = kernel;
    const { width, height, samples, tile, depth } = this.options;
    kernel.beginBand(width, from, to, patterns[samples]!.flat());
    let seen = 0;
    for (const { part: k, triangles, low, high } of this.lists) {
      const part = this.parts[k]!;
      const { uv, cornerUv } = part.set;
      const { corners } = trianglesOf(part.mesh);
      const fast = this.colours[k];
      for (let at = 0; at < triangles.length; at++) {
        if (high[at]! < from || low[at]! > to) continue;
        if ((++seen & 255) === 0) throwIfCancelled();
        const triangle = triangles[at]!;
        const a = cornerUv[corners[triangle * 3]!]! * 2;
        const b = cornerUv[corners[triangle * 3 + 1]!]! * 2;
        const c = cornerUv[corners[triangle * 3 + 2]!]! * 2;
        const hasArea = functions.beginTriangle(
          (uv[a]! - tile[0]) * width,
          (1 - (uv[a + 1]! - tile[1])) * height,
          (uv[b]! - tile[0]) * width,
          (1 - (uv[b + 1]! - tile[1])) * height,
          (uv[c]! - tile[0]) * width,
          (1 - (uv[c + 1]! - tile[1])) * height,
        );
        if (hasArea === 0) continue;
        for (let count = functions.nextPlaces(); count > 0; count = functions.nextPlaces()) {
          if (fast) fast.find(triangle, count);
          else this.values(part, k, triangle, count);
          functions.accumulate(count);
        }
      }
    }
    const { data, covered } = kernel.finishBand((to - from) * width, depth);
    return { from, to, data, covered, contested: functions.contested.value, taken: functions.taken.value };
  }

  /** Values of places of a triangle, one by one. */
  private values(part: BakePart, k: number, triangle: number, count: number): void {
    const { shareB, shareC, places, out, functions } = this.kernel;
    const { value } = this;
    const [wbx, wby, wcx, wcy] = [functions.wbx.value, functions.wby.value, functions.wcx.value, functions.wcy.value];
    for (let place = 0; place < count; place++) {
      const wb = shareB[place]!;
      const wc = shareC[place]!;
      this.valueAt(part, k, triangle, 1 - wb - wc, wb, wc, wbx, wby, wcx, wcy, places[place]! & 15, value);
      out.set(value, place * 4);
    }
  }

  private readonly value = new Float64Array(4);
  private readonly scratch = new Float64Array(4);

  /** What the picture is of at a place, 0 to 1; alpha last. */
  private valueAt(
    part: BakePart,
    k: number,
    triangle: number,
    wa: number,
    wb: number,
    wc: number,
    wbx: number,
    wby: number,
    wcx: number,
    wcy: number,
    s: number,
    out: Float64Array,
  ): void {
    const { what, layer, range } = this.options;
    let { surface } = part;
    let t = triangle;
    let [w0, w1, w2] = [wa, wb, wc];
    if (part.source && (what === 'colour' || what === 'mask' || what === 'relief')) {
      surface.at(t, w0, w1, w2);
      const found = nearestOf(part.source, surface.position, surface.normal);
      if (!found) {
        out.fill(0);
        return;
      }
      ({ surface } = part.source);
      t = found.triangle;
      [w0, w1, w2] = [found.w0, found.w1, found.w2];
    }
    surface.at(t, w0, w1, w2);
    switch (what) {
      case 'colour':
        surface.colour(out);
        return;
      case 'coverage':
        out.fill(1);
        return;
      case 'mask': {
        let value = 0;
        const at = layer === undefined ? -1 : surface.names.findIndex(({ id }) => id === layer);
        if (at >= 0) value = surface.maskAt(at);
        else if (layer === undefined) {
          surface.colour(this.scratch);
          value = this.scratch[3]!;
        }
        grey(value, out);
        return;
      }
      case 'relief':
        grey(0.5 + surface.relief() / (2 * range), out);
        return;
      case 'position':
        for (let d = 0; d < 3; d++) out[d] = (surface.position[d]! - this.box[d]!) / Math.max(1e-12, this.box[d + 3]! - this.box[d]!);
        out[3] = 1;
        return;
      case 'normal':
      case 'tangent-normal':
        this.normalOf(part, k, t, wa, wb, wc, wbx, wby, wcx, wcy, out);
        for (let d = 0; d < 3; d++) out[d] = out[d]! * 0.5 + 0.5;
        if (what === 'tangent-normal' && this.options.isGreenDown) out[1] = 1 - out[1]!;
        out[3] = 1;
        return;
      case 'face':
      case 'id':
      case 'material':
        idColour(this.ids[k]![trianglesOf(part.mesh).face[t]!]!, out);
        return;
      case 'occlusion':
      case 'thickness':
        grey(this.traced(part, s), out);
    }
  }

  /** The normal with the relief on it: n − ∇h, where ∇h is the slope along the surface. */
  private normalOf(
    { surface, mesh, bumps }: BakePart,
    k: number,
    t: number,
    wa: number,
    wb: number,
    wc: number,
    wbx: number,
    wby: number,
    wcx: number,
    wcy: number,
    out: Float64Array,
  ): void {
    // nothing is allocated here: it is asked for every sample
    const { bent, tangent, shading, step } = this;
    const { position, normal } = surface;
    bent[0] = normal[0]!;
    bent[1] = normal[1]!;
    bent[2] = normal[2]!;
    if (surface.hasRelief) {
      const px = position[0]!;
      const py = position[1]!;
      const pz = position[2]!;
      const h = surface.relief();
      // half a px to the right, and half a px down
      for (let one = 0; one < 2; one++) {
        const b = (one === 0 ? wbx : wby) / 2;
        const c = (one === 0 ? wcx : wcy) / 2;
        surface.at(t, wa - b - c, wb + b, wc + c);
        step[one * 4] = position[0]! - px;
        step[one * 4 + 1] = position[1]! - py;
        step[one * 4 + 2] = position[2]! - pz;
        step[one * 4 + 3] = surface.relief() - h;
      }
      const aa = step[0]! * step[0]! + step[1]! * step[1]! + step[2]! * step[2]!;
      const ab = step[0]! * step[4]! + step[1]! * step[5]! + step[2]! * step[6]!;
      const bb = step[4]! * step[4]! + step[5]! * step[5]! + step[6]! * step[6]!;
      const det = aa * bb - ab * ab;
      if (det > 0) {
        const x = (step[3]! * bb - step[7]! * ab) / det;
        const y = (step[7]! * aa - step[3]! * ab) / det;
        for (let d = 0; d < 3; d++) bent[d]! -= step[d]! * x + step[4 + d]! * y;
      }
    }
    unit(bent);
    if (bumps) for (const one of bumps) one.bend(bent, t, wa, wb, wc);
    const tangents = this.tangents[k];
    if (!tangents) {
      out[0] = bent[0]!;
      out[1] = bent[1]!;
      out[2] = bent[2]!;
      return;
    }
    const { corners } = trianglesOf(mesh);
    const normals = shadingNormals(mesh);
    tangent.fill(0);
    shading.fill(0);
    let sign = 1;
    for (let v = 0; v < 3; v++) {
      const c = corners[t * 3 + v]!;
      const weight = v === 0 ? wa : v === 1 ? wb : wc;
      sign = tangents[c * 4 + 3]!;
      for (let d = 0; d < 3; d++) {
        tangent[d]! += tangents[c * 4 + d]! * weight;
        shading[d]! += normals[c * 3 + d]! * weight;
      }
    }
    // the third axis as viewers make it: of the two that were mixed between corners, with the sign of the picture
    const x = (shading[1]! * tangent[2]! - shading[2]! * tangent[1]!) * sign;
    const y = (shading[2]! * tangent[0]! - shading[0]! * tangent[2]!) * sign;
    const z = (shading[0]! * tangent[1]! - shading[1]! * tangent[0]!) * sign;
    solve3(tangent, x, y, z, shading, bent, out);
    unit(out);
  }

  private readonly bent = new Float64Array(3);
  private readonly tangent = new Float64Array(3);
  private readonly shading = new Float64Array(3);
  /** Of two steps on the surface: x, y, z and how the relief rises. */
  private readonly step = new Float64Array(8);

  /** Share of the rays out of the surface that get away, by the cosine (occlusion), or how far rays go inward (thickness). */
  private traced({ surface, trees = [] }: BakePart, sample: number): number {
    const { reach, what } = this.options;
    const side = what === 'occlusion' ? 1 : -1;
    const [nx, ny, nz] = [surface.normal[0]! * side, surface.normal[1]! * side, surface.normal[2]! * side];
    const [px, py, pz] = [surface.position[0]!, surface.position[1]!, surface.position[2]!];
    // a frame round the normal (T. Duff and others, "Building an Orthonormal Basis, Revisited", JCGT 2017)
    const s = nz < 0 ? -1 : 1;
    const a = -1 / (s + nz);
    const b = nx * ny * a;
    const [tx, ty, tz] = [1 + s * nx * nx * a, s * b, -s * nx];
    const [ux, uy, uz] = [b, s + ny * ny * a, -ny];
    const lift = reach * 1e-4;
    let [sum, count] = [0, 0];
    const isOcclusion = what === 'occlusion';
    // samples of a px share the rays
    for (let r = sample % this.options.samples; r < this.rays.length / 3; r += this.options.samples) {
      count++;
      const [x, y, z] = [this.rays[r * 3]!, this.rays[r * 3 + 1]!, this.rays[r * 3 + 2]!];
      const [dx, dy, dz] = [tx * x + ux * y + nx * z, ty * x + uy * y + ny * z, tz * x + uz * y + nz * z];
      let distance = Infinity;
      for (let k = 0; k < trees.length && (!isOcclusion || distance === Infinity); k++)
        distance = Math.min(distance, trees[k]!.cast(px + nx * lift, py + ny * lift, pz + nz * lift, dx, dy, dz, reach, isOcclusion));
      sum += isOcclusion ? (distance === Infinity ? 1 : 0) : Math.min(1, distance / reach);
    }
    return sum / count;
  }
}

/** The place of another mesh that a place is looked up at: the nearest that looks the same way, else the nearest. */
function nearestOf({ tree, mesh, within }: BakeSource, position: ArrayLike<number>, normal: ArrayLike<number>) {
  const { corners } = trianglesOf(mesh);
  const normals = shadingNormals(mesh);
  const looksAlike = (t: number) => {
    const c = corners[t * 3]! * 3;
    return normals[c]! * normal[0]! + normals[c + 1]! * normal[1]! + normals[c + 2]! * normal[2]! > 0;
  };
  const [x, y, z] = [position[0]!, position[1]!, position[2]!];
  return tree.nearest(x, y, z, within, looksAlike) ?? tree.nearest(x, y, z, within);
}

function grey(value: number, out: Float64Array): void {
  out.fill(value < 0 ? 0 : value > 1 ? 1 : value, 0, 3);
  out[3] = 1;
}

/** Directions over a half sphere, as many as their cosine says, evenly spread (J. M. Hammersley's points, 1960). 3 numbers each. */
function hemisphere(count: number): Float64Array {
  const out = new Float64Array(count * 3);
  for (let k = 0; k < count; k++) {
    let [radical, bit, rest] = [0, 0.5, k];
    for (; rest > 0; rest >>= 1, bit /= 2) if (rest & 1) radical += bit;
    const angle = 2 * Math.PI * radical;
    const height = (k + 0.5) / count;
    out.set([Math.sqrt(height) * portable.cos(angle), Math.sqrt(height) * portable.sin(angle), Math.sqrt(1 - height)], k * 3);
  }
  return out;
}

/** Makes the first three numbers of length 1. */
function unit(v: Float64Array): void {
  const length = Math.sqrt(v[0]! * v[0]! + v[1]! * v[1]! + v[2]! * v[2]!) || 1;
  v[0]! /= length;
  v[1]! /= length;
  v[2]! /= length;
}

/** x with a·x₀ + (bx, by, bz)·x₁ + c·x₂ = v into `out`; (0, 0, 1) where there is none. */
function solve3(a: Float64Array, bx: number, by: number, bz: number, c: Float64Array, v: Float64Array, out: Float64Array): void {
  const [a0, a1, a2, c0, c1, c2, v0, v1, v2] = [a[0]!, a[1]!, a[2]!, c[0]!, c[1]!, c[2]!, v[0]!, v[1]!, v[2]!];
  const x = by * c2 - bz * c1;
  const y = bz * c0 - bx * c2;
  const z = bx * c1 - by * c0;
  const det = a0 * x + a1 * y + a2 * z;
  if (Math.abs(det) < 1e-12) {
    out[0] = out[1] = 0;
    out[2] = 1;
    return;
  }
  out[0] = (v0 * x + v1 * y + v2 * z) / det;
  out[1] = (a0 * (v1 * c2 - v2 * c1) + a1 * (v2 * c0 - v0 * c2) + a2 * (v0 * c1 - v1 * c0)) / det;
  out[2] = (a0 * (by * v2 - bz * v1) + a1 * (bz * v0 - bx * v2) + a2 * (bx * v1 - by * v0)) / det;
}
