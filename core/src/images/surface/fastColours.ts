import type { Outside } from '../placement.ts';
import * as portable from '../../numeric/portable.ts';
import { adjustColour, leastRange } from './adjust.ts';
import { modeNumber } from './blend.ts';
import type { SurfaceKernel } from './surfaceKernel.ts';
import type { Fade, Layer, Noise } from './layer.ts';
import type { Pixels } from './pixels.ts';
import type { PreparedLayer, PreparedMask } from './prepared.ts';
import { goesBySpace } from './prepared.ts';
import type { Surface } from './surface.ts';

const outsideCode: Record<Outside, number> = { repeat: 0, mirror: 1, edge: 2, nothing: 3 };
const codeOf = (outside: readonly [Outside, Outside]) => outsideCode[outside[0]] + 4 * outsideCode[outside[1]];

/** Whether the kernel has all of a layer's masks; else the surface is asked place by place. */
const hasFastMask = ({ mask }: PreparedMask) => mask.kind !== 'key' && mask.kind !== 'brush';

/** Whether the kernel has a layer: its driver, its source, its masks. */
function isFast({ layer, driver, channel, masks }: PreparedLayer): boolean {
  const { kind } = layer.driver;
  if (kind === 'decal' || channel !== 0 || !masks.every(hasFastMask)) return false;
  const hasPicture = layer.source.kind === 'image' || layer.source.kind === 'grid' || masks.some(({ mask }) => mask.kind === 'image');
  return !hasPicture || kind === 'triplanar' || driver !== null;
}

/** Pictures that the kernel is asked for: those of layers of colour, and of their masks. */
export function picturesOf(surfaces: Iterable<Surface>): Set<Pixels> {
  const found = new Set<Pixels>();
  for (const { layers } of surfaces)
    for (const one of layers) {
      if (one.layer.to !== 'colour' || !isFast(one)) continue;
      for (const pixels of [one.pixels, ...one.masks.map((mask) => mask.pixels)]) if (pixels) found.add(pixels);
    }
  return found;
}

/** Colours of many places of one triangle together: those of `Surface.colour` but for rounding, in a fraction of the time. Cost: places · layers. */
export class FastColours {
  private readonly layers: { one: PreparedLayer; at: number; isFast: boolean }[];
  private readonly usesSpace: boolean;
  private readonly corner = new Uint32Array(3);
  private readonly one = new Float64Array(4);

  constructor(
    private readonly surface: Surface,
    readonly kernel: SurfaceKernel,
  ) {
    this.layers = surface.layers
      .map((one, at) => ({ one, at, isFast: isFast(one) }))
      .filter(({ one: { layer } }) => layer.to === 'colour' && layer.opacity > 0);
    this.usesSpace = this.layers.some(({ one, isFast: fast }) => fast && goesBySpace(one.layer));
  }

  /** Of the kernel's `shareB` and `shareC` into its `out`. */
  find(triangle: number, count: number): void {
    const { functions } = this.kernel;
    const { corners } = this.surface.triangles;
    for (let k = 0; k < 3; k++) this.corner[k] = corners[triangle * 3 + k]!;
    functions.clear(count);
    if (this.usesSpace) this.findSpace(count);
    for (const { one, at, isFast: fast } of this.layers) {
      if (fast) this.overlay(one, count);
      else this.overlayByPlaces(one, at, triangle, count);
    }
  }

  private findSpace(count: number): void {
    const { params } = this.kernel;
    const { mesh, normals } = this.surface;
    for (let k = 0; k < 3; k++) {
      const c = this.corner[k]!;
      const p = mesh.corners[c]! * 3;
      for (let d = 0; d < 3; d++) {
        params[k * 3 + d] = mesh.points[p + d]!;
        params[9 + k * 3 + d] = normals[c * 3 + d]!;
      }
    }
    this.kernel.functions.findSpace(count);
  }

  private overlay(one: PreparedLayer, count: number): void {
    const { functions, at } = this.kernel;
    const { layer, masks, reach } = one;
    let isMasked = false;
    let [r0, r1, r2] = [1, 1, 1];
    if (reach) {
      [r0, r1, r2] = [reach[this.corner[0]!]!, reach[this.corner[1]!]!, reach[this.corner[2]!]!];
      if (r0 <= 0 && r1 <= 0 && r2 <= 0) return;
    }
    for (let k = 0; k < masks.length; k++) {
      const { mask } = masks[k]!;
      this.findMask(one, masks[k]!, count);
      functions.combine(k === 0 ? 0 : mask.how === 'and' ? 1 : 2, mask.isInverted, count);
      isMasked = true;
    }
    if (r0 !== 1 || r1 !== 1 || r2 !== 1) {
      functions.field(at.mask, r0, r1, r2, false, count);
      functions.combine(isMasked ? 1 : 0, false, count);
      isMasked = true;
    }
    if (!this.findTexels(one, count)) return;
    if (one.adjusts) this.adjust(one, count);
    functions.composite(modeNumber(layer.blend), layer.opacity, isMasked, count);
  }

