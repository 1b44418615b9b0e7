import type { Mesh } from '../../mesh/mesh.ts';
import { trianglesOf, type Triangles } from '../../mesh/triangles.ts';
import type { Affine, Outside } from '../placement.ts';
import { shadingNormals } from '../shadingNormals.ts';
import { adjustColour } from './adjust.ts';
import { composite } from './blend.ts';
import { brushAt, decalPlace, fadeAt, triplanarPlace, triplanarWeights } from './frames.ts';
import type { Layer } from './layer.ts';
import { noiseAt } from './noise.ts';
import { samplePixels, type Pixels } from './pixels.ts';
import type { SurfacePlan } from './plan.ts';
import { goesBySpace, preparedLayer, type PreparedLayer, type PreparedMask } from './prepared.ts';

/** Lightness of a colour as height or as a mask (the weights of the W3C's filter effects). */
export const lightness = (colour: ArrayLike<number>) => 0.213 * colour[0]! + 0.715 * colour[1]! + 0.072 * colour[2]!;

/**
 * What a surface looks like at any place: the one definition that pictures are baked from, that is asked what is under the pointer, and that the graphics'
 * shader is tested against. A place is a triangle (of `trianglesOf`) with the shares of its three corners. Nothing is allocated while places are asked for.
 */
export class Surface {
  readonly triangles: Triangles;
  private ownNormals: ArrayLike<number> | null;
  readonly layers: readonly PreparedLayer[];
  /** The place that is asked for. */
  private triangle = -1;
  private readonly corner = new Uint32Array(3);
  private readonly places = new Float64Array(9);
  private readonly facing = new Float64Array(9);
  private w0 = 0;
  private w1 = 0;
  private w2 = 0;
  readonly position = new Float64Array(3);
  /** Of length 1. */
  readonly normal = new Float64Array(3);
  private readonly texel = new Float64Array(4);
  private readonly sum = new Float64Array(4);
  private readonly uv = new Float64Array(3);
  private readonly sides = new Float64Array(3);

  private readonly usesSpace: boolean;

  /**
   * @param images pictures by their ids; null where one cannot be read: its layer shows nothing
   * @param needsSpace `position` and `normal` are asked for; else they are found where a layer needs them
   * @param normals 3 numbers a corner, in place of the mesh's own shading normals
   */
  constructor(
    readonly mesh: Mesh,
    plan: SurfacePlan,
    images: (id: string) => Pixels | null,
    needsSpace = true,
    normals?: ArrayLike<number>,
  ) {
    this.triangles = trianglesOf(mesh);
    this.ownNormals = normals ?? null;
    this.layers = plan.layers.map((planned) => preparedLayer(planned, plan, images));
    this.hasRelief = this.layers.some(({ layer }) => layer.to === 'relief');
    this.usesSpace = needsSpace || this.layers.some(({ layer }) => goesBySpace(layer));
  }

  /** 3 numbers a corner; found when they are asked for first. */
  get normals(): ArrayLike<number> {
    return (this.ownNormals ??= shadingNormals(this.mesh));
  }

  /** Names of the layers that are evaluated, from the bottom to the top. */
  get names(): readonly Layer[] {
    return this.layers.map(({ layer }) => layer);
  }

  /** Whether a layer raises it. */
  readonly hasRelief: boolean;

  /** Goes to a place. */
  at(triangle: number, w0: number, w1: number, w2: number): void {
    this.w0 = w0;
    this.w1 = w1;
    this.w2 = w2;
    if (triangle !== this.triangle) this.take(triangle);
    if (this.usesSpace) this.findSpace();
  }

  /** What is the same all over a triangle. */
  private take(triangle: number): void {
    this.triangle = triangle;
    const { corners } = this.triangles;
    const { points, corners: pointOf } = this.mesh;
    const normals = this.usesSpace ? this.normals : null;
    for (let k = 0; k < 3; k++) {
      const c = corners[triangle * 3 + k]!;
      this.corner[k] = c;
      if (normals)
        for (let d = 0; d < 3; d++) {
          this.places[k * 3 + d] = points[pointOf[c]! * 3 + d]!;
          this.facing[k * 3 + d] = normals[c * 3 + d]!;
        }
      for (const { driver, ends } of this.layers) {
        if (!driver) continue;
        ends[k * 2] = driver[c * 2]!;
        ends[k * 2 + 1] = driver[c * 2 + 1]!;
      }
    }
  }

