import { describe, expect, it } from 'vitest';
import { layerSchema } from '@jig-peel/core';
import type { JobSummary } from '../../../session/messages.ts';
import { shownBytes } from './uses.ts';

const image = (id: string, width: number, height: number) => ({ id, name: id, width, height, bytes: 1000 });
const layer = (id: string) => layerSchema.parse({ id: 'l', name: 'l', source: { kind: 'image', image: id } });
const summary = (part: object, materialLayers: object[] = []) =>
  ({
    parts: [{ id: 'p', name: 'p', imageId: null, materials: ['steel'], ...part }],
    materialLayers,
    images: [image('a', 100, 50), image('b', 4000, 1000), image('c', 10, 10)],
  }) as unknown as Pick<JobSummary, 'parts' | 'materialLayers' | 'images'>;

describe('graphics memory of what a part shows', () => {
  it('counts its picture and those of its layers once each, four bytes a px and a third for reduced copies', () => {
    expect(shownBytes(summary({ imageId: 'a' }), 'p', 8192)).toEqual({ images: 1, bytes: (100 * 50 * 16) / 3 });
    expect(shownBytes(summary({ imageId: 'a', layers: [layer('a'), layer('c')] }), 'p', 8192)).toEqual({ images: 2, bytes: (5100 * 16) / 3 });
    expect(shownBytes(summary({}), 'p', 8192)).toEqual({ images: 0, bytes: 0 });
  });

  it('counts images that are too large as they are shown, and the layers of materials where the part has none of its own', () => {
    expect(shownBytes(summary({ imageId: 'b' }), 'p', 2000).bytes).toBeCloseTo((2000 * 500 * 16) / 3, 6);
    const steel = { material: 'steel', layers: [layer('c')] };
    const glass = { material: 'glass', layers: [layer('a')] };
    expect(shownBytes(summary({}, [steel, glass]), 'p', 8192)).toEqual({ images: 1, bytes: (100 * 16) / 3 });
    expect(shownBytes(summary({ layers: [layer('a')] }, [steel]), 'p', 8192).bytes).toBe((5000 * 16) / 3);
  });
});
