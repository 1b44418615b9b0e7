import type { Stage } from './stage.ts';

/** The stage that the views show, for cards that take pictures of it. */
export const shownStage: { current: Stage | null } = { current: null };