  /** Where the place is in space, and which way the surface looks there. */
  private findSpace(): void {
    const { w0, w1, w2, places: p, facing: n, position, normal } = this;
    position[0] = p[0]! * w0 + p[3]! * w1 + p[6]! * w2;
    position[1] = p[1]! * w0 + p[4]! * w1 + p[7]! * w2;
    position[2] = p[2]! * w0 + p[5]! * w1 + p[8]! * w2;
    const x = n[0]! * w0 + n[3]! * w1 + n[6]! * w2;
    const y = n[1]! * w0 + n[4]! * w1 + n[7]! * w2;
    const z = n[2]! * w0 + n[5]! * w1 + n[8]! * w2;
    const length = Math.sqrt(x * x + y * y + z * z) || 1;
    normal[0] = x / length;
    normal[1] = y / length;
    normal[2] = z / length;
  }

  /** Colour of all layers together: red, green, blue, alpha, not multiplied by it; 0 to 1. */
  colour(out: Float64Array): void {
    const { texel } = this;
    out.fill(0);
    for (const one of this.layers) {
      if (one.layer.to !== 'colour') continue;
      const alpha = this.reached(one);
      if (alpha > 0) composite(one.layer.blend, out, texel, this.shown(one) * alpha);
    }
  }

  /** Height over the mesh, units. */
  relief(): number {
    let height = 0;
    for (const one of this.layers) {
      if (one.layer.to !== 'relief') continue;
      const alpha = this.reached(one);
      if (alpha <= 0) continue;
      const share = this.shown(one) * alpha;
      const own = lightness(this.texel) * one.layer.strength;
      height = one.layer.isAdded ? height + own * share : height * (1 - share) + own * share;
    }
    return height;
  }

  /** One layer alone: its colour, and as alpha what it counts there (its picture's alpha, masks and opacity together). */
  layerAt(k: number, out: Float64Array): void {
    const one = this.layers[k]!;
    const alpha = this.reached(one);
    const own = alpha > 0 ? this.shown(one) : 0;
    for (let c = 0; c < 3; c++) out[c] = own > 0 ? this.texel[c]! : 0;
    out[3] = own * alpha;
  }

  /** The masks of one layer alone, 0 to 1. */
  maskAt(k: number): number {
    const one = this.layers[k]!;
    return one.layer.opacity > 0 ? this.reached(one) / one.layer.opacity : 0;
  }

  private fieldAt(field: Float64Array): number {
    const { corner } = this;
    return field[corner[0]!]! * this.w0 + field[corner[1]!]! * this.w1 + field[corner[2]!]! * this.w2;
  }

  /** The least of the fields of a mask, 0 to 1. */
  private leastOf(fields: readonly Float64Array[]): number {
    let least = 1;
    for (let k = 0; k < fields.length; k++) {
      const own = this.fieldAt(fields[k]!);
      if (own < least) least = own;
    }
    return least < 0 ? 0 : least;
  }

  /** Opacity and masks of a layer at the place. */
  private reached(one: PreparedLayer): number {
    let value = one.reach ? this.fieldAt(one.reach) : 1;
    if (value <= 0) return 0;
    value *= one.layer.opacity;
    if (one.masks.length === 0) return value;
    let all = 1;
    for (let k = 0; k < one.masks.length; k++) {
      const mask = one.masks[k]!;
      const own = this.maskValue(one, mask);
      const m = mask.mask.isInverted ? 1 - own : own;
      all = k === 0 ? m : mask.mask.how === 'and' ? all * m : Math.max(all, m);
    }
    return value * all;
  }

  private maskValue(one: PreparedLayer, { mask, fields, pixels, channel, matrix, outside, key }: PreparedMask): number {
    const [x, y, z] = [this.position[0]!, this.position[1]!, this.position[2]!];
    switch (mask.kind) {
      case 'faces':
      case 'material':
      case 'each':
        return this.leastOf(fields);
      case 'fade':
        return fadeAt(mask.fade, x, y, z, mask.ragged > 0 ? (noiseAt(mask.noise, x, y, z) - 0.5) * 2 * mask.ragged : 0);
      case 'noise': {
        const t = (noiseAt(mask.noise, x, y, z) - mask.low) / Math.max(1e-4, mask.high - mask.low);
        return t < 0 ? 0 : t > 1 ? 1 : t;
      }
      case 'brush':
        return brushAt(mask.dabs, x, y, z);
      case 'key': {
        // what has no picture has no background either
        if (!one.pixels) return 1;
        this.picture(one, one.pixels, one.matrix, one.outside);
        return keyed(this.sum, key, mask.near, mask.soft);
      }
      case 'image': {
        if (!pixels) return 1;
        const alpha = this.picture(one, pixels, matrix, outside);
        return channel === 0 ? lightness(this.sum) * alpha : channel === 4 ? alpha : this.sum[channel - 1]!;
      }
    }
  }

