import type { Loop } from './outline.ts';
import type { Stand } from './separateNear.ts';

/** A piece to be placed: its borders in px about its own origin, the solid on their left. */
export interface SearchPiece {
  loops: readonly Loop[];
  /** Into how many turns a whole one is parted that it may take: 1 for none, 2, 4, 8. */
  turns: 1 | 2 | 4 | 8;
  /** Whether it may be turned by any angle. */
  isFree: boolean;
}

/** Where the pieces may go, in px. */
export interface SearchField {
  width: number;
  height: number;
  /** Least distance between pieces, and to the border. */
  gap: number;
  borderGap: number;
  /** What is in the way, in place. */
  obstacles: readonly (readonly Loop[])[];
}

/** A layout: one scale for all pieces, and for each where its origin is and by what angle (radians) it is turned. */
export interface Placed extends Stand {
  scale: number;
}

/** Tells whether the work of a step is done, and stops it then; see `searchLayout`. */
export interface WorkMeter {
  /** @returns a question for a kernel's loop: whether the limit is reached */
  watch(kernel: { work: { readonly value: number } }): () => boolean;
  readonly isOver: boolean;
}

/** The sheet as the pieces see it when each has half the gap around it. */
export function innerSheet({ width, height, gap, borderGap }: SearchField) {
  return { width: width - 2 * borderGap + gap, height: height - 2 * borderGap + gap, origin: borderGap - gap / 2 };
}

/** Parts of the sheet's side by which outlines may be simplified. */
export const roughly = 0.0012;
export const finely = 0.00015;

/** What an overlap costs a search by depth maps. */
export const rootOf = (depth: number): number => Math.sqrt(depth);
