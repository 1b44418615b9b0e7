import { packBest, type BetterLayout } from '@jig-peel/core/pack/packBest';
import type { Tasks, Tools } from './tasks.ts';

/** Ms between two layouts that are told of. */
const pause = 300;

export function pack({ set, options }: Tasks['pack']['input'], { mesh, check, progress }: Tools): Tasks['pack']['output'] {
  let told = -Infinity;
  let share = 0;
  const better = (found: BetterLayout) => {
    const now = performance.now();
    if (now - told < pause || !found.isClear()) return;
    told = now;
    progress(share, 'Packing', { uv: found.uv(), coverage: found.coverage, scale: found.scale });
  };
  const context = {
    progress: (next: number, text: string) => {
      share = next;
      progress(next, text);
    },
    throwIfCancelled: check,
  };
  return packBest(mesh(), set, options, context, { better });
}
