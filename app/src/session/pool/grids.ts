import { encode } from 'fast-png';
import { testGrid } from '@jig-peel/core/images/testGrid';
import { fieldsByAlpha } from '@jig-peel/core/images/fields';
import type { Tasks } from './tasks.ts';

/** Cells of a test grid along each side. */
const cells = 8;

export const grid = ({ kind, size }: Tasks['grid']['input']): Uint8Array => testGrid(size, cells, kind).data;

export const gridPng = ({ kind, size }: Tasks['gridPng']['input']): Uint8Array =>
  encode({ width: size, height: size, data: testGrid(size, cells, kind).data, channels: 4, depth: 8 });

export const fields = ({ data, width, height }: Tasks['fields']['input']) => fieldsByAlpha(data, width, height);
