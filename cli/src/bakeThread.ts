import { parentPort } from 'node:worker_threads';
import { bakeBands, type BakeInput } from '@jig-peel/core';

/* Bakes its share of a picture in a thread of its own. */
parentPort!.on('message', (input: BakeInput) => {
  let told = 0;
  const context = {
    progress: (share: number) => {
      if (share < told + 0.02) return;
      told = share;
      parentPort!.postMessage({ share });
    },
    throwIfCancelled: () => {},
  };
  bakeBands(input, context).then(
    // what is on a shared canvas stays there
    (bands) =>
      parentPort!.postMessage(
        { bands },
        input.canvas ? [] : ([...new Set(bands.flatMap(({ data, covered }) => [data.buffer, covered.buffer]))] as ArrayBuffer[]),
      ),
    (error: Error & { code?: string; place?: string; advice?: string }) =>
      parentPort!.postMessage({ error: { code: error.code ?? null, message: error.message, place: error.place ?? '', advice: error.advice ?? '' } }),
  );
});
