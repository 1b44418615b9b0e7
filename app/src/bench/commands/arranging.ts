import { run } from '../../worker/client.ts';
import { useHands } from '../hands/handsState.ts';
import { lookForWays, takeWay, useStraightening } from '../hands/straightening.ts';
import { takeWalked, walk } from '../hands/walking.ts';
import { bench, noJob, noSelection, operate, type Command } from './command.ts';
import type { ToolName } from '../../store/bench.ts';

const tool = (name: ToolName & ('move' | 'turn' | 'size' | 'push' | 'grain' | 'field'), label: string, words: string): Command => ({
  id: `tool-${name}`,
  label,
  words,
  changes: ['bench'],
  run: () => bench().set({ tool: bench().tool === name ? 'select' : name }),
});

/** What the transform operation goes by: how turns and sizes go round, what goes along. */
export function aroundNow(): { pivot: 'middle' | 'each' | [number, number]; radius?: number; way?: 'sheet' | 'island' } {
  const { pivot, soft } = useHands.getState();
  const height = bench().summary?.settings.height ?? 2048;
  return { pivot: typeof pivot === 'string' ? pivot : [pivot[0], pivot[1]], ...(soft.on ? { radius: soft.px / height, way: soft.way } : {}) };
}

/** Px of the sheet, to the right and up. */
function nudge(x: number, y: number): Promise<unknown> {
  const { width, height } = bench().summary!.settings;
  const { radius, way } = aroundNow();
  return run('transform', { move: [x / width, y / height], ...(radius ? { radius, way } : {}) });
}

const hasGrain = () => (bench().summary?.parts.find((part) => part.id === bench().summary?.activePart)?.grain ?? 0) > 0;

const isSheetBare = () =>
  bench().kind === 'parts' ? 'this is for islands, faces, edges and points' : bench().layout?.allUnplaced ? 'nothing has a place on the sheet yet' : noJob();

const walks = (
  [
    ['left', 'Walk to the neighbour on the left'],
    ['right', 'Walk to the neighbour on the right'],
    ['up', 'Walk to the neighbour above'],
    ['down', 'Walk to the neighbour below'],
    ['next', 'Walk to the next one'],
    ['before', 'Walk to the one before'],
  ] as const
).map(([way, label]): Command => ({
  id: `walk-${way}`,
  label,
  words: 'keyboard navigate island face edge point',
  changes: ['bench'],
  run: () => walk(way),
  blocked: isSheetBare,
}));

const arrows = [
  ['left', -1, 0],
  ['right', 1, 0],
  ['up', 0, 1],
  ['down', 0, -1],
] as const;

const turned = (id: string, label: string, words: string, params: { turn?: number; scale?: [number, number] }) =>
  operate('transform', { id, label, words, say: false, params: () => ({ ...params, ...aroundNow() }) });

/** Commands that move, turn and size what is selected on the sheet. */
export const arranging: Command[] = [
  ...walks,
  {
    id: 'take-walked',
    label: 'Select what the walk is on',
    words: 'keyboard space',
    inViews: true,
    changes: ['view', 'bench'],
    run: () => takeWalked(false),
    blocked: isSheetBare,
  },
  {
    id: 'add-walked',
    label: 'Add what the walk is on, or take it away',
    words: 'keyboard space',
    inViews: true,
    changes: ['view', 'bench'],
    run: () => takeWalked(true),
    blocked: isSheetBare,
  },
  tool('move', 'Move on the sheet', 'drag translate frame handles'),
  tool('turn', 'Turn on the sheet', 'rotate frame handles'),
  tool('size', 'Size on the sheet', 'scale frame handles'),
  tool('push', 'Push points with a brush on the sheet', 'grab smudge sculpt'),
  tool('grain', 'Draw the grain on the model', 'direction arrow flow wood'),
  tool('field', 'Draw fields of a picture on the sheet', 'atlas cell region rectangle'),
  operate('grain', {
    id: 'grain-clear',
    label: 'Forget the grain',
    params: () => ({ do: 'clear' }),
    blocked: () => noJob() ?? (hasGrain() ? null : 'no grain is drawn yet'),
  }),
  { ...operate('straighten'), changes: ['uvs', 'seams', 'bench'], run: () => (useStraightening.getState().ways ? takeWay() : lookForWays()) },
  operate('stack', { params: () => ({ which: 'selected' }) }),
  operate('unstack', { params: () => ({ which: 'selected' }) }),
  operate('copyLayout', { blocked: () => ((bench().summary?.parts.length ?? 0) < 2 ? 'there is no other part' : null) }),
  turned('quarter-left', 'Quarter turn left', 'rotate 90', { turn: 90 }),
  turned('quarter-right', 'Quarter turn right', 'rotate 90 clockwise', { turn: -90 }),
  turned('half-turn', 'Half turn', 'rotate 180', { turn: 180 }),
  turned('mirror-u', 'Mirror across u', 'flip horizontal', { scale: [-1, 1] }),
  turned('mirror-v', 'Mirror across v', 'flip vertical', { scale: [1, -1] }),
  ...arrows.flatMap(([way, x, y]) =>
    [1, 10].map((px): Command => ({
      id: `nudge-${way}${px > 1 ? '-10' : ''}`,
      label: `Move ${way} by ${px} px of the sheet`,
      words: 'nudge arrow',
      changes: ['uvs'],
      run: () => nudge(x * px, y * px),
      blocked: noSelection,
    })),
  ),
  {
    id: 'pivot-each',
    label: 'Turn and size islands each about its own middle, or all about one place',
    words: 'pivot individual origins',
    changes: ['bench'],
    run: () => useHands.getState().set({ pivot: useHands.getState().pivot === 'each' ? 'middle' : 'each' }),
  },
  {
    id: 'pivot-middle',
    label: 'Put the pivot back in the middle',
    words: 'reset origin',
    changes: ['bench'],
    run: () => useHands.getState().set({ pivot: 'middle' }),
  },
  {
    id: 'soft',
    label: 'Points beside go along in part: on or off',
    words: 'soft selection falloff proportional',
    changes: ['bench'],
    run: () => useHands.getState().setSoft({ on: !useHands.getState().soft.on }),
  },
];
