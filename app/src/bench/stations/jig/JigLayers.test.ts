import { describe, expect, it } from 'vitest';
import { layerSchema } from '@jig-peel/core/images/surface/layer';
import { layersOfJig } from './JigLayers.tsx';

const layer = (id: string, more: object) => layerSchema.parse({ id, name: id, source: { kind: 'colour', colour: '#000000' }, ...more });
const fade = { kind: 'fade', fade: { shape: 'linear', from: [0, 1, 0], to: [0, 0, 0] } };

describe('layers that go by a jig', () => {
  it('are those it drives, whose fade it moves, or that cover its smears; of parts and materials', () => {
    const part = (id: string, layers: ReturnType<typeof layer>[] | null) => ({ id, name: `part ${id}`, layers });
    const summary = {
      parts: [
        part('a', [
          layer('driven', { driver: { kind: 'jig', jig: 'j' } }),
          layer('other', { driver: { kind: 'jig', jig: 'k' } }),
          layer('cover', { covers: 'j' }),
        ]),
        part('b', null),
      ],
      materialLayers: [{ material: 'wood', layers: [layer('soot', { masks: [fade, { ...fade, jig: 'j' }] }), layer('plain', { masks: [fade] })] }],
    };
    const found = layersOfJig(summary as never, 'j');
    expect(found.map(({ layer: { id }, part: of, material, owner }) => [id, of, material, owner])).toEqual([
      ['driven', 'a', null, 'part a'],
      ['cover', 'a', null, 'part a'],
      ['soot', null, 'wood', 'wood'],
    ]);
    expect(layersOfJig(summary as never, 'none')).toEqual([]);
  });
});
