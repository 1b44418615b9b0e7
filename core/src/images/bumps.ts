import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { placedAt, placementMatrix, type Affine, type ImagePlacement } from './placement.ts';
import { samplePixels, type Pixels } from './surface/pixels.ts';

/**
 * Normals of an image, bent onto a surface: red to the right of the image, green up (glTF 2.0, 3.9.3) or down, blue outward, each from 0 to 255 for −1 to 1. To
 * the right and up as the image runs over the triangle, by which it is laid right whatever UVs it is baked to.
 */
export class Bumps {
  private readonly matrix: Affine;
  private readonly value = new Float64Array(4);
  /** Of the last triangle: places of its corners in the image, and the directions in which x and y grow. */
  private triangle = -1;
  private readonly at = new Float64Array(6);
  private readonly right = new Float64Array(3);
  private readonly up = new Float64Array(3);
  private isFlat = true;

  constructor(
    private readonly mesh: Mesh,
    private readonly set: UvSet,
    private readonly placement: ImagePlacement,
    private readonly pixels: Pixels,
    /** The material by number whose faces it is for; null: all. −1: those without one. */
    private readonly material: number | null = null,
    private readonly isGreenDown = false,
  ) {
    this.matrix = placementMatrix(placement);
  }

  private take(t: number): void {
    this.triangle = t;
    const { mesh, set, at, right, up } = this;
    const { corners, face } = trianglesOf(mesh);
    const [a, b, c] = [corners[t * 3]!, corners[t * 3 + 1]!, corners[t * 3 + 2]!];
    [a, b, c].forEach((corner, k) => at.set(placedAt(this.matrix, set.uv[set.cornerUv[corner]! * 2]!, set.uv[set.cornerUv[corner]! * 2 + 1]!), k * 2));
    const [x1, y1, x2, y2] = [at[2]! - at[0]!, at[3]! - at[1]!, at[4]! - at[0]!, at[5]! - at[1]!];
    const det = x1 * y2 - x2 * y1;
    const isOther = this.material !== null && mesh.faceMaterial[face[t]!] !== this.material;
    this.isFlat = isOther || set.unplaced[face[t]!] === 1 || !(Math.abs(det) > 1e-18);
    if (this.isFlat) return;
    for (let d = 0; d < 3; d++) {
      const p = mesh.points[mesh.corners[a]! * 3 + d]!;
      const e1 = mesh.points[mesh.corners[b]! * 3 + d]! - p;
      const e2 = mesh.points[mesh.corners[c]! * 3 + d]! - p;
      right[d] = (e1 * y2 - e2 * y1) / det;
      up[d] = (e2 * x1 - e1 * x2) / det;
    }
  }

  /** Bends a normal at a place of a triangle, in place. @param n of length 1 */
  bend(n: Float64Array, t: number, wa: number, wb: number, wc: number): void {
    if (t !== this.triangle) this.take(t);
    if (this.isFlat) return;
    const { at, value, placement } = this;
    samplePixels(this.pixels, at[0]! * wa + at[2]! * wb + at[4]! * wc, at[1]! * wa + at[3]! * wb + at[5]! * wc, placement.outsideU, placement.outsideV, value);
    if (value[3]! === 0) return;
    const x = value[0]! * 2 - 1;
    const y = (value[1]! * 2 - 1) * (this.isGreenDown ? -1 : 1);
    const z = Math.max(0, value[2]! * 2 - 1);
    flattened(this.right, n, this.across);
    flattened(this.up, n, this.along);
    const { across, along } = this;
    const b0 = across[0]! * x + along[0]! * y + n[0]! * z;
    const b1 = across[1]! * x + along[1]! * y + n[1]! * z;
    const b2 = across[2]! * x + along[2]! * y + n[2]! * z;
    const length = Math.sqrt(b0 * b0 + b1 * b1 + b2 * b2);
    if (!(length > 1e-9)) return;
    n[0] = b0 / length;
    n[1] = b1 / length;
    n[2] = b2 / length;
  }

  private readonly across = new Float64Array(3);
  private readonly along = new Float64Array(3);
}

/** A direction without what of it goes along a normal, of length 1. */
function flattened(v: Float64Array, n: Float64Array, out: Float64Array): void {
  const along = v[0]! * n[0]! + v[1]! * n[1]! + v[2]! * n[2]!;
  for (let d = 0; d < 3; d++) out[d] = v[d]! - along * n[d]!;
  const length = Math.sqrt(out[0]! * out[0]! + out[1]! * out[1]! + out[2]! * out[2]!) || 1;
  for (let d = 0; d < 3; d++) out[d]! /= length;
}
