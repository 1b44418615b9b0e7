import { create } from 'zustand';
import type { ReportOf } from '@jig-peel/core';
import { useBench } from '../../store/bench.ts';
import { looked } from '../tools/held.ts';
import { show } from '../../store/shown.ts';
import { notify, run, tryStep } from '../../worker/client.ts';

interface OutlineMatching {
  fit: 'together' | 'each' | 'shape';
  pieces: 'near' | 'like';
  /** What matching would do, shown in the views; null: nothing is shown. */
  found: { sentence: string; report: ReportOf<'matchOutline'> } | null;
  isLooking: boolean;
}

/** Islands matched to the outline of the part's picture: how, and what it would do. */
export const useOutlineMatching = create<OutlineMatching>(() => ({ fit: 'each', pieces: 'like', found: null, isLooking: false }));

const params = () => {
  const { fit, pieces } = useOutlineMatching.getState();
  return { fit, pieces };
};

/** The newest look; an older one that comes late is dropped. */
let asked = 0;

/** Shows in the views what matching would do. */
export async function lookForMatch(): Promise<void> {
  const own = ++asked;
  useOutlineMatching.setState({ isLooking: true });
  const outcome = await tryStep('matchOutline', params());
  if (own !== asked) return;
  useOutlineMatching.setState({ isLooking: false });
  if (!outcome.ok) {
    dropMatch();
    notify(outcome, true);
    return;
  }
  const { preview, report } = outcome.report;
  useOutlineMatching.setState({ found: { sentence: outcome.sentence, report } });
  if (preview) show({ uvs: { preview, badly: null } });
  // what it is matched to has to be seen
  const { look, setLook } = useBench.getState();
  if (look.under === 'nothing') setLook({ under: 'picture' });
}

/** Matches as the views show it. */
export async function takeMatch(): Promise<void> {
  if (!useOutlineMatching.getState().found) return;
  await run('matchOutline', params(), true);
  dropMatch();
}

/** The views show the layout as it is again; false if nothing was shown. */
export function dropMatch(): boolean {
  asked++;
  const { found } = useOutlineMatching.getState();
  useOutlineMatching.setState({ isLooking: false, found: null });
  if (!found) return false;
  show({ uvs: null });
  return true;
}

/** What is shown is about a selection and a layout: with another one it goes. @returns how to stop */
export function watchMatch(): () => void {
  const stop = useBench.subscribe((s, before) => {
    if (s.summary?.selection !== before.summary?.selection || s.layout !== before.layout || s.station !== before.station) dropMatch();
  });
  looked.add(dropMatch);
  return () => {
    stop();
    looked.delete(dropMatch);
    dropMatch();
  };
}
