import type { Selection } from './job.ts';

/** How much is selected, of all parts. */
export const selectedCount = ({ ids, also = [] }: Selection): number => also.reduce((sum, one) => sum + one.ids.length, ids.length);
