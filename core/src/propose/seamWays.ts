/** How proposed seams are found. */
export const seamWays = ['crease', 'flat', 'stretch', 'limbs'] as const;
export type SeamWay = (typeof seamWays)[number];
