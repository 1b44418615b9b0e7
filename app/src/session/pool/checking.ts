import { edgeSight } from '@jig-peel/core/measure/seamSight';
import { checkLayout } from '@jig-peel/core/measure/check';
import { atOwnScale, stretchFigures, triangleStretch } from '@jig-peel/core/measure/distortion';
import { uvState } from '@jig-peel/core/measure/uvState';
import type { Checked, Tasks, ToCheck, Tools } from './tasks.ts';

export function check({ set, width, height, margin, tiles, meant, landed, sight }: ToCheck, tools: Tools): Checked {
  const mesh = tools.mesh();
  const { report, faults } = checkLayout(
    mesh,
    set,
    width,
    height,
    { progress: () => {}, throwIfCancelled: () => tools.check() },
    tiles,
    sight instanceof Float64Array ? sight : edgeSight(mesh, sight),
  );
  tools.check();
  const state = uvState(mesh, set, { width, height, stretch: 1.5, gapPx: margin, angle: 45, tiles }, faults, meant);
  const of = landed ?? { set, width, height };
  const stretch = stretchFigures(atOwnScale(mesh, of.set, triangleStretch(mesh, of.set, of.width, of.height)));
  return { report: { ...report, ...stretch }, faults, state };
}

export const sight = (options: Tasks['sight']['input'], tools: Tools): Float64Array => edgeSight(tools.mesh(), options);
