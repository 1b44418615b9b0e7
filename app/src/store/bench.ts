import { create } from 'zustand';
import type { BenchState } from './benchState.ts';
import { documentSlice, noDocument } from './documentSlice.ts';
import { noticesSlice } from './noticesSlice.ts';
import { nothingInHand, viewSlice } from './viewSlice.ts';

export * from './benchState.ts';
export { hasPicture, pictureOf } from './viewSlice.ts';

/** What the bench shows: the mirror of the job, how it is looked at, and what was said. */
export const useBench = create<BenchState>((set, ...rest) => ({
  ...documentSlice(set, ...rest),
  ...viewSlice(set, ...rest),
  ...noticesSlice(set, ...rest),
  leave: () => set({ ...noDocument, ...nothingInHand, tool: 'select' }),
}));

/** Is the selection filled, or outlined alone? By itself it is filled on the bare form only, so that grid, picture and colours can be seen. */
export const fillsSelection = ({ look, overlay }: Pick<BenchState, 'look' | 'overlay'>) =>
  look.marking === 'auto' ? overlay === 'plain' : look.marking === 'fill';
