import { redo, run, undo, cancel } from '../../worker/client.ts';
import { packNow, usePacking } from '../packing.ts';
import { deliverNow } from '../deliver.ts';
import { nothing } from '../../session/deliverKinds.ts';
import { placeNow } from '../jigs.ts';
import { activePart, bench, noJob, noParts, noSelection, operate, type Command } from './command.ts';
import { lookForWays, takeWay, useStraightening } from '../hands/straightening.ts';

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

export async function unwrapNow(): Promise<void> {
  const { summary, layout } = bench();
  if (!summary || !layout) return;
  const { selection } = summary;
  const others = selection.kind === 'islands' ? (selection.also ?? []) : [];
  const own = selection.kind === 'islands' && selection.ids.length > 0 ? [...selection.ids] : null;
  const also = others.map(({ part, ids }) => ({ part, islands: [...ids] }));
  // islands of other parts alone: the first of these parts takes the place of the one at work
  if (!own && also[0]) await run('unwrap', { part: also[0].part, islands: also[0].islands, also: also.slice(1) }, true);
  else await run('unwrap', { islands: own ?? 'all', also }, true);
}

/** The station's main action. */
async function main(): Promise<void> {
  const { station, layout, summary } = bench();
  if (!summary) return;
  if (station === 'pack') await packNow();
  else if (station === 'jigs') await placeNow();
  else if (station === 'shape') await (useStraightening.getState().ways ? takeWay() : lookForWays());
  else if (station === 'deliver') await deliverNow();
  else if (layout?.allUnplaced) await run('firstLayout', {}, true);
  else await unwrapNow();
}

const noDone = () => (activePart()?.done ? null : 'nothing is marked as done');

export const editing: Command[] = [
  {
    id: 'main',
    label: 'Main action of the station',
    inFields: true,
    words: 'unwrap pack deliver layout export go',
    changes: ['uvs', 'seams', 'marks', 'jigs', 'settings', 'outside'],
    run: main,
    blocked: noJob,
  },
  operate('cut', { say: false }),
  operate('uncut', { say: false }),
  {
    id: 'pen',
    label: 'Seam pen',
    words: 'draw seam knife path',
    changes: ['bench'],
    run: () => bench().set({ tool: bench().tool === 'pen' ? 'select' : 'pen' }),
  },
  { ...operate('unwrap'), run: unwrapNow },
  operate('firstLayout', { id: 'first' }),
  operate('open'),
  operate('settings', {
    id: 'live',
    label: 'Unwrap as I cut: on or off',
    words: 'live automatic',
    say: false,
    params: () => ({ live: !bench().summary!.settings.live }),
  }),
  { ...operate('pack'), run: packNow },
  {
    id: 'pack-polygon',
    label: 'Draw a polygon to pack into',
    words: 'area region lasso',
    changes: ['bench'],
    run: () => {
      bench().goTo('pack');
      usePacking.setState({ area: null, polygon: [], isDrawn: true });
      bench().set({ tool: 'area' });
    },
    blocked: noJob,
  },
  operate('density', { params: () => ({ even: true, parts: 'sheet' }) }),
  {
    id: 'undo',
    label: 'Undo',
    inFields: 'settled',
    changes: ['history'],
    run: undo,
    blocked: () => noJob() ?? (bench().summary!.historyIndex > 0 ? null : 'there is nothing to undo'),
  },
  {
    id: 'redo',
    label: 'Redo',
    inFields: 'settled',
    changes: ['history'],
    run: redo,
    blocked: () => noJob() ?? (bench().summary!.historyIndex + 1 < bench().summary!.history.length ? null : 'there is nothing to redo'),
  },
  { ...operate('join'), run: joinSelected },
  operate('pin', { params: () => ({ to: 'toggle' }) }),
  operate('pin', { id: 'unpin', label: 'Take all pins off', words: 'unlock', params: () => ({ to: 'none' }), blocked: noJob }),
  operate('relax'),
  {
    id: 'relax-brush',
    label: 'Relaxing brush',
    words: 'smooth tool',
    changes: ['bench'],
    run: () => bench().set({ tool: bench().tool === 'relax' ? 'select' : 'relax' }),
  },
  operate('relax', {
    id: 'relax-faces',
    label: 'Relax only the selected faces',
    words: 'smooth brush',
    params: () => ({ faces: 'selected' }),
    blocked: noSelection,
  }),
  operate('markSeams', {
    id: 'keep-whole',
    label: 'Keep the selected faces whole',
    words: 'no seams protect',
    params: () => ({ mark: 'keepWhole' }),
  }),
  operate('markSeams', { id: 'may-go', label: 'Seams may go on the selected faces', words: 'allow', params: () => ({ mark: 'mayGo' }) }),
  operate('markSeams', { id: 'looked-at', label: 'The selected faces are looked at', params: () => ({ mark: 'lookedAt' }) }),
  operate('markSeams', {
    id: 'clear-marks',
    label: 'Take the marks for seams off the selected faces',
    words: 'wishes',
    params: () => ({ mark: 'clear' }),
  }),
  operate('keepVersion', { id: 'keep-version', params: () => ({ time: Date.now() }) }),
  operate('markDone', {
    id: 'done',
    label: 'Mark the selected as done',
    blocked: () => noParts() ?? noSelection(),
  }),
  operate('markDone', {
    id: 'undone',
    label: 'Mark the selected as still to do',
    words: 'unfinished reopen',
    params: () => ({ done: false }),
    blocked: () => noParts() ?? noSelection() ?? noDone(),
  }),
  {
    id: 'archive',
    label: 'Save a job archive',
    words: 'export backup',
    changes: ['outside'],
    run: () => deliverNow({ ...nothing, archive: true }),
    blocked: noJob,
  },
  {
    id: 'cancel',
    label: 'Cancel what is running',
    words: 'stop abort',
    changes: ['bench'],
    run: cancel,
    blocked: () => (bench().progress ? null : 'nothing is running'),
  },
];
