import { create } from 'zustand';
import type { LimitKey, ReportOf } from '@jig-peel/core';
import { hasOffenders } from '@jig-peel/core/measure/offenderKinds';
import { limitsFile } from '@jig-peel/core/measure/judge';
import { useBench } from '../../../store/bench.ts';
import { save } from '../../deliver.ts';
import { run } from '../../../worker/client.ts';

type Place = ReportOf<'offenders'>['list'][number] & { part: string };

interface Offenders {
  /** The limit whose places are stepped through. */
  key: LimitKey | null;
  list: Place[] | null;
  at: number;
}

export const useOffenders = create<Offenders>(() => ({ key: null, list: null, at: -1 }));

/** The layout that the list is about. */
let listed: unknown = null;

/** Selects the next place that breaks a limit, over all parts of the sheet, and brings it into view. */
export async function stepOffenders(key: LimitKey, by: 1 | -1): Promise<void> {
  const { summary, layout } = useBench.getState();
  if (!summary) return;
  let { list, at } = useOffenders.getState();
  if (useOffenders.getState().key !== key || listed !== layout || !list) {
    const active = summary.parts.find(({ id }) => id === summary.activePart)!;
    const others = summary.parts.filter((part) => part.id !== active.id && part.sheet === active.sheet && !part.isHidden);
    list = [];
    if (hasOffenders(key))
      for (const { id } of [active, ...others]) {
        const outcome = await run('offenders', { part: id, limit: key });
        if (!outcome.ok) return;
        list.push(...outcome.report.list.map((one) => ({ ...one, part: id })));
      }
    at = by > 0 ? -1 : 0;
  }
  if (list.length === 0) {
    useOffenders.setState({ key, list, at: -1 });
    listed = useBench.getState().layout;
    return;
  }
  at = (at + by + list.length) % list.length;
  const { part, kind, ids } = list[at]!;
  useBench.getState().set({ kind });
  await run('select', { part, kind, ids });
  useBench.getState().frame();
  // a part that came to be at work has a layout of its own on the screen
  listed = useBench.getState().layout;
  useOffenders.setState({ key, list, at });
}

interface Mend {
  label: string;
  run(): unknown;
}

const goTo = (station: 'seams' | 'pack' | 'shape' | 'images', label: string): Mend => ({ label, run: () => useBench.getState().goTo(station) });
const toSeams = goTo('seams', 'Go to Seams');
const toPack = goTo('pack', 'Go to Pack');

/** What is to be done where a limit is not kept. */
export const mends: Partial<Record<LimitKey, Mend>> = {
  unplaced: toSeams,
  flips: toSeams,
  energy: toSeams,
  size: toSeams,
  shape: toSeams,
  inSight: toSeams,
  islands: toSeams,
  continuity: goTo('images', 'Go to Images'),
  overlap: toPack,
  outside: { label: 'Bring back', run: () => run('bringBack', {}, true) },
  gap: toPack,
  borderGap: toPack,
  coverage: toPack,
  density: toPack,
  spread: { label: 'Even out', run: () => run('density', { even: true }, true) },
  grain: goTo('shape', 'Go to Shape'),
};

/** The limits as a file to share. */
export function keepLimits(): void {
  const { summary } = useBench.getState();
  if (!summary) return;
  const url = URL.createObjectURL(new Blob([limitsFile(summary.settings.limits, summary.name)], { type: 'application/json' }));
  save('limits.json', url);
  URL.revokeObjectURL(url);
}

/** Limits as a file has them. */
export async function takeLimits(file: File): Promise<void> {
  const text = await file.text();
  await run('limitsFile', { text }, true);
}