  /** Puts the layer's own colour into `texel`. @returns its alpha */
  private shown(one: PreparedLayer): number {
    const { texel, sum } = this;
    const { source } = one.layer;
    let alpha = 1;
    if (source.kind === 'image' || source.kind === 'grid') {
      if (!one.pixels) return 0;
      alpha = this.picture(one, one.pixels, one.matrix, one.outside);
      if (alpha <= 0) return 0;
      if (one.channel === 0) {
        texel[0] = sum[0]!;
        texel[1] = sum[1]!;
        texel[2] = sum[2]!;
      } else {
        texel.fill(one.channel === 4 ? sum[3]! : sum[one.channel - 1]!, 0, 3);
        // a single channel is a grey of its own; where the picture has ended there is nothing
        alpha = this.ended;
      }
    } else {
      const x = this.position[0]!;
      const y = this.position[1]!;
      const z = this.position[2]!;
      const t = source.kind === 'fade' ? 1 - fadeAt(source.fade, x, y, z) : source.kind === 'noise' ? noiseAt(source.noise, x, y, z) : 0;
      for (let k = 0; k < 3; k++) texel[k] = one.colours[0][k]! * (1 - t) + one.colours[1][k]! * t;
      // a plain colour on a decal's frame ends with it
      if (one.layer.driver.kind === 'decal') {
        this.decal(one);
        alpha = this.uv[2]!;
      }
    }
    if (one.adjusts) adjustColour(one.layer.adjust, one.hues, texel);
    return alpha;
  }

  /** Share of the picture that has not ended at the place, 0 to 1. */
  private ended = 1;

  private decal(one: PreparedLayer): void {
    const { driver } = one.layer;
    const { position: p, normal: n } = this;
    if (driver.kind === 'decal') decalPlace(driver, p[0]!, p[1]!, p[2]!, n[0]!, n[1]!, n[2]!, this.uv);
  }

  /** The picture where the layer's driver has it, into `sum`. @returns its alpha */
  private picture(one: PreparedLayer, pixels: Pixels, matrix: Affine, outside: readonly [Outside, Outside]): number {
    const outsideU = outside[0];
    const outsideV = outside[1];
    const { uv, sum } = this;
    const { driver } = one.layer;
    const a = matrix[0];
    const b = matrix[1];
    const c = matrix[2];
    const d = matrix[3];
    const e = matrix[4];
    const f = matrix[5];
    this.ended = 1;
    if (driver.kind === 'triplanar') {
      const { position: p, normal: n, sides, part } = this;
      triplanarWeights(driver.blend, n[0]!, n[1]!, n[2]!, sides);
      part.fill(0);
      let ended = 0;
      for (let axis = 0; axis < 3; axis++) {
        const weight = sides[axis]!;
        if (weight <= 0) continue;
        triplanarPlace(driver, axis as 0 | 1 | 2, n[axis]! < 0 ? -1 : 1, p[0]!, p[1]!, p[2]!, pixels.height / pixels.width, uv);
        const x = a * uv[0]! + b * uv[1]! + c;
        const y = d * uv[0]! + e * uv[1]! + f;
        samplePixels(pixels, x, y, outsideU, outsideV, sum);
        ended += weight * hasEnded(x, y, outsideU, outsideV);
        for (let k = 0; k < 3; k++) part[k]! += sum[k]! * sum[3]! * weight;
        part[3]! += sum[3]! * weight;
      }
      for (let k = 0; k < 3; k++) sum[k] = part[3]! > 0 ? part[k]! / part[3]! : 0;
      sum[3] = part[3]!;
      this.ended = ended;
      return part[3]!;
    }
    if (driver.kind === 'decal') {
      this.decal(one);
      if (uv[2]! <= 0) {
        this.ended = 0;
        return 0;
      }
    } else {
      const { ends } = one;
      uv[0] = ends[0]! * this.w0 + ends[2]! * this.w1 + ends[4]! * this.w2;
      uv[1] = ends[1]! * this.w0 + ends[3]! * this.w1 + ends[5]! * this.w2;
    }
    const x = a * uv[0]! + b * uv[1]! + c;
    const y = d * uv[0]! + e * uv[1]! + f;
    samplePixels(pixels, x, y, outsideU, outsideV, sum);
    this.ended = hasEnded(x, y, outsideU, outsideV);
    return sum[3]!;
  }

  private readonly part = new Float64Array(4);
}

const hasEnded = (x: number, y: number, outsideU: Outside, outsideV: Outside) =>
  (outsideU === 'nothing' && (x < 0 || x > 1)) || (outsideV === 'nothing' && (y < 0 || y > 1)) ? 0 : 1;

/** How much of a colour a key leaves, 0 to 1: by its distance from the key, as a share of that of white from black. */
function keyed(colour: ArrayLike<number>, key: readonly [number, number, number], near: number, soft: number): number {
  const [r, g, b] = [colour[0]! - key[0], colour[1]! - key[1], colour[2]! - key[2]];
  const t = (Math.sqrt((r * r + g * g + b * b) / 3) - near) / Math.max(1e-4, soft);
  return t < 0 ? 0 : t > 1 ? 1 : t;
}
