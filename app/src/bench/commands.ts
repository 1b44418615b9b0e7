import { problemKinds, type ParamsOf, type SelectionKind, type SelectWay } from '@jig-peel/core';
import { fillsSelection, islandsMeant, useBench, type BenchState, type Overlay, type StationName } from '../store/bench.ts';
import { usePreferences } from '../store/preferences.ts';
import { cancel, notify, redo, run, undo } from '../worker/client.ts';
import { deliverNow } from './deliver.ts';
import { dropHeld } from './tools/held.ts';
import { jigActions } from './jigActions.ts';
import { jigInHand, placeNow, useJigs } from './jigs.ts';

export interface Command {
  id: string;
  label: string;
  /** As shown, e.g. "Shift+X". */
  key?: string;
  /** For react-hotkeys-hook; `code` ones go by the physical key. */
  keys?: string[];
  byCode?: boolean;
  /** Works while a field has the focus; `settled`: where nothing in it is being typed. */
  inFields?: boolean | 'settled';
  /** Common words of the trade that find it. */
  words?: string;
  run(): void | Promise<void>;
  /** Why it has no effect now, or null. */
  blocked?(): string | null;
}

const bench = () => useBench.getState();
const noJob = () => (bench().summary ? null : 'no job is open');
const noSelection = () => noJob() ?? (bench().summary!.selection.ids.length > 0 ? null : 'select something first');
const isParts = () => bench().kind === 'parts';
/** The kind of elements that a click takes, as a parameter. */
function elementKind(): { kind?: SelectionKind } {
  const { kind } = bench();
  return kind === 'parts' ? {} : { kind };
}
/** Something to hide: chosen parts, or selected elements. */
const noChosen = () => noJob() ?? (isParts() ? (bench().summary!.selectedParts.length > 0 ? null : 'choose a part first') : noSelection());
const noParts = () => (isParts() ? 'this is for islands, faces, edges and points: choose one of these kinds' : null);
const noEdges = () => noJob() ?? (bench().summary!.selection.kind === 'edges' && bench().summary!.selection.ids.length > 0 ? null : 'select edges first');

export const stationKeys: Record<StationName, string> = { intake: '1', jigs: '2', seams: '3', pack: '5', deliver: '8' };

const goTo = (station: StationName, label: string): Command => ({
  id: `station-${station}`,
  label: `Station: ${label}`,
  key: `Shift+${stationKeys[station]}`,
  keys: [`shift+${stationKeys[station]}`],
  byCode: true,
  run: () => bench().goTo(station),
});

const stations: StationName[] = ['intake', 'jigs', 'seams', 'pack', 'deliver'];
const step = (by: number) => {
  const at = stations.indexOf(bench().station);
  bench().goTo(stations[Math.max(0, Math.min(stations.length - 1, at + by))]!);
};

/** The smaller of two selected islands travels to the larger; selected seams are made whole. */
async function joinSelected(): Promise<void> {
  const { summary, layout } = bench();
  if (!summary || !layout) return;
  const { kind, ids } = summary.selection;
  if (kind === 'edges') {
    await run('uncut', {}, true);
    return;
  }
  const [a, b] = [...ids].sort((x, y) => layout.islands[x]!.faces - layout.islands[y]!.faces);
  if (a !== undefined && b !== undefined) await run('join', { island: a, to: b }, true);
}

/** Something to do with the jig in hand. */
const jigCommand = (id: string, label: string, words?: string): Command => {
  const found = () => {
    const row = jigInHand();
    return row ? jigActions(row).find((one) => one.id === id) : undefined;
  };
  return {
    id: `jig-${id}`,
    label: `Jig in hand: ${label}`,
    words,
    run: () => {
      void found()?.act();
    },
    blocked: () => noJob() ?? (jigInHand() ? (found() ? null : 'the jig in hand is not in a state for this') : 'take a jig in hand first, at the station Jigs'),
  };
};
const placing = (way: 'draw' | 'surface', label: string): Command => ({
  id: `jig-${way}`,
  label,
  words: 'projection place',
  run: () => {
    bench().goTo('jigs');
    useJigs.setState({ placing: way });
  },
  blocked: noJob,
});

