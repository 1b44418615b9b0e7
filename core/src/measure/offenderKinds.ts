import type { LimitKey } from './judge.ts';
import type { ProblemKind } from './uvState.ts';

/** What faces have that break a limit. */
export const limitProblems: Partial<Record<LimitKey, ProblemKind>> = {
  unplaced: 'noUv',
  flips: 'flipped',
  overlap: 'overlapping',
  outside: 'outside',
  gap: 'close',
  energy: 'stretched',
  size: 'stretched',
  shape: 'stretched',
};

/** Other figures are of the whole layout: no single place has a part in them. */
export const hasOffenders = (key: LimitKey): boolean =>
  limitProblems[key] !== undefined || key === 'density' || key === 'spread' || key === 'inSight' || key === 'continuity';
