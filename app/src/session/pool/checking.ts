import { checkLayout } from '@jig-peel/core/measure/check';
import { atOwnScale, stretchFigures, triangleStretch } from '@jig-peel/core/measure/distortion';
import { uvState } from '@jig-peel/core/measure/uvState';
import type { Checked, ToCheck, Tools } from './tasks.ts';

export function check({ set, width, height, margin, tiles, meant, landed }: ToCheck, tools: Tools): Checked {
  const mesh = tools.mesh();
  const { report, faults } = checkLayout(mesh, set, width, height, { progress: () => {}, throwIfCancelled: () => tools.check() }, tiles);
  tools.check();
  const state = uvState(mesh, set, { width, height, stretch: 1.5, gapPx: margin, angle: 45, tiles }, faults, meant);
  const of = landed ?? { set, width, height };
  const stretch = stretchFigures(atOwnScale(mesh, of.set, triangleStretch(mesh, of.set, of.width, of.height)));
  return { report: { ...report, ...stretch }, faults, state };
}
