import { create } from 'zustand';
import type { ReportOf } from '@jig-peel/core';
import { LatestOnly } from '../../session/latestOnly.ts';
import { useBench } from '../../store/bench.ts';
import { show } from '../../store/shown.ts';
import { coreApi, run } from '../../worker/client.ts';

export type Ways = ReportOf<'straightenWays'>;

interface Straightening {
  /** Measured ways to straighten what is selected, the best first; null: none are shown. */
  ways: Ways | null;
  /** Which of them the views show. */
  at: number;
  spacing: 'lengths' | 'equal';
  lay: 'nearest' | 'level' | 'upright' | 'asLies';
  /** Length that the kept line is given, px; null: its own on the model. */
  length: number | null;
}

export const useStraightening = create<Straightening>(() => ({ ways: null, at: 0, spacing: 'lengths', lay: 'nearest', length: null }));

const paramsAt = (k: number) => {
  const { ways, spacing, lay, length } = useStraightening.getState();
  const { keep, far } = ways!.list[k]!;
  return { keep, far, spacing, lay, length: length ?? 0 };
};

const previews = new LatestOnly<number, Awaited<ReturnType<ReturnType<typeof coreApi>['previewStep']>>>(
  (k) => coreApi().previewStep('straighten', paramsAt(k)),
  (preview, k) => {
    if (preview && useStraightening.getState().ways && useStraightening.getState().at === k) show({ uvs: { preview, badly: null } });
  },
);

/** Measures the ways, and shows the best of them in the views until it is taken or dropped. */
export async function lookForWays(): Promise<void> {
  const { station, goTo } = useBench.getState();
  if (station !== 'shape') {
    const { kind } = useBench.getState();
    goTo('shape');
    useBench.getState().set({ kind });
  }
  const outcome = await run('straightenWays', { spacing: useStraightening.getState().spacing });
  if (!outcome.ok) return;
  useStraightening.setState({ ways: outcome.report, at: 0, length: null });
  showWay(0);
}

/** @param length px that the kept line is given; null: its own length on the model */
export function showWay(k: number, length: number | null = null): void {
  useStraightening.setState({ at: k, length });
  previews.ask(k);
}

/** Straightens as the views show it. */
export async function takeWay(): Promise<void> {
  const { ways, at } = useStraightening.getState();
  if (!ways) return;
  const params = paramsAt(at);
  await run('straighten', params, true);
  dropWays();
}

/** The views show the layout as it is again; false if no way was shown. */
export function dropWays(): boolean {
  if (!useStraightening.getState().ways) return false;
  useStraightening.setState({ ways: null });
  previews.drop();
  show({ uvs: null });
  return true;
}

/** What is shown is about a selection and a layout: with another one it goes. @returns how to stop */
export function watchWays(): () => void {
  const stop = useBench.subscribe((s, before) => {
    if (s.summary?.selection !== before.summary?.selection || s.layout !== before.layout || s.station !== before.station) dropWays();
  });
  return () => {
    stop();
    dropWays();
  };
}
