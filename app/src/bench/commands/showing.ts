import { hasRelief } from '../surfaceLayers.ts';
import { selectedCount } from '@jig-peel/core';
import { hasPicture, fillsSelection, type BenchState, type Kind, type Overlay, type StationName } from '../../store/bench.ts';
import { usePreferences } from '../../store/preferences.ts';
import { run } from '../../worker/client.ts';
import { isHandTool } from '../hands/gripMirror.ts';
import { dropWays } from '../hands/straightening.ts';
import { togglePinned, usePinned } from '../pinned.ts';
import { dropHeld, dropLooked } from '../tools/held.ts';
import { activePart, bench, isParts, noJob, noSelection, operate, type Command } from './command.ts';

/** Something to hide: chosen parts, or selected elements. */
const noChosen = () => noJob() ?? (isParts() ? (bench().summary!.selectedParts.length > 0 ? null : 'choose a part first') : noSelection());
const chosenParts = () => [...bench().summary!.selectedParts];

/** A command that changes only how the bench shows or takes things. */
const show = (id: string, label: string, words: string | undefined, act: () => void, blocked?: () => string | null): Command => ({
  id,
  label,
  words,
  changes: ['bench'],
  run: act,
  blocked,
});

const take = (kind: Kind, label: string, words?: string) =>
  show(kind, label, words, () => bench().set({ kind, tool: isHandTool(bench().tool) ? bench().tool : 'select' }));
const shape = (id: 'box' | 'lasso' | 'brush', label: string, words: string) => show(id, label, words, () => bench().set({ shape: id, tool: 'select' }));

const stations: { name: StationName; label: string }[] = [
  { name: 'intake', label: 'Intake' },
  { name: 'jigs', label: 'Jigs' },
  { name: 'seams', label: 'Seams' },
  { name: 'shape', label: 'Shape' },
  { name: 'pack', label: 'Pack' },
  { name: 'images', label: 'Images' },
  { name: 'check', label: 'Check' },
  { name: 'deliver', label: 'Deliver' },
];
const step = (by: number) => {
  const at = stations.findIndex(({ name }) => name === bench().station);
  bench().goTo(stations[Math.max(0, Math.min(stations.length - 1, at + by))]!.name);
};

async function showAll(): Promise<void> {
  if (activePart()?.hidden) await run('hide', { what: 'none' });
  if (bench().summary!.parts.some((part) => part.isHidden)) await run('hideParts', { what: 'all' });
}

function escape() {
  // a stroke or drag under way goes first, and nothing with it
  if (dropHeld() || dropWays() || dropLooked()) return;
  const { tool, summary, set } = bench();
  if (tool !== 'select') set({ tool: 'select' });
  else if (isParts() && summary && summary.selectedParts.length > 0) void run('selectParts', { parts: [] });
  else if (summary && selectedCount(summary.selection) > 0) void run('select', { kind: summary.selection.kind, ids: [] });
}

/** Overlays that show something now: the picture only where the part has one. */
export function overlaysNow(summary: BenchState['summary']): Overlay[] {
  const part = summary?.parts.find((one) => one.id === summary.activePart);
  return (['grid', 'picture', 'islands', 'stretch', 'density', 'grain', 'plain'] as const).filter(
    (overlay) => (overlay !== 'picture' || hasPicture(summary)) && (overlay !== 'grain' || (part?.grain ?? 0) > 0),
  );
}

function nextOverlay() {
  const list = overlaysNow(bench().summary);
  bench().set({ overlay: list[(list.indexOf(bench().overlay) + 1) % list.length]! });
}

/** Chapters of the guide whose name is not the station’s. */
const chapters: Partial<Record<StationName, string>> = { images: 'layers' };

/** The test grid on, or what was shown before it. */
function toggleGrid() {
  const { overlay, beforeGrid, summary, set } = bench();
  if (overlay !== 'grid') set({ overlay: 'grid', beforeGrid: overlay });
  else set({ overlay: overlaysNow(summary).includes(beforeGrid) && beforeGrid !== 'grid' ? beforeGrid : 'plain' });
}

function nextLight() {
  const lights = ['room', 'even', 'lamp'] as const;
  bench().setLook({ light: lights[(lights.indexOf(bench().look.light) + 1) % 3]! });
}

function nextForm() {
  const forms = ['cage', 'smoothed', 'rounded', ...(hasRelief(bench()) ? (['raised'] as const) : [])] as const;
  bench().setLook({ form: forms[(forms.findIndex((form) => form === bench().look.form) + 1) % forms.length]! });
}

/** What a click and a drag take. */
export const taking: Command[] = [
  take('parts', 'Select parts', 'object mesh'),
  take('islands', 'Select islands', 'shell'),
  take('faces', 'Select faces', 'polygon'),
  take('edges', 'Select edges'),
  take('points', 'Select points', 'vertex vertices'),
];

