import { keepEdgeSight } from '@jig-peel/core/measure/seamSight';
import { proposeSeams } from '@jig-peel/core/propose/proposeSeams';
import type { Tasks, Tools } from './tasks.ts';

export function propose({ set, options, seen }: Tasks['propose']['input'], { mesh: meshAtHand, check, progress }: Tools): Promise<Tasks['propose']['output']> {
  const mesh = meshAtHand();
  // how much edges are seen is known, so what stands before the part was left behind; the part itself stands for it, so that this is kept apart from other answers
  const asked = { ...options, blockers: [mesh] };
  if (seen) keepEdgeSight(mesh, asked, seen);
  return proposeSeams(mesh, set, asked, { progress, throwIfCancelled: check });
}
