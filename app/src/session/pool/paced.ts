import type { Tools } from './tasks.ts';

/** Ms between two messages about how far a task is. */
const pause = 40;

/**
 * Progress that goes to another thread: a search tells thousands of times a second, and a message costs more than what is done between two of them. A layout
 * that was found always goes.
 */
export function paced(progress: Tools['progress'], now = () => performance.now()): Tools['progress'] {
  let told = -Infinity;
  return (share, text, found) => {
    const at = now();
    if (!found && at - told < pause) return;
    told = at;
    progress(share, text, found);
  };
}
