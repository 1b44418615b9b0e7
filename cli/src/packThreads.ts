import { Worker } from 'node:worker_threads';
import {
  islandsOf,
  isSearched,
  JigError,
  packBest,
  searchesOf,
  type Context,
  type JigErrorCode,
  type Mesh,
  type PackOptions,
  type PackReport,
  type SolverPool,
  type UvSet,
} from '@jig-peel/core';

type Told =
  { share: number } | { uv: Float64Array; report: PackReport } | { error: { code: JigErrorCode | null; message: string; place: string; advice: string } };
type Packed = { set: UvSet; report: PackReport };

/** Threads that wait for the next search; they hold up no end of the program. */
const idle: Worker[] = [];

/** @throws JigError of the search */
async function search(mesh: Mesh, set: UvSet, options: PackOptions, progress: (share: number) => void): Promise<Packed> {
  const worker = idle.pop() ?? new Worker(new URL('./packThread.mjs', import.meta.url));
  worker.ref();
  const packed = await new Promise<Packed>((resolve, reject) => {
    worker.removeAllListeners();
    worker.on('message', (told: Told) => {
      if ('share' in told) progress(told.share);
      else if ('uv' in told) resolve({ set: { ...set, uv: told.uv }, report: told.report });
      else reject(told.error.code ? new JigError(told.error.code, told.error.message, told.error.place, told.error.advice) : new Error(told.error.message));
    });
    worker.on('error', reject);
    worker.on('exit', () => reject(new Error('a search ended before it was done')));
    worker.postMessage({ mesh, set, options });
  });
  worker.unref();
  idle.push(worker);
  return packed;
}

/** Searches side by side, each in a thread of its own; what is not searched is done here. */
export const packThreads: SolverPool = {
  async pack(mesh, set, options, context: Context) {
    if (!isSearched(options)) return packBest(mesh, set, options, context);
    const searches = searchesOf(options, options.islands?.length ?? islandsOf(mesh, set).count);
    const shares = searches.map(() => 0);
    const found = await Promise.all(
      searches.map((one, k) =>
        search(mesh, set, one, (share) => {
          shares[k] = share;
          context.progress(shares.reduce((sum, one) => sum + one, 0) / shares.length, 'Packing');
        }),
      ),
    );
    return found.reduce((a, b) => (b.report.coverage > a.report.coverage ? b : a));
  },
};
