import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { placedAt, placementMatrix, type Affine, type ImagePlacement } from './placement.ts';
import { samplePixels, type Pixels } from './surface/pixels.ts';

/**
 * Normals of an image, bent onto a surface: red to the right of the image, green up, blue outward (glTF 2.0, 3.9.3), each from 0 to 255 for −1 to 1. To the right
 * and up as the image runs over the triangle, by which it is laid right whatever UVs it is baked to.
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
  bend(n: number[], t: number, wa: number, wb: number, wc: number): void {
    if (t !== this.triangle) this.take(t);
    if (this.isFlat) return;
    const { at, value, placement } = this;
    samplePixels(this.pixels, at[0]! * wa + at[2]! * wb + at[4]! * wc, at[1]! * wa + at[3]! * wb + at[5]! * wc, placement.outsideU, placement.outsideV, value);
    if (value[3]! === 0) return;
    const [x, y, z] = [value[0]! * 2 - 1, value[1]! * 2 - 1, Math.max(0, value[2]! * 2 - 1)];
    const across = (v: Float64Array) => {
      const along = v[0]! * n[0]! + v[1]! * n[1]! + v[2]! * n[2]!;
      const flat = [v[0]! - along * n[0]!, v[1]! - along * n[1]!, v[2]! - along * n[2]!];
      const length = Math.hypot(flat[0]!, flat[1]!, flat[2]!) || 1;
      return flat.map((one) => one / length);
    };
    const [right, up] = [across(this.right), across(this.up)];
    const bent = [0, 1, 2].map((d) => right[d]! * x + up[d]! * y + n[d]! * z);
    const length = Math.hypot(bent[0]!, bent[1]!, bent[2]!);
    if (!(length > 1e-9)) return;
    for (let d = 0; d < 3; d++) n[d] = bent[d]! / length;
  }
}
