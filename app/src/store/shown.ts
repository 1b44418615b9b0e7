import { create } from 'zustand';
import type { ImagePlacement, Jig, Layer } from '@jig-peel/core';
import type { Alone } from '../bench/views/surface/alone.ts';
import type { UvPreview } from '../session/messages.ts';

/** What the views show in place of what the job holds, while something is dragged or asked about; null where they show the job's own. */
export interface Shown {
  /** UVs, and faces to mark as badly served. */
  uvs: { preview: UvPreview; badly: ArrayLike<number> | null } | null;
  /** How the image lies in the UVs. */
  placement: ImagePlacement | null;
  /** The jig in hand. */
  jig: Jig | null;
  /** A layer as a hand has it now. */
  layer: Layer | null;
  /** The layer, or mask of one, that is looked at without the others. */
  alone: Alone | null;
}

export const useShown = create<Shown>(() => ({ uvs: null, placement: null, jig: null, layer: null, alone: null }));
export const show = (what: Partial<Shown>): void => useShown.setState(what);
