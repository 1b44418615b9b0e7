import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';

/** How the sheet's px relate to space on each triangle. Triangles of faces without a place, and those without area, have NaN. */
export interface TriangleStretch {
  /** Larger and smaller singular value of the map from space to px, px per unit. */
  most: Float64Array;
  least: Float64Array;
  /** Signed px area: negative where the triangle is turned over. */
  pxArea: Float64Array;
  /** Area in space. */
  area: Float64Array;
}

/** Several measures of one layout begin with it: the last answers are kept, two since the sheet's and the square's are asked for in turn. */
let kept: { mesh: Mesh; set: UvSet; width: number; height: number; stretch: TriangleStretch }[] = [];

/** Singular values of every triangle's map; not to be written into. O(T). */
export function triangleStretch(mesh: Mesh, set: UvSet, width: number, height: number): TriangleStretch {
  const known = kept.find((one) => one.mesh === mesh && one.set === set && one.width === width && one.height === height);
  if (known) return known.stretch;
  const stretch = stretchOf(mesh, set, width, height);
  kept = [...kept.slice(-1), { mesh, set, width, height, stretch }];
  return stretch;
}

function stretchOf(mesh: Mesh, set: UvSet, width: number, height: number): TriangleStretch {
  const triangles = trianglesOf(mesh);
  const n = triangles.count;
  const most = new Float64Array(n).fill(NaN);
  const least = new Float64Array(n).fill(NaN);
  const pxArea = new Float64Array(n).fill(NaN);
  const area = new Float64Array(n);
  const p = mesh.points;
  for (let t = 0; t < n; t++) {
    const c0 = triangles.corners[t * 3]!,
      c1 = triangles.corners[t * 3 + 1]!,
      c2 = triangles.corners[t * 3 + 2]!;
    const a = mesh.corners[c0]! * 3,
      b = mesh.corners[c1]! * 3,
      c = mesh.corners[c2]! * 3;
    const ux = p[b]! - p[a]!,
      uy = p[b + 1]! - p[a + 1]!,
      uz = p[b + 2]! - p[a + 2]!;
    const vx = p[c]! - p[a]!,
      vy = p[c + 1]! - p[a + 1]!,
      vz = p[c + 2]! - p[a + 2]!;
    const x1 = Math.sqrt(ux * ux + uy * uy + uz * uz);
    const nx = uy * vz - uz * vy,
      ny = uz * vx - ux * vz,
      nz = ux * vy - uy * vx;
    const twice = Math.sqrt(nx * nx + ny * ny + nz * nz);
    area[t] = twice / 2;
    if (set.unplaced[triangles.face[t]!]) continue;
    const i = set.cornerUv[c0]! * 2,
      j = set.cornerUv[c1]! * 2,
      k = set.cornerUv[c2]! * 2;
    const p1 = (set.uv[j]! - set.uv[i]!) * width,
      q1 = (set.uv[j + 1]! - set.uv[i + 1]!) * height;
    const p2 = (set.uv[k]! - set.uv[i]!) * width,
      q2 = (set.uv[k + 1]! - set.uv[i + 1]!) * height;
    pxArea[t] = (p1 * q2 - p2 * q1) / 2;
    if (!(twice > 0)) continue;
    const x2 = (ux * vx + uy * vy + uz * vz) / x1;
    const y2 = twice / x1;
    const ja = p1 / x1,
      jc = q1 / x1;
    const jb = (p2 - ja * x2) / y2,
      jd = (q2 - jc * x2) / y2;
    // singular values of [[ja, jb], [jc, jd]] by sum and difference (a well-conditioned form)
    const s = Math.sqrt((ja + jd) ** 2 + (jc - jb) ** 2) / 2;
    const d = Math.sqrt((ja - jd) ** 2 + (jc + jb) ** 2) / 2;
    most[t] = s + d;
    least[t] = Math.abs(s - d);
  }
  return { most, least, pxArea, area };
}

/**
 * The same with every island at a scale of its own, so that as many px² as units² are covered by each: what is left is stretch inside of islands,
 * and how their sizes differ is the matter of density. O(T).
 */
export function atOwnScale(mesh: Mesh, set: UvSet, { most, least, pxArea, area }: TriangleStretch): TriangleStretch {
  const { ofFace, count } = islandsOf(mesh, set);
  const { face } = trianglesOf(mesh);
  const px = new Float64Array(count);
  const units = new Float64Array(count);
  for (let t = 0; t < area.length; t++) {
    if (Number.isNaN(most[t]!)) continue;
    px[ofFace[face[t]!]!]! += Math.abs(pxArea[t]!);
    units[ofFace[face[t]!]!]! += area[t]!;
  }
  const factor = px.map((value, i) => (value > 0 && units[i]! > 0 ? Math.sqrt(units[i]! / value) : 1));
  const of = (t: number) => factor[ofFace[face[t]!]!]!;
  return { most: most.map((x, t) => x * of(t)), least: least.map((x, t) => x * of(t)), pxArea: pxArea.map((x, t) => x * of(t) ** 2), area };
}

