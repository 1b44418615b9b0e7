import { parentPort } from 'node:worker_threads';
import { packBest, type Mesh, type PackOptions, type UvSet } from '@jig-peel/core';

/* Searches for a tight layout in a thread of its own, one after the other. */
parentPort!.on('message', ({ mesh, set, options }: { mesh: Mesh; set: UvSet; options: PackOptions }) => {
  let told = 0;
  const context = {
    progress: (share: number) => {
      if (share < told + 0.01) return;
      told = share;
      parentPort!.postMessage({ share });
    },
    throwIfCancelled: () => {},
  };
  try {
    const { set: packed, report } = packBest(mesh, set, options, context);
    parentPort!.postMessage({ uv: packed.uv, report });
  } catch (error) {
    const { code = null, message, place = '', advice = '' } = error as { code?: string; message: string; place?: string; advice?: string };
    parentPort!.postMessage({ error: { code, message, place, advice } });
  }
});
