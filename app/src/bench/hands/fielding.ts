import { create } from 'zustand';
import { gridFields, type PictureField } from '@jig-peel/core';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import { inOwnWorker } from '../../worker/seat.ts';
import { activePicture } from './activePicture.ts';

interface Fielding {
  /** Fields at hand, drawn on the sheet; null: none. */
  fields: readonly PictureField[] | null;
  columns: number;
  rows: number;
  fit: 'proportion' | 'fill';
  order: 'neighbours' | 'picture' | 'reading';
  /** Fields that the last placing left unused, by number. */
  unused: ReadonlySet<number>;
}

export const useFielding = create<Fielding>(() => ({ fields: null, columns: 4, rows: 4, fit: 'proportion', order: 'neighbours', unused: new Set() }));

const show = (fields: readonly PictureField[] | null) => useFielding.setState({ fields, unused: new Set() });

export function takeGrid(): void {
  const { columns, rows } = useFielding.getState();
  const { width, margin } = useBench.getState().summary!.settings;
  show(gridFields(columns, rows, margin / width));
}

/** Pictures are looked at no larger than this: fields are found to a px of it. */
const mostPx = 1024;

/** Fields by the alpha of the part's picture. */
export async function takeAlpha(): Promise<void> {
  const { notice } = useBench.getState();
  try {
    const picture = await activePicture(mostPx);
    if (!picture) {
      notice('The part shows no picture: drop one on a view first.', 'warning');
      return;
    }
    // a large picture takes some tenths of a second
    const fields = await inOwnWorker('fields', picture);
    if (fields.length === 0) notice('The picture has no opaque part.', 'warning');
    show(fields.length > 0 ? fields : null);
  } catch {
    notice('This image cannot be read: it may be cut short.', 'warning');
  }
}

export function dropFields(): void {
  show(null);
  const { tool, set } = useBench.getState();
  if (tool === 'field') set({ tool: 'select' });
}

/** Puts the selected islands, or all that are not locked, on the fields. */
export async function placeOnFields(): Promise<void> {
  const { fields, fit, order } = useFielding.getState();
  if (!fields) return;
  const outcome = await run('placeOnFields', { fields: fields.map((field): [number, number, number, number] => [...field]), fit, order }, true);
  if (outcome.ok) useFielding.setState({ unused: new Set(outcome.report.unused) });
}
