import { boxRound, selectedCount, type Selection } from '@jig-peel/core';
import { LatestOnly } from '../../session/latestOnly.ts';
import type { GripView } from '../../session/messages.ts';
import { useBench, type BenchState, type ToolName } from '../../store/bench.ts';
import { coreApi } from '../../worker/client.ts';
import { useHands, type Hands } from './handsState.ts';

const handTools: ReadonlySet<ToolName> = new Set<ToolName>(['move', 'turn', 'size']);
/** Is one of the tools in hand that move what is selected on the sheet? */
export const isHandTool = (tool: ToolName): boolean => handTools.has(tool);

/** Asks what a hand would move now. */
export async function askGrip(): Promise<{ views: GripView[]; box: NonNullable<ReturnType<typeof useHands.getState>['grip']>['box'] } | null> {
  const { pivot, soft } = useHands.getState();
  const height = useBench.getState().summary?.settings.height ?? 2048;
  const views = await coreApi().grip({ each: pivot === 'each', radius: soft.on ? soft.px / height : 0, way: soft.way });
  return views.length > 0 ? { views, box: boxRound(views.flatMap(({ boxes }) => boxes)) } : null;
}

/** The island that was selected first, after the selection became another one. */
export function firstOf(selection: Selection, before: Hands['first']): Hands['first'] {
  if (selection.kind !== 'islands') return null;
  const chosen = [selection, ...(selection.also ?? [])].flatMap(({ part, ids }) => Array.from(ids, (island) => ({ part, island })));
  const still = before && chosen.some(({ part, island }) => part === before.part && island === before.island);
  if (still) return before;
  return chosen.length === 1 ? chosen[0]! : null;
}

/** Keeps the frame round what is selected while a tool that moves it is in hand, or the Shape station is open. @returns how to stop */
export function mirrorGrip(): () => void {
  const asking = new LatestOnly<null, Awaited<ReturnType<typeof askGrip>>>(askGrip, (grip) => useHands.getState().set({ grip }));
  const wanted = (s: BenchState) =>
    (isHandTool(s.tool) || s.station === 'shape') && s.kind !== 'parts' && s.summary !== null && selectedCount(s.summary.selection) > 0;
  const look = (s: BenchState) => {
    if (wanted(s)) asking.ask(null);
    else {
      asking.drop();
      if (useHands.getState().grip) useHands.getState().set({ grip: null });
    }
  };
  look(useBench.getState());
  const bench = useBench.subscribe((s, before) => {
    const selection = s.summary?.selection;
    if (selection !== before.summary?.selection) {
      const { first, set } = useHands.getState();
      const now = selection ? firstOf(selection, first) : null;
      if (now !== first) set({ first: now });
    }
    if (
      s.summary?.selection !== before.summary?.selection ||
      s.layout !== before.layout ||
      s.sheetParts !== before.sheetParts ||
      s.tool !== before.tool ||
      s.station !== before.station ||
      s.kind !== before.kind
    )
      look(s);
  });
  const hands = useHands.subscribe((s, before) => {
    if (s.pivot !== before.pivot || s.soft !== before.soft) look(useBench.getState());
  });
  return () => {
    bench();
    hands();
    asking.drop();
  };
}
