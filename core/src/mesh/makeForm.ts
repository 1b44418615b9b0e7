import type { FormKind } from './formKinds.ts';
import type { Mesh } from './mesh.ts';
import { meshFromFaces } from './mesh.ts';
import * as portable from '../numeric/portable.ts';

/** Sizes in units. What a form does not have is passed over. */
export interface FormSpec {
  kind: FormKind;
  /** Plane and box along x; diameter of the others. */
  width: number;
  height: number;
  depth: number;
  /** Torus: diameter of the tube. */
  tube: number;
  /** Faces round, or along x. */
  segments: number;
  /** Faces along the height, or from pole to pole, or round the tube. */
  rows: number;
  lids: boolean;
}

export interface MadeForm {
  mesh: Mesh;
  /** UV point of each corner and 2 numbers a UV point. */
  cornerUv: Uint32Array;
  uv: Float64Array;
}

type Place = [number, number, number];
type Uv = [number, number];

/** Collects faces by the places and UVs of their corners; equal places become one point, equal UVs at one point one UV point. */
class FormBuilder {
  private readonly pointIds = new Map<string, number>();
  private readonly uvIds = new Map<string, number>();
  private readonly points: number[] = [];
  private readonly uvs: number[] = [];
  private readonly faces: number[][] = [];
  private readonly cornerUv: number[] = [];

  constructor(private readonly size: number) {}

  private key(...values: number[]): string {
    return values.map((x) => Math.round((x / this.size) * 1e9) + 0).join();
  }

  /** Corners at one place in a row are one: the quads at a pole become triangles. */
  face(corners: [Place, Uv][]): void {
    const ids: number[] = [];
    const uvIds: number[] = [];
    for (const [place, uv] of corners) {
      const key = this.key(...place);
      let id = this.pointIds.get(key);
      if (id === undefined) {
        id = this.points.length / 3;
        this.pointIds.set(key, id);
        this.points.push(...place);
      }
      if (id === ids.at(-1) || (id === ids[0] && ids.length + 1 === corners.length)) continue;
      const uvKey = `${id} ${uv.map((x) => Math.round(x * 1e10)).join()}`;
      let uvId = this.uvIds.get(uvKey);
      if (uvId === undefined) {
        uvId = this.uvs.length / 2;
        this.uvIds.set(uvKey, uvId);
        this.uvs.push(...uv);
      }
      ids.push(id);
      uvIds.push(uvId);
    }
    if (ids.length < 3) return;
    this.faces.push(ids);
    this.cornerUv.push(...uvIds);
  }

  /** A sheet of columns × rows quads; s and t run from 0 to 1. At a pole the UV lies over the middle of each face's far side. */
  patch(columns: number, rows: number, place: (s: number, t: number) => Place, uv: (s: number, t: number) => Uv, pole?: (t: number) => boolean): void {
    for (let r = 0; r < rows; r++) {
      for (let c = 0; c < columns; c++) {
        const [s0, s1, t0, t1] = [c / columns, (c + 1) / columns, r / rows, (r + 1) / rows];
        const at = (s: number, t: number): [Place, Uv] => [place(s, t), pole?.(t) ? uv((s0 + s1) / 2, t) : uv(s, t)];
        this.face([at(s0, t0), at(s1, t0), at(s1, t1), at(s0, t1)]);
      }
    }
  }

  done(): MadeForm {
    return { mesh: meshFromFaces(this.points, this.faces), cornerUv: Uint32Array.from(this.cornerUv), uv: Float64Array.from(this.uvs) };
  }
}

/** Longitude runs from −z over +x, so that the middle of the image is at the front (+z); source of the formulas: see the kinds below. */
const round = (s: number): [number, number] => {
  const longitude = (s - 0.5) * 2 * Math.PI;
  return [portable.sin(longitude), portable.cos(longitude)];
};

/**
 * Makes a starter form with starter UVs, standing on its middle, y up. Sphere and cylinder: u = longitude / 2π + ½; sphere: v = latitude / π
 * + ½ (equidistant cylindrical projection: J. Snyder, Map Projections: A Working Manual, USGS Professional Paper 1395, 1987, p. 90). Box,
 * cylinder and cone with lids: true shapes at one scale, side by side.
 */
