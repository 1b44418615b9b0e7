import {
  BufferAttribute,
  DataTexture,
  FloatType,
  NearestFilter,
  RGBAFormat,
  type BufferGeometry,
  type IUniform,
  type ShaderMaterial,
  type Texture,
} from 'three';
import { layersAlong, numbersPerDab, type ImagePlacement, type Layer, type NamedImage, type PlannedLayer } from '@jig-peel/core';
import type { SurfaceView } from '../../../session/surfaceView.ts';
import type { Skin } from '../stage.ts';
import { fragmentShader, vertexShader } from '../shaders.ts';
import { structureKey, surfaceCode, type SurfaceCode } from './code.ts';
import { surfaceNumbers } from './numbers.ts';

/** The part's shader with its layers in it. */
export function shadersWith({ vertex, fragment, hasRelief }: SurfaceCode): { vertexShader: string; fragmentShader: string } {
  const relief = `
      {
        float h = stackRelief();
        vec3 dx = dFdx(-vView);
        vec3 dy = dFdy(-vView);
        // M. Mikkelsen, "Bump Mapping Unparametrized Surfaces on the GPU", 2010
        vec3 r1 = cross(dy, n);
        vec3 r2 = cross(n, dx);
        float det = dot(dx, r1);
        n = normalize(abs(det) * n - sign(det) * (dFdx(h) * r1 + dFdy(h) * r2));
      }`;
  return {
    vertexShader: vertexShader.replace('void main() {', `${vertex.declarations}\nvoid main() {\n${vertex.body}`),
    fragmentShader: fragmentShader
      .replace('void main() {', `${fragment}\nvoid main() {`)
      .replace('//picture', 'if (layered) {\n vec4 seen = stackColour(); color = mix(clay, seen.rgb, seen.a);\n} else')
      .replace('//end', '')
      .replace('//relief', hasRelief ? `if (layered && !raised) ${relief}` : ''),
  };
}

/** Layers on the part at work: a shader made for their structure, their numbers as its uniforms, arrays on the part's geometry. */
export class SurfaceSkin implements Skin {
  readonly model: ShaderMaterial;
  readonly sheet: ShaderMaterial;
  readonly key: string;
  private readonly uniforms: Record<string, IUniform>;
  private readonly dabs = new Map<string, DataTexture>();
  readonly code: SurfaceCode;

  /** @param make a material of the part's own with other shaders and more uniforms */
  constructor(
    private view: SurfaceView,
    tiles: { columns: number; rows: number } | null,
    textures: readonly Texture[],
    make: (shaders: { vertexShader: string; fragmentShader: string }, uniforms: Record<string, IUniform>) => { model: ShaderMaterial; sheet: ShaderMaterial },
  ) {
    this.key = structureKey(view.layers);
    this.code = surfaceCode(view.layers);
    this.uniforms = { ...surfaceNumbers(view.layers, view.picture, tiles) };
    this.show(textures);
    this.showDabs(view.layers);
    ({ model: this.model, sheet: this.sheet } = make(shadersWith(this.code), this.uniforms));
    // the cage has neither
    for (const material of [this.model, this.sheet]) Object.assign(material.defaultAttributeValues, { sunk: [0, 0, 0], flatNormal: [0, 0, 0] });
  }

  /** Pictures in the order of `code.images`. */
  show(textures: readonly Texture[]): void {
    // the materials hold these very objects
    textures.forEach((texture, k) => ((this.uniforms[`image${k}`] ??= { value: null }).value = texture));
  }

  /** Other numbers for the same structure. */
  setNumbers(layers: readonly PlannedLayer[], tiles: { columns: number; rows: number } | null): void {
    const next = surfaceNumbers(layers, this.view.picture, tiles);
    for (const [name, { value }] of Object.entries(next)) this.uniforms[name]!.value = value as unknown;
    this.showDabs(layers);
  }

  /** Numbers of one layer as a hand has them now; images of its set that were laid as it was go along, as they will. @param images of the job */
  preview(layer: Layer, images: readonly NamedImage[], tiles: { columns: number; rows: number } | null): boolean {
    const before = this.view.layers.find((one) => one.layer.id === layer.id)?.layer;
    if (!before) return false;
    const changed = this.view.layers.map((one) => (one.layer.id === layer.id ? layer : one.layer));
    const along = before.source.kind === 'image' ? layersAlong(images, changed, null, before.source.image, before, layer, layer.id) : changed;
    const layers = this.view.layers.map((one, k) => (along[k] === one.layer ? one : { ...one, layer: along[k]! }));
    if (structureKey(layers) !== this.key) return false;
    this.setNumbers(layers, tiles);
    return true;
  }

  /** The part's own picture as a hand has it now. */
  previewPicture(placement: ImagePlacement, images: readonly NamedImage[], tiles: { columns: number; rows: number } | null): boolean {
    const picture = this.view.layers.find(({ layer }) => layer.id === this.view.picture)?.layer;
    return picture !== undefined && this.preview({ ...picture, placement }, images, tiles);
  }

  /** The newest view of the same structure. */
  update(view: SurfaceView, tiles: { columns: number; rows: number } | null): void {
    this.view = view;
    this.setNumbers(view.layers, tiles);
  }

  private showDabs(layers: readonly PlannedLayer[]): void {
    for (const [k, j] of this.code.brushes) {
      const mask = layers[k]!.layer.masks[j]!;
      if (mask.kind !== 'brush') continue;
      const count = mask.dabs.length / numbersPerDab;
      const data = new Float32Array(Math.max(1, count) * 8);
      for (let i = 0; i < count; i++) {
        data.set(mask.dabs.slice(i * numbersPerDab, i * numbersPerDab + 4), i * 8);
        data[i * 8 + 4] = mask.dabs[i * numbersPerDab + 4]!;
      }
      const name = `l${k}m${j}`;
      this.dabs.get(name)?.dispose();
      const texture = new DataTexture(data, Math.max(1, count) * 2, 1, RGBAFormat, FloatType);
      texture.minFilter = texture.magFilter = NearestFilter;
      texture.needsUpdate = true;
      this.dabs.set(name, texture);
      // the materials hold these very objects
      (this.uniforms[`${name}Dabs`] ??= { value: null }).value = texture;
      (this.uniforms[`${name}Count`] ??= { value: 0 }).value = count;
    }
  }

  /** Puts the arrays on a geometry: drivers two by two, fields four by four. */
  dress(geometry: BufferGeometry): void {
    const { drivers, fields } = this.view;
    if (!drivers || !fields) return;
    const count = geometry.getAttribute('position').count;
    const packed = (arrays: readonly Float32Array[], each: number) => {
      const at = 4 / each;
      return Array.from({ length: Math.ceil(arrays.length / at) }, (_, group) => {
        const out = new Float32Array(count * 4);
        for (let a = 0; a < at; a++) {
          const array = arrays[group * at + a];
          if (!array) continue;
          for (let k = 0; k < count; k++) for (let d = 0; d < each; d++) out[k * 4 + a * each + d] = array[k * each + d]!;
        }
        return out;
      });
    };
    packed(drivers, 2).forEach((array, k) => geometry.setAttribute(`driver${k}`, new BufferAttribute(array, 4)));
    packed(fields, 1).forEach((array, k) => geometry.setAttribute(`field${k}`, new BufferAttribute(array, 4)));
  }

  dispose(): void {
    this.model.dispose();
    this.sheet.dispose();
    for (const texture of this.dabs.values()) texture.dispose();
  }
}
