import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import type { Beside, Hit } from '../views/pick.ts';
import type { PointerAt } from './tool.ts';

/** Brings another part to work that was pressed in a view; true once it can be picked there. */
export async function toWork({ part, island }: Beside, view: PointerAt['view']): Promise<boolean> {
  const { hoverOther, set } = useBench.getState();
  // what is under the pointer is in sight: the views stay as they are
  if (hoverOther?.part !== part) set({ hoverOther: { part, island } });
  const outcome = await run('activatePart', { part });
  return outcome.ok && isPickable(part, view);
}

/** Until a part is the one at work and can be picked in a view; false if that does not come about. */
async function isPickable(part: string, view: PointerAt['view']): Promise<boolean> {
  let isThere = false;
  for (let k = 0; k < 200; k++) {
    const { summary, geometry, layout, sheetIndex } = useBench.getState();
    // the answer to a step can come before what it changed
    if (summary?.activePart === part) isThere = true;
    else if (isThere) return false;
    if (isThere && geometry?.part === part && layout?.part === part && (view === 'model' || sheetIndex)) return true;
    await new Promise((next) => setTimeout(next, 25));
  }
  return false;
}

/** What is under the same px now. */
export const hitNow = ({ view, picker, x, y }: PointerAt): Hit | null => (view === 'model' ? picker.model(x, y) : picker.sheet(x, y));
