import { ShaderMaterial, Texture, type DataTexture, type IUniform, type Matrix3 } from 'three';
import { describe, expect, it } from 'vitest';
import { asItLies, layerSchema, type Layer, type PlannedLayer } from '@jig-peel/core';
import { SurfaceSkin } from './skin.ts';

const images = [
  { id: 'c', name: 'bark_color.png' },
  { id: 'h', name: 'bark_height.png' },
  { id: 'x', name: 'moss.png' },
];
const layer = (id: string, image: string, more: object = {}): Layer => layerSchema.parse({ id, name: id, source: { kind: 'image', image }, ...more });
const planned = (one: Layer): PlannedLayer => ({ layer: one, driver: 0, reach: -1, fields: [], fieldCounts: [], origin: [0, 0, 0] }) as unknown as PlannedLayer;

function skinOf(...layers: Layer[]) {
  let uniforms: Record<string, IUniform> = {};
  const view = { part: 'p', meshId: 1, layers: layers.map(planned), picture: 'picture', key: 1, drivers: [], fields: [] };
  const skin = new SurfaceSkin(view, null, [new Texture(), new Texture(), new Texture()], (shaders, more) => {
    uniforms = more;
    const material = new ShaderMaterial(shaders);
    return { model: material, sheet: material };
  });
  const across = (k: number) => (uniforms[`l${k}Place`]!.value as Matrix3).elements[0];
  return { skin, uniforms, across: () => layers.map((_, k) => across(k)) };
}

const wide = { ...asItLies, repeats: [3, 3] as [number, number] };

describe('layers as a hand has them', () => {
  it('images of one set that were laid alike go along; what was laid otherwise, and other images, stay', () => {
    const picture = layer('picture', 'c');
    const { skin, across } = skinOf(
      picture,
      layer('height', 'h', { to: 'relief' }),
      layer('apart', 'h', { placement: { ...asItLies, repeats: [2, 2] } }),
      layer('moss', 'x'),
    );
    expect(across()).toEqual([1, 1, 2, 1]);
    expect(skin.previewPicture(wide, images, null)).toBe(true);
    expect(across()).toEqual([3, 3, 2, 1]);
    // from the layer to the picture, too
    expect(skin.preview({ ...layer('height', 'h', { to: 'relief' }), placement: wide }, images, null)).toBe(true);
    expect(across()).toEqual([3, 3, 2, 1]);
    expect(skin.preview({ ...layer('moss', 'x'), placement: wide }, images, null)).toBe(true);
    expect(across()).toEqual([1, 1, 2, 3]);
  });

  it('other numbers are shown by the same shader; another structure, or a layer that is not there, is not', () => {
    const { skin, uniforms } = skinOf(layer('picture', 'c'), layer('moss', 'x'));
    expect(skin.preview(layer('moss', 'x', { opacity: 0.25 }), images, null)).toBe(true);
    expect(uniforms['l1Opacity']!.value).toBe(0.25);
    expect(skin.preview(layer('moss', 'x', { blend: 'multiply' }), images, null)).toBe(false);
    expect(skin.preview(layer('gone', 'x'), images, null)).toBe(false);
    expect(skinOf(layer('moss', 'x')).skin.previewPicture(wide, images, null)).toBe(false);
  });

  it('brushed masks need one texture together, however many there are: the graphics may have no more than 16', () => {
    const dabs = (k: number) => [k, 0, 0, 1, 0.5];
    const layers = Array.from({ length: 16 }, (_, k) => layer(`l${k}`, 'c', { masks: [{ kind: 'brush', dabs: [...dabs(k), ...(k === 3 ? dabs(9) : [])] }] }));
    const { skin, uniforms } = skinOf(...layers);
    expect(skin.code.fragment.match(/uniform sampler2D/g)).toHaveLength(2);
    const texture = uniforms.dabs!.value as DataTexture;
    const { width, height, data } = texture.image as { width: number; height: number; data: Float32Array };
    expect([width, height]).toEqual([4, 16]);
    expect([...data.subarray(3 * 16, 4 * 16)].map((x) => Math.round(x * 10) / 10)).toEqual([3, 0, 0, 1, 0.5, 0, 0, 0, 9, 0, 0, 1, 0.5, 0, 0, 0]);
    expect([3, 4].map((k) => uniforms[`l${k}m0Count`]!.value as number)).toEqual([2, 1]);
    // a number that is dragged makes no texture again
    skin.setNumbers(
      layers.map((one) => planned({ ...one, opacity: 0.3 })),
      null,
    );
    expect(uniforms.dabs!.value).toBe(texture);
  });
});
