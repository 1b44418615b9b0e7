import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { islandsOf } from '../uv/islands.ts';
import type { TriangleStretch } from '../uv/triangleStretch.ts';
import type { UvSet } from '../uv/uvSet.ts';
import * as portable from '../numeric/portable.ts';

export { triangleStretch, type TriangleStretch } from '../uv/triangleStretch.ts';

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
  const binOf = (x: number) => Math.min(bins - 1, Math.floor(portable.log2(x) * 256));
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