  /** A layer that the kernel has not. */
  private overlayByPlaces({ layer }: PreparedLayer, at: number, triangle: number, count: number): void {
    const { surface, one } = this;
    const { functions, texels, shareB, shareC } = this.kernel;
    for (let k = 0; k < count; k++) {
      const b = shareB[k]!;
      const c = shareC[k]!;
      surface.at(triangle, 1 - b - c, b, c);
      surface.layerAt(at, one);
      texels.set(one, k * 4);
    }
    // its opacity is in the alpha already
    functions.composite(modeNumber(layer.blend), 1, false, count);
  }

  /** @returns whether it shows anything */
  private findTexels(one: PreparedLayer, count: number): boolean {
    const { functions, params, at } = this.kernel;
    const { source } = one.layer;
    if (source.kind === 'image' || source.kind === 'grid') {
      if (!one.pixels) return false;
      this.picture(one, one.pixels, one.matrix, one.outside, count);
      return true;
    }
    params.set(one.colours[0], 40);
    params.set(one.colours[1], 43);
    if (source.kind === 'noise') this.noise(source.noise, count);
    else if (source.kind === 'fade') {
      // a fade is 1 where it begins, with the first colour
      params.set(one.colours[1], 40);
      params.set(one.colours[0], 43);
      this.fade(source.fade, 0, count);
    } else functions.fill(at.mask, 0, count);
    functions.colourBetween(count);
    return true;
  }

  private findMask(one: PreparedLayer, { mask, fields, pixels, channel, matrix, outside }: PreparedMask, count: number): void {
    const { functions, at } = this.kernel;
    switch (mask.kind) {
      case 'fade':
        if (mask.ragged > 0) this.noise(mask.noise, count);
        this.fade(mask.fade, mask.ragged, count);
        return;
      case 'noise':
        this.noise(mask.noise, count);
        functions.threshold(mask.low, mask.high, count);
        return;
      case 'image':
        if (!pixels) functions.fill(at.mask, 1, count);
        else {
          this.picture(one, pixels, matrix, outside, count);
          functions.maskOfTexels(channel, count);
        }
        return;
      default: {
        functions.fill(at.mask, 1, count);
        const [a, b, c] = [this.corner[0]!, this.corner[1]!, this.corner[2]!];
        for (const field of fields) functions.field(at.mask, field[a]!, field[b]!, field[c]!, true, count);
      }
    }
  }

  private picture(
    { layer, driver }: PreparedLayer,
    pixels: Pixels,
    matrix: PreparedLayer['matrix'],
    outside: readonly [Outside, Outside],
    count: number,
  ): void {
    const { kernel } = this;
    const { functions, params, at } = kernel;
    if (layer.driver.kind === 'triplanar') {
      this.setSides(layer.driver, matrix, pixels.height / pixels.width);
      functions.sampleFromSides(at.texels, kernel.addressOf(pixels), pixels.width, pixels.height, codeOf(outside), count);
      return;
    }
    const [a, b, c, d, e, f] = matrix;
    for (let k = 0; k < 3; k++) {
      const u = driver![this.corner[k]! * 2]!;
      const v = driver![this.corner[k]! * 2 + 1]!;
      params[k * 2] = a * u + b * v + c;
      params[k * 2 + 1] = d * u + e * v + f;
    }
    functions.sampleByUvs(at.texels, kernel.addressOf(pixels), pixels.width, pixels.height, codeOf(outside), count);
  }

  private setSides({ size, offset, turn, blend }: Extract<Layer['driver'], { kind: 'triplanar' }>, matrix: PreparedLayer['matrix'], aspect: number): void {
    const { params } = this.kernel;
    params.set(matrix);
    params.set(offset, 6);
    params[9] = size;
    params[10] = size * aspect;
    params[11] = blend;
    for (let axis = 0; axis < 3; axis++) {
      const angle = (turn[axis]! * Math.PI) / 180;
      params[12 + axis * 2] = portable.cos(angle);
      params[13 + axis * 2] = portable.sin(angle);
    }
  }

  private noise({ seed, size, detail }: Noise, count: number): void {
    this.kernel.functions.noise(this.kernel.at.mask, seed, size, detail, count);
  }

  private fade(fade: Fade, ragged: number, count: number): void {
    const { functions, params, at } = this.kernel;
    if (fade.shape === 'linear') {
      params[32] = 0;
      params.set(fade.from, 33);
      params.set(fade.to, 36);
    } else {
      params[32] = 1;
      params.set(fade.centre, 33);
      params[36] = fade.inner;
      params[37] = fade.outer;
    }
    functions.fade(at.mask, ragged, count);
  }

  private adjust({ layer: { adjust }, hues }: PreparedLayer, count: number): void {
    const { functions, params, texels } = this.kernel;
    if (adjust.gamma !== 1) {
      const { one } = this;
      for (let k = 0; k < count * 4; k += 4) {
        one[0] = texels[k]!;
        one[1] = texels[k + 1]!;
        one[2] = texels[k + 2]!;
        adjustColour(adjust, hues, one);
        texels[k] = one[0];
        texels[k + 1] = one[1];
        texels[k + 2] = one[2];
      }
      return;
    }
    params[40] = adjust.black;
    params[41] = Math.max(leastRange, adjust.white - adjust.black);
    params[42] = adjust.brightness;
    params[43] = adjust.contrast;
    params.set(adjust.saturation === 1 && adjust.hue === 0 ? unturned : hues, 44);
    functions.adjust(count);
  }
}

const unturned = [1, 0, 0, 0, 1, 0, 0, 0, 1];
