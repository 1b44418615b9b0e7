import { create } from 'zustand';
import type { ParamsOf } from '@jig-peel/core';
import { useBench } from '../store/bench.ts';
import { run } from '../worker/client.ts';

/** How the next packing is to go, as far as it is not a setting of the job. */
interface Packing {
  into: 'sheet' | 'free';
  group: 'none' | 'part' | 'material' | 'selected' | 'blocks';
  keepScale: boolean;
  seed: number;
  /** A rectangle of the sheet that islands go into: left, bottom, right, top as UV; null: the whole. */
  area: [number, number, number, number] | null;
  /** Corners of a polygon of it instead, u and v; fewer than three while it is drawn; null: none. */
  polygon: [number, number][] | null;
  /** Whether the polygon is still drawn. */
  isDrawn: boolean;
  /** Turns that the selected islands may take; null: as the others. */
  selectedTurn: NonNullable<ParamsOf<'pack'>['selectedTurn']> | null;
  wholePx: boolean;
  /** Islands may be mirrored. */
  mirror: boolean;
}

export const usePacking = create<Packing>(() => ({
  into: 'sheet',
  group: 'blocks',
  keepScale: false,
  seed: 1,
  area: null,
  polygon: null,
  isDrawn: false,
  selectedTurn: null,
  wholePx: false,
  mirror: false,
}));

// a rectangle is of the sheet that it was drawn for: another job begins with the whole
useBench.subscribe((now, before) => {
  if (now.summary?.id !== before.summary?.id) usePacking.setState({ area: null, polygon: null, isDrawn: false, selectedTurn: null });
});

/** What packing is asked for now; null without a job. */
export function packParams(): ParamsOf<'pack'> | null {
  const settings = useBench.getState().summary?.settings;
  const { area, polygon, isDrawn, selectedTurn, ...how } = usePacking.getState();
  return settings
    ? {
        evenDensity: settings.evenDensity,
        parts: 'sheet',
        ...how,
        ...(polygon && !isDrawn && polygon.length > 2 ? { polygon } : area ? { area } : {}),
        ...(selectedTurn ? { selectedTurn } : {}),
      }
    : null;
}

export async function packNow(): Promise<void> {
  const params = packParams();
  if (params) await run('pack', params, true);
}
