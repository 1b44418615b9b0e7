import type { Sheet } from './sheet.ts';

/** Px that islands keep from the border. */
export const borderGapOf = ({ margin, borderGap }: Pick<Sheet, 'margin' | 'borderGap'>): number => borderGap ?? margin;
