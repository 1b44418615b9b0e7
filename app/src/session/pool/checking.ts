import { checkLayout } from '@jig-peel/core/measure/check';
import { uvState } from '@jig-peel/core/measure/uvState';
import type { Tasks, Tools } from './tasks.ts';

export function check({ set, width, height, margin, meant }: Tasks['check']['input'], { mesh }: Tools): Tasks['check']['output'] {
  const { report, faults } = checkLayout(mesh(), set, width, height);
  const state = uvState(mesh(), set, { width, height, stretch: 1.5, gapPx: margin, angle: 45 }, faults, meant);
  return { report, faults, state };
}