/** The mirror image, and how much of it is missing. */
async function selectMirror(): Promise<void> {
  const outcome = await run('selectBy', { way: 'mirror', ...elementKind(), ...limitsOf('mirror') });
  const unmatched = outcome.ok ? (outcome.report.unmatched ?? 0) : 0;
  if (unmatched > 0) bench().notice(`${unmatched} of the selected have no mirror image across ${bench().limits.mirrorAxis}.`, 'warning');
}

/** Faces of what is selected now, whatever its kind. */
export function selectedFaces(): number[] {
  const { summary, layout, geometry } = bench();
  if (!summary || !layout || !geometry || summary.selection.part !== geometry.part) return [];
  const { kind, ids } = summary.selection;
  if (kind === 'faces') return [...ids];
  const wanted = new Set(ids);
  const has = (f: number) => {
    if (kind === 'islands') return wanted.has(layout.faceIsland[f]!);
    for (let c = geometry.faceStart[f]!; c < geometry.faceStart[f + 1]!; c++)
      if (wanted.has(kind === 'points' ? geometry.corners[c]! : geometry.cornerEdge[c]!)) return true;
    return false;
  };
  return Array.from({ length: geometry.faces }, (_, f) => f).filter(has);
}

/** The station's main action. */
async function main(): Promise<void> {
  const { station, layout, summary } = bench();
  if (!summary) return;
  const { settings } = summary;
  if (station === 'pack') {
    await packNow();
    return;
  }
  if (station === 'jigs') {
    await placeNow();
    return;
  }
  if (station === 'deliver') {
    await deliverNow();
    return;
  }
  if (layout?.allUnplaced) await run('firstLayout', { method: settings.method }, true);
  else await unwrapNow();
}

export async function unwrapNow(): Promise<void> {
  const { summary, layout } = bench();
  if (!summary || !layout) return;
  const { selection, settings } = summary;
  const chosen = selection.kind === 'islands' && selection.ids.length > 0 ? [...selection.ids] : 'all';
  await run('unwrap', { islands: chosen, method: settings.method }, true);
}

export async function packNow(): Promise<void> {
  const settings = bench().summary?.settings;
  if (!settings) return;
  const { width, height, margin, turn, evenDensity } = settings;
  await run('pack', { size: width === height ? String(width) : `${width}x${height}`, margin, turn, evenDensity, parts: 'active' }, true);
}

const by = (way: SelectWay, label: string, more: Partial<Command> & { params?: Partial<ParamsOf<'selectBy'>> } = {}): Command => {
  const { params, ...rest } = more;
  return {
    id: `select-${way}`,
    label,
    run: () => void run('selectBy', { way, ...(problems.has(way) ? {} : elementKind()), ...limitsOf(way), ...params }),
    ...rest,
    blocked: () => (partWays.has(way) ? null : noParts()) ?? (rest.blocked ?? noSelection)(),
  };
};
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
/** Ways that make sense of whole parts. */
const partWays = new Set<SelectWay>(['all', 'invert']);
const problems = new Set<SelectWay>(problemKinds);

/** The same for whole parts where these are what a click takes. */
function orParts(way: 'all' | 'invert', chosen: (part: string) => boolean): Pick<Command, 'run'> {
  return {
    run: () =>
      void (isParts()
        ? run('selectParts', {
            parts: bench()
              .summary!.parts.filter((part) => !part.away && chosen(part.id))
              .map((part) => part.id),
          })
        : run('selectBy', { way, ...elementKind() })),
  };
}

