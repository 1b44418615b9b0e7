import * as Comlink from 'comlink';
import './draco.ts';
import { take } from '../session/pool/advicePace.ts';
import { paced } from '../session/pool/paced.ts';
import { buffersOf, runTask, type TaskRequest, type Tools } from '../session/pool/tasks.ts';
import { holdWhileAlive } from './alive.ts';

/** One worker of the pool. */
const api = {
  alive: holdWhileAlive,

  async run(request: TaskRequest, progress: Tools['progress'] | null) {
    const answer = await runTask(request, progress ? paced(progress) : undefined);
    return Comlink.transfer(answer, buffersOf(request.name, answer));
  },

  note: take,
};

export type PoolWorkerApi = typeof api;
Comlink.expose(api);
