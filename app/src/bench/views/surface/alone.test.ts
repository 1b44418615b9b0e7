import { describe, expect, it } from 'vitest';
import { layerSchema, type Layer, type PlannedLayer } from '@jig-peel/core';
import { aloneLayer, aloneOf } from './alone.ts';
import { structureKey } from './code.ts';

const layer = (more: object): Layer => layerSchema.parse({ id: 'a', name: 'a', source: { kind: 'noise' }, ...more });
const fade = { kind: 'fade', fade: { shape: 'linear', from: [0, 1, 0], to: [0, 0, 0] }, ragged: 0 };
const planned = (of: Layer, fields: number[]): PlannedLayer => ({
  layer: of,
  driver: 2,
  reach: 1,
  fields,
  fieldCounts: fields.map(() => 1),
  origin: [0, 0, 0],
});
const stack = [
  planned(layer({ id: 'under' }), []),
  planned(layer({ id: 'over', opacity: 0.3, blend: 'multiply', masks: [fade, { kind: 'faces', faces: [1, 2], how: 'or', isInverted: true }] }), [-1, 4]),
];

describe('a layer, or a mask, that is looked at alone', () => {
  it('the layer whole and unblended, with its masks, drivers and fields; nothing else', () => {
    const [one, ...rest] = aloneOf(stack, { layer: 'over', mask: null })!;
    expect(rest).toEqual([]);
    expect(one).toMatchObject({ driver: 2, reach: 1, fields: [-1, 4], layer: { opacity: 1, blend: 'normal', source: { kind: 'noise' } } });
    expect(one!.layer.masks).toHaveLength(2);
  });

  it('a relief is seen as a colour', () => {
    expect(aloneLayer(layer({ to: 'relief', strength: 0.1 }), null).to).toBe('colour');
  });

  it('a mask as white on black, with its own field, whatever the others and how it was joined to them', () => {
    const [black, white] = aloneOf(stack, { layer: 'over', mask: 1 })!;
    expect(black!.layer).toMatchObject({ source: { kind: 'colour', colour: '#000000' }, masks: [], opacity: 1 });
    expect(white!.layer).toMatchObject({
      id: 'over',
      source: { kind: 'colour', colour: '#ffffff' },
      opacity: 1,
      masks: [{ kind: 'faces', how: 'and', isInverted: true }],
    });
    expect(white!.fields).toEqual([4]);
  });

  it('a number that is dragged needs no other shader: the layer in hand has the structure of what is shown', () => {
    const shown = aloneOf(stack, { layer: 'over', mask: 0 })!;
    const dragged = { ...stack[1]!.layer, opacity: 0.8 };
    expect(structureKey(shown.map((one) => (one.layer.id === 'over' ? { ...one, layer: aloneLayer(dragged, 0) } : one)))).toBe(structureKey(shown));
  });

  it('what is gone is not shown', () => {
    expect(aloneOf(stack, { layer: 'none', mask: null })).toBeNull();
    expect(aloneOf(stack, { layer: 'over', mask: 7 })).toBeNull();
    expect(stack[1]!.layer.opacity).toBe(0.3);
  });
});
