import * as Comlink from 'comlink';
import { useBench } from '../store/bench.ts';
import type { CoreApi } from './coreWorker.ts';
import type { Outcome } from './messages.ts';

let core: Comlink.Remote<CoreApi> | null = null;

/** The core worker, started once; what it tells goes into the store. */
export function coreApi(): Comlink.Remote<CoreApi> {
  if (!core) {
    const worker = new Worker(new URL('./coreWorker.ts', import.meta.url), { type: 'module', name: 'core' });
    core = Comlink.wrap<CoreApi>(worker);
    void core.listen(Comlink.proxy((event) => useBench.getState().receive(event)));
  }
  return core;
}

let running = 0;

/** Operations that have been asked for and not been answered yet. */
export const operationsRunning = () => running;

/** Deep in its work the core worker cannot tell of it at first: the bar comes all the same. */
async function sayingThatItWorks<T>(work: Promise<T>): Promise<T> {
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

/** Runs an operation; what went wrong becomes a notice, what went right only where `say` asks for it. */
export async function run(name: string, params: Record<string, unknown> = {}, say = false, writeLive = false): Promise<Outcome> {
  const start = performance.now();
  running++;
  const outcome = await sayingThatItWorks(coreApi().run(name, params, writeLive)).finally(() => running--);
  performance.measure(`run ${name}`, { start, detail: outcome.timings });
  if (!outcome.ok && (outcome.report as { code?: string } | null)?.code === 'live-jigs')
    useBench.getState().notice(outcome.sentence, 'warning', { label: 'Write and go on', act: () => void run(name, params, say, true) });
  else notify(outcome, say);
  return outcome;
}

export function notify(outcome: Outcome, say: boolean) {
  if (!outcome.ok) {
    const code = (outcome.report as { code?: string } | null)?.code;
    useBench.getState().notice(outcome.sentence, code === 'cancelled' || code === 'nothing-to-do' ? 'info' : 'error');
  } else if (say && outcome.sentence) useBench.getState().notice(outcome.sentence, 'success');
}

export async function undo(): Promise<void> {
  notify(await coreApi().undo(), true);
}

export async function redo(): Promise<void> {
  notify(await coreApi().redo(), true);
}
