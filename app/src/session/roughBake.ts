import { parseSize, type SolverPool } from '@jig-peel/core';
import { ofWantedImages } from '@jig-peel/core/images/bakeBands';
import type { WorkerPool } from './pool/workerPool.ts';

/** Px of the longer side of a rough picture. */
export const roughSide = 256;
/** Rays a sample at most: enough to see where it is dark. */
export const roughRays = 8;

/** The size of a rough picture: as the whole one, its longer side shortened. */
export function roughSize(size: string): string {
  const { width, height } = parseSize(size);
  const scale = Math.min(1, roughSide / Math.max(width, height));
  return `${Math.max(1, Math.round(width * scale))}x${Math.max(1, Math.round(height * scale))}`;
}

/** Bakes a small picture in one worker of a pool. */
export const aside = (pool: Pick<WorkerPool, 'run'>): SolverPool => ({
  bake: (input) => pool.run('bake', ofWantedImages(input)),
  finishBake: (bands, options, bleed) => pool.run('finishBake', { bands, options, bleed }),
});