/** How things are shown, and where one is. */
export const showing: Command[] = [
  shape('box', 'Drag draws a box', 'marquee rectangle'),
  shape('lasso', 'Drag draws a lasso', 'freehand'),
  shape('brush', 'Drag paints the selection', 'brush'),
  show('brush-less', 'Smaller brush', undefined, () => bench().set({ brush: Math.max(4, Math.round(bench().brush / 1.25)) })),
  show('brush-more', 'Larger brush', undefined, () => bench().set({ brush: Math.min(200, Math.round(bench().brush * 1.25)) })),
  show('through', 'Select through, or only what is in sight', 'visible backface hidden x-ray', () => bench().set({ through: !bench().through })),
  {
    ...operate('hide', { label: 'Hide the selected', blocked: noChosen }),
    run: () => (isParts() ? run('hideParts', { what: 'hide', parts: chosenParts() }) : run('hide', { what: 'selected' })),
  },
  {
    ...operate('hide', { id: 'only', label: 'Show only the selected', words: 'isolate solo', blocked: noChosen }),
    run: () => (isParts() ? run('hideParts', { what: 'only', parts: chosenParts() }) : run('hide', { what: 'others' })),
  },
  {
    ...operate('hide', {
      id: 'show',
      label: 'Show all',
      words: 'unhide',
      blocked: () =>
        noJob() ?? (bench().summary!.parts.some((p) => p.isHidden || (p.id === bench().summary!.activePart && p.hidden)) ? null : 'nothing is hidden'),
    }),
    run: showAll,
  },
  operate('hide', {
    id: 'left',
    label: 'Show only what is left to do',
    words: 'todo remaining unfinished',
    say: false,
    params: () => ({ what: 'done' }),
    blocked: () => noJob() ?? (activePart()?.done ? null : 'nothing is marked as done'),
  }),
  show('outline', 'Mark the selection by its outline alone, or filled', 'highlight', () =>
    bench().setLook({ marking: fillsSelection(bench()) ? 'outline' : 'fill' }),
  ),
  show('far', 'Far side of the model in a corner: on or off', 'second view behind back inset', () => bench().setLook({ farSide: !bench().look.farSide })),
  show(
    'context',
    'Other parts: show faintly, or not',
    'ghost reference context',
    () => bench().setLook({ context: !bench().look.context }),
    () => noJob() ?? (bench().summary!.parts.length > 1 ? null : 'the job has one part only'),
  ),
  show('uv-lines', 'Lines along u and v on the model: on or off', 'isolines grain direction flow grid', () =>
    bench().setLook({ uvLines: !bench().look.uvLines }),
  ),
  show('light', 'Next light: room, even, lamp', 'shading relief flat unlit', nextLight),
  show('form', 'Next form: the cage, smoothed, rounded edges, relief raised', 'subdivide subdivision smooth bevel preview displacement', nextForm, noJob),
  show('table', 'UV table: open or close', 'values coordinates numbers list', () => bench().set({ table: !bench().table }), noJob),
  { id: 'none', label: 'Drop the tool, then the selection', words: 'deselect', changes: ['view', 'bench'], run: escape },
  show('frame', 'Bring the selection into view', 'zoom fit focus', () => bench().frame()),
  show('overlay', 'Next overlay', undefined, nextOverlay),
  show('grid', 'Test grid on or off', 'checker texture', toggleGrid),
  show(
    'pinned',
    'Pinned pictures: hide, or show',
    'reference photo image corner',
    togglePinned,
    () => noJob() ?? (usePinned.getState().pins.length > 0 ? null : 'no picture is pinned: pin one from the list at Images'),
  ),
  show(
    'picture',
    'Show the picture',
    'texture image',
    () => bench().set({ overlay: 'picture' }),
    () => noJob() ?? (overlaysNow(bench().summary).includes('picture') ? null : 'this part has no picture: drop one on a view'),
  ),
  show('show-density', 'Show density', 'texel density resolution px per unit', () => bench().set({ overlay: 'density' })),
  show(
    'show-grain',
    'Show grain',
    'direction angle flow',
    () => bench().set({ overlay: 'grain' }),
    () => noJob() ?? (overlaysNow(bench().summary).includes('grain') ? null : 'no grain is drawn yet'),
  ),
  show('show-stretch', 'Show stretch', 'distortion heat map', () => bench().set({ overlay: 'stretch' })),
  show('notches', 'Notches on and off', 'matching marks seam letters', () => bench().set({ notches: !bench().notches }), noJob),
  ...stations.map(({ name, label }) => show(`station-${name}`, `Station: ${label}`, undefined, () => bench().goTo(name))),
  show('station-next', 'Next station', undefined, () => step(1)),
  show('station-before', 'Station before', undefined, () => step(-1)),
  show('theme', 'Light or dark theme', 'night', () => {
    const { mode, setMode } = usePreferences.getState();
    setMode(mode === 'light' ? 'dark' : 'light');
  }),
  { ...show('find', 'Find a command', undefined, () => bench().set({ dialog: 'find' })), inFields: true },
  show('walk', 'First walk: cut, see it flat, pack, deliver', 'tutorial help introduction tour', () => bench().set({ walk: 0 })),
  {
    id: 'guide',
    label: 'Guide, at this station',
    words: 'help manual documentation',
    changes: ['outside'],
    run: () => void globalThis.open(`/guide#${chapters[bench().station] ?? bench().station}`, 'jig-peel-guide'),
  },
  show('keys', 'Keys: see and change them', 'shortcuts help preferences', () => bench().set({ dialog: 'keys' })),
];
