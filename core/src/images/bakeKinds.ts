import type { ImageRole } from './imageSets.ts';

/** What a picture can be baked of. Position, normals and ids need no layers; the last three are of images that go unseen with those that are seen. */
export const bakeKinds = [
  'colour',
  'mask',
  'relief',
  'position',
  'normal',
  'tangent-normal',
  'face',
  'id',
  'material',
  'occlusion',
  'thickness',
  'coverage',
  'roughness',
  'metalness',
  'images-occlusion',
] as const;
export type BakeKind = (typeof bakeKinds)[number];

/** The role of the images of a set that a kind is of. */
export const roleOfKind: Partial<Record<BakeKind, ImageRole>> = { roughness: 'roughness', metalness: 'metalness', 'images-occlusion': 'occlusion' };

export const sampleCounts = [1, 4, 16] as const;

export interface BakeOptions {
  what: BakeKind;
  width: number;
  height: number;
  samples: (typeof sampleCounts)[number];
  /** Column and row of the tile on the sheet. */
  tile: readonly [number, number];
  depth: 8 | 16;
  /** For `mask`: which layer's, by id; without one the alpha of all together. */
  layer?: string;
  /** For `relief`: height that is white, units; as far below is black. */
  range: number;
  /** For `tangent-normal`: green is downwards, not up as glTF has it. */
  isGreenDown?: boolean;
  /** For `occlusion` and `thickness`: how far rays look, units. */
  reach: number;
  rays: number;
}

/** Numbers as colours: no colour between two of them means anything. */
export const isNumbered = (what: BakeKind) => what === 'face' || what === 'id' || what === 'material';