export interface StretchFigures {
  /** Root mean square stretch, 1 for an isometry (Sander et al. 2001). */
  stretchL2: number | null;
  /** Largest stretch anywhere, 1 for an isometry (Sander et al. 2001). */
  stretchLinf: number | null;
  /** Symmetric Dirichlet energy, area-weighted mean, 4 for an isometry (Smith & Schaefer 2015). */
  symmetricDirichlet: number | null;
  /** (σ₁/σ₂ + σ₂/σ₁) / 2, area-weighted mean, 1 where angles are kept. */
  conformalMean: number | null;
  /** 99th percentile (by area in space) of how many times too large or too small a place is, 1 for even area. */
  areaDistortionP99: number | null;
}

/**
 * Distortion of a whole layout under one common scale, so that differences in density between islands count too.
 *
 * Sources: P. Sander, J. Snyder, S. Gortler, H. Hoppe, "Texture Mapping Progressive Meshes", SIGGRAPH 2001 (L² and L∞ stretch, from the sheet to
 * the surface, scaled so that total areas agree); J. Smith, S. Schaefer, "Bijective Parameterization with Free Boundaries",
 * SIGGRAPH 2015 (‖J‖² + ‖J⁻¹‖²; here at the common scale that makes the mean least, in closed form 2√(ab)).
 * Triangles without area on the sheet make L², L∞ and the energy infinite: they are given as null and counted elsewhere.
 */
export function stretchFigures(stretch: TriangleStretch): StretchFigures {
  const { most, least, pxArea, area } = stretch;
  let total = 0,
    totalPx = 0,
    inverse = 0,
    largest = 0,
    squares = 0,
    inverseSquares = 0,
    conformal = 0,
    conformalArea = 0;
  const ratios = new Float64Array(area.length);
  const weights = new Float64Array(area.length);
  let count = 0;
  for (let t = 0; t < area.length; t++) {
    const w = area[t]!;
    const s1 = most[t]!;
    const s2 = least[t]!;
    if (!(w > 0) || Number.isNaN(s1)) continue;
    total += w;
    totalPx += Math.abs(pxArea[t]!);
    inverse += w * (1 / (s1 * s1) + 1 / (s2 * s2));
    if (1 / s2 > largest) largest = 1 / s2;
    squares += w * (s1 * s1 + s2 * s2);
    inverseSquares += w * (1 / (s1 * s1) + 1 / (s2 * s2));
    if (s2 > 0) {
      conformal += (w * (s1 / s2 + s2 / s1)) / 2;
      conformalArea += w;
    }
    ratios[count] = Math.abs(pxArea[t]!) / w;
    weights[count++] = w;
  }
  if (!(total > 0) || !(totalPx > 0)) return { stretchL2: null, stretchLinf: null, symmetricDirichlet: null, conformalMean: null, areaDistortionP99: null };
  const scale = Math.sqrt(totalPx / total);
  const finite = (x: number) => (Number.isFinite(x) ? x : null);
  const mean = totalPx / total;
  const off = ratios.subarray(0, count).map((ratio) => Math.max(ratio / mean, mean / ratio));
  const p99 = weightedQuantile(off, weights, 0.99);
  return {
    stretchL2: finite(Math.sqrt(inverse / (2 * total)) * scale),
    stretchLinf: finite(largest * scale),
    symmetricDirichlet: finite((2 * Math.sqrt(squares * inverseSquares)) / total),
    conformalMean: conformalArea > 0 ? finite(conformal / conformalArea) : null,
    areaDistortionP99: finite(p99),
  };
}

const bins = 4096;

/** The least value below or at which lies a share of all weight. @param values from 1 up, infinity too. O(n) where values are spread. */
function weightedQuantile(values: Float64Array, weights: Float64Array, share: number): number {
  const binOf = (x: number) => Math.min(bins - 1, Math.floor(Math.log2(x) * 256));
  const inBin = new Float64Array(bins);
  let total = 0;
  for (let k = 0; k < values.length; k++) {
    inBin[binOf(values[k]!)]! += weights[k]!;
    total += weights[k]!;
  }
  let run = 0;
  let bin = 0;
  while (bin < bins - 1 && run + inBin[bin]! < share * total) run += inBin[bin++]!;
  const members: number[] = [];
  for (let k = 0; k < values.length; k++) if (binOf(values[k]!) === bin) members.push(k);
  members.sort((a, b) => values[a]! - values[b]!);
  for (const k of members) {
    run += weights[k]!;
    if (run >= share * total) return values[k]!;
  }
  return values[members.at(-1)!]!;
}
