import type { BesideAt, UnderPointer } from '../../session/messages.ts';
import { LatestOnly } from '../../session/latestOnly.ts';
import { useBench } from '../../store/bench.ts';
import { coreApi } from '../../worker/client.ts';
import type { PointerAt } from '../tools/tool.ts';
import type { Beside } from './pick.ts';

const questions = new LatestOnly<BesideAt, UnderPointer | null>(
  (at) => coreApi().under(at),
  (under, at) => {
    const { kind, hoverOther, set } = useBench.getState();
    if (kind !== at.kind || hoverOther?.part !== at.part) return;
    set({ hoverMarks: under, ...(under && under.island !== hoverOther.island ? { hoverOther: { part: at.part, island: under.island } } : {}) });
  },
  () => {
    // said when the worker ended
  },
);

/** Shows what of another part is under the pointer: its island on the sheet at once, what else it takes once the session has told. Says whether that changed. */
export function hoverBeside({ picker, view, x, y }: PointerAt, beside: Beside | null): boolean {
  const { kind, hoverOther, set } = useBench.getState();
  if (!beside) {
    leaveBeside();
    return hoverOther !== null;
  }
  const { part, triangle, corner } = beside;
  // on the model an island is not known before the answer: the one before stays till then
  const island = beside.island < 0 && hoverOther?.part === part ? hoverOther.island : beside.island;
  const changed = part !== hoverOther?.part || island !== hoverOther.island;
  if (changed) set({ hoverOther: { part, island }, hoverMarks: null });
  if (kind !== 'parts') questions.ask({ part, kind, view: picker.viewOf(view), x, y, triangle, corner });
  return changed;
}

/** The pointer is on no other part. */
export function leaveBeside(): void {
  const { hoverOther, hoverMarks, set } = useBench.getState();
  questions.drop();
  if (hoverOther || hoverMarks) set({ hoverOther: null, hoverMarks: null });
}
