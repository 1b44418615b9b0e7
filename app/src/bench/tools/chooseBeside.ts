import { useBench } from '../../store/bench.ts';
import { coreApi } from '../../worker/client.ts';
import { choose, chooseIslandBeside, chosenNow, combined, cornersMeant, nothingChosen, seenFrom } from '../chosen.ts';
import type { Beside } from '../views/pick.ts';
import { idMeant, type PointerAt } from './tool.ts';
import { hitNow, toWork } from './toWork.ts';

/**
 * A click on another part. Its islands are chosen beside those of the part at work; for anything smaller, and on a part of another sheet, that part
 * comes to work, and what is there is chosen.
 */
export async function chooseBeside(at: PointerAt, beside: Beside): Promise<void> {
  const { kind, summary } = useBench.getState();
  if (!summary) return;
  const sheetOf = (id: string) => summary.parts.find((part) => part.id === id)?.sheet;
  const isOnSheet = sheetOf(beside.part) != null && sheetOf(beside.part) === sheetOf(summary.activePart);
  if (kind === 'islands' && isOnSheet) {
    const island = beside.island >= 0 ? beside.island : ((await islandUnder(at, beside)) ?? -1);
    if (island >= 0) await chooseIslandBeside({ part: beside.part, island }, at);
    return;
  }
  const chosen = isOnSheet && (at.shift || at.ctrl) ? seenFrom(chosenNow(), summary.activePart, beside.part) : nothingChosen;
  if (!(await toWork(beside, at.view))) return;
  const hit = hitNow(at);
  const id = idMeant(hit);
  // what was chosen before stays so
  await choose(hit && id >= 0 ? combined(new Set([id]), cornersMeant(hit), at, chosen) : chosen);
}

async function islandUnder({ picker, view, x, y }: PointerAt, { part, triangle, corner }: Beside): Promise<number | undefined> {
  return (await coreApi().under({ part, kind: 'islands', view: picker.viewOf(view), x, y, triangle, corner }))?.island;
}
