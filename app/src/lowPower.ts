/**
 * Whether to do without what costs more than it gives where there is no graphics card or each page is open for a moment only, as in tests: smoothed edges, and
 * getting ready for what is likely to be asked next.
 */
export const isLowPower = (): boolean => globalThis.localStorage?.getItem('jig-peel low power') === 'on';

/** Whether everything is drawn in full although the processor draws: for pictures of the app. */
export const isFullPower = (): boolean => globalThis.localStorage?.getItem('jig-peel low power') === 'off';
