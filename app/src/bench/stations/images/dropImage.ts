import { useBench } from '../../../store/bench.ts';
import { run } from '../../../worker/client.ts';
import { useImageGrip } from '../../tools/imageTool.ts';
import type { PointerAt } from '../../tools/tool.ts';
import { DecalTool } from './decalTool.ts';

/** An image of the job let go over a view: on the model it is put there as a decal, on the sheet the part shows it. */
export async function dropImage(id: string, at: PointerAt): Promise<void> {
  const { summary, set, goTo } = useBench.getState();
  const image = summary?.images.find((one) => one.id === id);
  if (!summary || !image) return;
  if (at.view === 'sheet') {
    await run('showImage', { part: summary.activePart, image: id });
    set({ overlay: 'picture' });
    return;
  }
  goTo('images');
  new DecalTool({ ...image, aspect: image.width > 0 ? image.height / image.width : 1 }).down(at);
  // its handles move it; a press beside them selects as ever
  useImageGrip.setState({ hand: null });
}
