import * as Comlink from 'comlink';
import { useBench } from '../store/bench.ts';
import { isLowPower } from '../lowPower.ts';
import { whenGone } from './alive.ts';
import type { CoreApi } from './coreWorker.ts';
import { CancelBoard } from '../session/pool/cancelBoard.ts';
import type { Outcome, RefusalCode, Sent, UvPreview } from '../session/messages.ts';
import type { OperationName, ParamsOf, ReportOf } from '@jig-peel/core';

interface Core {
  /** Null where the session is in this thread, as in tests. */
  worker: Worker | null;
  api: Comlink.Remote<CoreApi>;
}

let core: Core | null = null;
/** Cancelling is seen by loops that take no message. */
const board = new CancelBoard();
/** Questions that have not been answered: they are refused when the worker ends. */
const waiting = new Set<(error: Error) => void>();
/** When the worker ended, ms. */
let ends: number[] = [];
/** So often within a minute is too often to go on. */
const mostEnds = 3;

const endedWords =
  'The part of the app that computes was ended by the browser, probably for lack of memory. The job was opened again from what is kept; the step that was under way was not done.';

/** The core worker, started once and started again when it ends; what it tells goes into the store. */
export function coreApi(): Comlink.Remote<CoreApi> {
  core ??= start();
  return core.api;
}

function start(): Core {
  const worker = new Worker(new URL('./coreWorker.ts', import.meta.url), { type: 'module', name: 'core' });
  const remote = Comlink.wrap<CoreApi>(worker);
  void remote.listen(
    Comlink.proxy((event) => useBench.getState().receive(event)),
    board.buffer,
    !isLowPower(),
  );
  const mine: Core = { worker, api: answering(remote) };
  void whenGone(worker, remote).then(() => core === mine && again(mine));
  return mine;
}

/** The same, each question refused when the worker ends before it has answered. */
function answering(remote: Comlink.Remote<CoreApi>): Comlink.Remote<CoreApi> {
  return new Proxy(remote, {
    get(target, name) {
      const method = Reflect.get(target, name) as unknown;
      if (typeof method !== 'function' || typeof name === 'symbol' || name === 'then') return method;
      return (...given: unknown[]) => {
        let refuse: (error: Error) => void = () => {};
        const ended = new Promise<never>((_, reject) => (refuse = reject));
        waiting.add(refuse);
        const asked = (method as (...given: unknown[]) => Promise<unknown>)(...given);
        return Promise.race([asked, ended]).finally(() => waiting.delete(refuse));
      };
    },
  });
}

/** A new worker takes the place of one that has ended, and opens the job from what is kept. */
function again(gone: Core): void {
  gone.worker?.terminate();
  core = null;
  for (const refuse of [...waiting]) refuse(new Error(endedWords));
  waiting.clear();
  const { summary, receive, notice, set } = useBench.getState();
  receive({ kind: 'progress', progress: null });
  const now = Date.now();
  ends = [...ends.filter((time) => now - time < 60_000), now];
  if (ends.length > mostEnds) {
    set({
      broken:
        'The part of the app that computes ends again and again, probably for lack of memory. What is kept of the job is safe. Close other tabs, then reload this page.',
    });
    return;
  }
  if (!summary) return;
  void outcomeOf(coreApi().load(summary.id)).then((outcome) => notice(outcome.ok ? endedWords : outcome.sentence, outcome.ok ? 'warning' : 'error'));
}

let running = 0;

/** Operations that have been asked for and not been answered yet. */
export const operationsRunning = () => running;

/** Ends the core worker as the browser may; for tests. */
export const endCore = () => core?.worker?.terminate();

/** Puts a session in this thread in the place of the worker; for tests. */
export function attachSession(session: object): void {
  core = { worker: null, api: session as Comlink.Remote<CoreApi> };
}

/** The answer, or the words why there is none. */
export async function outcomeOf<R>(asked: Promise<Outcome<R>>): Promise<Outcome<R>> {
  try {
    return await asked;
  } catch (error) {
    return { ok: false, sentence: error instanceof Error ? error.message : String(error), code: 'ended' };
  }
}

/** A load begun before the page that shows the job was there. */
let begunLoad: { id: string; outcome: ReturnType<typeof load> } | null = null;
const load = (id: string, shown = false) => outcomeOf(coreApi().load(id, shown));

