import { problemKinds, type ParamsOf, type SelectWay } from '@jig-peel/core';
import { run } from '../../worker/client.ts';
import { bench, elementKind, isParts, noJob, noParts, noSelection, off, type Command } from './command.ts';

/** Ways that make sense of whole parts. */
const partWays = new Set<SelectWay>(['all', 'invert']);
const problems = new Set<SelectWay>(problemKinds);
const noEdges = () => off('edges');

/** What a rule takes of the limits typed in. */
function limitsOf(way: SelectWay): Partial<ParamsOf<'selectBy'>> {
  const { angle, stretch, gap, turned, mirrorAxis, tolerance } = bench().limits;
  if (way === 'run' || way === 'flat' || way === 'facing') return { angle };
  if (way === 'stretched') return { limit: stretch };
  if (way === 'close') return gap === null ? {} : { gap };
  if (way === 'turned') return { angle: turned };
  if (way === 'mirror') return { axis: mirrorAxis, ...(tolerance === null ? {} : { tolerance }) };
  return {};
}

const by = (way: SelectWay, label: string, { blocked = noSelection, ...more }: Partial<Command> = {}): Command => ({
  id: `select-${way}`,
  label,
  changes: ['view'],
  run: () =>
    run('selectBy', {
      way,
      over: 'sheet',
      ...(problems.has(way) || way === 'care' || way === 'straight' || way === 'kept' || way === 'continuing' || way === 'detail' ? {} : elementKind()),
      ...limitsOf(way),
    }),
  ...more,
  blocked: () => (partWays.has(way) ? null : noParts()) ?? blocked(),
});

/** The same for whole parts where these are what a click takes. */
const orParts = (way: 'all' | 'invert', chosen: (part: string) => boolean) => () => {
  if (!isParts()) return run('selectBy', { way, over: 'sheet', ...elementKind() });
  const parts = bench().summary!.parts.filter((part) => !part.isHidden && chosen(part.id));
  return run('selectParts', { parts: parts.map((part) => part.id) });
};

/** The mirror image, and how much of it is missing. */
async function selectMirror(): Promise<void> {
  const outcome = await run('selectBy', { way: 'mirror', ...elementKind(), ...limitsOf('mirror') });
  const unmatched = outcome.ok ? (outcome.report.unmatched ?? 0) : 0;
  if (unmatched > 0) bench().notice(`${unmatched} of the selected have no mirror image across ${bench().limits.mirrorAxis}.`, 'warning');
}

/** Commands that choose by a rule, in the order of the selection menu. */
export const selecting: Command[] = [
  by('all', 'Select all', { blocked: noJob, run: orParts('all', () => true) }),
  by('invert', 'Invert the selection', { blocked: noJob, run: orParts('invert', (id) => !bench().summary!.selectedParts.includes(id)) }),
  by('grow', 'Grow the selection', { words: 'expand more' }),
  by('shrink', 'Shrink the selection', { words: 'less contract' }),
  by('loop', 'Select the loop', { blocked: noEdges }),
  by('ring', 'Select the ring', { blocked: noEdges }),
  by('run', 'Select the smooth run', { words: 'follow edges angle', blocked: noEdges }),
  by('path', 'Select the path between two', { words: 'shortest way' }),
  by('connected', 'Select all that is connected', { words: 'linked shell element' }),
  by('flat', 'Select the flat region', { words: 'coplanar smooth angle' }),
  by('facing', 'Select faces that face the same way', { words: 'normal similar' }),
  by('border', 'Select the border of the faces', { words: 'outline boundary perimeter' }),
  by('seams', 'Select the seams', { blocked: noJob }),
  by('convert', 'Convert the selection to the kind at hand', { words: 'vertex edge polygon' }),
  by('mirror', 'Select the mirror image', { words: 'symmetry', run: selectMirror }),
  by('care', 'Select faces whose stretch counts more or less', { blocked: noJob, words: 'weight importance protect' }),
  by('straight', 'Select edges kept straight', { blocked: noJob, words: 'level upright border axis' }),
  by('detail', 'Select where the mesh is finest', { blocked: noJob, words: 'detail dense small faces curvature looked at' }),
  by('kept', 'Select edges that keep their length', { blocked: noJob, words: 'equal seam sides match' }),
  by('continuing', 'Select seams over which the picture is kept going on', { blocked: noJob, words: 'continuous vary hold' }),
  by('noUv', 'Select faces without UVs', { blocked: noJob }),
  by('flipped', 'Select flipped faces', { blocked: noJob, words: 'inverted' }),
  by('mirrored', 'Select mirrored islands’ faces', { blocked: noJob }),
  by('overlapping', 'Select overlapping faces', { blocked: noJob }),
  by('stretched', 'Select stretched faces', { blocked: noJob, words: 'distorted' }),
  by('outside', 'Select faces outside the sheet', { blocked: noJob }),
  by('tray', 'Select what waits in the tray', { blocked: noJob, words: 'new beside' }),
  by('close', 'Select faces too close to another island', { blocked: noJob, words: 'margin gap padding' }),
  by('turned', 'Select turned faces', { blocked: noJob, words: 'upside down rotated' }),
  by('shrunk', 'Select shrunk faces', { blocked: noJob, words: 'zero area collapsed' }),
];
