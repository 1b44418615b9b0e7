import 'fake-indexeddb/auto';
import { encode } from 'fast-png';
import { afterAll, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { placeJig, type Job } from '@jig-peel/core';
import type { History, OperationName, ParamsOf } from '@jig-peel/core';
import { changesBetween, leaveUnmeasured, openBench, type Bench } from '../../session/testing.ts';
import { useBench, type BenchState, type Kind } from '../../store/bench.ts';
import { dropWays } from '../hands/straightening.ts';
import { useWalking } from '../hands/walking.ts';
import { useHands } from '../hands/handsState.ts';
import { usePreferences } from '../../store/preferences.ts';
import { attachSession } from '../../worker/client.ts';
import { useJigs } from '../jigs.ts';
import { pinPicture, usePinned } from '../pinned.ts';
import { commandOf, commands, runCommand } from './index.ts';

/* Every command on a session in this thread: it changes what it says, nothing else, and something. */

vi.mock('../deliver.ts', () => ({ deliverNow: () => Promise.resolve(void delivered++) }));
let delivered = 0;
// a page that is opened beside the bench counts like something handed over
vi.stubGlobal('open', () => void delivered++);

let one: Bench;
const job = () => historyNow().present;

async function run<N extends OperationName>(name: N, params: ParamsOf<N>): Promise<void> {
  const outcome = await one.session.run(name, params, true);
  if (!outcome.ok) throw new Error(`${name}: ${outcome.sentence}`);
}
const allFaces = (part = job().parts[0]!) => Array.from({ length: part.mesh.faceStart.length - 1 }, (_, f) => f);

/** A job with two parts, a layout of several islands, an image, pins, hidden and done faces, and a jig in hand. */
async function fullJob(): Promise<void> {
  await one.session.begin('walk', 'box');
  await run('settings', { effort: 0 });
  await run('makeForm', { kind: 'cylinder' });
  await run('activatePart', { part: job().parts[0]!.id });
  await run('seams', { by: 'crease', angle: 40 });
  await run('addImages', { images: [{ name: 'a.png', bytes: encode({ width: 2, height: 2, data: new Uint8Array(16).fill(90), channels: 4 }) }], show: true });
  await one.session.idle();
}

/** What a command may need that a plain selection of faces does not give. */
const preparations: Record<string, () => Promise<void>> = {
  faces: () => run('select', { kind: 'faces', ids: [0, 1] }),
  edges: () => run('select', { kind: 'edges', ids: [0, 1] }),
  'uncut seams': async () => {
    await run('selectBy', { way: 'seams', kind: 'edges' });
  },
  'two islands': () => run('select', { kind: 'islands', ids: [0, 1] }),
  hidden: async () => {
    await run('select', { kind: 'faces', ids: [0, 1] });
    await run('hide', { what: 'selected' });
  },
  done: async () => {
    await run('markDone', { faces: [0, 1] });
    await run('select', { kind: 'faces', ids: [0, 1] });
  },
  undone: async () => {
    await run('renameJob', { name: 'other' });
    await one.session.undo();
  },
  'live jig': async () => {
    const faces = allFaces();
    await run('select', { kind: 'faces', ids: [0] });
    await run('addJigs', { items: [{ faces: faces.slice(1, 3), jig: placeJig(job().parts[0]!.mesh, faces.slice(1, 3), 'planar', 'auto') }] });
    useJigs.setState({ chosen: job().jigs!.at(-1)!.id });
  },
  'pinned picture': () => Promise.resolve(pinPicture(job().images[0]!.id)),
  'written jig': async () => {
    await preparations['live jig']!();
    await run('setJigState', { ids: [job().jigs!.at(-1)!.id], to: 'written' });
  },
};

/** For commands that have no effect on plain faces: what to prepare. */
const needs: Record<string, keyof typeof preparations> = {
  uncut: 'uncut seams',
  show: 'hidden',
  undone: 'done',
  left: 'done',
  redo: 'undone',
  'select-border': 'faces',
  'clear-marks': 'done',
  unpin: 'faces',
  ...Object.fromEntries(['write', 'off', 'give', 'take', 'copy', 'copy-groups', 'remove'].map((id) => [`jig-${id}`, 'live jig'])),
  'jig-live': 'written jig',
  pinned: 'pinned picture',
};

/** Of the bench, what commands change by hand. */
const own = (s: BenchState) => ({
  station: s.station,
  overlay: s.overlay,
  kind: s.kind,
  tool: s.tool,
  shape: s.shape,
  through: s.through,
  brush: s.brush,
  notches: s.notches,
  filled: s.filled,
  look: s.look,
  table: s.table,
  dialog: s.dialog,
  walk: s.walk,
  frameAsked: s.frameAsked,
  placing: useJigs.getState().placing,
  mode: usePreferences.getState().mode,
  pivot: useHands.getState().pivot,
  soft: useHands.getState().soft.on,
  progress: s.progress,
  walked: useWalking.getState().said,
  pinned: usePinned.getState().isHidden,
});

/** The step to go back to before each command. */
let base = 0;
const historyNow = () => (one.session as unknown as { history: History }).history;

beforeAll(async () => {
  one = openBench();
  leaveUnmeasured(one.session);
  attachSession(one.session);
  const told = one.told;
  told.push = (...events) => {
    for (const event of events) useBench.getState().receive(event);
    return Array.prototype.push.apply(told, events);
  };
  await fullJob();
  base = historyNow().index;
}, 60_000);
beforeEach(async () => {
  while (historyNow().index > base) await one.session.undo();
  useBench.getState().set({ station: 'seams', tool: 'select', dialog: null, overlay: 'stretch', table: false });
  useJigs.setState({ placing: null, chosen: null });
});
afterAll(() => one.session.close());

/** Runs a command as a person would, once it is prepared, and says what came of it. */
async function walk(id: string): Promise<{ before: Job; after: Job; bench: string[]; notices: number }> {
  const kinds: Record<string, Kind> = { cut: 'edges', uncut: 'edges', join: 'islands' };
  await preparations[needs[id] ?? 'faces']!();
  // what needs another selection says so
  for (const other of needs[id] ? [] : ['edges', 'two islands']) if (commandOf(id).blocked?.()?.startsWith('select ')) await preparations[other]!();
  // from another choice than the one that it makes
  dropWays();
  useHands.getState().set({ pivot: id === 'pivot-middle' ? 'each' : 'middle' });
  useBench.getState().set({ overlay: id === 'show-stretch' ? 'grid' : 'stretch' });
  useBench.getState().set({ kind: kinds[id] ?? (id === 'faces' ? 'edges' : 'faces'), shape: id === 'lasso' ? 'box' : 'lasso' });
  if (id === 'cancel') useBench.getState().receive({ kind: 'progress', progress: { share: 0.5, text: 'Working' } });
  useWalking.setState({ at: id.endsWith('-walked') ? { id: 7, u: 0, v: 0 } : null, said: '' });
  if (id === 'unpin') await run('pin', { to: 'on' });
  if (id === 'clear-marks') await run('markSeams', { mark: 'keepWhole' });
  await one.session.idle();
  const state = useBench.getState();
  const [before, bench, notices, began] = [job(), own(state), state.notices.at(-1)?.id ?? 0, delivered];
  // nothing runs that could be cancelled: the session has to be asked
  const cancelled = vi.spyOn(one.session, 'cancel');
  runCommand(id);
  if (id === 'cancel') {
    expect(cancelled).toHaveBeenCalledOnce();
    useBench.getState().receive({ kind: 'progress', progress: null });
  }
  cancelled.mockRestore();
  const changed = () => {
    const now = own(useBench.getState());
    return Object.keys(now).filter((key) => JSON.stringify(now[key as keyof typeof now]) !== JSON.stringify(bench[key as keyof typeof now]));
  };
  // only so many notices are kept: they are told apart by their numbers
  const newest = () => useBench.getState().notices.at(-1)?.id ?? 0;
  const came = () => job() !== before || changed().length > 0 || newest() > notices || delivered > began;
  // a busy machine may take its time before a command reaches the session; then a few turns more for what follows it
  const until = Date.now() + 10_000;
  for (let k = 0; k < 4 || (!came() && Date.now() < until); k++) {
    await new Promise((next) => setTimeout(next, 5));
    await one.session.idle();
  }
  return { before, after: job(), bench: changed(), notices: newest() - notices };
}

describe('each command', () => {
  it.each(commands.map(({ id }) => id))('%s changes what it says, and something', { timeout: 30_000 }, async (id) => {
    const command = commandOf(id);
    const began = delivered;
    const { before, after, bench, notices } = await walk(id);
    const stated = new Set<string>(command.changes);
    if (!stated.has('history')) for (const kind of changesBetween(before, after)) expect(stated, `changes ${kind}`).toContain(kind);
    // the job tells the bench what to show: a selection its kind, a picture its overlay
    const byJob = before === after ? [] : ['kind', 'overlay', 'frameAsked'];
    if (!stated.has('bench')) expect(bench.filter((key) => !byJob.includes(key))).toEqual([]);
    expect(before !== after || bench.length > 0 || notices > 0 || delivered > began, 'nothing came of it').toBe(true);
  });

  it('says why where it has no effect', async () => {
    await run('select', { kind: 'edges', ids: [] });
    await one.session.idle();
    // only so many are kept
    useBench.setState({ notices: [] });
    runCommand('cut');
    expect(useBench.getState().notices.at(-1)!.text).toBe('Cut the selected edges: select edges first.');
    expect(useBench.getState().notices.length).toBe(1);
  });
});
