import { boxRound, selectedCount } from '@jig-peel/core';
import { LatestOnly } from '../../session/latestOnly.ts';
import type { GripView } from '../../session/messages.ts';
import { useBench, type BenchState, type ToolName } from '../../store/bench.ts';
import { coreApi } from '../../worker/client.ts';
import { useHands } from './handsState.ts';

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
