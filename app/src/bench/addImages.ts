import { useBench } from '../store/bench.ts';
import { coreApi, notify } from '../worker/client.ts';

/** Takes image files into the job. @param reveal show the first of them on the part at work */
export async function addImageFiles(files: readonly File[], reveal = true): Promise<void> {
  if (files.length === 0) return;
  const images = await Promise.all(files.map(async (file) => ({ name: file.name, bytes: new Uint8Array(await file.arrayBuffer()) })));
  const outcome = await coreApi().addImages(images, reveal);
  notify(outcome, true);
  if (!outcome.ok) return;
  const { refused } = outcome.report;
  for (const words of refused) useBench.getState().notice(words, 'error');
  if (reveal) useBench.getState().set({ overlay: 'picture' });
}
