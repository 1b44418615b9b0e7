import type { Tools } from './tasks.ts';

/** Ms between two messages about how far a task is. */
const pause = 40;

/**
 * Progress that goes to another thread: a search tells thousands of times a second, and a message costs more than what is done between two of them. A layout
 * that was found always goes, and so does another text: a long silence may follow it.
 */
export function paced(progress: Tools['progress'], now = () => performance.now()): Tools['progress'] {
  let told = -Infinity;
  let said = '';
  return (share, text, found) => {
    const at = now();
    if (!found && text === said && at - told < pause) return;
    told = at;
    said = text;
    progress(share, text, found);
  };
}