export function makeForm(spec: FormSpec): MadeForm {
  const { kind, width, height, depth, segments, rows, lids } = spec;
  const out = new FormBuilder(Math.max(width, height, depth));
  const r = width / 2;
  if (kind === 'plane') {
    const scale = 1 / Math.max(width, height);
    out.patch(
      segments,
      rows,
      (s, t) => [(s - 0.5) * width, (t - 0.5) * height, 0],
      (s, t) => [s * width * scale, t * height * scale],
    );
  } else if (kind === 'box') boxNet(out, spec);
  else if (kind === 'cylinder') {
    const round2 = Math.PI * width;
    const lidsHigh = lids ? width * 1.02 : 0;
    const scale = Math.min(1 / round2, 1 / (height + lidsHigh));
    out.patch(
      segments,
      rows,
      (s, t) => [r * round(s)[0], (t - 0.5) * height, r * round(s)[1]],
      (s, t) => [s * round2 * scale, (lidsHigh + t * height) * scale],
    );
    if (lids) {
      for (const up of [1, -1]) {
        const middle: Uv = [(r + (up > 0 ? 0 : width * 1.02)) * scale, r * scale];
        const rim = Array.from({ length: segments }, (_, k): [Place, Uv] => {
          const [x, z] = round(k / segments);
          return [
            [r * x, (up * height) / 2, r * z],
            [middle[0] + r * x * scale, middle[1] - up * r * z * scale],
          ];
        });
        out.face(up > 0 ? rim : rim.reverse());
      }
    }
  } else if (kind === 'cone') {
    // the side unrolls to a sector: slant l, angle 2πr / l
    const slant = Math.hypot(r, height);
    const angle = (2 * Math.PI * r) / slant;
    const half = angle / 2;
    const wide = 2 * slant * (half >= Math.PI / 2 ? 1 : portable.sin(half));
    const tall = slant * (1 - Math.min(0, portable.cos(half)));
    const lidsHigh = lids ? width * 1.02 : 0;
    const scale = Math.min(1 / wide, 1 / (tall + lidsHigh));
    const apex: Uv = [wide / 2, lidsHigh + slant];
    out.patch(
      segments,
      rows,
      (s, t) => [r * (1 - t) * round(s)[0], (t - 0.5) * height, r * (1 - t) * round(s)[1]],
      (s, t) => {
        const turn = (s - 0.5) * angle;
        const far = slant * (1 - t);
        return [(apex[0] + far * portable.sin(turn)) * scale, (apex[1] - far * portable.cos(turn)) * scale];
      },
    );
    if (lids) {
      const rim = Array.from({ length: segments }, (_, k): [Place, Uv] => {
        const [x, z] = round(k / segments);
        return [
          [r * x, -height / 2, r * z],
          [(r + r * x) * scale, (r + r * z) * scale],
        ];
      });
      out.face(rim.reverse());
    }
  } else if (kind === 'sphere') {
    out.patch(
      segments,
      rows,
      (s, t) => {
        const latitude = (t - 0.5) * Math.PI;
        const flat = t === 0 || t === 1 ? 0 : r * portable.cos(latitude);
        return [flat * round(s)[0], r * portable.sin(latitude), flat * round(s)[1]];
      },
      (s, t) => [s, t],
      (t) => t === 0 || t === 1,
    );
  } else {
    const tube = spec.tube / 2;
    const middle = r - tube;
    out.patch(
      segments,
      rows,
      (s, t) => {
        const turn = (t - 0.5) * 2 * Math.PI;
        const far = middle + tube * portable.cos(turn);
        return [far * round(s)[0], tube * portable.sin(turn), far * round(s)[1]];
      },
      (s, t) => [s, t],
    );
  }
  return out.done();
}

/** Four sides in a row, top and bottom at the front: a box laid open, all at one scale. */
function boxNet(out: FormBuilder, { width: x, height: y, depth: z, segments, rows }: FormSpec) {
  const scale = Math.min(1 / (2 * (x + z)), 1 / (y + 2 * z));
  const [hx, hy, hz] = [x / 2, y / 2, z / 2];
  const sides: [number, number, (s: number, t: number) => Place, number, number][] = [
    [x, y, (s, t) => [(s - 0.5) * x, (t - 0.5) * y, hz], 0, z],
    [z, y, (s, t) => [hx, (t - 0.5) * y, (0.5 - s) * z], x, z],
    [x, y, (s, t) => [(0.5 - s) * x, (t - 0.5) * y, -hz], x + z, z],
    [z, y, (s, t) => [-hx, (t - 0.5) * y, (s - 0.5) * z], 2 * x + z, z],
    [x, z, (s, t) => [(s - 0.5) * x, hy, (0.5 - t) * z], 0, z + y],
    [x, z, (s, t) => [(s - 0.5) * x, -hy, (t - 0.5) * z], 0, 0],
  ];
  for (const [k, [w, h, place, u, v]] of sides.entries()) {
    out.patch(segments, k < 4 ? rows : segments, place, (s, t) => [(u + s * w) * scale, (v + t * h) * scale]);
  }
}

/** What a form is called and how many points and faces it will have, without making it. */
export function formWords({ kind, segments: s, rows: r, lids }: FormSpec): { name: string; points: number; faces: number } {
  const ends = lids ? 1 : 0;
  const boxFaces = 4 * s * r + 2 * s * s;
  const counts: Record<FormKind, [points: number, faces: number]> = {
    plane: [(s + 1) * (r + 1), s * r],
    // quads all round: points = faces + 2 (Euler)
    box: [boxFaces + 2, boxFaces],
    cylinder: [s * (r + 1), s * r + 2 * ends],
    cone: [s * r + 1, s * r + ends],
    sphere: [s * (r - 1) + 2, s * r],
    torus: [s * r, s * r],
  };
  const [points, faces] = counts[kind];
  return { name: kind[0]!.toUpperCase() + kind.slice(1), points, faces };
}
