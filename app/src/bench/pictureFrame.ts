import { create } from 'zustand';
import type { ReportOf } from '@jig-peel/core';
import { useBench } from '../store/bench.ts';
import { run } from '../worker/client.ts';
import { usePairing, type Pairing } from './pairing.ts';
import { takeInHand, useJigs } from './jigs.ts';
import { modelEye } from './views/cameras.ts';

/** Where a picture is looked at from, with which way its own right and up point then. */
export const sides = {
  front: { label: 'the front', right: [1, 0, 0], up: [0, 1, 0] },
  back: { label: 'behind', right: [-1, 0, 0], up: [0, 1, 0] },
  right: { label: 'the right', right: [0, 0, -1], up: [0, 1, 0] },
  left: { label: 'the left', right: [0, 0, 1], up: [0, 1, 0] },
  above: { label: 'above', right: [1, 0, 0], up: [0, 0, -1] },
  below: { label: 'below', right: [1, 0, 0], up: [0, 0, 1] },
} as const;
export type Side = keyof typeof sides | 'view';

interface PictureFrame {
  side: Side;
  /** Width it was traced at, units; null: not known. */
  width: number | null;
  /** How far the outline of each part is off after the last fit, px of the picture. */
  errors: ReportOf<'fitFrame'>['errors'];
}

/** A picture that stands in space as one frame for several parts. */
export const usePictureFrame = create<PictureFrame>(() => ({ side: 'front', width: null, errors: [] }));

const shown = (report: ReportOf<'fitFrame'>) => usePictureFrame.setState({ errors: report.errors });

/** Stands the picture in space. @param fit found by the outlines */
export async function standPicture(fit: boolean): Promise<void> {
  const { side, width } = usePictureFrame.getState();
  const axes = side === 'view' && modelEye ? modelEye.axes : sides[side === 'view' ? 'front' : side];
  const params = { right: [...axes.right] as [number, number, number], up: [...axes.up] as [number, number, number], width: width ?? 0, fit };
  const outcome = await run('standPicture', params, true);
  if (!outcome.ok) return;
  usePictureFrame.setState({ errors: outcome.report.errors });
  takeInHand(outcome.report.jig);
  const { set, setLook, look } = useBench.getState();
  set({ overlay: 'picture' });
  if (look.under === 'nothing') setLook({ under: 'picture' });
}

/** Finds where the jig's picture was traced, by the outlines of its parts. */
export async function fitByOutlines(jig: string): Promise<void> {
  const outcome = await run('fitFrame', { id: jig }, true);
  if (outcome.ok) shown(outcome.report as ReportOf<'fitFrame'>);
}

/** Begins to ask for two points and their places. */
export function beginPairs(jig: string): void {
  const { set, setLook, look } = useBench.getState();
  useJigs.setState({ takes: 'part', placing: null });
  // figures of a fit by outlines say nothing of one by points
  usePictureFrame.setState({ errors: [] });
  usePairing.setState({ pairing: { jig, points: [], places: [] } });
  set({ tool: 'pair' });
  if (look.under === 'nothing') setLook({ under: 'picture' });
}

/** What is asked for next, in words. */
export function wantedNext({ points, places }: Pairing): string {
  const which = places.length === 0 ? 'first' : 'second';
  return points.length === places.length ? `Click the ${which} point on the model` : `Click where that is in the picture, on the sheet`;
}
