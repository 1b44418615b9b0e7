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

const none: readonly number[] = [];

/** Layers on the part at work: a shader made for their structure, their numbers as its uniforms, arrays on the part's geometry. */
export class SurfaceSkin implements Skin {
  readonly model: ShaderMaterial;
  readonly sheet: ShaderMaterial;
  readonly key: string;
  private readonly uniforms: Record<string, IUniform>;
  private dabs: DataTexture | null = null;
  private brushed: readonly (readonly number[])[] = [];
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

  /** The dabs of all brushed masks, a row each, in one texture: the graphics take 16 at once. */
  private showDabs(layers: readonly PlannedLayer[]): void {
    const { brushes } = this.code;
    if (brushes.length === 0) return;
    const rows = brushes.map(([k, j]) => {
      const mask = layers[k]!.layer.masks[j]!;
      return mask.kind === 'brush' ? mask.dabs : none;
    });
    if (rows.every((dabs, row) => dabs === this.brushed[row])) return;
    this.brushed = rows;
    const width = 2 * Math.max(1, ...rows.map((dabs) => dabs.length / numbersPerDab));
    const data = new Float32Array(width * rows.length * 4);
    rows.forEach((dabs, row) => {
      const count = dabs.length / numbersPerDab;
      for (let i = 0; i < count; i++) {
        const at = (row * width + i * 2) * 4;
        data.set(dabs.slice(i * numbersPerDab, i * numbersPerDab + 4), at);
        data[at + 4] = dabs[i * numbersPerDab + 4]!;
      }
      const [k, j] = brushes[row]!;
      (this.uniforms[`l${k}m${j}Count`] ??= { value: 0 }).value = count;
    });
    this.dabs?.dispose();
    this.dabs = new DataTexture(data, width, rows.length, RGBAFormat, FloatType);
    this.dabs.minFilter = this.dabs.magFilter = NearestFilter;
    this.dabs.needsUpdate = true;
    // the materials hold this very object
    (this.uniforms.dabs ??= { value: null }).value = this.dabs;
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
    this.dabs?.dispose();
  }
}
