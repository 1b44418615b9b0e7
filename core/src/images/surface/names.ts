import type { Adjust } from './layer.ts';

/* What the screen needs of layers without their schemas. */

/** Blend modes by their names in the W3C recommendation "Compositing and Blending Level 1" (2015 draft standard). */
export const blendModes = [
  'normal',
  'multiply',
  'screen',
  'overlay',
  'darken',
  'lighten',
  'color-dodge',
  'color-burn',
  'hard-light',
  'soft-light',
  'difference',
  'exclusion',
  'hue',
  'saturation',
  'color',
  'luminosity',
] as const;
export type BlendMode = (typeof blendModes)[number];

export const imageChannels = ['all', 'red', 'green', 'blue', 'alpha'] as const;
export type ImageChannel = (typeof imageChannels)[number];

export const layerTargets = ['colour', 'relief'] as const;

/** Layers of one surface that are worked with at most: a longer list is no longer seen at once, and each costs time in every pixel. */
export const mostLayers = 16;

/** Numbers a corner for faces of layers and masks that the graphics draw at once. */
export const mostFields = 16;

/** Numbers of each dab of a brushed mask: x, y, z, radius and strength. */
export const numbersPerDab = 5;

export const unadjusted: Adjust = { black: 0, white: 1, gamma: 1, brightness: 1, contrast: 1, saturation: 1, hue: 0 };

/** The id of the layer that a part's own picture counts as. */
export const pictureLayer = 'picture';

/** The id of a layer that stands for what a material file says of a material. */
export const fileLayer = 'from-file';