/** Begins to bring a kept job back, beside the fetching of the page that will ask for it by `loadJob`. */
export function beginLoad(id: string): void {
  begunLoad = { id, outcome: load(id) };
}

/** Brings a kept job back. @param shown the screen shows it already */
export function loadJob(id: string, shown: boolean): ReturnType<typeof load> {
  const begun = begunLoad;
  begunLoad = null;
  return begun?.id === id ? begun.outcome : load(id, shown);
}

/** Cancels what the bar shows, or what was begun last. */
export function cancel(): void {
  // what is meant is said by its slot: it may have ended, and other work begun, before the session hears of it
  const slot = useBench.getState().progress?.slot ?? (board.isShared ? board.newest : undefined);
  if (slot !== undefined) board.cancel(slot);
  void Promise.resolve(coreApi().cancel(slot)).catch(() => {});
}

/** Ends a search for a tight layout with the best that it has found so far. */
export function takePacking(): void {
  void Promise.resolve(coreApi().takePacking()).catch(() => {});
}

/** Deep in its work the session cannot tell of it at first: the bar comes all the same. */
async function withBar<T>(work: Promise<T>): Promise<T> {
  const { receive } = useBench.getState();
  const working = { share: 0, text: 'Working' };
  const timer = setTimeout(() => {
    if (useBench.getState().progress === null) receive({ kind: 'progress', progress: working });
  }, 400);
  try {
    return await work;
  } finally {
    clearTimeout(timer);
    if (useBench.getState().progress === working) receive({ kind: 'progress', progress: null });
  }
}

/** Asks for one step by hand; what went wrong becomes a notice, what went right only where `say` asks for it. @param ask with true: live jigs may be written for it */
export async function step<R>(label: string, ask: (writeLive: boolean) => Promise<Outcome<R>>, say = false, writeLive = false): Promise<Outcome<R>> {
  const start = performance.now();
  running++;
  const outcome = await withBar(outcomeOf(ask(writeLive))).finally(() => running--);
  performance.measure(`run ${label}`, { start, detail: outcome.ok ? outcome.timings : undefined });
  if (codeOf(outcome) === 'live-jigs') useBench.getState().set({ liveAsked: { sentence: outcome.sentence, go: () => void step(label, ask, say, true) } });
  else notify(outcome, say);
  return outcome;
}

/** Runs an operation of the registry. */
export const run = <N extends OperationName>(name: N, params: ParamsOf<N>, say = false, writeLive = false): Promise<Outcome<Sent<ReportOf<N>>>> =>
  step(name, (write) => coreApi().run(name, params, write) as unknown as Promise<Outcome<Sent<ReportOf<N>>>>, say, writeLive);

/** What an operation would do: its report, and the UVs it would give the part at work; nothing is changed. */
export const tryStep = <N extends OperationName>(name: N, params: ParamsOf<N>): Promise<Outcome<{ preview: UvPreview | null; report: ReportOf<N> }>> =>
  withBar(outcomeOf(coreApi().tryStep(name, params) as unknown as Promise<Outcome<{ preview: UvPreview | null; report: ReportOf<N> }>>));

export const codeOf = (outcome: Outcome): RefusalCode | undefined => (outcome.ok ? undefined : outcome.code);

export function notify(outcome: Outcome, say: boolean) {
  const { notice } = useBench.getState();
  if (outcome.ok) {
    if (say && outcome.sentence) notice(outcome.sentence, outcome.warns ? 'warning' : 'success', undefined, outcome.takesBack);
  } else if (outcome.code === 'looks-on') notice(outcome.sentence, 'warning', { label: 'Take over', act: takeOver });
  // said once, when the worker ended
  else if (outcome.code !== 'ended') notice(outcome.sentence, outcome.code === 'cancelled' || outcome.code === 'nothing-to-do' ? 'info' : 'error');
}

/** Makes this tab the one that works on the job. */
export function takeOver(): void {
  void coreApi()
    .takeOver()
    .catch(() => {});
}

export async function undo(): Promise<void> {
  notify(await outcomeOf(coreApi().undo()), true);
}

export async function redo(): Promise<void> {
  notify(await outcomeOf(coreApi().redo()), true);
}
