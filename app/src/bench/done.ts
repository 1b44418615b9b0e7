import type { BenchState } from '../store/bench.ts';

let last: { of: unknown[]; done: ReadonlySet<string>; left: number } | null = null;

function count({ summary, layout }: Pick<BenchState, 'summary' | 'layout'>): { done: ReadonlySet<string>; left: number } {
  const flags = summary?.parts.find((part) => part.id === summary.activePart)?.done ?? null;
  const of = [flags, layout];
  if (last && of.every((x, k) => x === last!.of[k])) return last;
  const done = new Set<string>();
  if (flags && layout && layout.part === summary?.activePart && flags.length === layout.faceIsland.length) {
    const open = new Uint8Array(layout.islands.length);
    for (let f = 0; f < flags.length; f++) if (!flags[f]) open[layout.faceIsland[f]!] = 1;
    layout.islands.forEach((island, i) => !open[i] && done.add(island.letter));
  }
  last = { of, done, left: (layout?.islands.length ?? 0) - done.size };
  return last;
}

/** Letters of the islands whose faces are all marked as done. O(faces), worked out once for each layout and set of marks. */
export const doneIslands = (state: Pick<BenchState, 'summary' | 'layout'>) => count(state).done;

/** How many islands are still to do. */
export const islandsLeft = (state: Pick<BenchState, 'summary' | 'layout'>) => count(state).left;
