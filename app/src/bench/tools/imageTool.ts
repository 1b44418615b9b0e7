import { create } from 'zustand';
import { asItLies, placementMatrix, placedAt, type ImagePlacement } from '@jig-peel/core';
import { useBench } from '../../store/bench.ts';
import { show } from '../../store/shown.ts';
import { run } from '../../worker/client.ts';
import type { PointerAt, Tool } from './tool.ts';

export type ImageGrip = 'slide' | 'turn' | 'size';

/** What a drag over the model does to the image, if anything; or a tool that has the pointer meanwhile. */
export const useImageGrip = create<{ grip: ImageGrip | null; hand: Tool | null }>(() => ({ grip: null, hand: null }));
export const imageHasPointer = () => useImageGrip.getState().grip !== null || useImageGrip.getState().hand !== null;

/** The placement of the active part's image. */
export function placementNow(): ImagePlacement {
  const { summary } = useBench.getState();
  return summary?.parts.find((part) => part.id === summary.activePart)?.placement ?? asItLies;
}

/** The image follows the pointer over the model: what was taken hold of stays under it, about the pivot for turns and sizes. */
export class ImageTool implements Tool {
  private start: { uv: [number, number]; placement: ImagePlacement } | null = null;
  private now: ImagePlacement | null = null;

  /** The tool that the press began with keeps it. */
  private hand: Tool | null = null;

  down(at: PointerAt): void {
    this.hand = useImageGrip.getState().hand;
    if (this.hand) {
      this.hand.down(at);
      return;
    }
    const uv = at.picker.uvAt(at.x, at.y);
    if (uv) this.start = { uv, placement: placementNow() };
    else useBench.getState().notice('Drag on a face that has UVs: the image is taken hold of there.', 'info');
    this.now = null;
  }

  move(at: PointerAt): void {
    this.hand?.move(at);
    const uv = this.start && at.picker.uvAt(at.x, at.y);
    const { grip } = useImageGrip.getState();
    if (!this.start || !uv || !grip) return;
    this.now = dragged(this.start.placement, grip, this.start.uv, uv, at.ctrl ? 15 : 0);
    show({ placement: this.now });
  }

  up(at: PointerAt): void {
    this.hand?.up(at);
    this.hand = null;
    const { now } = this;
    const { grip } = useImageGrip.getState();
    this.start = null;
    this.now = null;
    if (!now) return;
    const what = grip === 'slide' ? 'slid' : grip === 'turn' ? 'turned' : 'sized';
    void run('placeImage', { placement: now, what }).finally(() => {
      // unless it has been taken hold of again
      if (!this.start) show({ placement: null });
    });
  }

  cancel(): void {
    this.hand?.cancel();
    this.hand = null;
    this.start = null;
    this.now = null;
    show({ placement: null });
  }
}

/** A placement after the image was dragged from one place of the UV square to another. @param step degrees of a turn; 0: free */
export function dragged(
  placement: ImagePlacement,
  grip: ImageGrip,
  from: readonly [number, number],
  to: readonly [number, number],
  step: number,
): ImagePlacement {
  const { pivot } = placement;
  if (grip === 'slide') {
    const matrix = placementMatrix(placement);
    const [a, b] = [placedAt(matrix, ...from), placedAt(matrix, ...to)];
    return { ...placement, offset: [placement.offset[0] + b[0] - a[0], placement.offset[1] + b[1] - a[1]] };
  }
  const [p, q] = [from, to].map((uv) => [uv[0] - pivot[0], uv[1] - pivot[1]] as const) as [readonly [number, number], readonly [number, number]];
  if (grip === 'turn') {
    const by = ((Math.atan2(q[1], q[0]) - Math.atan2(p[1], p[0])) * 180) / Math.PI;
    const turn = placement.turn + by - Math.round(by / 360) * 360;
    return { ...placement, turn: step > 0 ? Math.round(turn / step) * step : turn };
  }
  const factor = Math.max(0.02, Math.hypot(...q)) / Math.max(0.02, Math.hypot(...p));
  return { ...placement, repeats: [placement.repeats[0] / factor, placement.repeats[1] / factor] };
}
