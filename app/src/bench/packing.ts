import { create } from 'zustand';
import type { ParamsOf } from '@jig-peel/core';
import { useBench } from '../store/bench.ts';
import { run } from '../worker/client.ts';

/** How the next packing is to go, as far as it is not a setting of the job. */
interface Packing {
  into: 'sheet' | 'free';
  group: 'none' | 'part' | 'material';
  keepScale: boolean;
  seed: number;
  /** A rectangle of the sheet that islands go into: left, bottom, right, top as UV; null: the whole. */
  area: [number, number, number, number] | null;
}

export const usePacking = create<Packing>(() => ({ into: 'sheet', group: 'none', keepScale: false, seed: 1, area: null }));

// a rectangle is of the sheet that it was drawn for: another job begins with the whole
useBench.subscribe((now, before) => {
  if (now.summary?.id !== before.summary?.id) usePacking.setState({ area: null });
});

/** What packing is asked for now; null without a job. */
export function packParams(): ParamsOf<'pack'> | null {
  const settings = useBench.getState().summary?.settings;
  const { area, ...how } = usePacking.getState();
  return settings ? { evenDensity: settings.evenDensity, parts: 'sheet', ...how, ...(area ? { area } : {}) } : null;
}

export async function packNow(): Promise<void> {
  const params = packParams();
  if (params) await run('pack', params, true);
}
