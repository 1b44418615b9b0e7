import { encode } from 'fast-png';
import { testGrid } from '@jig-peel/core/images/testGrid';
import { alphaOutline } from '@jig-peel/core/images/alphaOutline';
import { sampled } from '@jig-peel/core/shape/outlineIndex';
import { fieldsByAlpha } from '@jig-peel/core/images/fields';
import type { Tasks } from './tasks.ts';

/** Cells of a test grid along each side. */
const cells = 8;

export const grid = ({ kind, size }: Tasks['grid']['input']): Uint8Array => testGrid(size, cells, kind).data;

export const gridPng = ({ kind, size }: Tasks['gridPng']['input']): Uint8Array =>
  encode({ width: size, height: size, data: testGrid(size, cells, kind).data, channels: 4, depth: 8 });

/** The outline of what is opaque, as u and v of points along it, a px apart or a little less. */
export function outline({ data, width, height }: Tasks['outline']['input']): Float32Array {
  const { pieces } = alphaOutline({ data, width, height });
  const { places } = sampled(pieces.flat(), 1);
  return Float32Array.from(places, (x, k) => x / (k % 2 === 0 ? width : height));
}

export const fields = ({ data, width, height }: Tasks['fields']['input']) => fieldsByAlpha(data, width, height);
