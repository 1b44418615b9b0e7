import { edgeSight } from '@jig-peel/core/measure/seamSight';
import { judgedReport } from '@jig-peel/core/measure/limits';
import { uvState } from '@jig-peel/core/measure/uvState';
import type { Checked, Tasks, ToCheck, Tools } from './tasks.ts';

export function check({ set, width, height, margin, tiles, meant, landed, sight }: ToCheck, tools: Tools): Checked {
  const mesh = tools.mesh();
  const context = { progress: () => {}, throwIfCancelled: () => tools.check() };
  const { report, faults } = judgedReport(mesh, set, { width, height, tiles, sight, landed }, context);
  tools.check();
  const state = uvState(mesh, set, { width, height, stretch: 1.5, gapPx: margin, angle: 45, tiles }, faults, meant);
  return { report, faults, state };
}

export const sight = (options: Tasks['sight']['input'], tools: Tools): Float64Array => edgeSight(tools.mesh(), options);