/** Commands that choose by a rule, in the order of the selection menu. */
const selecting: Command[] = [
  by('all', 'Select all', { key: 'Ctrl+A', keys: ['mod+a'], blocked: noJob, ...orParts('all', () => true) }),
  by('invert', 'Invert the selection', {
    key: 'Ctrl+I',
    keys: ['mod+i'],
    blocked: noJob,
    ...orParts('invert', (id) => !bench().summary!.selectedParts.includes(id)),
  }),
  by('grow', 'Grow the selection', { key: '=', keys: ['equal', 'numpadadd'], byCode: true, words: 'expand more' }),
  by('shrink', 'Shrink the selection', { key: '-', keys: ['minus', 'numpadsubtract'], byCode: true, words: 'less contract' }),
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
  by('mirror', 'Select the mirror image', { words: 'symmetry', run: () => void selectMirror() }),
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

/** Every command of the bench. The command search, the keys and the buttons all read this list. */
export const commands: Command[] = [
  {
    id: 'main',
    label: 'Main action of the station',
    key: 'Ctrl+Enter',
    keys: ['mod+enter'],
    inFields: true,
    words: 'unwrap pack deliver layout export go',
    run: main,
    blocked: noJob,
  },
  { id: 'cut', label: 'Cut the selected edges', key: 'X', keys: ['x'], words: 'seam split rip mark', run: () => void run('cut', {}), blocked: noEdges },
  {
    id: 'uncut',
    label: 'Uncut the selected edges',
    key: 'Shift+X',
    keys: ['shift+x'],
    words: 'sew stitch weld heal mend',
    run: () => void run('uncut', {}),
    blocked: noEdges,
  },
  {
    id: 'pen',
    label: 'Seam pen',
    key: 'E',
    keys: ['e'],
    words: 'draw seam knife path',
    run: () => bench().set({ tool: bench().tool === 'pen' ? 'select' : 'pen' }),
  },
  { id: 'unwrap', label: 'Unwrap', words: 'unfold flatten peel shell', run: unwrapNow, blocked: noJob },
  {
    id: 'first',
    label: 'Make a first layout',
    words: 'auto unwrap smart',
    run: () => void run('firstLayout', { method: bench().summary!.settings.method }, true),
    blocked: noJob,
  },
  { id: 'open', label: 'Open what cannot lie flat', words: 'cut closed handle', run: () => void run('open', {}, true), blocked: noJob },
  {
    id: 'live',
    label: 'Unwrap as I cut: on or off',
    words: 'live automatic',
    run: () => void run('settings', { live: !bench().summary!.settings.live }),
    blocked: noJob,
  },
  { id: 'pack', label: 'Pack', words: 'arrange nest layout shells', run: packNow, blocked: noJob },
  {
    id: 'density',
    label: 'Even out density',
    words: 'texel density scale',
    run: () => void run('density', { even: true, parts: 'active' }, true),
    blocked: noJob,
  },
  {
    id: 'undo',
    label: 'Undo',
    key: 'Ctrl+Z',
    keys: ['mod+z'],
    inFields: 'settled',
    run: undo,
    blocked: () => noJob() ?? (bench().summary!.historyIndex > 0 ? null : 'there is nothing to undo'),
  },
  {
    id: 'redo',
    label: 'Redo',
    key: 'Ctrl+Shift+Z',
    keys: ['mod+shift+z', 'mod+y'],
    inFields: 'settled',
    run: redo,
    blocked: () => noJob() ?? (bench().summary!.historyIndex + 1 < bench().summary!.history.length ? null : 'there is nothing to redo'),
  },
  { id: 'parts', label: 'Select parts', key: '1', keys: ['1'], byCode: true, words: 'object mesh', run: () => bench().set({ kind: 'parts', tool: 'select' }) },
  { id: 'islands', label: 'Select islands', key: '2', keys: ['2'], byCode: true, words: 'shell', run: () => bench().set({ kind: 'islands', tool: 'select' }) },
  { id: 'faces', label: 'Select faces', key: '3', keys: ['3'], byCode: true, words: 'polygon', run: () => bench().set({ kind: 'faces', tool: 'select' }) },
  { id: 'edges', label: 'Select edges', key: '4', keys: ['4'], byCode: true, run: () => bench().set({ kind: 'edges', tool: 'select' }) },
  {
    id: 'points',
    label: 'Select points',
    key: '5',
    keys: ['5'],
    byCode: true,
    words: 'vertex vertices',
    run: () => bench().set({ kind: 'points', tool: 'select' }),
  },
  ...selecting,
  { id: 'box', label: 'Drag draws a box', words: 'marquee rectangle', run: () => bench().set({ shape: 'box', tool: 'select' }) },
  { id: 'lasso', label: 'Drag draws a lasso', words: 'freehand', run: () => bench().set({ shape: 'lasso', tool: 'select' }) },
  { id: 'brush', label: 'Drag paints the selection', words: 'brush', run: () => bench().set({ shape: 'brush', tool: 'select' }) },
  {
    id: 'brush-less',
    label: 'Smaller brush',
    key: '[',
    keys: ['bracketleft'],
    byCode: true,
    run: () => bench().set({ brush: Math.max(4, Math.round(bench().brush / 1.25)) }),
  },
  {
    id: 'brush-more',
    label: 'Larger brush',
    key: ']',
    keys: ['bracketright'],
    byCode: true,
    run: () => bench().set({ brush: Math.min(200, Math.round(bench().brush * 1.25)) }),
  },
  {
    id: 'through',
    label: 'Select through, or only what is in sight',
    words: 'visible backface hidden x-ray',
    run: () => bench().set({ through: !bench().through }),
  },
  {
    id: 'hide',
    label: 'Hide the selected',
    key: 'H',
    keys: ['h'],
    run: () => void (isParts() ? run('hideParts', { what: 'hide', parts: [...bench().summary!.selectedParts] }) : run('hide', { what: 'selected' })),
    blocked: noChosen,
  },
  {
    id: 'only',
    label: 'Show only the selected',
    key: 'Shift+H',
    keys: ['shift+h'],
    words: 'isolate solo',
    run: () => void (isParts() ? run('hideParts', { what: 'only', parts: [...bench().summary!.selectedParts] }) : run('hide', { what: 'others' })),
    blocked: noChosen,
  },
  {
    id: 'show',
    label: 'Show all',
    key: 'A',
    keys: ['a'],
    words: 'unhide',
    run: showAll,
    blocked: () => noJob() ?? (bench().summary!.parts.some((p) => p.away || (p.id === bench().summary!.activePart && p.hidden)) ? null : 'nothing is hidden'),
  },
  {
    id: 'done',
    label: 'Mark the selected as done',
    words: 'finished complete check off',
    run: () => void run('markDone', { faces: selectedFaces() }, true),
    blocked: () => noParts() ?? noSelection(),
  },
  {
    id: 'undone',
    label: 'Mark the selected as still to do',
    words: 'unfinished reopen',
    run: () => void run('markDone', { faces: selectedFaces(), done: false }, true),
    blocked: () => noParts() ?? noSelection() ?? (activePart()?.done ? null : 'nothing is marked as done'),
  },
  {
    id: 'left',
    label: 'Show only what is left to do',
    words: 'todo remaining unfinished',
    run: () => void run('hide', { what: 'done' }),
    blocked: () => noJob() ?? (activePart()?.done ? null : 'nothing is marked as done'),
  },
  {
    id: 'outline',
    label: 'Mark the selection by its outline alone, or filled',
    key: 'W',
    keys: ['w'],
    words: 'highlight',
    run: () => bench().setLook({ marking: fillsSelection(bench()) ? 'outline' : 'fill' }),
  },
  {
    id: 'far',
    label: 'Far side of the model in a corner: on or off',
    key: 'B',
    keys: ['b'],
    words: 'second view behind back inset',
    run: () => bench().setLook({ farSide: !bench().look.farSide }),
  },
  {
    id: 'context',
    label: 'Other parts: show faintly, or not',
    words: 'ghost reference context',
    run: () => bench().setLook({ context: !bench().look.context }),
    blocked: () => noJob() ?? (bench().summary!.parts.length > 1 ? null : 'the job has one part only'),
  },
  {
    id: 'light',
    label: 'Next light: room, even, lamp',
    words: 'shading relief flat unlit',
    run: () => {
      const lights = ['room', 'even', 'lamp'] as const;
      bench().setLook({ light: lights[(lights.indexOf(bench().look.light) + 1) % 3]! });
    },
  },
  {
    id: 'table',
    label: 'UV table: open or close',
    words: 'values coordinates numbers list',
    run: () => bench().set({ table: !bench().table }),
    blocked: noJob,
  },
  { id: 'none', label: 'Drop the tool, then the selection', key: 'Esc', keys: ['escape'], words: 'deselect', run: escape },
  { id: 'frame', label: 'Bring the selection into view', key: 'F', keys: ['f'], words: 'zoom fit focus', run: () => bench().frame() },
  { id: 'overlay', label: 'Next overlay', key: 'O', keys: ['o'], run: nextOverlay },
  {
    id: 'grid',
    label: 'Test grid on or off',
    key: 'G',
    keys: ['g'],
    words: 'checker texture',
    run: toggleGrid,
  },
  {
    id: 'picture',
    label: 'Show the picture',
    words: 'texture image',
    run: () => bench().set({ overlay: 'picture' }),
    blocked: () => noJob() ?? (overlaysNow(bench().summary).includes('picture') ? null : 'this part has no picture: drop one on a view'),
  },
  { id: 'show-density', label: 'Show density', words: 'texel density resolution px per unit', run: () => bench().set({ overlay: 'density' }) },
  { id: 'show-stretch', label: 'Show stretch', words: 'distortion heat map', run: () => bench().set({ overlay: 'stretch' }) },
  goTo('intake', 'Intake'),
  goTo('jigs', 'Jigs'),
  goTo('seams', 'Seams'),
  goTo('pack', 'Pack'),
  goTo('deliver', 'Deliver'),
  {
    id: 'join',
    label: 'Join two islands',
    key: 'J',
    keys: ['j'],
    words: 'sew stitch weld shell',
    run: joinSelected,
    blocked: () =>
      noJob() ??
      (bench().summary!.selection.kind === 'islands' && bench().summary!.selection.ids.length === 2
        ? null
        : bench().summary!.selection.kind === 'edges' && bench().summary!.selection.ids.length > 0
          ? null
          : 'select two islands, or seams between them'),
  },
  {
    id: 'pin',
    label: 'Pin on or off',
    key: 'K',
    keys: ['k'],
    words: 'keep lock fix anchor',
    run: () => void run('pin', { to: 'toggle', islands: islandsMeant(bench()) }, true),
    blocked: noSelection,
  },
  { id: 'unpin', label: 'Take all pins off', words: 'unlock', run: () => void run('pin', { to: 'none' }, true), blocked: noJob },
  { id: 'relax', label: 'Relax', words: 'smooth optimise minimise stretch', run: () => void run('relax', {}, true), blocked: noJob },
  {
    id: 'relax-brush',
    label: 'Relaxing brush',
    words: 'smooth tool',
    run: () => bench().set({ tool: bench().tool === 'relax' ? 'select' : 'relax' }),
  },
  {
    id: 'relax-faces',
    label: 'Relax only the selected faces',
    words: 'smooth brush',
    run: () => void run('relax', { faces: 'selected' }, true),
    blocked: noSelection,
  },
  {
    id: 'notches',
    label: 'Notches on and off',
    words: 'matching marks seam letters',
    run: () => bench().set({ notches: !bench().notches }),
    blocked: noJob,
  },
  {
    id: 'keep-whole',
    label: 'Keep the selected faces whole',
    words: 'no seams protect',
    run: () => void run('markSeams', { mark: 'keepWhole' }, true),
    blocked: noSelection,
  },
  { id: 'may-go', label: 'Seams may go on the selected faces', run: () => void run('markSeams', { mark: 'mayGo' }, true), blocked: noSelection },
  {
    id: 'clear-marks',
    label: 'Take the marks for seams off the selected faces',
    run: () => void run('markSeams', { mark: 'clear' }, true),
    blocked: noSelection,
  },
  {
    id: 'jig-place',
    label: 'Place a jig on the selected faces',
    words: 'projection planar cylindrical spherical box',
    run: () => {
      bench().goTo('jigs');
      return placeNow();
    },
    blocked: noJob,
  },
  placing('draw', 'Draw a jig over the model'),
  placing('surface', 'Place a jig on the surface'),
  jigCommand('write', 'write to UVs', 'bake freeze projection'),
  jigCommand('off', 'switch off'),
  jigCommand('live', 'make live'),
  jigCommand('give', 'give it the selected faces'),
  jigCommand('take', 'take the selected faces from it'),
  jigCommand('copy', 'copy to the other parts'),
  jigCommand('copy-groups', 'copy to face groups of the same name'),
  jigCommand('remove', 'remove, UVs stay', 'delete'),
  { id: 'station-next', label: 'Next station', key: 'Page Down', keys: ['pagedown'], run: () => step(1) },
  { id: 'station-before', label: 'Station before', key: 'Page Up', keys: ['pageup'], run: () => step(-1) },
  {
    id: 'archive',
    label: 'Save a job archive',
    key: 'Ctrl+Shift+S',
    keys: ['mod+shift+s'],
    words: 'export backup',
    run: () => deliverNow({ obj: false, glb: false, ply: false, guidePng: false, guideSvg: false, archive: true }),
    blocked: noJob,
  },
  {
    id: 'cancel',
    label: 'Cancel what is running',
    words: 'stop abort',
    run: cancel,
    blocked: () => (bench().progress ? null : 'nothing is running'),
  },
  {
    id: 'theme',
    label: 'Light or dark theme',
    words: 'night',
    run: () => usePreferences.getState().setMode(usePreferences.getState().mode === 'light' ? 'dark' : 'light'),
  },
  { id: 'find', label: 'Find a command', key: 'Ctrl+K', keys: ['mod+k'], inFields: true, run: () => bench().set({ dialog: 'find' }) },
  {
    id: 'keys',
    label: 'Keys',
    key: '?',
    keys: ['shift+slash', '?'],
    byCode: true,
    words: 'shortcuts help',
    run: () => bench().set({ dialog: 'keys' }),
  },
];

const activePart = () => bench().summary?.parts.find((part) => part.id === bench().summary!.activePart) ?? null;

async function showAll(): Promise<void> {
  if (activePart()?.hidden) await run('hide', { what: 'none' });
  if (bench().summary!.parts.some((part) => part.away)) await run('hideParts', { what: 'all' });
}

function escape() {
  // a stroke or drag under way goes first, and nothing with it
  if (dropHeld()) return;
  const { tool, summary, set } = bench();
  if (tool !== 'select') set({ tool: 'select' });
  else if (isParts() && summary && summary.selectedParts.length > 0) void run('selectParts', { parts: [] });
  else if (summary && summary.selection.ids.length > 0) void run('select', { kind: summary.selection.kind, ids: [] });
}

/** Overlays that show something now: the picture only where the part has one. */
export function overlaysNow(summary: BenchState['summary']): Overlay[] {
  const image = summary?.parts.find((part) => part.id === summary.activePart)?.imageId ?? null;
  return image === null ? ['grid', 'islands', 'stretch', 'density', 'plain'] : ['grid', 'picture', 'islands', 'stretch', 'density', 'plain'];
}

function nextOverlay() {
  const list = overlaysNow(bench().summary);
  bench().set({ overlay: list[(list.indexOf(bench().overlay) + 1) % list.length]! });
}

/** The test grid on, or what was shown before it. */
function toggleGrid() {
  const { overlay, beforeGrid, summary, set } = bench();
  if (overlay !== 'grid') set({ overlay: 'grid', beforeGrid: overlay });
  else set({ overlay: overlaysNow(summary).includes(beforeGrid) && beforeGrid !== 'grid' ? beforeGrid : 'plain' });
}

/** Runs a command by its id; one that has no effect now says why. */
export function runCommand(id: string): void {
  const command = commands.find((c) => c.id === id);
  if (!command) return;
  const why = command.blocked?.() ?? null;
  if (why) notify({ ok: false, sentence: `${command.label}: ${why}.`, code: 'nothing-to-do' }, true);
  else void command.run();
}
