import { Worker } from 'node:worker_threads';
import { bakeBands, JigError, ofWantedImages, sharedCanvas, type Band, type BakeInput, type JigErrorCode, type SolverPool } from '@jig-peel/core';

type Told = { share: number } | { bands: Band[] } | { error: { code: JigErrorCode | null; message: string; place: string; advice: string } };

/** How many bake side by side. */
const threads = 2;
/** Px from which a second thread is worth its start. */
const worthIt = 512 * 512;

function inThread(input: BakeInput, progress: (share: number) => void): Promise<Band[]> {
  const worker = new Worker(new URL('./bakeThread.mjs', import.meta.url));
  return new Promise<Band[]>((resolve, reject) => {
    worker.on('message', (told: Told) => {
      if ('share' in told) progress(told.share);
      else if ('bands' in told) resolve(told.bands);
      else reject(told.error.code ? new JigError(told.error.code, told.error.message, told.error.place, told.error.advice) : new Error(told.error.message));
    });
    worker.on('error', reject);
    worker.on('exit', () => reject(new Error('a thread ended before its share was baked')));
    worker.postMessage(input);
  }).finally(() => void worker.terminate());
}

/** Bakes in two threads, every other band each. */
export const bakeThreads: Pick<SolverPool, 'bake'> = {
  async bake(input, context) {
    if (input.options.width * input.options.height < worthIt) return bakeBands(input, context);
    const shares = Array.from({ length: threads }, () => 0);
    const sent = { ...ofWantedImages(input), canvas: sharedCanvas(input.options) };
    const found = await Promise.all(
      shares.map((_, at) =>
        inThread({ ...sent, share: { of: threads, at } }, (share) => {
          shares[at] = share;
          context.progress(shares.reduce((sum, one) => sum + one, 0) / threads, 'Baking');
        }),
      ),
    );
    return found.flat();
  },
};
