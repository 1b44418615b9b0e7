import * as Comlink from 'comlink';
import { tellsProgress, type Answer, type Note, type TaskName, type TaskRequest, type Tasks, type Tools } from '../session/pool/tasks.ts';
import type { Seat } from '../session/pool/workerPool.ts';
import { whenGone } from './alive.ts';
import type { PoolWorkerApi } from './poolWorker.ts';

/** A worker of the pool in a thread of its own. */
export function makeSeat(): Seat {
  const worker = new Worker(new URL('./poolWorker.ts', import.meta.url), { type: 'module', name: 'pool' });
  const api = Comlink.wrap<PoolWorkerApi>(worker);
  return {
    run: <N extends TaskName>(request: TaskRequest<N>, progress: Tools['progress']) =>
      api.run(request, tellsProgress(request.name) ? Comlink.proxy(progress) : null) as Promise<Answer<Tasks[N]['output']>>,
    note: (note: Note) => void api.note(note),
    end: () => worker.terminate(),
    gone: whenGone(worker, api),
  };
}

/** A task in a worker that goes when it is done. @throws Error in words */
export async function inOwnWorker<N extends TaskName>(name: N, input: Tasks[N]['input']): Promise<Tasks[N]['output']> {
  const seat = makeSeat();
  try {
    const answer = await seat.run({ name, input, mesh: null, cancel: null }, () => {});
    if (!answer.ok) throw new Error(answer.error.message);
    return answer.output;
  } finally {
    seat.end();
  }
}
