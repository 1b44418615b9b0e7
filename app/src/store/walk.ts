import { useBench } from './bench.ts';

const seenKey = 'jig-peel first walk';

/** Begins the walk through the demo job where nobody has seen it in this browser: once by itself, and then only when it is asked for. */
export function firstWalk(): void {
  try {
    if (localStorage.getItem(seenKey) !== null) return;
    localStorage.setItem(seenKey, 'seen');
  } catch {
    // a browser that keeps nothing would show it each time
    return;
  }
  useBench.getState().set({ walk: 0 });
}
