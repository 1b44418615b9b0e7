import { coreApi } from '../../../worker/client.ts';
import type { Picker } from '../pick.ts';
import type { Stage } from '../stage.ts';

/** What is drawn at a place, 0 to 255, and what core says is there, 0 to 1; with the triangle and the shares of its corners. */
export interface Compared {
  drawn: [number, number, number];
  core: [number, number, number, number];
  shares: [number, number, number, number];
}

/** Colours that the model view draws at px of it, beside those of the definition that pictures are baked from. For tests. */
export async function comparedAt(stage: Stage, picker: Picker, points: readonly (readonly [number, number])[]): Promise<Compared[]> {
  const canvas = document.querySelector<HTMLCanvasElement>('#views canvas')!;
  const r = stage.rects.model;
  const scale = canvas.width / canvas.clientWidth;
  // the middle of the px that is drawn there
  const middle = (at: number, from: number) => (Math.floor((from + at) * scale) + 0.5) / scale - from;
  const found = points.flatMap(([x, y]) => {
    const shares = picker.shares(middle(x, r.left), middle(y, r.top));
    return shares ? [{ x, y, shares }] : [];
  });
  const outcome = await coreApi().surfaceAt(found.flatMap(({ shares }) => shares));
  if (!outcome.ok) throw new Error(outcome.sentence);
  stage.invalidate('model');
  await new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn)));
  const copy = new OffscreenCanvas(canvas.width, canvas.height).getContext('2d', { willReadFrequently: true })!;
  copy.drawImage(canvas, 0, 0);
  // read back once: px by px it takes seconds
  const { data } = copy.getImageData(0, 0, canvas.width, canvas.height);
  return found.map(({ x, y, shares }, k) => {
    const at = (Math.floor((r.top + y) * scale) * canvas.width + Math.floor((r.left + x) * scale)) * 4;
    return { drawn: [data[at]!, data[at + 1]!, data[at + 2]!], core: outcome.report[k]!.colour, shares };
  });
}
