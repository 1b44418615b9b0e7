import * as portable from '../numeric/portable.ts';
/* Free of everything heavy: the screen sorts proposals with it, too. */

/** How much each term counts; 1 as it is, 0 not at all. */
export interface RankWeights {
  sight: number;
  stretch: number;
  islands: number;
  sheet: number;
}

export const evenWeights: RankWeights = { sight: 1, stretch: 1, islands: 1, sheet: 1 };

/** What is weighed of a proposal. */
export interface Ranked {
  /** Length in plain sight, units. */
  seamInSight: number;
  /** The model's area, square units. */
  area: number;
  energy: number;
  flips: number;
  islands: number;
  /** Share of the sheet covered; null where nothing was laid out. */
  coverage: number | null;
}

/** The terms of the sum: each about 1 for a layout that is middling in that respect. Common practice, no source. */
export function costTerms({ seamInSight, area, energy, flips, islands, coverage }: Ranked, limit: number): RankWeights {
  const excess = Math.max(0, energy - 4) / Math.max(1e-6, limit - 4);
  return {
    // seams in plain sight as long as the model is wide
    sight: area > 0 ? seamInSight / (2 * Math.sqrt(area)) : 0,
    // within the limit up to ½; beyond it three times as steep; what is turned over is as bad as anything
    stretch: (flips > 0 ? 10 : 0) + (excess <= 1 ? excess / 2 : Math.min(10, 0.5 + 3 * portable.log2(excess))),
    // each doubling a quarter
    islands: portable.log2(Math.max(1, islands)) / 4,
    // half a sheet empty: 1½; a layout that leaves most of it empty is none to take
    sheet: 3 * (1 - (coverage ?? 0)),
  };
}

/** Lower is better. */
export function costOf(proposal: Ranked, limit: number, weights: RankWeights = evenWeights): number {
  const terms = costTerms(proposal, limit);
  return weights.sight * terms.sight + weights.stretch * terms.stretch + weights.islands * terms.islands + weights.sheet * terms.sheet;
}
