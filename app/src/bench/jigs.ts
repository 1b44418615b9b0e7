import { create } from 'zustand';
import type { Advice, Jig, JigKind, PlacementAxis } from '@jig-peel/core';
import { useBench } from '../store/bench.ts';
import { coreApi, notify, run } from '../worker/client.ts';

interface JigItem {
  jig: Jig;
  faces: number[];
}

interface JigState {
  kind: JigKind;
  axis: PlacementAxis | 'view';
  /** What was placed last: its numbers can be changed, and it is written anew. */
  items: JigItem[];
  /** The part that the items are on. */
  part: string | null;
  advice: Advice[] | null;
  /** The selection that the advice was measured on. */
  advised: unknown;
  measuring: boolean;
}

/** The projection in hand at the station Jigs. */
export const useJigs = create<JigState>(() => ({ kind: 'planar', axis: 'auto', items: [], part: null, advice: null, advised: null, measuring: false }));

/** Where the model view's eye is; set by the views. */
export const eyeNow: { axes: () => { right: number[]; up: number[]; out: number[]; distance: number } | null } = { axes: () => null };

/** Measures every kind of projection on the selected faces. */
export async function advise(): Promise<void> {
  useJigs.setState({ measuring: true });
  const selection = useBench.getState().summary?.selection;
  const outcome = await coreApi().advise();
  useJigs.setState({ measuring: false });
  if (!outcome.ok) notify(outcome, true);
  else useJigs.setState({ advice: (outcome.report as { list: Advice[] }).list, advised: selection });
}

/** Writes jigs to their faces in one step and keeps them at hand. */
export async function writeItems(items: JigItem[]): Promise<void> {
  const part = useBench.getState().summary!.activePart;
  const outcome = await run('placeJigs', { items }, true);
  if (!outcome.ok) return;
  useJigs.setState({ items, part });
  const { overlay, set } = useBench.getState();
  if (overlay === 'plain' || overlay === 'islands') set({ overlay: 'grid' });
}

export function takeAdvice(advice: Advice): Promise<void> {
  useJigs.setState({ kind: advice.parts[0]!.jig.kind, axis: 'auto' });
  return writeItems(advice.parts.map(({ jig, faces }) => ({ jig, faces: [...faces] })));
}

/** Places the kind at hand on the selected faces; numbers that were set before (repeats, image width …) are kept. */
export async function placeNow(): Promise<void> {
  const { kind, axis, items } = useJigs.getState();
  const outcome = await coreApi().fitJig(kind, axis === 'view' ? 'auto' : axis);
  if (!outcome.ok) {
    notify(outcome, true);
    return;
  }
  const fitted = outcome.report as { jig: Jig; faces: Uint32Array };
  const before = items[0]?.jig;
  const kept = before ? { imageWidth: before.imageWidth, mirrorU: before.mirrorU, mirrorV: before.mirrorV, quarter: before.quarter, lids: before.lids } : {};
  let jig: Jig = { ...fitted.jig, ...kept };
  const eye = axis === 'view' ? eyeNow.axes() : null;
  if (eye) jig = fromView(jig, eye);
  await writeItems([{ jig, faces: [...fitted.faces] }]);
}

/** The same jig as the eye sees it: its image upright in the view, its middle where it was. */
function fromView(jig: Jig, eye: { right: number[]; up: number[]; out: number[] }): Jig {
  const side = Math.max(...jig.size);
  return { ...jig, right: eye.right as Jig['right'], up: eye.up as Jig['up'], size: [side, side, side] };
}

/** Changes the numbers of what was placed last and writes it anew: one step. */
export function changeJig(patch: Partial<Jig>): void {
  const { items } = useJigs.getState();
  if (items.length > 0) void writeItems(items.map(({ jig, faces }) => ({ jig: { ...jig, ...patch }, faces })));
}
