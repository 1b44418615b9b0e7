import { keepEdgeSight, knownEdgeSight } from '@jig-peel/core/measure/seamSight';
import { moveSeamByWishes } from '@jig-peel/core/propose/seamMove';
import type { Tasks, Tools } from './tasks.ts';

export function moveSeam({ set, edges, wishes, seen }: Tasks['moveSeam']['input'], tools: Tools): Tasks['moveSeam']['output'] {
  const mesh = tools.mesh();
  if (seen && !knownEdgeSight(mesh, wishes)) keepEdgeSight(mesh, wishes, seen);
  return moveSeamByWishes(mesh, set, edges, wishes, { progress: () => {}, throwIfCancelled: () => tools.check() });
}
