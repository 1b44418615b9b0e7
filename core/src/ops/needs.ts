import type { SelectionKind } from '../job/job.ts';

/** What of a job an operation touches. */
export const changeKinds = ['mesh', 'seams', 'uvs', 'jigs', 'images', 'marks', 'settings', 'parts', 'view'] as const;
/**
 * mesh: points, faces, groups, materials; seams, uvs: of a UV set; jigs; images: of the job, and how parts show them; marks: wishes for seams, what is done,
 * pins, kept selections; settings: of the job and its name; parts: which there are, their names and UV sets; view: what is selected, hidden, worked on.
 */
export type ChangeKind = (typeof changeKinds)[number];

/** What is selected, as far as it decides whether an operation can run. */
export interface Situation {
  kind: SelectionKind;
  selected: number;
}

/** What an operation needs to be selected, and the words to show while that is not so. */
const needs = {
  selection: { met: ({ selected }: Situation) => selected > 0, reason: 'select something first' },
  edges: { met: ({ kind, selected }: Situation) => kind === 'edges' && selected > 0, reason: 'select edges first' },
  islandPair: {
    met: ({ kind, selected }: Situation) => (kind === 'islands' && selected === 2) || (kind === 'edges' && selected > 0),
    reason: 'select two islands, or seams between them',
  },
  islands: { met: ({ kind, selected }: Situation) => kind === 'islands' && selected > 0, reason: 'select islands first' },
} as const;
export type Need = keyof typeof needs;

/** Why an operation that needs this has no effect now; null if it has. */
export const whyOff = (need: Need | undefined, situation: Situation): string | null => (!need || needs[need].met(situation) ? null : needs[need].reason);
