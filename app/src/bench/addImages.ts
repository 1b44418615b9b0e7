import { useBench } from '../store/bench.ts';
import { coreApi, notify } from '../worker/client.ts';

/** Takes image files into the job and shows the first of them on the part at work. */
export async function addImageFiles(files: readonly File[]): Promise<void> {
  if (files.length === 0) return;
  const images = await Promise.all(files.map(async (file) => ({ name: file.name, bytes: new Uint8Array(await file.arrayBuffer()) })));
  const outcome = await coreApi().addImages(images, true);
  notify(outcome, true);
  if (!outcome.ok) return;
  const { refused } = outcome.report;
  for (const words of refused) useBench.getState().notice(words, 'error');
  useBench.getState().set({ overlay: 'picture' });
}
