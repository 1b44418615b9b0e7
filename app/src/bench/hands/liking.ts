import { create } from 'zustand';
import type { ReportOf } from '@jig-peel/core';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';

export type LikeGroup = ReportOf<'findLike'>['groups'][number];

interface Liking {
  by: 'shape' | 'connections';
  tolerance: number;
  mirrored: boolean;
  /** Groups of the whole sheet, as the last look found them; null: not looked for, or the layout is another one. */
  groups: readonly LikeGroup[] | null;
  /** The island that others are to become like. */
  model: { part: string; island: number; letter: string } | null;
  /** An edge of the part whose layout is copied, to say which of the ways that fit is meant. */
  edge: { part: string; edge: number } | null;
}

export const useLiking = create<Liking>(() => ({ by: 'shape', tolerance: 1, mirrored: false, groups: null, model: null, edge: null }));

/** What is alike on the sheet by the settings at hand. */
export async function findLike(): Promise<void> {
  const { by, tolerance, mirrored } = useLiking.getState();
  const outcome = await run('findLike', { which: 'sheet', by, tolerance, mirrored });
  if (outcome.ok) useLiking.setState({ groups: outcome.report.groups });
}

/** Selects the islands of a group. */
export function selectGroup({ islands }: LikeGroup): Promise<unknown> {
  const byPart = new Map<string, number[]>();
  for (const { part, island } of islands) (byPart.get(part) ?? byPart.set(part, []).get(part)!).push(island);
  const [[part, ids], ...also] = [...byPart.entries()] as [[string, number[]], ...[string, number[]][]];
  useBench.getState().set({ kind: 'islands' });
  return run('select', { part, kind: 'islands', ids, also: also.map(([id, own]) => ({ part: id, ids: own })) });
}

/** Lays on one another what is alike: of the selected islands, of one those like it; or all of the sheet. */
export function stackLike(which: 'selected' | 'sheet'): Promise<unknown> {
  const { by, tolerance, mirrored } = useLiking.getState();
  return run('stack', { which, by, tolerance, mirrored }, true);
}

/** The one selected island, for others to become like it. */
export function takeModel(): void {
  const { summary, layout } = useBench.getState();
  const { selection } = summary!;
  const [one] = [...(selection.ids.length > 0 ? [{ part: selection.part, ids: selection.ids }] : []), ...(selection.also ?? [])];
  if (!one) return;
  const island = one.ids[0]!;
  const letter = one.part === summary!.activePart ? layout?.islands[island]?.letter : undefined;
  useLiking.setState({ model: { part: one.part, island, letter: letter ?? `island ${island + 1}` } });
}

/** What was found is about one layout. @returns how to stop */
export function watchLayouts(): () => void {
  return useBench.subscribe((s, before) => {
    if (s.layout !== before.layout || s.sheetParts !== before.sheetParts) {
      if (useLiking.getState().groups) useLiking.setState({ groups: null });
    }
    if (s.summary?.id !== before.summary?.id) useLiking.setState({ groups: null, model: null });
  });
}
